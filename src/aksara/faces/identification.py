"""Which face of which family a font is: its testimony weighed, and oddities told."""

from __future__ import annotations

from aksara.faces.evidence import NameReading, Testimony, evidence, read_names, testimony
from aksara.faces.face import WIDTH_NAMES, Face, Style, label_of
from aksara.font import Font
from aksara.tables.name import SUBFAMILY

_WIDTHS = list(WIDTH_NAMES)
_OVERRULE = "(--face overrules)"
#: Degrees from which a font leans visibly.
_LEANING = 2.0


def identify(font: Font) -> Face:
    """The face that this font is.

    Where the font's tables and names disagree, `findings` say so; `evidence` is what the choice rests on.
    """
    told = testimony(font)
    names = read_names(told)
    findings: list[str] = []
    weight = _weight(told, names, findings)
    style = _style(told, names, findings)
    width = _width(told, names, findings)
    return Face(
        told.path,
        names.family,
        weight,
        style,
        width,
        tuple(findings),
        variant=names.variant,
        axes=tuple(told.axes.items()),
        evidence=evidence(told, names),
    )


def _weight(told: Testimony, names: NameReading, findings: list[str]) -> int:
    said = names.style.weight
    # Classes 1 to 9 were meant to be hundreds.
    stored = told.weight_class or 0
    stored = stored * 100 if stored < 10 else stored
    if not 100 <= stored <= 1000:
        # STAT repeats the weight for the menus of new programs; it has fewer slips.
        stored = round(told.places.get("wght", stored))
    if said is not None:
        return _named_weight(told, names, said, stored, findings)
    if told.bold and stored == 400 and (names.style.plain or names.style.slant is not None):
        findings.append(f"the font is marked bold, but its weight and names are not; using 400 {_OVERRULE}")
        return 400
    if told.bold and stored < 600:
        if stored:
            findings.append(f"the font says weight {told.weight_class}, but it is marked bold; using 700 {_OVERRULE}")
        return 700
    if not 100 <= stored <= 1000:
        if told.weight_class is not None:
            findings.append(f"the font says weight {told.weight_class}, which makes no sense; using 400 {_OVERRULE}")
        return 400
    if names.style.plain and stored != 400 and not told.bold:
        if stored == 500:
            return 400  # some font editors write 500 for every regular font
        findings.append(f"the font says weight {stored}, its name says Regular; using {stored} {_OVERRULE}")
    return stored


def _named_weight(told: Testimony, names: NameReading, said: int, stored: int, findings: list[str]) -> int:
    """The weight where the names say one. Near it the table is the finer measure; beyond that the name counts."""
    if said == 500 and stored in (400, 500) and told.name(SUBFAMILY).lower() == "medium":
        return 400  # "Medium" in the slot of four styles is the same editors' word for regular
    if stored >= 100 and abs(stored - said) <= 50:
        return stored  # "Light" may be 350
    if names.style.elastic and stored and stored % 100 == 0 and abs(stored - said) <= 100:
        return stored  # "Heavy" and "Black", "Hairline" and "Thin" share a family, in either order
    # Off by less than a step is a habit of makers (250 and 275 for the lightest); more is a slip worth telling.
    if told.weight_class and abs(stored - said) >= 100:
        findings.append(
            f"the font says weight {told.weight_class}, its name says {names.said}; using {said} {_OVERRULE}"
        )
    return said


def _style(told: Testimony, names: NameReading, findings: list[str]) -> Style:
    said = names.style.slant
    if said is not None:
        if not told.italic and told.angle < _LEANING:
            findings.append(f"nothing in the font but its name says {said}; using {said} {_OVERRULE}")
        return said
    if told.italic and told.angle >= _LEANING:
        return "oblique" if told.oblique else "italic"
    if told.italic:
        findings.append(f"the font is marked italic, but neither its name nor its angle is; using normal {_OVERRULE}")
    return "normal"


def _width(told: Testimony, names: NameReading, findings: list[str]) -> float:
    said = names.style.width
    number = told.width_class or 0
    known = 1 <= number <= 9
    stored = _WIDTHS[number - 1] if known else 100.0
    if said is None:
        if told.width_class is not None and not known:
            findings.append(f"the font says width class {told.width_class}; only 1 to 9 exist; using normal width")
        return stored
    # A plain "Condensed" may be any narrow width; the table is the finer measure as long as it leans the same way.
    if not names.style.exact_width and (stored < 100) == (said < 100) and (stored > 100) == (said > 100):
        return stored
    if stored not in (100.0, said):
        findings.append(
            f"the font says width {stored:g}%, its name says {label_of(400, 'normal', said)}; using {said:g}%"
        )
    return said
