"""GPOS type 2: pair adjustment, by glyphs (format 1) or by classes (format 2).

What one subtable leaves alone, the next may still adjust; what it adjusts, even by 0, is settled. A second glyph that
has a value format of its own is not looked at again as a first one. So a pair of zeros may be dropped, or one format
be written as the other, only where no later subtable covers the first glyph and the second has no format.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from aksara.errors import FontError
from aksara.tables.layout.coverage import (
    class_block,
    coverage_block,
    halved,
    read_classes,
    read_coverage,
    read_covered,
    searched,
)
from aksara.tables.layout.lookups import Subtable
from aksara.tables.layout.offsets import Block, OffsetOverflow, Place, pack, size_of
from aksara.tables.layout.values import (
    DEVICES,
    Device,
    Value,
    device_block,
    field_count,
    read_device,
    read_value,
    used_format,
    write_value,
)

Forms = tuple[int, int]
#: Second glyph → the values of both.
Seconds = Mapping[int, tuple[Value, Value]]
_X_ADVANCE = 0x0004


def read_pairs(place: Place) -> GlyphPairs | ClassPairs:
    form = place.u16()
    if form == 1:
        return GlyphPairs.parse(place)
    if form == 2:
        return ClassPairs.parse(place)
    raise FontError(f"a pair adjustment of format {form}; only 1 and 2 exist", offset=place.origin)


class _Pairs(Subtable):
    __slots__ = ()

    @property
    def span(self) -> int:
        return 2


@dataclass(slots=True, frozen=True)
class GlyphPairs(_Pairs):
    """Format 1: first glyph → second glyph → values, in the formats `forms` of the first and second."""

    forms: Forms
    pairs: Mapping[int, Seconds]

    @classmethod
    def parse(cls, place: Place) -> Self:
        covered = read_coverage(place.required())
        first, second = place.u16s(2)
        read = _plain_set if not (first | second) & DEVICES else _device_set
        sets = [read(at, first, second) if at is not None else {} for at in place.links(place.u16())]
        pairs = {glyph: sets[index] for glyph, index in covered.items() if index < len(sets)}
        return cls((first & 0xFF, second & 0xFF), pairs)

    @property
    def firsts(self) -> frozenset[int]:
        return frozenset(self.pairs)

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        kept: dict[int, Seconds] = {}
        for glyph, seconds in self.pairs.items():
            if glyph in numbers:
                kept[numbers[glyph]] = {numbers[s]: values for s, values in seconds.items() if s in numbers}
        kept = {glyph: seconds for glyph, seconds in kept.items() if seconds}
        return replace(self, pairs=kept) if kept else None

    def without_zeros(self) -> Self | None:
        kept = {
            glyph: {second: values for second, values in seconds.items() if any(map(any, values))}
            for glyph, seconds in self.pairs.items()
        }
        kept = {glyph: seconds for glyph, seconds in kept.items() if seconds}
        return replace(self, pairs=kept) if kept else None

    def with_used_forms(self) -> Self:
        """Without fields that are 0 in every pair."""
        values = [pair for seconds in self.pairs.values() for pair in seconds.values()]
        form1, firsts = used_format(self.forms[0], [first for first, _ in values])
        form2, others = used_format(self.forms[1], [second for _, second in values])
        if self.forms[1] and not form2:
            # That there is a format for the second glyph has a meaning.
            form2, others = _X_ADVANCE, [(0,)] * len(values)
        new = iter(zip(firsts, others, strict=True))
        pairs = {glyph: {second: next(new) for second in seconds} for glyph, seconds in self.pairs.items()}
        return type(self)((form1, form2), pairs)

    def block(self) -> Block:
        block = Block().u16(1).link(coverage_block(self.pairs)).u16(*self.forms)
        return block.array(self._set_block(self.pairs[glyph]) for glyph in sorted(self.pairs))

    def _set_block(self, seconds: Seconds) -> Block:
        block = Block().u16(len(seconds))
        if not (self.forms[0] | self.forms[1]) & DEVICES:
            flat = [n & 0xFFFF for s in sorted(seconds) for n in (s, *seconds[s][0], *seconds[s][1])]  # type: ignore[operator]
            return block.u16(*flat)
        for second in sorted(seconds):
            block.u16(second)
            for form, value in zip(self.forms, seconds[second], strict=True):
                write_value(block, form, value)
        return block

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.pairs)
        return replace(self, pairs=first), replace(self, pairs=second)

    def as_classes(self) -> ClassPairs | None:
        """The same as a matrix: first glyphs with equal rows are one class, second glyphs with equal columns."""
        if (self.forms[0] | self.forms[1]) & DEVICES:
            return None
        width = sum(map(field_count, self.forms))
        seconds = sorted({second for row in self.pairs.values() for second in row})
        place = {second: number for number, second in enumerate(seconds)}
        rows: dict[tuple[tuple[int, Value, Value], ...], int] = {}
        classes1 = {
            glyph: rows.setdefault(tuple((s, *row[s]) for s in sorted(row)), len(rows))
            for glyph, row in self.pairs.items()
        }
        matrix = np.zeros((len(rows), len(seconds), width), np.int16)
        for number, row in enumerate(rows):
            for second, first_value, second_value in row:
                matrix[number, place[second]] = np.array(first_value + second_value, np.int16)
        columns: dict[bytes, int] = {}
        classes2 = {
            second: columns.setdefault(matrix[:, number].tobytes(), len(columns)) + 1
            for second, number in place.items()
        }
        merged = np.zeros((len(rows), len(columns) + 1, width), np.int16)
        for second, number in place.items():
            merged[:, classes2[second]] = matrix[:, number]
        kept = {glyph: value for glyph, value in classes1.items() if value}
        return ClassPairs(self.forms, frozenset(classes1), kept, classes2, merged, {})


def _plain_set(place: Place, first: int, second: int) -> dict[int, tuple[Value, Value]]:
    """Pairs without devices, all at once."""
    one, two = field_count(first), field_count(second)
    step = 1 + one + two
    numbers = place.u16s(place.u16() * step)
    signed = [value - (value >> 15 << 16) for value in numbers]
    if step == 2 and one:
        values: list[tuple[Value, Value]] = [((value,), ()) for value in signed[1::2]]
    else:
        starts = range(1, len(numbers) + 1, step)
        values = [(tuple(signed[at : at + one]), tuple(signed[at + one : at + one + two])) for at in starts]
    return searched(numbers[::step], values)


def _device_set(place: Place, first: int, second: int) -> dict[int, tuple[Value, Value]]:
    """Pairs with devices, whose offsets count from the set's start."""
    found = [(place.u16(), (read_value(place, first), read_value(place, second))) for _ in range(place.u16())]
    return searched([glyph for glyph, _ in found], [values for _, values in found])


@dataclass(slots=True, frozen=True, eq=False)
class ClassPairs(_Pairs):
    """Format 2: a matrix of values by the class of the first glyph, if covered, and that of the second.

    `values` has the shape (classes of the first, classes of the second, fields of both records); where a field is a
    device, 0 stands there, and the device is in `devices` under its three indices.
    """

    forms: Forms
    covered: frozenset[int]
    classes1: Mapping[int, int]
    classes2: Mapping[int, int]
    values: NDArray[np.int16]
    devices: Mapping[tuple[int, int, int], Device]

    @classmethod
    def parse(cls, place: Place) -> Self:
        covered = read_covered(place.required())
        form1, form2 = (form & 0xFF for form in place.u16s(2))
        classes1, classes2 = read_classes(place.link()), read_classes(place.link())
        rows, columns = place.u16s(2)
        fields = _fields((form1, form2))
        place.spend(rows * columns)
        raw = place.array(np.int16, rows * columns * len(fields), "pair values").reshape(rows, columns, len(fields))
        devices: dict[tuple[int, int, int], Device] = {}
        for field in (n for n, is_device in enumerate(fields) if is_device):
            for row, column in np.argwhere(raw[:, :, field]).tolist():
                device = read_device(place.there(int(raw[row, column, field]) & 0xFFFF))
                if device is not None:
                    devices[row, column, field] = device
            raw[:, :, field] = 0
        # Glyphs of classes that the matrix does not have are adjusted by nothing.
        inside = frozenset(glyph for glyph in covered if classes1.get(glyph, 0) < rows)
        return cls((form1, form2), inside, classes1, classes2, raw, devices)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, ClassPairs):
            return NotImplemented
        mine = (self.forms, self.covered, self.classes1, self.classes2, self.devices)
        theirs = (other.forms, other.covered, other.classes1, other.classes2, other.devices)
        return mine == theirs and np.array_equal(self.values, other.values)

    __hash__ = None  # type: ignore[assignment]

    @property
    def firsts(self) -> frozenset[int]:
        return self.covered

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        columns = self.values.shape[1]
        covered = [glyph for glyph in self.covered if glyph in numbers]
        row_of = {glyph: self.classes1.get(glyph, 0) for glyph in covered}
        # What is beyond the matrix stays beyond it; which class of it does not matter.
        column_of = {g: min(c, columns) for g, c in self.classes2.items() if g in numbers}
        if not covered or not columns:
            return None
        used_rows = sorted(set(row_of.values()))
        used_columns = [0, *sorted({c for c in column_of.values() if c < columns} - {0})]
        keys = self._keys(used_rows, used_columns)
        new_rows = _merged([keys[n].tobytes() for n in range(len(used_rows))])
        # Class 0, "all others", stays by itself.
        new_columns = [0] + [n + 1 for n in _merged([keys[:, n].tobytes() for n in range(1, len(used_columns))])]
        row_class = dict(zip(used_rows, new_rows, strict=True))
        column_class = dict(zip(used_columns, new_columns, strict=True)) | {columns: max(new_columns) + 1}
        # Of the classes of the first, the one with most glyphs needs no mention, since only covered ones count.
        sizes = np.bincount([row_class[value] for value in row_of.values()])
        rank = {int(old): new for new, old in enumerate(np.argsort(-sizes, kind="stable"))}
        row_class = {old: rank[new] for old, new in row_class.items()}
        one_row = {new: old for old, new in row_class.items()}
        one_column = {new: old for old, new in column_class.items() if old < columns}
        chosen_rows = [one_row[n] for n in range(len(one_row))]
        chosen_columns = [one_column[n] for n in range(len(one_column))]
        row_place = {old: new for new, old in enumerate(chosen_rows)}
        column_place = {old: new for new, old in enumerate(chosen_columns)}
        devices = {
            (row_place[r], column_place[c], field): device
            for (r, c, field), device in self.devices.items()
            if r in row_place and c in column_place
        }
        classes1 = {numbers[g]: row_class[value] for g, value in row_of.items() if row_class[value]}
        classes2 = {numbers[g]: column_class[value] for g, value in column_of.items()}
        values = self.values[np.ix_(chosen_rows, chosen_columns)]
        return replace(
            self,
            covered=frozenset(numbers[g] for g in covered),
            classes1=classes1,
            classes2=classes2,
            values=values,
            devices=devices,
        )

    def _keys(self, rows: Sequence[int], columns: Sequence[int]) -> NDArray[np.int64]:
        """The values of these rows and columns, with a number for each different device."""
        keys = self.values[np.ix_(rows, columns)].astype(np.int64)
        if self.devices:
            names: dict[Device, int] = {}
            row_place, column_place = ({old: new for new, old in enumerate(each)} for each in (rows, columns))
            for (row, column, field), device in self.devices.items():
                if row in row_place and column in column_place:
                    keys[row_place[row], column_place[column], field] = names.setdefault(device, len(names)) + 0x10000
        return keys

    def with_used_forms(self) -> Self:
        fields = len(_fields(self.forms))
        used = {field for _, _, field in self.devices} | {
            field for field in range(fields) if self.values[:, :, field].any()
        }
        split = field_count(self.forms[0])
        forms, kept = [], []
        for form, start in ((self.forms[0], 0), (self.forms[1], split)):
            bits = [bit for bit in range(8) if form >> bit & 1]
            chosen = [n for n in range(len(bits)) if start + n in used]
            if form == self.forms[1] and start == split and form and not chosen:
                chosen = [0]  # that there is a format for the second glyph has a meaning
            forms.append(sum(1 << bits[n] for n in chosen))
            kept += [start + n for n in chosen]
        if len(kept) == fields:
            return self
        place = {old: new for new, old in enumerate(kept)}
        devices = {(r, c, place[field]): device for (r, c, field), device in self.devices.items()}
        return replace(self, forms=(forms[0], forms[1]), values=self.values[:, :, kept], devices=devices)

    def without_zero_rows(self) -> Self | None:
        """Without first glyphs that nothing is done about."""
        busy = {int(row) for row in np.flatnonzero(self.values.any(axis=(1, 2)))} | {row for row, _, _ in self.devices}
        kept = {glyph: glyph for glyph in self.covered if self.classes1.get(glyph, 0) in busy}
        every = kept | {glyph: glyph for glyph in self.classes2}
        if len(kept) == len(self.covered):
            return self
        return replace(self, covered=frozenset(kept)).subset(every) if kept else None

    def as_glyphs(self) -> GlyphPairs | None:
        """The same as a list of pairs that are not 0; None with devices, or where "all others" are adjusted."""
        if (self.forms[0] | self.forms[1]) & DEVICES or (self.values.size and self.values[:, 0].any()):
            return None
        split = field_count(self.forms[0])
        members: dict[int, list[int]] = {}
        for glyph, value in self.classes2.items():
            members.setdefault(value, []).append(glyph)
        rows: list[dict[int, tuple[Value, Value]]] = []
        for row in self.values:
            seconds: dict[int, tuple[Value, Value]] = {}
            for column in np.flatnonzero(row.any(axis=1)).tolist():
                numbers = tuple(row[column].tolist())
                seconds.update(dict.fromkeys(members.get(column, ()), (numbers[:split], numbers[split:])))
            rows.append(seconds)
        pairs = {glyph: rows[self.classes1.get(glyph, 0)] for glyph in self.covered}
        pairs = {glyph: seconds for glyph, seconds in pairs.items() if seconds}
        return GlyphPairs(self.forms, pairs) if pairs else None

    def block(self) -> Block:
        rows, columns, _ = self.values.shape
        block = Block().u16(2).link(coverage_block(self.covered)).u16(*self.forms)
        block.link(class_block(self.classes1)).link(class_block(self.classes2)).u16(rows, columns)
        if not self.devices:
            return block.bytes(self.values.astype(">i2").tobytes())
        fields = _fields(self.forms)
        for row in range(rows):
            for column in range(columns):
                for field, is_device in enumerate(fields):
                    if is_device:
                        block.link(device_block(self.devices.get((row, column, field))))
                    else:
                        block.i16(int(self.values[row, column, field]))
        return block

    def halves(self) -> tuple[Self, Self]:
        rows = self.values.shape[0]
        if rows < 2:
            raise OffsetOverflow
        everything = {glyph: glyph for glyph in (*self.covered, *self.classes2)}
        parts = []
        for lower in (True, False):
            covered = frozenset(g for g in self.covered if (self.classes1.get(g, 0) < rows // 2) == lower)
            part = replace(self, covered=covered).subset(everything)
            if part is None:
                raise OffsetOverflow
            parts.append(part)
        return parts[0], parts[1]


def _fields(forms: Forms) -> list[bool]:
    """For each field of both records, whether it is a device."""
    return [bool(1 << bit & DEVICES) for form in forms for bit in range(8) if form >> bit & 1]


def _merged(keys: Sequence[bytes]) -> list[int]:
    """A number for each key, the same for equal ones, counted by first appearance."""
    numbers: dict[bytes, int] = {}
    return [numbers.setdefault(key, len(numbers)) for key in keys]


def tidy_pairs(subtables: Sequence[GlyphPairs | ClassPairs]) -> tuple[GlyphPairs | ClassPairs, ...]:
    """The subtables of one lookup, each in its smaller form, without what changes nothing."""
    tidied: list[GlyphPairs | ClassPairs] = []
    later: frozenset[int] = frozenset()
    for subtable in reversed(subtables):
        best: GlyphPairs | ClassPairs | None = subtable
        if subtable.forms[1] == 0 and later.isdisjoint(subtable.firsts):
            best = subtable.without_zeros() if isinstance(subtable, GlyphPairs) else subtable.without_zero_rows()
            if best is not None:
                best = _smaller(best.with_used_forms())
        else:
            best = subtable.with_used_forms()
        if best is not None:
            tidied.append(best)
            later |= best.firsts
    return tuple(reversed(tidied))


def _smaller(subtable: GlyphPairs | ClassPairs) -> GlyphPairs | ClassPairs:
    if isinstance(subtable, GlyphPairs):
        other: GlyphPairs | ClassPairs | None = subtable.as_classes() if _may_be_classes(subtable) else None
    else:
        other = subtable.as_glyphs() if _may_be_glyphs(subtable) else None
    if other is None:
        return subtable
    return min(subtable, other, key=_shared_size)


def _shared_size(subtable: GlyphPairs | ClassPairs) -> int:
    try:
        return len(pack(subtable.block()))
    except OffsetOverflow:
        return size_of(subtable.block())


def _may_be_classes(subtable: GlyphPairs) -> bool:
    """Whether a matrix could be smaller: only where glyphs repeat the pairs of others."""
    pairs = sum(map(len, subtable.pairs.values()))
    firsts = len(subtable.pairs)
    seconds = len({second for row in subtable.pairs.values() for second in row})
    return pairs > 2 * (firsts + seconds) or firsts * seconds < 2 * pairs


def _may_be_glyphs(subtable: ClassPairs) -> bool:
    """Whether a list could be smaller: only where the matrix is nearly empty."""
    return bool(np.count_nonzero(subtable.values) * 8 < subtable.values.size) or subtable.values.size < 200
