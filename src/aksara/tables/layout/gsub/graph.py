"""What each lookup of GSUB can make of which glyphs, prepared once for all closures."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set

from msgspec import Struct

from aksara.tables.layout.contexts import Context
from aksara.tables.layout.contexts.context import Pattern
from aksara.tables.layout.glyph_sets import GlyphSets
from aksara.tables.layout.gsub.substitution import Substitution
from aksara.tables.layout.gsub.types import ALTERNATE, REVERSE, SINGLE
from aksara.tables.layout.lookups import Lookup

#: Lookup types that put one glyph in the place of one.
_SAME_LENGTH = (SINGLE, ALTERNATE, REVERSE)


class Node(Struct, frozen=True, eq=False):
    """A lookup: the subtables that substitute, and its rules by what their input may start with.

    `inputs` are all glyphs that any of these begins with. `waiting` has, for those of the substitutions that need
    glyphs besides the first, which glyphs these are and the first ones that wait for each.
    """

    inputs: frozenset[int]
    substitutions: tuple[Substitution, ...]
    starts: tuple[tuple[frozenset[int], tuple[Pattern, ...]], ...]
    waiting: tuple[tuple[Substitution, Mapping[int, Set[int]]], ...]
    changes_length: bool


class SubstitutionGraph:
    """The lookups as nodes, each created when a closure first reaches it."""

    def __init__(self, lookups: Sequence[Lookup]) -> None:
        self._lookups = lookups
        self._nodes: dict[int, Node] = {}
        self._sets = GlyphSets()

    def node(self, lookup_index: int) -> Node:
        """The node of a lookup; an empty one if the lookup does not exist."""
        if lookup_index not in self._nodes:
            self._nodes[lookup_index] = self._made(
                self._lookups[lookup_index] if lookup_index < len(self._lookups) else Lookup(0, 0, ())
            )
        return self._nodes[lookup_index]

    def _made(self, lookup: Lookup) -> Node:
        substitutions = tuple(subtable for subtable in lookup.subtables if isinstance(subtable, Substitution))
        starts: dict[frozenset[int], list[Pattern]] = {}
        for subtable in lookup.subtables:
            if isinstance(subtable, Context):
                for pattern in subtable.patterns(self._sets):
                    if pattern.first.listed:
                        starts.setdefault(pattern.first.listed, []).append(pattern)
        return Node(
            frozenset().union(*(substitution.inputs for substitution in substitutions), *starts),
            substitutions,
            tuple((first, tuple(patterns)) for first, patterns in starts.items()),
            tuple((substitution, awaited) for substitution in substitutions if (awaited := substitution.awaited())),
            lookup.lookup_type not in _SAME_LENGTH,
        )

    def everything_made(self) -> set[int]:
        """All glyphs that any substitution makes."""
        substitutions = (subtable for lookup in self._lookups for subtable in lookup.subtables)
        every_glyph = frozenset(range(0x10000))
        made = (
            substitution.made(every_glyph, every_glyph)
            for substitution in substitutions
            if isinstance(substitution, Substitution)
        )
        return set().union(*made)
