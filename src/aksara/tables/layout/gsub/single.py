"""GSUB type 1: single substitution."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Set
from typing import Self

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.coverage import coverage_block, parse_coverage, rows_by_glyph
from aksara.tables.layout.glyph_sets import Division, Form, common_glyphs
from aksara.tables.layout.gsub.substitution import Substitution


class SingleSubstitution(Substitution, frozen=True):
    """Type 1: one glyph by one."""

    substitutes: Mapping[int, int]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        subtable_format, covered = reader.u16(), parse_coverage(reader.required16())
        if subtable_format == 1:
            (delta,) = reader.i16s(1)
            return cls({glyph: glyph + delta & 0xFFFF for glyph in covered})
        if subtable_format != 2:
            raise FontError(
                f"a single substitution of format {subtable_format}; only 1 and 2 exist", offset=reader.origin
            )
        made = reader.u16s(reader.u16())
        return cls(rows_by_glyph(covered, made))

    @property
    def inputs(self) -> Set[int]:
        return self.substitutes.keys()

    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        return {self.substitutes[glyph] for glyph in common_glyphs(self.substitutes, inputs)}

    def forms(self) -> Iterable[Form]:
        return (Form(glyph, made) for glyph, made in self.substitutes.items())

    def divisions(self) -> Iterable[Division]:
        yield self.substitutes.keys()

    def subset(self, glyphs: GlyphMap) -> Self | None:
        kept = glyphs.pairs_of(self.substitutes)
        return type(self)(kept) if kept else None

    def block(self) -> Block:
        distances = {made - glyph & 0xFFFF for glyph, made in self.substitutes.items()}
        covered = coverage_block(self.substitutes)
        if len(distances) == 1:
            return Block().u16(1).offset16(covered).u16(distances.pop())
        ordered = [self.substitutes[glyph] for glyph in sorted(self.substitutes)]
        return Block().u16(2).offset16(covered).u16(len(ordered), *ordered)
