"""What Penyu Sans can do besides its letters: ligatures, figures, fractions, small capitals, a stylistic set, and
accents that find their place on any letter."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Protocol

from msgspec.structs import replace

from aksara.tables import Gdef, Gpos, Gsub
from aksara.tables.layout import gpos, gsub
from aksara.tables.layout.anchors import Anchor
from aksara.tables.layout.contexts import CoverageContext
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gpos.attachment import MarkAttachment
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from penyu import accents
from penyu.capitals import CAPITALS
from penyu.design import CAP, Drawing, Style, X
from penyu.figures import FIGURES, moved, raised
from penyu.lower import LOWER, a, single_a
from penyu.pen import Contour, bar, diagonal

FRACTION = "⁄"
LIGATURES = {"f_f_i": "ffi", "f_f_l": "ffl", "f_f": "ff", "f_i": "fi", "f_l": "fl"}
#: Old-style figures that stand between the baseline and the height of x, and that hang below it.
_SMALL, _HANGING = "012", "34579"
_SMALL_CAP = 0.77
_ABOVE, _BELOW = 0, 1
_BASE, _LIGATURE, _MARK = 1, 2, 3


class Glyphs(Protocol):
    """The glyphs as they are collected (penyu.assemble)."""

    style: Style
    numbers: dict[str, int]
    advances: list[int]
    drawings: dict[str, Drawing]
    lefts: dict[str, float]

    def add(self, name: str, contours: list[Contour], advance: float) -> int: ...
    def add_parts(self, name: str, advance: float, parts: list[tuple[int, int, int]]) -> None: ...
    def set_in(self, name: str, drawing: Drawing) -> None: ...


def proportional(drawing: Drawing) -> Drawing:
    """A figure with its own width in place of the common one."""
    return replace(drawing, left=0.62, right=0.62)


def slash(s: Style) -> Drawing:
    return Drawing(s, 250, -0.4, -0.4).add(diagonal(0, 0, 250, CAP, s.v * 0.80))


def add_glyphs(glyphs: Glyphs) -> None:
    """All that features put in the place of characters."""
    s = glyphs.style
    for figure, draw in FIGURES.items():
        common = draw(s)
        shift = round(common.left * s.side - glyphs.lefts[figure])
        advance = common.width + (common.left + common.right) * s.side
        glyphs.add_parts(f"{figure}.tnum", advance, [(glyphs.numbers[figure], shift, 0)])
        if figure in _SMALL:
            small = raised(draw, base=0, scale=X / 690, thicker=1.22)(s)
            glyphs.set_in(f"{figure}.onum", replace(small, left=0.62, right=0.62))
        elif figure in _HANGING:
            glyphs.add_parts(
                f"{figure}.onum", glyphs.advances[glyphs.numbers[figure]], [(glyphs.numbers[figure], 0, X - 690)]
            )
        glyphs.set_in(f"{figure}.numr", raised(draw)(s))
        glyphs.set_in(f"{figure}.dnom", raised(draw, base=0)(s))
    for letter in "abcdefghijklmnopqrstuvwxyz":
        glyphs.set_in(f"{letter}.sc", _small_capital(CAPITALS[letter.upper()], s))
    glyphs.set_in("a.ss01", single_a(s) if not s.italic else replace(a(replace(s, slant=0.0)), style=s))
    for name, letters in LIGATURES.items():
        _add_ligature(glyphs, name, letters)


def _small_capital(draw: Callable[[Style], Drawing], s: Style) -> Drawing:
    """A capital made small, its strokes as heavy as those of small letters."""
    grown = 1.20 - s.more * 0.001
    heavy = replace(s, v=s.v * grown, h=s.h * grown, cap_v=s.cap_v * grown, cap_h=s.cap_h * grown)
    d = draw(heavy)
    return Drawing(s, d.width * _SMALL_CAP, d.left * 0.9, d.right * 0.9, moved(d.contours, 0, 0, _SMALL_CAP))


def _add_ligature(glyphs: Glyphs, name: str, letters: str) -> None:
    """Letters set closer, their crossbars in one; an i without the dot that f's hook stands for."""
    s = glyphs.style
    x, contours, starts = 0.0, [], []
    for letter in letters.replace("i", "ı"):
        d = glyphs.drawings[letter]
        left = d.left * s.side
        starts.append(x + left)
        contours += moved(d.contours, x + left, 0)
        x += left + d.width + d.right * s.side - (34 if letter == "f" else 0)
    reach = starts[-1] + s.v * 0.5
    contours.append(bar(starts[0] + s.v * 0.6, X - s.h, reach, X))
    slanted = [[(px + s.slant * (py - X / 2), py, on) for px, py, on in contour] for contour in contours]
    glyphs.add(name, slanted, x)


# ---- tables


def layout_tables(glyphs: Glyphs) -> tuple[Gsub, Gpos, Gdef]:
    return _gsub(glyphs.numbers), _gpos(glyphs), _gdef(glyphs.numbers)


def _scripts(count: int) -> dict[str, Script]:
    system = LanguageSystem(None, tuple(range(count)))
    return {"DFLT": Script(system), "latn": Script(system)}


def _gsub(numbers: dict[str, int]) -> Gsub:
    def single(pairs: Iterable[tuple[str, str]]) -> Lookup:
        return Lookup(gsub.SINGLE, 0, (gsub.SingleSubstitution({numbers[old]: numbers[new] for old, new in pairs}),))

    def figures(kind: str) -> list[tuple[str, str]]:
        return [(figure, f"{figure}.{kind}") for figure in FIGURES if f"{figure}.{kind}" in numbers]

    above = frozenset(numbers[mark] for mark in accents.ACCENTS if mark not in accents.BELOW)
    dotted = frozenset((numbers["i"], numbers["j"]))
    over = frozenset(numbers[f"{figure}.numr"] for figure in FIGURES)
    under = frozenset(numbers[f"{figure}.dnom"] for figure in FIGURES)
    ligatures = tuple((tuple(numbers[c] for c in text[1:]), numbers[name]) for name, text in LIGATURES.items())
    lookups = [
        single([("i", "ı"), ("j", "ȷ")]),  # 0: called by the next one
        Lookup(gsub.CHAINED_CONTEXT, 0, (CoverageContext(True, (), (dotted,), (above,), ((0, 0),)),)),
        Lookup(gsub.LIGATURE, 0, (gsub.LigatureSubstitution({numbers["f"]: ligatures}),)),
        single(figures("tnum")),
        single(figures("onum")),
        single(figures("numr")),  # 5
        single(figures("dnom")),
        single([("/", FRACTION), *figures("numr")]),
        single([(f"{figure}.numr", f"{figure}.dnom") for figure in FIGURES]),  # 8: called by the next one
        Lookup(
            gsub.CHAINED_CONTEXT,
            0,
            (CoverageContext(True, (under | {numbers[FRACTION]},), (over,), (), ((0, 8),)),),
        ),
        single((letter, f"{letter}.sc") for letter in "abcdefghijklmnopqrstuvwxyz"),  # 10
        Lookup(gsub.MULTIPLE, 0, (gsub.MultipleSubstitution(_accented_small_capitals(numbers)),)),
        single([("a", "a.ss01")]),
    ]
    features = [
        *(
            FeatureRecord("ccmp", (1,)),
            FeatureRecord("dnom", (6,)),
            FeatureRecord("frac", (7, 9)),
            FeatureRecord("liga", (2,)),
        ),
        *(
            FeatureRecord("numr", (5,)),
            FeatureRecord("onum", (4,)),
            FeatureRecord("smcp", (10, 11)),
            FeatureRecord("ss01", (12,)),
        ),
        FeatureRecord("tnum", (3,)),
    ]
    return Gsub(_scripts(len(features)), features, lookups)


def _accented_small_capitals(numbers: dict[str, int]) -> dict[int, tuple[int, ...]]:
    """Accented small letters as the small capital and its marks."""
    found: dict[int, tuple[int, ...]] = {}
    for character, number in numbers.items():
        if len(character) == 1 and character.islower() and (parts := accents.decompose(character)):
            base = {"ı": "i", "ȷ": "j"}.get(parts[0], parts[0])
            if f"{base}.sc" in numbers and "\u031b" not in parts[1]:
                found[number] = (numbers[f"{base}.sc"], *(numbers[mark] for mark in parts[1]))
    return found


def _gpos(glyphs: Glyphs) -> Gpos:
    s, numbers = glyphs.style, glyphs.numbers
    marks = {
        numbers[mark]: (_BELOW if mark in accents.BELOW else _ABOVE, Anchor(0, 0))
        for mark in accents.ACCENTS
        if mark != "\u031b"
    }
    bases: dict[int, tuple[Anchor | None, ...]] = {}
    for letter, drawing in glyphs.drawings.items():
        if letter in CAPITALS or letter in LOWER:
            above, below = (accents.place(letter, mark, drawing)[0] for mark in ("\u0301", "\u0323"))
            bases[numbers[letter]] = tuple(
                Anchor(round(at.x + glyphs.lefts[letter] + s.slant * at.y), round(at.y)) for at in (above, below)
            )
    for letter in "abcdefghijklmnopqrstuvwxyz":
        name, capital = f"{letter}.sc", glyphs.drawings[letter.upper()]
        x = accents.place(letter.upper(), "\u0301", capital)[0].x * _SMALL_CAP + glyphs.lefts[name]
        y = CAP * _SMALL_CAP - X
        bases[numbers[name]] = (Anchor(round(x + s.slant * y), round(y)), Anchor(round(x), 0))
    stacked = {
        number: (Anchor(round(s.slant * 150), 150), Anchor(0, -150))
        for number, (kind, _) in marks.items()
        if kind == _ABOVE
    }
    above = {number: mark for number, mark in marks.items() if mark[0] == _ABOVE}
    lookups = [
        Lookup(gpos.MARK_TO_BASE, 0, (MarkAttachment(2, marks, bases),)),
        Lookup(gpos.MARK_TO_MARK, 0, (MarkAttachment(1, above, {n: row[:1] for n, row in stacked.items()}),)),
    ]
    features = [FeatureRecord("mark", (0,)), FeatureRecord("mkmk", (1,))]
    return Gpos(_scripts(len(features)), features, lookups)


def _gdef(numbers: dict[str, int]) -> Gdef:
    marks = {accents.COMMA_ABOVE, accents.APOSTROPHE_CARON, *accents.ACCENTS}
    return Gdef(
        {
            number: _MARK if name in marks else _LIGATURE if name in LIGATURES else _BASE
            for name, number in numbers.items()
            if number
        }
    )
