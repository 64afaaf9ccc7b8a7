"""The style sheet: a `@font-face` rule a face and slice, fallback faces, stacks, and how to use them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import groupby
from pathlib import PurePath

from aksara.faces import Face
from aksara.sizes import format_size
from aksara.web.example_rules import rules_to_copy
from aksara.web.fallback import FallbackFace
from aksara.web.formats import FONT_ID
from aksara.web.model import WHOLE, LicenceNote, WebFace, WebFamily, WebSlice
from aksara.web.palettes import palette_rule
from aksara.web.syntax import comment_text, family_name, property_name, string
from aksara.web.urls import url_value

#: How the style sheet begins; by this Aksara knows its own files again.
MARK = "/* Made by Aksara"
_LINE = 100


def style_sheet(families: Sequence[WebFamily], *, version: str, licence: LicenceNote, is_kept: bool = False) -> str:
    """The whole text. Equal input gives equal text; a face that changes changes the lines of its own rules only.

    `is_kept`: it is to stand between marks in a style sheet of the user's.
    """
    parts = [_head(families, version, licence, is_kept=is_kept)]
    # An @import counts only in front of all rules.
    parts += [licence.stated.css.strip()] if licence.stated.css.strip() else []
    for family in families:
        parts += [rule(family, web, part) for web in family.faces for part in web.slices]
        parts += [palette_rule(family.name, palette) for palette in family.palettes]
        parts += fallback_rules(family)
    parts.append(_properties(families))
    parts.append(rules_to_copy(families, property_names(family.name for family in families)))
    return "\n\n".join(filter(None, parts)) + "\n"


def _head(families: Sequence[WebFamily], version: str, licence: LicenceNote, *, is_kept: bool) -> str:
    what = "what is between these marks" if is_kept else "it"
    that = "these lines" if is_kept else "this file"
    lines = [f"{MARK} {version}. The next build overwrites {what}: change the build, not {that}."]
    lines += [f"   {comment_text(f'{family.name}: {family.notice}')}" for family in families if family.notice]
    lines += [f"   {comment_text(licence.stated.words)}"] if licence.stated.words else []
    names = ", ".join(file.name for file in licence.files)
    lines += [f"   Licence texts beside the fonts: {comment_text(names)}"] if names else []
    return "\n".join(lines) + " */"


def rule(family: WebFamily, web: WebFace, part: WebSlice) -> str:
    """The `@font-face` rule of a slice, with a comment that names it (CSS Fonts 4, section 4)."""
    face = web.face
    old = [file for file in part.files if file.format == "eot"]
    # Behind a question mark Internet Explorer 6 to 8 take what follows for part of the address.
    sources = [f"{url_value(_with_query(file.url))} format({string('embedded-opentype')})" for file in old]
    sources += [f"local({string(name)})" for name in web.local]
    technology = f" tech({', '.join(web.technologies)})" if web.technologies else ""
    for file in part.files:
        if file.format == "svg":
            sources.append(f"{url_value(f'{file.url}#{FONT_ID}')} format({string('svg')})")
        elif file not in old:
            sources.append(f"{url_value(file.url)} format({_format_name(file.format, web.flavour)}){technology}")
    declarations = [
        *_identity(family.name, style_value(face), face.weight_range, face.width_range),
        ("font-display", family.display),
    ]
    lines = [f"/* {comment_text(_title(family, web, part))} */", "@font-face {"]
    lines += [f"  {name}: {value};" for name, value in declarations]
    # Internet Explorer 9 takes this one where it plays its elders.
    lines += [f"  src: {url_value(file.url)};" for file in old]
    lines.append("  src: " + ",\n       ".join(sources) + ";")
    lines.append(_declaration("unicode-range", part.unicode_range.split(", ")))
    return "\n".join([*lines, "}"])


def _with_query(url: str) -> str:
    return f"{url}{'' if '?' in url else '?'}#iefix"


def _title(family: WebFamily, web: WebFace, part: WebSlice) -> str:
    sizes = ", ".join(f"{format_size(len(file.data))} {file.label}" for file in part.files)
    name = f"{family.name} {web.face.label}" + (f", {part.name}" if part.name != WHOLE else "")
    pages = f"on {100 * part.share:.0f}% of pages" if part.share is not None else ""
    facts = [pages if part.name != WHOLE else web.described, f"{len(part.characters):,} characters", sizes]
    facts.append(f"from {PurePath(web.face.path).name}")
    return f"{name}: {'; '.join(filter(None, facts))}"


def _identity(family: str, style: str, weight: tuple[int, int], width: tuple[float, float]) -> list[tuple[str, str]]:
    """The descriptors that say which face it is."""
    found = [("font-family", string(family)), ("font-style", style), ("font-weight", range_value(weight))]
    return [*found, ("font-stretch", range_value(width, "%"))] if width != (100, 100) else found


def style_value(face: Face) -> str:
    """The value of `font-style`: a range of angles for a face that can be slanted (CSS Fonts 4, section 4.4)."""
    if face.slant_range is None:
        return face.style
    return f"oblique {range_value(face.slant_range, 'deg')}"


def range_value(values: tuple[float, float], unit: str = "") -> str:
    """`400`, or `300 800`, as a descriptor has it."""
    low, high = values
    return f"{low:g}{unit}" if low == high else f"{low:g}{unit} {high:g}{unit}"


def _format_name(font_format: str, flavour: str) -> str:
    if font_format == "sfnt":
        font_format = "otf" if flavour == "OTTO" else "ttf"
    return string({"ttf": "truetype", "otf": "opentype"}.get(font_format, font_format))


def _declaration(name: str, values: Sequence[str]) -> str:
    """A declaration of several values; a line ends between two of them only, for a string must not be broken."""
    start, *others = values
    lines = [f"  {name}: {start}"]
    for value in others:
        if len(lines[-1]) + len(value) + 3 > _LINE:
            lines[-1] += ","
            lines.append(" " * (len(name) + 4) + value)
        else:
            lines[-1] += f", {value}"
    return "\n".join(lines) + ";"


def fallback_rules(family: WebFamily) -> list[str]:
    """The rules of the metric-matched fallback faces (CSS Fonts 5, section 5), a line each: for each system family a
    text with a comment that says what it is for."""
    texts = []
    for name, group in groupby(family.fallbacks, key=lambda face: face.family):
        faces = list(group)
        difference = max(face.difference for face in faces)
        told = f"{family.name} set in {faces[0].on} while it loads; lines are as wide, give or take {difference:.1%}"
        texts.append("\n".join([f"/* {comment_text(told)} */", *(_fallback_rule(name, face) for face in faces)]))
    return texts


def _fallback_rule(family: str, face: FallbackFace) -> str:
    # What a rule says by itself where it says nothing is left out: sites with many faces have many of these rules.
    ordinary = {"font-style": "normal", "font-weight": "400"}
    named = _identity(family, face.style, face.weight, face.width)
    said = [(name, value) for name, value in named if ordinary.get(name) != value]
    said.append(("src", ", ".join(f"local({string(name)})" for name in face.local)))
    said += [(name, f"{value:g}%") for name, value in metric_overrides(face).items()]
    said += [("unicode-range", face.unicode_range)] if face.unicode_range else []
    return f"@font-face {{ {'; '.join(f'{name}: {value}' for name, value in said)} }}"


def metric_overrides(face: FallbackFace) -> dict[str, float]:
    """The descriptors that match the metrics, in percent."""
    return {
        "size-adjust": face.size_adjust,
        "ascent-override": face.ascent,
        "descent-override": face.descent,
        "line-gap-override": face.line_gap,
    }


def stack_value(family: WebFamily) -> str:
    """The value of `font-family`: the web font, its fallback faces, and the families that follow."""
    fallbacks = dict.fromkeys(face.family for face in family.fallbacks)
    return ", ".join([*map(string, (family.name, *fallbacks)), *map(family_name, family.stack)])


def property_names(families: Iterable[str]) -> list[str]:
    """The custom property of each family, by its name, with a number where two would be the same."""
    names: list[str] = []
    for family in families:
        name = base = property_name(family)
        suffix = 2
        while name in names:
            name, suffix = f"{base}-{suffix}", suffix + 1
        names.append(name)
    return names


def _properties(families: Sequence[WebFamily]) -> str:
    names = property_names(family.name for family in families)
    lines = [f"  {name}: {stack_value(family)};" for name, family in zip(names, families, strict=True)]
    return "\n".join([":root {", *lines, "}"])
