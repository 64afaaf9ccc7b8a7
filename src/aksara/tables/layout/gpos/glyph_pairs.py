"""GPOS type 2, format 1: pair adjustment by glyphs."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Self

from msgspec.structs import replace

from aksara.errors import TableUnread
from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.coverage import bisected, coverage_block, halved, parse_coverage, parse_rows
from aksara.tables.layout.devices import Device, DeviceChange, device_blocks, parse_device
from aksara.tables.layout.glyph_sets import Division, GlyphSets, Join
from aksara.tables.layout.subtable import Subtable
from aksara.tables.layout.value_records import (
    DEVICES,
    Value,
    changed_value,
    field_count,
    with_numbers,
    without_unused_fields,
)

#: The value formats of the first glyph and of the second.
ValueFormats = tuple[int, int]
#: Second glyph → the values of both.
Seconds = Mapping[int, tuple[Value, Value]]
_X_ADVANCE = 0x0004
#: How many times its own size HarfBuzz reads of a table while it checks it.
_CHECKED = 64
_NO_PAIRS: Seconds = {}


class GlyphPairs(Subtable, frozen=True):
    """Format 1: first glyph → second glyph → values, in the formats `value_formats` of the first and second."""

    value_formats: ValueFormats
    pairs: Mapping[int, Seconds]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        covered = parse_coverage(reader.required16())
        first, second = reader.u16s(2)
        parse_set = _parse_plain_set if not (first | second) & DEVICES else _parse_device_set
        _require_engines_read_on(reader, 1 + field_count(first) + field_count(second))
        pairs = parse_rows(reader, covered, lambda target: parse_set(target, first, second), _NO_PAIRS)
        return cls((first & 0xFF, second & 0xFF), pairs)

    @property
    def span(self) -> int:
        return 2

    @property
    def firsts(self) -> frozenset[int]:
        """The first glyphs that it covers."""
        return frozenset(self.pairs)

    def joins(self, sets: GlyphSets) -> Iterator[Join]:
        for first, seconds in self.pairs.items():
            moved = frozenset(second for second, values in seconds.items() if any(map(any, values)))
            yield sets.of(frozenset((first,))), sets.of(moved)

    def divisions(self) -> Iterable[Division]:
        yield self.pairs.keys()

    def subset(self, glyphs: GlyphMap) -> Self | None:
        kept = {glyph: glyphs.keys_of(seconds) for glyph, seconds in glyphs.keys_of(self.pairs).items()}
        kept = {glyph: seconds for glyph, seconds in kept.items() if seconds}
        return replace(self, pairs=kept) if kept else None

    def without_zeros(self) -> Self | None:
        """Without pairs whose values are all 0; None if there are no others."""
        kept = {
            glyph: {second: values for second, values in seconds.items() if any(map(any, values))}
            for glyph, seconds in self.pairs.items()
        }
        kept = {glyph: seconds for glyph, seconds in kept.items() if seconds}
        return replace(self, pairs=kept) if kept else None

    def without_unused_fields(self) -> Self:
        """Without fields that are 0 in every pair."""
        values = [pair for seconds in self.pairs.values() for pair in seconds.values()]
        format1, firsts = without_unused_fields(self.value_formats[0], [first for first, _ in values])
        format2, others = without_unused_fields(self.value_formats[1], [second for _, second in values])
        if self.value_formats[1] and not format2:
            # That there is a format for the second glyph has a meaning.
            format2, others = _X_ADVANCE, [(0,)] * len(values)
        new = iter(zip(firsts, others, strict=True))
        pairs = {glyph: {second: next(new) for second in seconds} for glyph, seconds in self.pairs.items()}
        return type(self)((format1, format2), pairs)

    def changed(self, change: DeviceChange) -> Self:
        one, two = self.value_formats
        if not (one | two) & DEVICES:
            return self
        # A few values are repeated by many pairs.
        known: dict[tuple[Value, Value], tuple[Value, Value]] = {}
        for seconds in self.pairs.values():
            for values in seconds.values():
                if values not in known:
                    known[values] = changed_value(one, values[0], change), changed_value(two, values[1], change)
        pairs = {
            glyph: {second: known[values] for second, values in seconds.items()}
            for glyph, seconds in self.pairs.items()
        }
        return type(self)((with_numbers(one), with_numbers(two)), pairs)

    def block(self) -> Block:
        block = Block().u16(1).offset16(coverage_block(self.pairs)).u16(*self.value_formats)
        block_of = device_blocks()
        return block.offsets16(self._set_block(self.pairs[glyph], block_of) for glyph in sorted(self.pairs))

    def _set_block(self, seconds: Seconds, block_of: Callable[[Device | None], Block | None]) -> Block:
        ordered = sorted(seconds)
        values = map(seconds.__getitem__, ordered)
        flat = [n for second, (one, other) in zip(ordered, values, strict=True) for n in (second, *one, *other)]
        if not (self.value_formats[0] | self.value_formats[1]) & DEVICES:
            return Block().u16(len(seconds), *[n & 0xFFFF for n in flat])  # type: ignore[operator]  # numbers alone
        block = Block().u16(len(seconds), *(n & 0xFFFF if isinstance(n, int) else 0 for n in flat))
        for index, value in enumerate(flat, 1):
            if value is not None and not isinstance(value, int):
                block.link16(2 * index, block_of(value))
        return block

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.pairs)
        return replace(self, pairs=first), replace(self, pairs=second)


def _require_engines_read_on(reader: OffsetReader, step: int) -> None:
    """Raises `TableUnread` for sets of pairs that are so large together that text engines leave out the whole table.

    Where offsets were wrapped at 16 bits sets overlap, and may come to many times the table's size. HarfBuzz, which
    checks a table before it uses it, gives up then; sets that no glyph leads to count, too. The cursor stands before
    the count of the sets, which have `step` numbers a pair, and stays there.
    """
    start = reader.position
    total = 0
    for target in reader.offsets16(reader.u16()):
        if target is not None and target.remaining >= 2:
            total += 2 * step * target.u16()
    reader.position = start
    if total > _CHECKED * len(reader.data):
        raise TableUnread("its sets of pairs overlap so much that text engines do not use it", offset=start)


def _parse_plain_set(reader: OffsetReader, first: int, second: int) -> dict[int, tuple[Value, Value]]:
    """Pairs without devices, all at once."""
    one, two = field_count(first), field_count(second)
    step = 1 + one + two
    numbers = reader.u16s(reader.u16() * step)
    signed = [value - (value >> 15 << 16) for value in numbers]
    if step == 2 and one:
        values: list[tuple[Value, Value]] = [((value,), ()) for value in signed[1::2]]
    else:
        starts = range(1, len(numbers) + 1, step)
        values = [
            (tuple(signed[offset : offset + one]), tuple(signed[offset + one : offset + one + two]))
            for offset in starts
        ]
    return bisected(numbers[::step], values)


def _parse_device_set(reader: OffsetReader, first: int, second: int) -> dict[int, tuple[Value, Value]]:
    """Pairs with devices, whose offsets are relative to the set."""
    one, two = field_count(first), field_count(second)
    step = 1 + one + two
    are_devices = [bit >= 4 for value_format in (first, second) for bit in range(8) if value_format >> bit & 1]
    numbers = reader.u16s(reader.u16() * step)
    devices: dict[int, Device | None] = {0: None}
    values: list[tuple[Value, Value]] = []
    for position in range(1, len(numbers) + 1, step):
        fields: list[int | Device | None] = []
        for is_device, number in zip(are_devices, numbers[position : position + step - 1], strict=True):
            if not is_device:
                fields.append(number - (number >> 15 << 16))
                continue
            if number not in devices:
                devices[number] = parse_device(reader.at_offset(number))
            fields.append(devices[number])
        values.append((tuple(fields[:one]), tuple(fields[one:])))
    return bisected(numbers[::step], values)
