"""GSUB type 8: reverse chaining contextual single substitution."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Set
from typing import Self

from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.coverage import coverage_block, parse_coverage, parse_covered, rows_by_glyph
from aksara.tables.layout.glyph_sets import Division, Form, GlyphSets, Join, common_glyphs, joins_of
from aksara.tables.layout.gsub.substitution import Substitution


class ReverseSubstitution(Substitution, frozen=True):
    """Type 8: one glyph by one where glyphs before (nearest first) and behind fit, from the end of the text on."""

    substitutes: Mapping[int, int]
    backtrack: tuple[frozenset[int], ...]
    lookahead: tuple[frozenset[int], ...]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        _, covered = reader.u16(), parse_coverage(reader.required16())
        backtrack, lookahead = (tuple(map(parse_covered, reader.offsets16(reader.u16()))) for _ in range(2))
        made = reader.u16s(reader.u16())
        return cls(rows_by_glyph(covered, made), backtrack, lookahead)

    @property
    def inputs(self) -> Set[int]:
        return self.substitutes.keys()

    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        if any(around.isdisjoint(glyphs) for around in (*self.backtrack, *self.lookahead)):
            return set()
        return {self.substitutes[glyph] for glyph in common_glyphs(self.substitutes, inputs)}

    def awaited(self) -> Mapping[int, Set[int]]:
        around = frozenset().union(*self.backtrack, *self.lookahead)
        return dict.fromkeys(around, self.substitutes.keys())

    def forms(self) -> Iterable[Form]:
        return (Form(glyph, made) for glyph, made in self.substitutes.items())

    def joins(self, sets: GlyphSets) -> Iterator[Join]:
        own = sets.of(frozenset(self.substitutes))
        return joins_of((*map(sets.of, reversed(self.backtrack)), own, *map(sets.of, self.lookahead)))

    def divisions(self) -> Iterable[Division]:
        yield from (self.substitutes.keys(), *self.backtrack, *self.lookahead)

    def subset(self, glyphs: GlyphMap) -> Self | None:
        kept = glyphs.pairs_of(self.substitutes)
        backtrack = tuple(map(glyphs.set_of, self.backtrack))
        lookahead = tuple(map(glyphs.set_of, self.lookahead))
        return type(self)(kept, backtrack, lookahead) if kept and all((*backtrack, *lookahead)) else None

    @property
    def span(self) -> int:
        return 1 + len(self.lookahead)

    def block(self) -> Block:
        block = Block().u16(1).offset16(coverage_block(self.substitutes))
        block.offsets16(coverage_block(around) for around in self.backtrack)
        block.offsets16(coverage_block(around) for around in self.lookahead)
        ordered = [self.substitutes[glyph] for glyph in sorted(self.substitutes)]
        return block.u16(len(ordered), *ordered)
