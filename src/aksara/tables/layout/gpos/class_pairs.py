"""GPOS type 2, format 2: pair adjustment by classes of glyphs."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Self

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from aksara.offsets import Block, OffsetOverflow, OffsetReader
from aksara.offsets.serializing import REACH
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.coverage import class_block, coverage_block, parse_classes, parse_covered
from aksara.tables.layout.devices import Device, DeviceChange, device_blocks, parse_device
from aksara.tables.layout.glyph_sets import Division, GlyphSets, Join
from aksara.tables.layout.gpos.glyph_pairs import ValueFormats
from aksara.tables.layout.subtable import Subtable
from aksara.tables.layout.value_records import DEVICES, field_count, with_numbers

#: Bytes before the matrix.
_HEADER = 16


class ClassPairs(Subtable, frozen=True, eq=False):
    """Format 2: a matrix of values by the class of the first glyph, if covered, and that of the second.

    `values` has the shape (classes of the first, classes of the second, fields of both records); where a field is a
    device, 0 stands there, and the device is in `devices` under its three indices.
    """

    value_formats: ValueFormats
    covered: frozenset[int]
    classes1: Mapping[int, int]
    classes2: Mapping[int, int]
    values: NDArray[np.int16]
    devices: Mapping[tuple[int, int, int], Device]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        covered = parse_covered(reader.required16())
        format1, format2 = (value_format & 0xFF for value_format in reader.u16s(2))
        classes1, classes2 = parse_classes(reader.offset16()), parse_classes(reader.offset16())
        rows, columns = reader.u16s(2)
        fields = _are_devices((format1, format2))
        raw = reader.array(np.int16, rows * columns * len(fields), "pair values").reshape(rows, columns, len(fields))
        devices: dict[tuple[int, int, int], Device] = {}
        for field in (n for n, is_device in enumerate(fields) if is_device):
            for row, column in np.argwhere(raw[:, :, field]).tolist():
                device = parse_device(reader.at_offset(int(raw[row, column, field]) & 0xFFFF))
                if device is not None:
                    devices[row, column, field] = device
            raw[:, :, field] = 0
        # Glyphs of classes that the matrix does not have are adjusted by nothing.
        inside = frozenset(glyph for glyph in covered if classes1.get(glyph, 0) < rows)
        return cls((format1, format2), inside, classes1, classes2, raw, devices)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, ClassPairs):
            return NotImplemented
        mine = (self.value_formats, self.covered, self.classes1, self.classes2, self.devices)
        theirs = (other.value_formats, other.covered, other.classes1, other.classes2, other.devices)
        return mine == theirs and np.array_equal(self.values, other.values)

    __hash__ = None  # type: ignore[assignment]

    @property
    def span(self) -> int:
        return 2

    @property
    def firsts(self) -> frozenset[int]:
        """The first glyphs that it covers."""
        return self.covered

    def joins(self, sets: GlyphSets) -> Iterator[Join]:
        moved: NDArray[np.bool_] = np.any(self.values, axis=2)
        for row, column, _ in self.devices:
            moved[row, column] = True
        # Classes that are moved alike count as one, so that no set is made twice.
        firsts: dict[bytes, tuple[int, list[int]]] = {}
        for glyph in self.covered:
            row = self.classes1.get(glyph, 0)
            firsts.setdefault(moved[row].tobytes(), (row, []))[1].append(glyph)
        seconds: dict[bytes, list[int]] = {}
        for column in range(moved.shape[1]):
            seconds.setdefault(moved[:, column].tobytes(), []).append(column)
        group_of = {column: index for index, columns in enumerate(seconds.values()) for column in columns}
        members: dict[int, list[int]] = {}
        for glyph, column in self.classes2.items():
            members.setdefault(group_of.get(column, -1), []).append(glyph)
        parts = []
        for index, columns in enumerate(seconds.values()):
            # Class 0 is all others, so that its group is all but those of the other groups.
            all_others = 0 in columns
            listed = (listed_glyphs for group, listed_glyphs in members.items() if (group != index) == all_others)
            parts.append((columns[0], sets.of(frozenset(itertools.chain(*listed)), others=all_others)))
        for row, glyphs in firsts.values():
            first = sets.of(frozenset(glyphs))
            yield from ((first, part) for column, part in parts if moved[row, column])

    def divisions(self) -> Iterable[Division]:
        yield self.classes2
        yield {glyph: self.classes1.get(glyph, 0) + 1 for glyph in self.covered}

    def subset(self, glyphs: GlyphMap) -> Self | None:
        columns = self.values.shape[1]
        covered = [glyph for glyph in self.covered if glyph in glyphs]
        if not covered or not columns:
            return None
        row_of = {glyph: self.classes1.get(glyph, 0) for glyph in covered}
        # What is beyond the matrix stays beyond it; which class of it does not matter.
        column_of = {g: min(c, columns) for g, c in self.classes2.items() if g in glyphs}
        # Classes are numbered in the order of their glyphs, so that class tables mostly count upwards.
        used_rows = _in_order(row_of, glyphs)
        used_columns = [0, *(c for c in _in_order(column_of, glyphs) if 0 < c < columns)]
        keys = self._keys(used_rows, used_columns)
        row_class = _new_rows(used_rows, keys, row_of)
        # Class 0, "all others", stays by itself.
        new_columns = [0] + [n + 1 for n in _merged([keys[:, n].tobytes() for n in range(1, len(used_columns))])]
        column_class = dict(zip(used_columns, new_columns, strict=True))
        rows = _representatives(row_class)
        kept_columns = _representatives(column_class)
        row_at, column_at = ({old: new for new, old in enumerate(classes)} for classes in (rows, kept_columns))
        devices = {
            (row_at[r], column_at[c], field): device
            for (r, c, field), device in self.devices.items()
            if r in row_at and c in column_at
        }
        beyond = column_class | {columns: max(new_columns) + 1}
        return replace(
            self,
            covered=glyphs.set_of(covered),
            classes1={glyphs[g]: row_class[value] for g, value in row_of.items() if row_class[value]},
            classes2={glyphs[g]: beyond[value] for g, value in column_of.items()},
            values=self.values[np.ix_(rows, kept_columns)],
            devices=devices,
        )

    def _keys(self, rows: Sequence[int], columns: Sequence[int]) -> NDArray[np.int64]:
        """The values of these rows and columns, with a number for each different device."""
        keys = self.values[np.ix_(rows, columns)].astype(np.int64)
        if self.devices:
            names: dict[Device, int] = {}
            row_at, column_at = ({old: new for new, old in enumerate(classes)} for classes in (rows, columns))
            for (row, column, field), device in self.devices.items():
                if row in row_at and column in column_at:
                    keys[row_at[row], column_at[column], field] = names.setdefault(device, len(names)) + 0x10000
        return keys

    def without_unused_fields(self) -> Self:
        """Without fields that are 0, and have no device, in every cell."""
        fields = len(_are_devices(self.value_formats))
        used = {field for _, _, field in self.devices} | {
            field for field in range(fields) if self.values[:, :, field].any()
        }
        split = field_count(self.value_formats[0])
        formats, kept = [], []
        for value_format, start in ((self.value_formats[0], 0), (self.value_formats[1], split)):
            bits = [bit for bit in range(8) if value_format >> bit & 1]
            chosen = [n for n in range(len(bits)) if start + n in used]
            if value_format == self.value_formats[1] and start == split and value_format and not chosen:
                chosen = [0]  # that there is a format for the second glyph has a meaning
            formats.append(sum(1 << bits[n] for n in chosen))
            kept += [start + n for n in chosen]
        if len(kept) == fields:
            return self
        new_field = {old: new for new, old in enumerate(kept)}
        devices = {(r, c, new_field[field]): device for (r, c, field), device in self.devices.items()}
        return replace(self, value_formats=(formats[0], formats[1]), values=self.values[:, :, kept], devices=devices)

    def without_zero_rows(self) -> Self | None:
        """Without first glyphs that nothing is done about."""
        busy = {int(row) for row in np.flatnonzero(self.values.any(axis=(1, 2)))} | {row for row, _, _ in self.devices}
        kept = frozenset(glyph for glyph in self.covered if self.classes1.get(glyph, 0) in busy)
        if len(kept) == len(self.covered):
            return self
        every = GlyphMap.identity((*kept, *self.classes2))
        return replace(self, covered=kept).subset(every) if kept else None

    def changed(self, change: DeviceChange) -> Self:
        one, two = self.value_formats
        if not (one | two) & DEVICES:
            return self
        formats = with_numbers(one), with_numbers(two)
        place_of = {name: index for index, name in enumerate(_field_names(formats))}
        names = _field_names(self.value_formats)
        values = np.zeros((*self.values.shape[:2], len(place_of)), np.int16)
        values[:, :, [place_of[name] for name in names]] = self.values
        devices: dict[tuple[int, int, int], Device] = {}
        for (row, column, field), device in self.devices.items():
            record, bit = names[field]
            index = place_of[record, bit - 4]
            value, new = change(int(values[row, column, index]), device)
            values[row, column, index] = value
            if new is not None:
                devices[row, column, place_of[record, bit]] = new
        return replace(self, value_formats=formats, values=values, devices=devices)

    def block(self) -> Block:
        block_of = device_blocks()
        rows, columns, fields = self.values.shape
        block = Block().u16(2).offset16(coverage_block(self.covered)).u16(*self.value_formats)
        block.offset16(class_block(self.classes1)).offset16(class_block(self.classes2)).u16(rows, columns)
        matrix = len(block)
        block.append(self.values.astype(">i2").tobytes())
        for (row, column, field), device in sorted(self.devices.items(), key=_place):
            block.link16(matrix + 2 * ((row * columns + column) * fields + field), block_of(device))
        return block

    def halves(self) -> tuple[Self, Self]:
        """As many rows as fit, and the others; both with the same columns, so that these repeat themselves."""
        rows = self.values.shape[0]
        besides = sum(map(len, (coverage_block(self.covered), class_block(self.classes1), class_block(self.classes2))))
        fitting = (REACH - _HEADER - besides) // max(self.values[0].size * self.values.itemsize, 1) if rows else 0
        if rows < 2 or fitting < 1 or self.devices:
            return self._halved(rows // 2)
        return self._halved(min(fitting, rows - 1))

    def _halved(self, row: int) -> tuple[Self, Self]:
        """The rows before this one, and the others."""
        if not row:
            raise OffsetOverflow
        return self._of_rows(0, row), self._of_rows(row, self.values.shape[0])

    def _of_rows(self, start: int, end: int) -> Self:
        rows = {glyph: self.classes1.get(glyph, 0) - start for glyph in self.covered}
        kept = {glyph: row for glyph, row in rows.items() if 0 <= row < end - start}
        devices = {(r - start, c, field): device for (r, c, field), device in self.devices.items() if start <= r < end}
        return replace(
            self,
            covered=frozenset(kept),
            classes1={glyph: row for glyph, row in kept.items() if row},
            values=self.values[start:end],
            devices=devices,
        )


def _place(cell: tuple[tuple[int, int, int], Device]) -> tuple[int, int, int]:
    return cell[0]


def _field_names(value_formats: ValueFormats) -> list[tuple[int, int]]:
    """For each field of both records the record (0 or 1) and the bit that announces it."""
    return [(n, bit) for n, value_format in enumerate(value_formats) for bit in range(8) if value_format >> bit & 1]


def _are_devices(value_formats: ValueFormats) -> list[bool]:
    """For each field of both records, whether it is a device."""
    return [bool(1 << bit & DEVICES) for value_format in value_formats for bit in range(8) if value_format >> bit & 1]


def _new_rows(used: Sequence[int], keys: NDArray[np.int64], row_of: Mapping[int, int]) -> dict[int, int]:
    """The new class of each used row, equal rows under one; `row_of` is first glyph → old row.

    The class with most glyphs is 0, which needs no mention, since only covered glyphs count.
    """
    new_class = dict(zip(used, _merged([keys[n].tobytes() for n in range(len(used))]), strict=True))
    sizes = np.bincount([new_class[row] for row in row_of.values()])
    largest = int(np.argmax(sizes))
    return {old: 0 if new == largest else new + (new < largest) for old, new in new_class.items()}


def _in_order(classes: Mapping[int, int], glyphs: GlyphMap) -> list[int]:
    """The classes in the order of the first glyphs of each."""
    return list(dict.fromkeys(classes[glyph] for glyph in sorted(classes, key=glyphs.__getitem__)))


def _representatives(new_class: Mapping[int, int]) -> list[int]:
    """For each new class in order an old one that became it."""
    one = {new: old for old, new in new_class.items()}
    return [one[new] for new in range(len(one))]


def _merged(keys: Sequence[bytes]) -> list[int]:
    """A number for each key, the same for equal ones, counted by first appearance."""
    numbers: dict[bytes, int] = {}
    return [numbers.setdefault(key, len(numbers)) for key in keys]
