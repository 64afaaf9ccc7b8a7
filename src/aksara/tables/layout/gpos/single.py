"""GPOS type 1: single adjustment."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Self

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.coverage import coverage_block, halved, parse_coverage, rows_by_glyph
from aksara.tables.layout.devices import DeviceChange
from aksara.tables.layout.glyph_sets import Division
from aksara.tables.layout.subtable import Subtable
from aksara.tables.layout.value_records import (
    DEVICES,
    Value,
    changed_value,
    field_count,
    parse_value,
    with_numbers,
    without_unused_fields,
    write_value,
)


class SingleAdjustment(Subtable, frozen=True):
    """Glyph → how it is moved, in `value_format`."""

    value_format: int
    values: Mapping[int, Value]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        subtable_format, covered, value_format = reader.u16(), parse_coverage(reader.required16()), reader.u16()
        if subtable_format == 1:
            value = parse_value(reader, value_format)
            return cls(value_format, dict.fromkeys(covered, value))
        if subtable_format != 2:
            raise FontError(
                f"a single adjustment of format {subtable_format}; only 1 and 2 exist", offset=reader.origin
            )
        count = reader.u16()
        reader.work.spend_numbers(count * field_count(value_format))
        values = [parse_value(reader, value_format) for _ in range(count)]
        return cls(value_format, rows_by_glyph(covered, values))

    def divisions(self) -> Iterable[Division]:
        yield self.values.keys()

    def subset(self, glyphs: GlyphMap) -> Self | None:
        kept = glyphs.keys_of(self.values)
        if not kept:
            return None
        value_format, values = without_unused_fields(self.value_format, list(kept.values()))
        return type(self)(value_format, dict(zip(kept, values, strict=True)))

    def changed(self, change: DeviceChange) -> Self:
        if not self.value_format & DEVICES:
            return self
        known: dict[Value, Value] = {}
        for value in self.values.values():
            if value not in known:
                known[value] = changed_value(self.value_format, value, change)
        values = {glyph: known[value] for glyph, value in self.values.items()}
        return type(self)(with_numbers(self.value_format), values)

    def block(self) -> Block:
        ordered = [self.values[glyph] for glyph in sorted(self.values)]
        alike = len(set(ordered)) == 1
        block = Block().u16(1 if alike else 2).offset16(coverage_block(self.values)).u16(self.value_format)
        if not alike:
            block.u16(len(ordered))
        for value in ordered[:1] if alike else ordered:
            write_value(block, self.value_format, value)
        return block

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.values)
        return type(self)(self.value_format, first), type(self)(self.value_format, second)
