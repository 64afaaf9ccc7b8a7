"""The formats of the subtables of 'kern': 0 (lists), 2 (matrices) and 3 (Apple's indices), all read as pairs."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.limits import Work

#: Left glyph, right glyph, value in font units (N by 3).
Pairs = NDArray[np.int64]
#: Units of work that it takes to begin with a row of a matrix, and numbers of the row that take one.
_ROW = 32
_PAIR = np.dtype([("left", ">u2"), ("right", ">u2"), ("value", ">i2")])


def read_pairs(reader: Reader, subtable_format: int, start: int) -> Pairs | None:
    """The subtable's pairs; None for a format that has none.

    `start` is where the subtable's header starts, from which offsets count; the cursor stands behind the header.
    """
    if subtable_format == 0:
        count = reader.u16()
        reader.take(6, "search parameters")
        records = np.frombuffer(reader.take(count * _PAIR.itemsize, "kerning pairs"), _PAIR)
        return np.column_stack([records[name].astype(np.int64) for name in ("left", "right", "value")])
    if subtable_format == 2:
        return _class_pairs(reader, start)
    if subtable_format == 3:
        return _index_pairs(reader)
    return None


def _class_pairs(reader: Reader, start: int) -> Pairs:
    """Format 2: a matrix, found by adding what the classes of the left and the right glyph have as offsets."""
    reader.u16()
    left_offset, right_offset, _ = reader.u16(), reader.u16(), reader.u16()
    lefts, rights = _class_offsets(reader.at(start + left_offset)), _class_offsets(reader.at(start + right_offset))
    data = np.frombuffer(reader.data, np.uint8)
    return _product(lefts, rights, lambda left, right: _words_at(data, start + left + right), reader.work)


def _class_offsets(reader: Reader) -> Pairs:
    """Glyphs and their offsets (N by 2)."""
    first, count = reader.u16(), reader.u16()
    return np.column_stack((np.arange(first, first + count), reader.array(np.uint16, count).astype(np.int64)))


def _words_at(data: NDArray[np.uint8], offsets: Pairs) -> Pairs:
    inside = (offsets >= 0) & (offsets + 1 < len(data))
    safe = np.where(inside, offsets, 0)
    value = data[safe].astype(np.int64) << 8 | data[np.minimum(safe + 1, len(data) - 1)]
    return np.where(inside, value - (value >> 15 << 16), 0)


def _index_pairs(reader: Reader) -> Pairs:
    """Format 3 (Apple's): classes of both glyphs, and for each two of them the index of a value."""
    glyphs, values, left_classes, right_classes, _ = reader.u16(), *(reader.u8() for _ in range(4))
    kerns = reader.array(np.int16, values, "kerning values").astype(np.int64)
    lefts, rights = (reader.array(np.uint8, glyphs, "classes").astype(np.int64) for _ in range(2))
    index = reader.array(np.uint8, left_classes * right_classes, "indices").astype(np.int64)
    numbers = np.arange(glyphs)

    def value(left: Pairs, right: Pairs) -> Pairs:
        cell = left * right_classes + right
        inside = (left < left_classes) & (right < right_classes) & (cell < len(index))
        chosen = index[np.where(inside, cell, 0)] if len(index) else np.zeros(len(cell), np.int64)
        inside &= chosen < len(kerns)
        return np.where(inside, kerns[np.where(inside, chosen, 0)], 0) if len(kerns) else chosen * 0

    return _product(np.column_stack((numbers, lefts)), np.column_stack((numbers, rights)), value, reader.work)


def _product(lefts: Pairs, rights: Pairs, value: Callable[[Pairs, Pairs], Pairs], work: Work) -> Pairs:
    """All pairs whose value is not 0. `lefts` and `rights` are glyphs and classes (N by 2)."""
    kept = []
    for glyph, row_offset in lefts.tolist():
        work.spend(_ROW + len(rights) // _ROW)
        values = value(np.full(len(rights), row_offset), rights[:, 1])
        indices = np.flatnonzero(values)
        work.spend_numbers(len(indices))
        kept.append(np.column_stack((np.full(len(indices), glyph), rights[indices, 0], values[indices])))
    return np.concatenate(kept) if kept else np.zeros((0, 3), np.int64)
