"""Which face of which family a font is: the font's own tables, checked against its names and file name."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import PurePath

from aksara.faces.face import WIDTH_NAMES, Face, Style, label_of
from aksara.faces.words import StyleWords, read_style, split_family
from aksara.font import Font
from aksara.tables import OS2, Head, Name, Post
from aksara.tables.head import MAC_BOLD, MAC_ITALIC
from aksara.tables.name import FAMILY, FULL_NAME, POSTSCRIPT_NAME, SUBFAMILY, TYPOGRAPHIC_FAMILY, TYPOGRAPHIC_SUBFAMILY
from aksara.tables.os2 import BOLD, ITALIC, OBLIQUE

_WIDTHS = list(WIDTH_NAMES)
_OVERRULE = "(--face overrules)"
#: Degrees from which a font leans visibly.
_LEANING = 2.0


@dataclass(slots=True, frozen=True)
class _Names:
    """The family, and what the names say of the style; `said` is the text they say it in.

    `typographic`: whether the family has a name for all its styles, not only for four.
    """

    family: str
    typographic: bool
    style: StyleWords
    said: str


def identify(font: Font) -> Face:
    """The face that this font is. Where the font's tables and names disagree, `findings` say so."""
    names = _names(font)
    findings: list[str] = []
    os2 = font.find(OS2)
    weight = _weight(font, os2, names, findings)
    style = _style(font, os2, names, findings)
    width = _width(os2, names, findings)
    return Face(font.path, names.family, weight, style, width, tuple(findings))


def _names(font: Font) -> _Names:
    table = font.find(Name)
    stem = PurePath(font.path).stem
    get = table.get if table is not None else lambda _: None
    typographic, plain = get(TYPOGRAPHIC_FAMILY), get(FAMILY)
    subfamily = get(TYPOGRAPHIC_SUBFAMILY) or get(SUBFAMILY) or ""
    if typographic is not None:
        family, extra = typographic, StyleWords()
    elif plain is not None and any(c.isalnum() for c in plain):
        family, extra = split_family(plain)
    else:
        # No name at all: the file's has to do.
        full = get(FULL_NAME) or (get(POSTSCRIPT_NAME) or "").replace("-", " ")
        family, extra = split_family(full if any(c.isalnum() for c in full) else stem.replace("_", " "))
    style, said = read_style(subfamily), subfamily
    postscript = get(POSTSCRIPT_NAME) or ""
    for other, text in (
        (extra, plain or ""),
        (_behind_hyphen(postscript), postscript),
        (_behind_hyphen(stem), stem),
    ):
        style.plain = style.plain or other.plain
        if other.rest:
            continue
        if style.weight is None and other.weight is not None:
            style.weight, said = other.weight, text
        style.width = style.width or other.width
        style.slant = style.slant or other.slant
    return _Names(family or "Unnamed", typographic is not None, style, said)


def _behind_hyphen(name: str) -> StyleWords:
    """The style in a PostScript or file name, which stands behind the last hyphen."""
    stem, _, style = name.rpartition("-")
    return read_style(style) if stem else StyleWords()


def _weight(font: Font, os2: OS2 | None, names: _Names, findings: list[str]) -> int:
    said = names.style.weight
    stored = os2.weight_class if os2 is not None else 0
    # Classes 1 to 9 were meant to be hundreds.
    stored = stored * 100 if 0 < stored < 10 else stored
    bold_bit = bool(os2 is not None and os2.fs_selection & BOLD) or bool(font.table(Head).mac_style & MAC_BOLD)
    if said is not None:
        # Near the name's weight the table is the finer measure ("Light" may be 350). Otherwise the name
        # counts: weights off by less than a step are a habit of makers, more is a slip worth telling.
        if stored >= 100 and abs(stored - said) <= 50:
            return stored
        if (said, stored) == (500, 400) and not names.typographic:
            return 400  # "Medium" in the slot of four styles is a font editor's word for regular
        if os2 is not None and abs(stored - said) >= 100:
            findings.append(
                f"the font says weight {os2.weight_class}, its name says {names.said}; using {said} {_OVERRULE}"
            )
        return said
    if bold_bit and stored < 600:
        if os2 is not None and stored:
            findings.append(f"the font says weight {os2.weight_class}, but it is marked bold; using 700 {_OVERRULE}")
        return 700
    if not 100 <= stored <= 1000:
        if os2 is not None:
            findings.append(f"the font says weight {os2.weight_class}, which makes no sense; using 400 {_OVERRULE}")
        return 400
    if names.style.plain and stored != 400 and not bold_bit:
        if stored == 500:
            return 400  # the same font editors' value for it
        findings.append(f"the font says weight {stored}, its name says Regular; using {stored} {_OVERRULE}")
    return stored


def _style(font: Font, os2: OS2 | None, names: _Names, findings: list[str]) -> Style:
    post = font.find(Post)
    angle = abs(post.italic_degrees) if post is not None else 0.0
    selection = os2.fs_selection if os2 is not None else 0
    marked = bool(selection & (ITALIC | OBLIQUE)) or bool(font.table(Head).mac_style & MAC_ITALIC)
    said = names.style.slant
    if said is not None:
        if not marked and angle < _LEANING:
            findings.append(f"nothing in the font but its name says {said}; using {said} {_OVERRULE}")
        return said
    if marked and angle >= _LEANING:
        return "oblique" if selection & OBLIQUE else "italic"
    if marked:
        findings.append(f"the font is marked italic, but neither its name nor its angle is; using normal {_OVERRULE}")
    return "normal"


def _width(os2: OS2 | None, names: _Names, findings: list[str]) -> float:
    said = names.style.width
    stored = _WIDTHS[os2.width_class - 1] if os2 is not None and 1 <= os2.width_class <= 9 else 100.0
    if said is None:
        if os2 is not None and not 1 <= os2.width_class <= 9:
            findings.append(f"the font says width class {os2.width_class}; only 1 to 9 exist; using normal width")
        return stored
    # The table is the finer measure as long as it leans the same way.
    if (stored < 100) == (said < 100) and (stored > 100) == (said > 100):
        return stored
    if stored != 100.0:
        findings.append(
            f"the font says width {stored:g}%, its name says {label_of(400, 'normal', said)}; using {said:g}%"
        )
    return said
