"""Pair adjustments of several subtables as one matrix.

Font makers list exceptions glyph by glyph, and then classes in several subtables, each with class tables of its own. As
one matrix of all that may meet, the same kerning has more cells, but repeats itself: it compresses to about two thirds.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import cache

import numpy as np
from numpy.typing import NDArray

from aksara.tables.layout.devices import Device
from aksara.tables.layout.gpos.class_pairs import ClassPairs
from aksara.tables.layout.gpos.glyph_pairs import GlyphPairs, ValueFormats
from aksara.tables.layout.value_records import Value

#: Cells that are looked at, and bytes of a matrix that is worth making; beyond, the subtables stay as they are.
_MOST_CELLS, _LARGEST = 4_000_000, 600_000
#: Rows of cells that are filled at a time.
_AT_ONCE = 128
#: From here on a number stands for a device.
_FIRST_DEVICE = 0x10000

_Keys = NDArray[np.int64]
_Numbers = NDArray[np.int32]


def flattened(subtables: Sequence[GlyphPairs | ClassPairs], glyphs: Sequence[int]) -> ClassPairs | None:
    """One matrix that adjusts each pair of these glyphs (IDs, rising) as the first subtable that covers it.

    None where a second glyph has a value format of its own, which has a meaning besides its values, or where the matrix
    would be too large.
    """
    if any(subtable.value_formats[1] for subtable in subtables):
        return None
    firsts: dict[tuple[int, ...], list[int]] = {}
    for glyph in glyphs:
        kind = tuple(_row_of(subtable, glyph) for subtable in subtables)
        if max(kind) >= 0:
            firsts.setdefault(kind, []).append(glyph)
    if not firsts or len(firsts) * len(glyphs) > _MOST_CELLS:
        return None
    value_formats = _formats_of_all(subtables)
    palette = _Palette(value_formats[0])
    cells = _cells(subtables, list(firsts), np.array(glyphs, np.int64), palette)
    row_of, rows = _merged(cells)
    column_of, columns = _merged(cells[rows].T)
    # The class with most glyphs is 0, "all others".
    largest = int(np.argmax(np.bincount(column_of)))
    order = [largest, *(n for n in range(len(columns)) if n != largest)]
    new_index_of = {old: new for new, old in enumerate(order)}
    matrix = cells[np.ix_(rows, [columns[n] for n in order])]
    if matrix.size * value_formats[0].bit_count() * 2 > _LARGEST:
        return None
    values, devices = palette.values(matrix)
    pairs = zip(row_of, firsts.values(), strict=True)
    classes1 = {glyph: row for row, group in pairs for glyph in group}
    classes2 = {glyph: new_index_of[column] for glyph, column in zip(glyphs, column_of, strict=True)}
    return ClassPairs(value_formats, frozenset(classes1), _named(classes1), _named(classes2), values, devices)


def _named(classes: Mapping[int, int]) -> dict[int, int]:
    return {glyph: value for glyph, value in classes.items() if value}


def _row_of(subtable: GlyphPairs | ClassPairs, glyph: int) -> int:
    """Where the subtable has what follows this glyph; -1 where it does not cover it."""
    if isinstance(subtable, ClassPairs):
        return subtable.classes1.get(glyph, 0) if glyph in subtable.covered else -1
    return glyph if glyph in subtable.pairs else -1


def _formats_of_all(subtables: Sequence[GlyphPairs | ClassPairs]) -> ValueFormats:
    """With the fields of each."""
    together = 0
    for subtable in subtables:
        together |= subtable.value_formats[0]
    return together, 0


class _Palette:
    """Numbers for the values that pairs have, in all fields of a value format; 0 is no adjustment."""

    def __init__(self, value_format: int) -> None:
        self._format = value_format
        self._numbers: dict[bytes, int] = {}
        self._devices: dict[Device, int] = {}
        self.number(np.zeros(value_format.bit_count(), np.int64))

    def number(self, keys: _Keys) -> int:
        """The number of a value, whose fields are numbers, or the keys of devices."""
        return self._numbers.setdefault(keys.tobytes(), len(self._numbers))

    def device_key(self, device: Device) -> int:
        """A number that no value has."""
        return self._devices.setdefault(device, len(self._devices)) + _FIRST_DEVICE

    def widened(self, keys: _Keys, value_format: int) -> _Keys:
        """Keys of fewer fields (the last axis) with those that are missing as 0."""
        bits = [bit for bit in range(8) if self._format >> bit & 1]
        wide = np.zeros((*keys.shape[:-1], len(bits)), np.int64)
        wide[..., [n for n, bit in enumerate(bits) if value_format >> bit & 1]] = keys
        return wide

    def values(self, cells: _Numbers) -> tuple[NDArray[np.int16], dict[tuple[int, int, int], Device]]:
        """The values that the numbers of a matrix stand for, as in `ClassPairs`."""
        fields = self._format.bit_count()
        keys = np.frombuffer(b"".join(self._numbers), np.int64).reshape(-1, fields)[cells]
        are_devices = keys >= _FIRST_DEVICE
        listed = list(self._devices)
        devices = {
            (row, column, field): listed[int(keys[row, column, field]) - _FIRST_DEVICE]
            for row, column, field in np.argwhere(are_devices).tolist()
        }
        return np.where(are_devices, 0, keys).astype(np.int16), devices


def _cells(
    subtables: Sequence[GlyphPairs | ClassPairs], kinds: Sequence[tuple[int, ...]], glyphs: _Keys, palette: _Palette
) -> _Numbers:
    """For each kind of first glyph (its row in each subtable) and each second glyph the number of the value."""
    cells = np.zeros((len(kinds), len(glyphs)), np.int32)
    column_of = {int(glyph): indices for indices, glyph in enumerate(glyphs)}
    # From the last subtable to the first, whose values are those that count.
    for index, subtable in reversed(list(enumerate(subtables))):
        if isinstance(subtable, ClassPairs):
            rows = np.array([kind[index] for kind in kinds], np.int64)
            columns = np.array([subtable.classes2.get(glyph, 0) for glyph in column_of], np.int64)
            covered = np.flatnonzero(rows >= 0)
            # To glyphs of classes that the matrix does not have, the subtable does not apply.
            inside = np.flatnonzero(columns < subtable.values.shape[1])
            # Most of a large matrix is of glyphs that are gone.
            used_rows, row_of = np.unique(rows[covered], return_inverse=True)
            used_columns, own_column_of = np.unique(columns[inside], return_inverse=True)
            numbers = _numbered(subtable, used_rows, used_columns, palette)
            # Some rows at a time, which takes less memory than all of them again.
            for start in range(0, len(covered), _AT_ONCE):
                some = slice(start, start + _AT_ONCE)
                cells[np.ix_(covered[some], inside)] = numbers[np.ix_(row_of[some], own_column_of)]
        else:
            number_of = _numbering(subtable, palette)
            for position, kind in enumerate(kinds):
                pairs = subtable.pairs.get(kind[index], {})
                found = [
                    (column_of[second], number_of(value)) for second, (value, _) in pairs.items() if second in column_of
                ]
                if found:
                    places, values = zip(*found, strict=True)
                    cells[position, list(places)] = values
    return cells


def _numbering(subtable: GlyphPairs, palette: _Palette) -> Callable[[Value], int]:
    """What gives the number of a value."""

    @cache
    def number_of(value: Value) -> int:
        keys = [field if isinstance(field, int) else palette.device_key(field) if field else 0 for field in value]
        return palette.number(palette.widened(np.array(keys, np.int64), subtable.value_formats[0]))

    return number_of


def _numbered(subtable: ClassPairs, rows: _Keys, columns: _Keys, palette: _Palette) -> _Numbers:
    """These rows and columns (rising) of the matrix with a number for each value."""
    keys = subtable.values[np.ix_(rows, columns)].astype(np.int64)
    row_of = {row: position for position, row in enumerate(rows.tolist())}
    column_of = {column: position for position, column in enumerate(columns.tolist())}
    for (row, column, field), device in subtable.devices.items():
        if row in row_of and column in column_of:
            keys[row_of[row], column_of[column], field] = palette.device_key(device)
    wide = palette.widened(keys, subtable.value_formats[0])
    distinct, inverse = np.unique(wide.reshape(-1, wide.shape[-1]), axis=0, return_inverse=True)
    numbers = np.array([palette.number(np.ascontiguousarray(row)) for row in distinct], np.int32)
    shaped: _Numbers = numbers[inverse.reshape(wide.shape[:-1])]
    return shaped


def _merged(rows: _Numbers) -> tuple[list[int], list[int]]:
    """For each row the number of those that are equal to it, by first appearance; and the first of each number."""
    numbers: dict[bytes, int] = {}
    of_each = [numbers.setdefault(row.tobytes(), len(numbers)) for row in np.ascontiguousarray(rows)]
    firsts: dict[int, int] = {}
    for index, number in enumerate(of_each):
        firsts.setdefault(number, index)
    return of_each, list(firsts.values())
