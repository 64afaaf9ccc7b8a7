"""Identifying a font's face: its evidence weighed, with findings about contradictions."""

from __future__ import annotations

from aksara.faces.evidence import FaceFacts, NameReading, collect_evidence, facts_of, read_names
from aksara.faces.face import Face
from aksara.faces.style import WIDTH_NAMES, Style, label_of
from aksara.font import Font
from aksara.notices import Noted, Notice, Value
from aksara.tables.name import SUBFAMILY

_WIDTHS = list(WIDTH_NAMES)
#: What a user says of a face instead.
_OVERRIDES = "FamilyRequest.overrides"
#: Degrees from which a font leans visibly.
_LEANING = 2.0


def identify(font: Font) -> Face:
    """The face that this font is.

    Where the font's tables and names disagree, `findings` say so; `evidence` is what the choice rests on.
    """
    facts = facts_of(font)
    names = read_names(facts)
    # What an axis says of the default counts more than what names and tables do.
    defaults = facts.defaults
    weight = Noted(round(defaults["wght"])) if "wght" in defaults else _weight(facts, names)
    style = _style(facts, names)
    width = Noted(defaults["wdth"]) if "wdth" in defaults else _width(facts, names)
    return Face(
        path=facts.path,
        family=names.family,
        weight=weight.value,
        style=style.value,
        width=width.value,
        findings=(*weight.notices, *style.notices, *width.notices),
        variant=names.variant,
        axes=tuple(facts.axes.items()),
        evidence=collect_evidence(facts, names),
    )


def _told(facts: FaceFacts, value: Value, text: str) -> Noted[Value]:
    """The value, with a notice that the user may override it."""
    return Noted(value, (Notice(facts.path, text, _OVERRIDES),))


def _weight(facts: FaceFacts, names: NameReading) -> Noted[int]:
    said = names.style.weight
    # Classes 1 to 9 were meant to be hundreds.
    stored = facts.weight_class or 0
    stored = stored * 100 if stored < 10 else stored
    if not 100 <= stored <= 1000:
        # STAT repeats the weight for the menus of new programs; it has fewer slips.
        stored = round(facts.positions.get("wght", stored))
    if said is not None:
        return _named_weight(facts, names, said, stored)
    if facts.bold and stored == 400 and (names.style.plain or names.style.slant is not None):
        return _told(facts, 400, "the font is marked bold, but its weight and names are not; using 400")
    if facts.bold and stored < 600:
        if not stored:
            return Noted(700)
        return _told(facts, 700, f"the font says weight {facts.weight_class}, but it is marked bold; using 700")
    if not 100 <= stored <= 1000:
        if facts.weight_class is None:
            return Noted(400)
        return _told(facts, 400, f"the font says weight {facts.weight_class}, which makes no sense; using 400")
    if names.style.plain and stored != 400 and not facts.bold:
        if stored == 500:
            return Noted(400)  # some font editors write 500 for every regular font
        return _told(facts, stored, f"the font says weight {stored}, its name says Regular; using {stored}")
    return Noted(stored)


def _named_weight(facts: FaceFacts, names: NameReading, said: int, stored: int) -> Noted[int]:
    """The weight where the names say one. Near it the table is the finer measure; beyond that the name counts."""
    if said == 500 and stored in (400, 500) and facts.name(SUBFAMILY).lower() == "medium":
        return Noted(400)  # "Medium" in the slot of four styles is the same editors' word for regular
    if stored >= 100 and abs(stored - said) <= 50:
        return Noted(stored)  # "Light" may be 350
    if names.style.elastic and stored and stored % 100 == 0 and abs(stored - said) <= 100:
        return Noted(stored)  # "Heavy" and "Black", "Hairline" and "Thin" share a family, in either order
    # Off by less than a step is a habit of makers (250 and 275 for the lightest); more is a slip worth telling.
    if facts.weight_class and abs(stored - said) >= 100:
        text = f"the font says weight {facts.weight_class}, its name says {names.said}; using {said}"
        return _told(facts, said, text)
    return Noted(said)


def _style(facts: FaceFacts, names: NameReading) -> Noted[Style]:
    said = names.style.slant
    if said is not None:
        if not facts.italic and facts.angle < _LEANING:
            return _told(facts, said, f"nothing in the font but its name says {said}; using {said}")
        return Noted(said)
    if facts.italic and facts.angle >= _LEANING:
        return Noted("oblique" if facts.oblique else "italic")
    if facts.italic:
        return _told(facts, "normal", "the font is marked italic, but neither its name nor its angle is; using normal")
    return Noted("normal")


def _width(facts: FaceFacts, names: NameReading) -> Noted[float]:
    said = names.style.width
    width_class = facts.width_class or 0
    known = 1 <= width_class <= 9
    stored = _WIDTHS[width_class - 1] if known else 100.0
    if said is None:
        if facts.width_class is not None and not known:
            text = f"the font says width class {facts.width_class}; only 1 to 9 exist; using normal width"
            return Noted(stored, (Notice(facts.path, text),))
        return Noted(stored)
    # A plain "Condensed" may be any narrow width; the table is the finer measure as long as it leans the same way.
    if not names.style.exact_width and (stored < 100) == (said < 100) and (stored > 100) == (said > 100):
        return Noted(stored)
    if stored not in (100.0, said):
        text = f"the font says width {stored:g}%, its name says {label_of(400, 'normal', said)}; using {said:g}%"
        return Noted(said, (Notice(facts.path, text),))
    return Noted(said)
