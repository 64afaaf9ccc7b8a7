"""Contextual subtables of format 3, which hold one rule of sets of glyphs."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import Self

from msgspec.structs import replace

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.contexts.context import Actions, Context, Pattern, renumbered_actions
from aksara.tables.layout.contexts.rules import parse_actions
from aksara.tables.layout.coverage import coverage_block, parse_covered
from aksara.tables.layout.glyph_sets import Division, GlyphSets


class CoverageContext(Context, frozen=True):
    """Format 3: one rule, whose every position has a set of glyphs; those before with the nearest first."""

    backtrack: tuple[frozenset[int], ...]
    input: tuple[frozenset[int], ...]
    lookahead: tuple[frozenset[int], ...]
    actions: Actions

    @classmethod
    def parse(cls, reader: OffsetReader, *, chained: bool) -> Self:
        def sets(count: int) -> tuple[frozenset[int], ...]:
            return tuple(map(parse_covered, reader.offsets16(count)))

        if chained:
            backtrack, inputs, lookahead = (sets(reader.u16()) for _ in range(3))
            actions = reader.u16()
        else:
            count, actions = reader.u16(), reader.u16()
            backtrack, inputs, lookahead = (), sets(count), ()
        if not inputs:
            raise FontError("a contextual rule without input", offset=reader.origin)
        return cls(chained, backtrack, inputs, lookahead, parse_actions(reader, actions))

    def patterns(self, sets: GlyphSets) -> Iterator[Pattern]:
        first, *rest = map(sets.of, self.input)
        before, behind = tuple(map(sets.of, self.backtrack)), tuple(map(sets.of, self.lookahead))
        yield Pattern(first, tuple(rest), before, behind, self.actions)

    def divisions(self) -> Iterable[Division]:
        yield from (*self.backtrack, *self.input, *self.lookahead)

    def subset(self, glyphs: GlyphMap) -> Self | None:
        kept: list[frozenset[int]] = []
        for covered in (*self.input, *self.backtrack, *self.lookahead):
            # Of a large font most rules go by their first set.
            if not (left := glyphs.set_of(covered)):
                return None
            kept.append(left)
        behind = len(self.input) + len(self.backtrack)
        return replace(
            self,
            input=tuple(kept[: len(self.input)]),
            backtrack=tuple(kept[len(self.input) : behind]),
            lookahead=tuple(kept[behind:]),
        )

    def renumbered(self, new_indices: Mapping[int, int]) -> Self:
        return replace(self, actions=renumbered_actions(self.actions, new_indices))

    def all_actions(self) -> Iterator[Actions]:
        yield self.actions

    @property
    def span(self) -> int:
        return len(self.input) + len(self.lookahead)

    def block(self) -> Block:
        flat = [number for action in self.actions for number in action]
        if self.chained:
            block = Block().u16(3)
            for sets in (self.backtrack, self.input, self.lookahead):
                block.offsets16(coverage_block(covered) for covered in sets)
            return block.u16(len(self.actions), *flat)
        block = Block().u16(3, len(self.input), len(self.actions))
        for covered in self.input:
            block.offset16(coverage_block(covered))
        return block.u16(*flat)
