"""Substitution in one short text: the resulting glyphs, and the ligatures used (OpenType 1.9.1, 'GSUB').

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
    """A glyph of a text; shapers skip one of an `ignorable` character that no rule expects."""

    glyph: int
    ignorable: bool = False


class NotFollowed(Exception):
    """A kind of substitution that is not followed here."""


class TextSubstitution:
    """The substitutions of some lookups; `used` are the ligatures that acted, in all texts together."""

    def __init__(self, gsub: Gsub, lookups: Iterable[int]) -> None:
        self._gsub = gsub
        self._lookups = sorted(lookup_index for lookup_index in lookups if lookup_index < len(gsub.lookups))
        self._sets = GlyphSets()
        self._patterns: dict[tuple[int, int], list[Pattern]] = {}
        self.used: set[Ligature] = set()

    def apply(self, text: Sequence[Placed], work: Work) -> list[Placed]:
        """The glyphs that the text becomes. Raises `NotFollowed` where that cannot be said here."""
        glyphs = list(text)
        for lookup_index in self._lookups:
            position = 0
            while position < len(glyphs):
                work.spend(1)
                done = self._apply_at(glyphs, position, lookup_index, 0, work)
                position += 1 if done is None else done
                if len(glyphs) > _LONGEST:
                    raise NotFollowed
        return glyphs

    def _apply_at(self, glyphs: list[Placed], position: int, lookup_index: int, depth: int, work: Work) -> int | None:
        """Apply a lookup at one place. How many glyphs the result has there; None where nothing matches."""
        if lookup_index >= len(self._gsub.lookups):
            return None
        lookup = self._gsub.lookups[lookup_index]
        for index, subtable in enumerate(lookup.subtables):
            if isinstance(subtable, Context):
                done = self._apply_context(glyphs, position, (lookup_index, index), subtable, depth, work)
            else:
                done = self._substitute(glyphs, position, (lookup_index, index), subtable)
            if done is not None:
                if lookup.flags & _PASSING_OVER:
                    raise NotFollowed
                return done
        return None

    def _substitute(
        self, glyphs: list[Placed], position: int, where: tuple[int, int], subtable: Subtable
    ) -> int | None:
        glyph = glyphs[position].glyph
        if isinstance(subtable, SingleSubstitution):
            if glyph not in subtable.substitutes:
                return None
            glyphs[position] = Placed(subtable.substitutes[glyph])
            return 1
        if isinstance(subtable, MultipleSubstitution):
            if glyph not in subtable.sequences:
                return None
            made = [Placed(output) for output in subtable.sequences[glyph]]
            glyphs[position : position + 1] = made
            return len(made)
        if isinstance(subtable, LigatureSubstitution):
            for rest, ligature in subtable.ligatures.get(glyph, ()):
                positions = _match(glyphs, position, [GlyphSet(frozenset((part,))) for part in rest])
                if positions is not None:
                    self.used.add(Ligature(*where, glyph, rest))
                    passed_over = [glyphs[i] for i in range(position, positions[-1] + 1) if i not in positions]
                    glyphs[position : positions[-1] + 1] = [Placed(ligature), *passed_over]
                    return 1
            return None
        # Alternates are for users to choose.
        if isinstance(subtable, ReverseSubstitution) and glyph in subtable.substitutes:
            raise NotFollowed
        return None

    def _apply_context(
        self, glyphs: list[Placed], position: int, where: tuple[int, int], subtable: Context, depth: int, work: Work
    ) -> int | None:
        if where not in self._patterns:
            self._patterns[where] = list(subtable.patterns(self._sets))
        for pattern in self._patterns[where]:
            work.spend(1)
            if not pattern.first.meets({glyphs[position].glyph}):
                continue
            positions = _match(glyphs, position, pattern.rest)
            if positions is None or _match(glyphs, positions[-1], pattern.behind) is None:
                continue
            if pattern.before and _match(glyphs[::-1], len(glyphs) - 1 - position, pattern.before) is None:
                continue
            if depth >= _DEEPEST:
                raise NotFollowed
            return self._act(glyphs, positions, pattern, depth, work)
        return None

    def _act(self, glyphs: list[Placed], positions: list[int], pattern: Pattern, depth: int, work: Work) -> int:
        """Apply the actions of a rule. Returns the number of glyphs that its input has become."""
        first, length = positions[0], positions[-1] - positions[0] + 1
        for position, lookup_index in pattern.actions:
            if position >= len(positions) or positions[position] >= len(glyphs):
                continue
            before = len(glyphs)
            if self._apply_at(glyphs, positions[position], lookup_index, depth + 1, work) is None:
                continue
            change = len(glyphs) - before
            if change < 0:
                # What became one glyph has one place.
                gone = set(range(positions[position] + 1, positions[position] + 1 - change))
                positions = [index for index in positions if index not in gone]
            positions = [index + change if index > positions[position] else index for index in positions]
            length += change
        return max(length, 1) if first < len(glyphs) else 0


def _match(glyphs: Sequence[Placed], position: int, rest: Sequence[GlyphSet]) -> list[int] | None:
    """The places of the glyph there and of those behind it that match; None where they do not."""
    positions = [position]
    for wanted in rest:
        position += 1
        while position < len(glyphs) and glyphs[position].ignorable and not wanted.meets({glyphs[position].glyph}):
            position += 1
        if position >= len(glyphs) or not wanted.meets({glyphs[position].glyph}):
            return None
        positions.append(position)
    return positions


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
    made = substitution.used
    for text in unclear:
        glyphs = gsub.closure({placed.glyph for placed in text}).glyphs
        made |= {ligature for ligature, _ in all_ligatures(gsub) if glyphs.issuperset((ligature.first, *ligature.rest))}
    return made


def all_ligatures(gsub: Gsub) -> Iterable[tuple[Ligature, int]]:
    """Every ligature of the font, with its glyph."""
    for lookup_index, lookup in enumerate(gsub.lookups):
        for index, subtable in enumerate(lookup.subtables):
            if isinstance(subtable, LigatureSubstitution):
                for first, rest, made in subtable.all():
                    yield Ligature(lookup_index, index, first, rest), made
