"""GPOS type 1: single adjustment."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Self

from aksara.errors import FontError
from aksara.tables.layout.coverage import coverage_block, halved, read_coverage
from aksara.tables.layout.lookups import Subtable
from aksara.tables.layout.offsets import Block, Place
from aksara.tables.layout.values import Value, field_count, read_value, used_format, write_value


@dataclass(slots=True, frozen=True)
class Single(Subtable):
    """Glyph → how it is moved, in `form`, the value format."""

    form: int
    values: Mapping[int, Value]

    @classmethod
    def parse(cls, place: Place) -> Self:
        kind, covered, form = place.u16(), read_coverage(place.required()), place.u16()
        if kind == 1:
            value = read_value(place, form)
            return cls(form, dict.fromkeys(covered, value))
        if kind != 2:
            raise FontError(f"a single adjustment of format {kind}; only 1 and 2 exist", offset=place.origin)
        count = place.u16()
        place.spend(count * field_count(form))
        values = [read_value(place, form) for _ in range(count)]
        return cls(form, {glyph: values[index] for glyph, index in covered.items() if index < count})

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        kept = {numbers[glyph]: value for glyph, value in self.values.items() if glyph in numbers}
        if not kept:
            return None
        form, values = used_format(self.form, list(kept.values()))
        return type(self)(form, dict(zip(kept, values, strict=True)))

    def block(self) -> Block:
        ordered = [self.values[glyph] for glyph in sorted(self.values)]
        alike = len(set(ordered)) == 1
        block = Block().u16(1 if alike else 2).link(coverage_block(self.values)).u16(self.form)
        if not alike:
            block.u16(len(ordered))
        for value in ordered[:1] if alike else ordered:
            write_value(block, self.form, value)
        return block

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.values)
        return type(self)(self.form, first), type(self)(self.form, second)
