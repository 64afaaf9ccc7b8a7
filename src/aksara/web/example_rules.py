"""Rules to copy: real families, weights and slants that they have, and selectors that the site has."""

from __future__ import annotations

from collections.abc import Sequence

from aksara.faces import Face
from aksara.web.font_matching import DesiredFace, best_match, text_family
from aksara.web.model import WebFamily

#: Selectors of one family that are named.
_NAMED = 4


def rules_to_copy(families: Sequence[WebFamily], properties: Sequence[str]) -> str:
    """A comment with the rules; `properties` are the custom properties of the families."""
    lines: list[str] = []
    rest: list[tuple[WebFamily, str]] = []
    # Of rules with one selector only the last would count.
    taken: set[str] = set()
    of_text = text_family([family for family in families if not family.pictures] or families)
    for family, variable in zip(families, properties, strict=True):
        if family.pictures:
            lines.append(_picture_rule(family, variable))
        elif family.selectors:
            lines += _site_rules(family, variable, taken, of_text=family is of_text)
        else:
            rest.append((family, variable))
    if rest and not any(family.selectors for family in families):
        lines = [*_usual_rules(rest), *lines]
    return "/* To use it, in your own CSS:\n   " + "\n   ".join(lines) + "\n*/" if lines else ""


def first_rule(families: Sequence[WebFamily], properties: Sequence[str]) -> str:
    """The rule that sets most of the text."""
    family = text_family([family for family in families if not family.pictures] or families)
    variable = properties[list(families).index(family)]
    if family.pictures:
        return _picture_rule(family, variable)
    selector = family.selectors[0][0] if family.selectors else "body"
    return f"{selector} {{ font-family: var({variable}); }}"


def _picture_rule(family: WebFamily, variable: str) -> str:
    name = ".emoji" if family.pictures == "emoji" else ".icon"
    plain = "" if family.pictures == "emoji" else " font-weight: normal; font-style: normal; line-height: 1;"
    if family.icon_width:
        # The name of an icon is wider than the icon, which moves what is beside it when the font arrives.
        plain += f" display: inline-block; width: {family.icon_width:.4g}em; overflow: clip; white-space: nowrap;"
    return f"{name} {{ font-family: var({variable});{plain} }}"


def _site_rules(family: WebFamily, variable: str, taken: set[str], *, of_text: bool) -> list[str]:
    """A rule for each face that the site asks for, with the selector that asks first, unless it is `taken`.

    No selector asks for the weight of running text: that is `body`, for the family `of_text`.
    """
    faces = [web.face for web in family.faces]
    by_descriptors: dict[str, list[str]] = {}
    asked = list(family.selectors[:_NAMED])
    if of_text and not any(desired == DesiredFace() for _, desired in asked):
        asked.insert(0, ("body", DesiredFace()))
    for selector, desired in asked:
        if selector not in taken:
            by_descriptors.setdefault(_descriptors(faces, desired), []).append(selector)
            taken.add(selector)
    return [
        f"{', '.join(selectors)} {{ font-family: var({variable}); {descriptors} }}"
        for descriptors, selectors in by_descriptors.items()
    ]


def _descriptors(faces: Sequence[Face], desired: DesiredFace) -> str:
    """Weight, style and width of the desired face, as declarations."""
    face = best_match(faces, desired)
    low, high = face.width_range
    descriptors = [f"font-weight: {_within(face.weight_range, desired.weight):g};"]
    descriptors += [f"font-style: {face.style};"] if face.style != "normal" and desired.style != "normal" else []
    descriptors += [f"font-stretch: {min(max(desired.width, low), high):g}%;"] if (low, high) != (100, 100) else []
    return " ".join(descriptors)


def _usual_rules(named: Sequence[tuple[WebFamily, str]]) -> list[str]:
    """Rules for running text, headings and code, where no page says which selectors there are."""
    families = [family for family, _ in named]
    variables = {family.name: variable for family, variable in named}
    text = text_family(families)
    faces = [web.face for web in text.faces]
    lines = [f"body {{ font-family: var({variables[text.name]}); {_descriptors(faces, DesiredFace())} }}"]
    bold = best_match(faces, DesiredFace(700))
    if bold.weight_range[1] > best_match(faces, DesiredFace()).weight:
        lines.append(f"strong, b {{ font-weight: {_within(bold.weight_range, 700):g}; }}")
    slanted = best_match(faces, DesiredFace(style="italic"))
    if slanted.style != "normal":
        lines.append(f"em, i {{ font-style: {slanted.style}; }}")
    others = [family for family in families if family is not text]
    titles = next((family for family in others if family.generic != "monospace"), text)
    headings = f"font-family: var({variables[titles.name]}); " if titles is not text else ""
    heaviest = _descriptors([web.face for web in titles.faces], DesiredFace(700))
    lines.append(f"h1, h2, h3 {{ {headings}{heaviest} }}")
    code = next((family for family in others if family.generic == "monospace"), None)
    if code is not None:
        lines.append(f"code, pre {{ font-family: var({variables[code.name]}); }}")
    return lines


def _within(span: tuple[float, float], value: float) -> float:
    return min(max(value, span[0]), span[1])
