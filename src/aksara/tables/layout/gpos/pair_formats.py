"""GPOS type 2: which of the two formats pair adjustments are read from, and which they are written in.

What one subtable leaves alone, the next may still adjust; what it adjusts, even by 0, is settled. A second glyph that
has a value format of its own is not looked at again as a first one. So a pair of zeros may be dropped, or one format
be written as the other, only where no later subtable covers the first glyph and the second has no format.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import inf

import numpy as np

from aksara.compressibility import compressed_size
from aksara.errors import FontError
from aksara.offsets import OffsetOverflow, OffsetReader, serialize
from aksara.tables.layout.gpos.class_pairs import ClassPairs
from aksara.tables.layout.gpos.glyph_pairs import GlyphPairs
from aksara.tables.layout.value_records import DEVICES, Value, field_count

Pairs = GlyphPairs | ClassPairs
#: How many cells for each pair a matrix may have to be worth trying; and one with so few that a list is.
_EMPTY, _SMALL = 50, 2000


def parse_pairs(reader: OffsetReader) -> Pairs:
    """A pair adjustment subtable of either format."""
    subtable_format = reader.u16()
    if subtable_format == 1:
        return GlyphPairs.parse(reader)
    if subtable_format == 2:
        return ClassPairs.parse(reader)
    raise FontError(f"a pair adjustment of format {subtable_format}; only 1 and 2 exist", offset=reader.origin)


def as_classes(subtable: GlyphPairs) -> ClassPairs | None:
    """The same as a matrix: first glyphs with equal rows are one class, second glyphs with equal columns."""
    if (subtable.value_formats[0] | subtable.value_formats[1]) & DEVICES:
        return None
    width = sum(map(field_count, subtable.value_formats))
    seconds = sorted({second for row in subtable.pairs.values() for second in row})
    column_of = {second: index for index, second in enumerate(seconds)}
    rows: dict[tuple[tuple[int, Value, Value], ...], int] = {}
    classes1 = {
        glyph: rows.setdefault(tuple((s, *row[s]) for s in sorted(row)), len(rows))
        for glyph, row in subtable.pairs.items()
    }
    matrix = np.zeros((len(rows), len(seconds), width), np.int16)
    for index, row in enumerate(rows):
        for second, first_value, second_value in row:
            matrix[index, column_of[second]] = np.array(first_value + second_value, np.int16)
    columns: dict[bytes, int] = {}
    classes2 = {
        second: columns.setdefault(matrix[:, index].tobytes(), len(columns)) + 1 for second, index in column_of.items()
    }
    merged = np.zeros((len(rows), len(columns) + 1, width), np.int16)
    for second, index in column_of.items():
        merged[:, classes2[second]] = matrix[:, index]
    kept = {glyph: value for glyph, value in classes1.items() if value}
    return ClassPairs(subtable.value_formats, frozenset(classes1), kept, classes2, merged, {})


def as_glyphs(subtable: ClassPairs) -> GlyphPairs | None:
    """The same as a list of pairs that are not 0; None with devices, or where "all others" are adjusted."""
    if (subtable.value_formats[0] | subtable.value_formats[1]) & DEVICES or (
        subtable.values.size and subtable.values[:, 0].any()
    ):
        return None
    split = field_count(subtable.value_formats[0])
    members: dict[int, list[int]] = {}
    for glyph, value in subtable.classes2.items():
        members.setdefault(value, []).append(glyph)
    rows: list[dict[int, tuple[Value, Value]]] = []
    for row in subtable.values:
        seconds: dict[int, tuple[Value, Value]] = {}
        for column in np.flatnonzero(row.any(axis=1)).tolist():
            numbers = tuple(row[column].tolist())
            seconds.update(dict.fromkeys(members.get(column, ()), (numbers[:split], numbers[split:])))
        rows.append(seconds)
    pairs = {glyph: rows[subtable.classes1.get(glyph, 0)] for glyph in subtable.covered}
    pairs = {glyph: seconds for glyph, seconds in pairs.items() if seconds}
    return GlyphPairs(subtable.value_formats, pairs) if pairs else None


def compacted_pairs(subtables: Sequence[Pairs]) -> tuple[Pairs, ...]:
    """The subtables of one lookup, each in its smaller format, without what changes nothing."""
    compacted: list[Pairs] = []
    later: frozenset[int] = frozenset()
    for subtable in reversed(subtables):
        best: Pairs | None = subtable
        if subtable.value_formats[1] == 0 and later.isdisjoint(subtable.firsts):
            best = subtable.without_zeros() if isinstance(subtable, GlyphPairs) else subtable.without_zero_rows()
            if best is not None:
                best = _smaller(best.without_unused_fields())
        else:
            best = subtable.without_unused_fields()
        if best is not None:
            compacted.append(best)
            later |= best.firsts
    return tuple(reversed(compacted))


def _smaller(subtable: Pairs) -> Pairs:
    if isinstance(subtable, GlyphPairs):
        other: Pairs | None = as_classes(subtable) if _may_be_classes(subtable) else None
    else:
        other = as_glyphs(subtable) if _may_be_glyphs(subtable) else None
    if other is None:
        return subtable
    return min(subtable, other, key=_compressed_size)


def _compressed_size(subtable: Pairs) -> float:
    try:
        return compressed_size(serialize(subtable.block()))
    except OffsetOverflow:
        return inf


def _may_be_classes(subtable: GlyphPairs) -> bool:
    """Whether a matrix could be smaller: where it is not nearly empty, even if no glyph repeats the pairs of others."""
    pairs = sum(map(len, subtable.pairs.values()))
    seconds = len({second for row in subtable.pairs.values() for second in row})
    return len(subtable.pairs) * seconds < _EMPTY * pairs


def _may_be_glyphs(subtable: ClassPairs) -> bool:
    """Whether a list could be smaller: where the matrix is small or nearly empty."""
    return bool(np.count_nonzero(subtable.values) * 8 < subtable.values.size) or subtable.values.size < _SMALL
