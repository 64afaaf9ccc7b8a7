"""GSUB types 2 and 3: multiple and alternate substitution."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Set
from typing import Self

from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.coverage import coverage_block, halved, parse_coverage, parse_glyphs, parse_rows
from aksara.tables.layout.glyph_sets import Division, Form, common_glyphs
from aksara.tables.layout.gsub.substitution import Substitution


class _Sequences(Substitution, frozen=True):
    """Types 2 and 3 look the same: a list of glyphs for each covered one."""

    sequences: Mapping[int, tuple[int, ...]]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        _, covered = reader.u16(), parse_coverage(reader.required16())
        return cls(parse_rows(reader, covered, parse_glyphs, ()))

    @property
    def inputs(self) -> Set[int]:
        return self.sequences.keys()

    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        return {part for glyph in common_glyphs(self.sequences, inputs) for part in self.sequences[glyph]}

    def divisions(self) -> Iterable[Division]:
        yield self.sequences.keys()

    def subset(self, glyphs: GlyphMap) -> Self | None:
        kept = glyphs.sequences_of(self.sequences)
        return type(self)(kept) if kept else None

    def block(self) -> Block:
        block = Block().u16(1).offset16(coverage_block(self.sequences))
        ordered = (self.sequences[glyph] for glyph in sorted(self.sequences))
        return block.offsets16(Block().u16(len(sequence), *sequence) for sequence in ordered)

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.sequences)
        return type(self)(first), type(self)(second)


class MultipleSubstitution(_Sequences, frozen=True):
    """Type 2: one glyph by several, or by none."""

    def forms(self) -> Iterable[Form]:
        # Marks at the end may be looked past, so each of the parts may be the last one.
        for glyph, sequence in self.sequences.items():
            for index, part in enumerate(sequence):
                yield Form(glyph, part, starts=index == 0)


class AlternateSubstitution(_Sequences, frozen=True):
    """Type 3: one glyph by one of several, which the user chooses by its place; so none of them may go alone."""

    def forms(self) -> Iterable[Form]:
        return (Form(glyph, other) for glyph, others in self.sequences.items() for other in others)
