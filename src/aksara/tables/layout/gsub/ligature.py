"""GSUB type 4: ligature substitution."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Set
from itertools import pairwise
from typing import Self

from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.coverage import coverage_block, halved, parse_coverage, parse_rows
from aksara.tables.layout.glyph_sets import Division, Form, GlyphSets, Join, common_glyphs
from aksara.tables.layout.gsub.substitution import Substitution


class LigatureSubstitution(Substitution, frozen=True):
    """Type 4: several glyphs by one. First glyph → (the other components, the ligature), the best first."""

    ligatures: Mapping[int, tuple[tuple[tuple[int, ...], int], ...]]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        _, covered = reader.u16(), parse_coverage(reader.required16())
        return cls(parse_rows(reader, covered, _parse_ligatures, ()))

    def all(self) -> Iterator[tuple[int, tuple[int, ...], int]]:
        """Each ligature: its first component, the other ones, and its glyph."""
        return ((first, rest, made) for first, ligatures in self.ligatures.items() for rest, made in ligatures)

    @property
    def inputs(self) -> Set[int]:
        return self.ligatures.keys()

    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        return {
            ligature
            for glyph in common_glyphs(self.ligatures, inputs)
            for rest, ligature in self.ligatures[glyph]
            if all(part in glyphs for part in rest)
        }

    def awaited(self) -> Mapping[int, Set[int]]:
        awaited_by: dict[int, set[int]] = {}
        for first, ligatures in self.ligatures.items():
            for rest, _ in ligatures:
                for glyph in rest:
                    awaited_by.setdefault(glyph, set()).add(first)
        return awaited_by

    def forms(self) -> Iterable[Form]:
        for first, ligatures in self.ligatures.items():
            for rest, ligature in ligatures:
                yield Form(first, ligature, ends=not rest)
                if rest:
                    yield Form(rest[-1], ligature, starts=False)

    def joins(self, sets: GlyphSets) -> Iterator[Join]:
        behind: dict[int, set[int]] = {}
        for first, ligatures in self.ligatures.items():
            for rest, _ in ligatures:
                for one, other in pairwise((first, *rest)):
                    behind.setdefault(one, set()).add(other)
        return ((sets.of(frozenset((one,))), sets.of(frozenset(others))) for one, others in behind.items())

    def divisions(self) -> Iterable[Division]:
        yield self.ligatures.keys()

    def subset(self, glyphs: GlyphMap) -> Self | None:
        kept = {}
        for glyph, ligatures in glyphs.keys_of(self.ligatures).items():
            found = ((glyphs.all_of(rest), glyphs.get(made)) for rest, made in ligatures)
            kept[glyph] = tuple((rest, made) for rest, made in found if rest is not None and made is not None)
        kept = {glyph: ligatures for glyph, ligatures in kept.items() if ligatures}
        return type(self)(kept) if kept else None

    @property
    def span(self) -> int:
        return max((len(rest) + 1 for ligature in self.ligatures.values() for rest, _ in ligature), default=1)

    def block(self) -> Block:
        block = Block().u16(1).offset16(coverage_block(self.ligatures))
        sets = []
        for glyph in sorted(self.ligatures):
            blocks = (Block().u16(made, len(rest) + 1, *rest) for rest, made in self.ligatures[glyph])
            sets.append(Block().offsets16(blocks))
        return block.offsets16(sets)

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.ligatures)
        return type(self)(first), type(self)(second)


def _parse_ligatures(reader: OffsetReader) -> tuple[tuple[tuple[int, ...], int], ...]:
    ligatures = []
    for target in reader.offsets16(reader.u16()):
        if target is not None:
            made, count = target.u16s(2)
            # One of no components at all never applies.
            if count:
                ligatures.append((target.u16s(count - 1), made))
    return tuple(ligatures)
