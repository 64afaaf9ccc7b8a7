"""Emoji and sequences of them, and layout that draws these as one picture."""

from __future__ import annotations

from collections.abc import Sequence

from aksara.tables import Gsub
from aksara.tables.layout.contexts import CoverageContext
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gsub import LigatureSubstitution, MultipleSubstitution, SingleSubstitution
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from aksara.tables.layout.subtable import Subtable
from comparison import IDLE_PROGRAM
from fonts import box, small_font

WOMAN, MAN, TONE, ROCKET, JOINER, SELECTOR = "\U0001f469", "\U0001f468", "\U0001f3fd", "\U0001f680", "\u200d", "\ufe0f"


I, D, S, HEART = "\U0001f1ee", "\U0001f1e9", "\U0001f1f8", "\u2764"  # noqa: E741 (regional letters have these names)


_CHARACTERS = (WOMAN, MAN, TONE, ROCKET, JOINER, I, D, S, HEART, "1", "\u20e3", "x")


_GLYPHS = {character: number for number, character in enumerate(_CHARACTERS, 1)}


_FIRST = len(_CHARACTERS) + 1


_PEOPLE = frozenset({_GLYPHS[WOMAN], _GLYPHS[MAN]})


ASTRONAUT = WOMAN + TONE + JOINER + ROCKET


def font(lookups: Sequence[tuple[int, Subtable]], called: int = 0) -> bytes:
    """A font of the characters above and ten glyphs more; the last `called` lookups are for rules to call."""
    own = tuple(range(len(lookups) - called))
    gsub = Gsub(
        {"DFLT": Script(LanguageSystem(None, (0,)))},
        [FeatureRecord("ccmp", own)],
        [Lookup(kind, 0, (subtable,)) for kind, subtable in lookups],
    )
    glyphs = [box(100 + 40 * number, 300 + 30 * number)[0] for number in range(_FIRST + 10)]
    glyphs[_GLYPHS[JOINER]] = b""
    return small_font(
        {ord(each): glyph for each, glyph in _GLYPHS.items()},
        glyphs,
        extra={"GSUB": gsub.compile(), "prep": IDLE_PROGRAM},
    )


def ligatures(**made: str) -> LigatureSubstitution:
    """Ligatures by their place among the glyphs that have no character; "_0" in a text is the first of these."""
    found: dict[int, list[tuple[tuple[int, ...], int]]] = {}
    for place, text in made.items():
        first, *rest = (_FIRST + ord(each) - 0x100 if 0x100 <= ord(each) < 0x110 else _GLYPHS[each] for each in text)
        found.setdefault(first, []).append((tuple(rest), _FIRST + int(place[1:])))
    return LigatureSubstitution({
        first: tuple(sorted(each, key=lambda ligature: -len(ligature[0]))) for first, each in found.items()
    })  # fmt: skip


def part(number: int) -> str:
    return chr(0x100 + number)


BY_RULES = font(
    [
        # What stands before a skin tone takes a form of its own; then the two are one.
        (6, CoverageContext(True, (), (_PEOPLE,), (frozenset({_GLYPHS[TONE]}),), ((0, 3),))),
        (4, ligatures(g0=part(7) + TONE + JOINER + ROCKET, g1=part(7) + TONE, g2=part(8) + TONE, g3=I + D)),
        (2, MultipleSubstitution({_FIRST + 2: (_FIRST + 5, _FIRST + 6)})),
        (1, SingleSubstitution({_GLYPHS[WOMAN]: _FIRST + 7, _GLYPHS[MAN]: _FIRST + 8})),
    ],
    called=1,
)  # fmt: skip
