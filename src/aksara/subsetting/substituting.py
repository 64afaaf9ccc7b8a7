"""What substitution makes of one short text: which glyphs, and by which ligatures (OpenType 1.9.1, 'GSUB').

As shapers do it: lookup after lookup, each from the start of the text to its end, where the first subtable that matches
acts. It is for texts of a few glyphs, as a sequence of emoji; what it does not follow, it says.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from msgspec import Struct

from aksara.errors import BeyondBounds
from aksara.limits import Work
from aksara.tables import Gsub
from aksara.tables.layout.contexts import Context, Pattern
from aksara.tables.layout.glyph_sets import GlyphSet, GlyphSets
from aksara.tables.layout.gsub import (
    LigatureSubstitution,
    MultipleSubstitution,
    ReverseSubstitution,
    SingleSubstitution,
)
from aksara.tables.layout.subtable import Subtable

#: Flags of lookups that skip glyphs by their class.
_PASSING_OVER = 0xFF1E
#: Rules may call one another without end.
_DEEPEST, _LONGEST = 6, 200
#: The work is that of reading a large table (bytes).
_LARGE = 1_000_000


class Ligature(NamedTuple):
    """A ligature of a font: its lookup, the place of the subtable in it, the first glyph and the other ones."""

    lookup: int
    subtable: int
    first: int
    rest: tuple[int, ...]


class Placed(Struct, frozen=True):
    """A glyph of a text; shapers look past one of an `ignorable` character where nothing wants it."""

    glyph: int
    ignorable: bool = False


class NotFollowed(Exception):
    """A kind of substitution that is not followed here."""


class TextSubstitution:
    """The substitutions of some lookups; `used` are the ligatures that acted, in all texts together."""

    def __init__(self, gsub: Gsub, lookups: Iterable[int]) -> None:
        self._gsub = gsub
        self._lookups = sorted(number for number in lookups if number < len(gsub.lookups))
        self._sets = GlyphSets()
        self._patterns: dict[tuple[int, int], list[Pattern]] = {}
        self.used: set[Ligature] = set()

    def apply(self, text: Sequence[Placed], work: Work) -> list[Placed]:
        """The glyphs that the text becomes. Raises `NotFollowed` where that cannot be said here."""
        glyphs = list(text)
        for number in self._lookups:
            at = 0
            while at < len(glyphs):
                work.spend(1)
                done = self._apply_at(glyphs, at, number, 0, work)
                at += 1 if done is None else done
                if len(glyphs) > _LONGEST:
                    raise NotFollowed
        return glyphs

    def _apply_at(self, glyphs: list[Placed], at: int, number: int, depth: int, work: Work) -> int | None:
        """Apply a lookup at one place. How many glyphs the result has there; None where nothing matches."""
        if number >= len(self._gsub.lookups):
            return None
        lookup = self._gsub.lookups[number]
        for place, subtable in enumerate(lookup.subtables):
            if isinstance(subtable, Context):
                done = self._apply_context(glyphs, at, (number, place), subtable, depth, work)
            else:
                done = self._substitute(glyphs, at, (number, place), subtable)
            if done is not None:
                if lookup.flags & _PASSING_OVER:
                    raise NotFollowed
                return done
        return None

    def _substitute(self, glyphs: list[Placed], at: int, where: tuple[int, int], subtable: Subtable) -> int | None:
        glyph = glyphs[at].glyph
        if isinstance(subtable, SingleSubstitution):
            if glyph not in subtable.substitutes:
                return None
            glyphs[at] = Placed(subtable.substitutes[glyph])
            return 1
        if isinstance(subtable, MultipleSubstitution):
            if glyph not in subtable.sequences:
                return None
            made = [Placed(output) for output in subtable.sequences[glyph]]
            glyphs[at : at + 1] = made
            return len(made)
        if isinstance(subtable, LigatureSubstitution):
            for rest, ligature in subtable.ligatures.get(glyph, ()):
                places = _match(glyphs, at, [GlyphSet(frozenset((part,))) for part in rest])
                if places is not None:
                    self.used.add(Ligature(*where, glyph, rest))
                    passed_over = [glyphs[i] for i in range(at, places[-1] + 1) if i not in places]
                    glyphs[at : places[-1] + 1] = [Placed(ligature), *passed_over]
                    return 1
            return None
        # Alternates are for users to choose.
        if isinstance(subtable, ReverseSubstitution) and glyph in subtable.substitutes:
            raise NotFollowed
        return None

    def _apply_context(
        self, glyphs: list[Placed], at: int, where: tuple[int, int], subtable: Context, depth: int, work: Work
    ) -> int | None:
        if where not in self._patterns:
            self._patterns[where] = list(subtable.patterns(self._sets))
        for pattern in self._patterns[where]:
            work.spend(1)
            if not pattern.first.meets({glyphs[at].glyph}):
                continue
            places = _match(glyphs, at, pattern.rest)
            if places is None or _match(glyphs, places[-1], pattern.behind) is None:
                continue
            if pattern.before and _match(glyphs[::-1], len(glyphs) - 1 - at, pattern.before) is None:
                continue
            if depth >= _DEEPEST:
                raise NotFollowed
            return self._act(glyphs, places, pattern, depth, work)
        return None

    def _act(self, glyphs: list[Placed], places: list[int], pattern: Pattern, depth: int, work: Work) -> int:
        """Do what a rule does. How many glyphs its input has become."""
        first, length = places[0], places[-1] - places[0] + 1
        for position, number in pattern.actions:
            if position >= len(places) or places[position] >= len(glyphs):
                continue
            before = len(glyphs)
            if self._apply_at(glyphs, places[position], number, depth + 1, work) is None:
                continue
            change = len(glyphs) - before
            if change < 0:
                # What became one glyph has one place.
                gone = set(range(places[position] + 1, places[position] + 1 - change))
                places = [place for place in places if place not in gone]
            places = [place + change if place > places[position] else place for place in places]
            length += change
        return max(length, 1) if first < len(glyphs) else 0


def _match(glyphs: Sequence[Placed], at: int, rest: Sequence[GlyphSet]) -> list[int] | None:
    """The places of the glyph there and of those behind it that match; None where they do not."""
    places = [at]
    for wanted in rest:
        at += 1
        while at < len(glyphs) and glyphs[at].ignorable and not wanted.meets({glyphs[at].glyph}):
            at += 1
        if at >= len(glyphs) or not wanted.meets({glyphs[at].glyph}):
            return None
        places.append(at)
    return places


def ligatures_made(gsub: Gsub, lookups: Iterable[int], texts: Iterable[Sequence[Placed]]) -> set[Ligature]:
    """The ligatures that texts make; of one that cannot be followed all that its glyphs may ever make."""
    numbers = sorted(lookups)
    substitution = TextSubstitution(gsub, numbers)
    unclear: list[Sequence[Placed]] = []
    work = Work(_LARGE)
    for text in texts:
        try:
            substitution.apply(text, work)
        except (NotFollowed, BeyondBounds):
            unclear.append(text)
    found = substitution.used
    for text in unclear:
        glyphs = gsub.closure({placed.glyph for placed in text}).glyphs
        found |= {
            ligature for ligature, _ in all_ligatures(gsub) if glyphs.issuperset((ligature.first, *ligature.rest))
        }
    return found


def all_ligatures(gsub: Gsub) -> Iterable[tuple[Ligature, int]]:
    """Every ligature of the font, with its glyph."""
    for number, lookup in enumerate(gsub.lookups):
        for place, subtable in enumerate(lookup.subtables):
            if isinstance(subtable, LigatureSubstitution):
                for first, rest, made in subtable.all():
                    yield Ligature(number, place, first, rest), made
