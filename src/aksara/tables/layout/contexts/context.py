"""`Context`: contextual and chained contextual subtables of any format, which GSUB and GPOS share
(OpenType 1.9.1, "Common formats for contextual lookup subtables").

A rule that cannot match among the kept glyphs is dropped; one that matches and does nothing is kept, since it keeps
those behind it from matching.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator, Mapping
from typing import Self

from msgspec import Struct

from aksara.tables.layout.glyph_sets import GlyphSet, GlyphSets, Join, joins_of
from aksara.tables.layout.subtable import Subtable

#: (position in the input, lookup index): what a rule does.
Actions = tuple[tuple[int, int], ...]


#: A position with at least this many glyphs means any letter.
_WIDE = 300


class Pattern(Struct, frozen=True, eq=False):
    """A rule in glyphs: those that its input may start with, those of the other positions of the input, those before
    it (nearest first) and behind it, and what it does."""

    first: GlyphSet
    rest: tuple[GlyphSet, ...]
    before: tuple[GlyphSet, ...]
    behind: tuple[GlyphSet, ...]
    actions: Actions


class Context(Subtable, frozen=True):
    """A contextual subtable; `chained` ones look at glyphs before and behind their input, too."""

    chained: bool

    @abstractmethod
    def patterns(self, sets: GlyphSets) -> Iterator[Pattern]:
        """Its rules in sets of glyphs."""

    @abstractmethod
    def renumbered(self, new_indices: Mapping[int, int]) -> Self:
        """With new indices (old → new) of the lookups that rules call; calls of dropped lookups are removed."""

    @abstractmethod
    def all_actions(self) -> Iterator[Actions]:
        """What each rule does."""

    def joins(self, sets: GlyphSets) -> Iterator[Join]:
        # What does nothing still keeps the rules behind it from matching.
        for rule in self.patterns(sets):
            positions = (*reversed(rule.before), rule.first, *rule.rest, *rule.behind)
            # Where about any glyphs may stand beside each other, the rule is for one that stands further away.
            yield from ((one, other) for one, other in joins_of(positions) if not (_is_wide(one) and _is_wide(other)))

    def lookups(self) -> set[int]:
        """The lookups that its rules call."""
        return {lookup for actions in self.all_actions() for _, lookup in actions}


def _is_wide(position: GlyphSet) -> bool:
    return position.others or len(position.listed) >= _WIDE


def renumbered_actions(actions: Actions, new_indices: Mapping[int, int]) -> Actions:
    """The actions whose lookups are kept, with these under their new indices."""
    return tuple((position, new_indices[lookup]) for position, lookup in actions if lookup in new_indices)
