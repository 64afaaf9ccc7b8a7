"""`Context`: contextual and chained contextual subtables of any format, which GSUB and GPOS share
(OpenType 1.9.1, "Common formats for contextual lookup subtables").

A rule that cannot match among the kept glyphs is dropped; one that matches and does nothing is kept, since it keeps
those behind it from matching.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterator, Mapping, Set
from dataclasses import dataclass
from typing import Self

from aksara.tables.layout.subtable import Subtable

#: (position in the input, lookup index): what a rule does.
Actions = tuple[tuple[int, int], ...]


@dataclass(slots=True, frozen=True)
class Match:
    """Glyphs that a rule can meet at each position of its input, and what it does there."""

    inputs: tuple[Set[int], ...]
    actions: Actions


class Context(Subtable):
    """A contextual subtable; `chained` ones look at glyphs before and behind their input, too."""

    __slots__ = ()
    chained: bool

    @abstractmethod
    def matches(self, first: Set[int], glyphs: Set[int]) -> Iterator[Match]:
        """The rules that can match where all glyphs are among `glyphs`, and that of the first position in `first`."""

    @abstractmethod
    def renumbered(self, new_indices: Mapping[int, int]) -> Self:
        """With new indices (old → new) for the lookups that rules call; calls of others go."""

    @abstractmethod
    def all_actions(self) -> Iterator[Actions]:
        """What each rule does."""

    @property
    @abstractmethod
    def weight(self) -> int:
        """About how many glyphs and rules have to be gone through to find what matches."""

    def lookups(self) -> set[int]:
        """The lookups that its rules call."""
        return {lookup for actions in self.all_actions() for _, lookup in actions}


def renumbered_actions(actions: Actions, new_indices: Mapping[int, int]) -> Actions:
    """The actions whose lookups are kept, with these under their new indices."""
    return tuple((position, new_indices[lookup]) for position, lookup in actions if lookup in new_indices)
