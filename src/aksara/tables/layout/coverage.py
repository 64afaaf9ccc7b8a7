"""Coverage and class tables: which glyphs a subtable is about, and what they count as
(OpenType 1.9.1, "Coverage table", "Class definition table").

Both are searched by bisection. In real fonts they are sometimes out of order
or overlap; such a table is read as a renderer's bisection finds its way in it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from itertools import chain
from itertools import count as count_from
from operator import le, lt, sub
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from aksara.offsets import Block, OffsetOverflow, OffsetReader

Ints = NDArray[np.int64]
V = TypeVar("V")
W = TypeVar("W")
_GLYPHS = 0x10000
#: Bytes that an entry counts for as work.
_ENTRY = 8


def parse_coverage(reader: OffsetReader) -> dict[int, int]:
    """Glyph → coverage index."""
    return reader.once(_coverage)


def parse_covered(reader: OffsetReader | None) -> frozenset[int]:
    """The covered glyphs; none where there is no table."""
    return reader.once(_covered) if reader is not None else frozenset()


def _covered(reader: OffsetReader) -> frozenset[int]:
    return frozenset(_coverage(reader.at_offset(0)))


def _coverage(reader: OffsetReader) -> dict[int, int]:
    coverage_format, count = reader.u16s(2)
    if coverage_format == 1:
        glyphs = reader.u16s(count)
        covered = bisected(glyphs, range(count))
    elif coverage_format == 2:
        covered = _of_ranges(reader, count, counting=True)
    else:
        return {}  # to renderers, a coverage of an unknown format covers nothing
    reader.work.spend_bulk(_ENTRY * len(covered))
    return covered


def rows_by_glyph(covered: Mapping[int, int], rows: Sequence[V]) -> dict[int, V]:
    """Glyph → the row that its coverage index leads to; a glyph whose index is beyond the rows has none."""
    count = len(rows)
    return {glyph: rows[index] for glyph, index in covered.items() if index < count}


def parse_rows(
    reader: OffsetReader, covered: Mapping[int, int], parse: Callable[[OffsetReader], V], missing: W
) -> dict[int, V | W]:
    """Glyph → the parsed subtable at its coverage index, `missing` for null offsets.

    The cursor stands before the count of the offsets. Those that no glyph leads to are not read: where a coverage has
    been damaged, as in a real font, they lead to anything, and renderers never look there.
    """
    targets = rows_by_glyph(covered, reader.offsets16(reader.u16()))
    return {glyph: target.once(parse) if target is not None else missing for glyph, target in targets.items()}


def parse_glyphs(reader: OffsetReader) -> tuple[int, ...]:
    """A count, followed by that many numbers."""
    return reader.u16s(reader.u16())


def parse_classes(reader: OffsetReader | None) -> dict[int, int]:
    """Glyph → class, without those of class 0, "all others". No table: all are of class 0."""
    return reader.once(_classes) if reader is not None else {}


def _classes(reader: OffsetReader) -> dict[int, int]:
    class_format = reader.u16()
    if class_format == 1:
        start, count = reader.u16(), reader.u16()
        return {start + n: value for n, value in enumerate(reader.u16s(count)) if value and start + n < _GLYPHS}
    if class_format != 2:
        return {}
    classes = _of_ranges(reader, reader.u16(), counting=False)
    reader.work.spend_bulk(_ENTRY * len(classes))
    return {glyph: value for glyph, value in classes.items() if value} if 0 in classes.values() else classes


def _of_ranges(reader: OffsetReader, count: int, *, counting: bool) -> dict[int, int]:
    """The glyphs of `count` ranges, and their values: a class is the same for the whole range, an index counts on."""
    numbers = reader.u16s(3 * count)
    first, last, value = numbers[::3], numbers[1::3], numbers[2::3]
    if not (all(map(le, first, last)) and all(map(lt, last, first[1:]))):
        spans = [np.array(column, np.int64) for column in (first, last, value)]
        wanted = np.arange(min(first), max(last) + 1)
        # A few steps of a bisection for each glyph, sixteen at about the price of a number that is read.
        reader.work.spend(1 + len(wanted) // 16)
        return _searched(wanted, *spans, counting=counting)
    found: dict[int, int] = {}
    for start, end, first_value in zip(first, last, value, strict=True):
        glyphs = range(start, end + 1)
        found.update(
            zip(glyphs, count_from(first_value), strict=False) if counting else dict.fromkeys(glyphs, first_value)
        )
    return found


def _searched(wanted: Ints, first: Ints, last: Ints, value: Ints, *, counting: bool) -> dict[int, int]:
    """Those of the glyphs that bisection finds in these ranges, and their values."""
    low, high, best = np.zeros_like(wanted), np.full_like(wanted, len(first) - 1), np.full_like(wanted, -1)
    while (searching := (low <= high) & (best < 0)).any():
        middle = (low + high) // 2
        indices = np.clip(middle, 0, len(first) - 1)
        below, above = searching & (wanted < first[indices]), searching & (wanted > last[indices])
        high = np.where(below, middle - 1, high)
        low = np.where(above, middle + 1, low)
        best = np.where(searching & ~below & ~above, indices, best)
    glyphs, hit = wanted[best >= 0], best[best >= 0]
    values = value[hit] + (glyphs - first[hit] if counting else 0)
    return dict(zip(glyphs.tolist(), values.tolist(), strict=True))


def bisected(keys: Sequence[int], values: Sequence[V]) -> dict[int, V]:
    """What bisection finds for each key, in a list that should be sorted, without doubles, and may not be."""
    if all(map(lt, keys, keys[1:])):
        return dict(zip(keys, values, strict=True))
    array = np.array(keys, np.int64)
    positions = _searched(np.unique(array), array, array, np.arange(len(array)), counting=True)
    return {glyph: values[index] for glyph, index in positions.items()}


def coverage_block(glyphs: Iterable[int]) -> Block:
    """A coverage table of these glyphs, in the smaller of both formats; coverage indices follow the IDs."""
    ordered = sorted(glyphs)
    ends = [n for n, step in enumerate(map(sub, ordered[1:], ordered), 1) if step != 1]
    if 3 * (len(ends) + 1) >= len(ordered):
        return Block().u16(1, len(ordered), *ordered)
    runs = zip([0, *ends], [*ends, len(ordered)], strict=True)
    numbers = [number for start, end in runs for number in (ordered[start], ordered[end - 1], start)]
    return Block().u16(2, len(ends) + 1, *numbers)


def class_block(classes: Mapping[int, int]) -> Block:
    """A class definition of these glyphs, in the smaller of both formats; class 0 needs no mention."""
    ordered = sorted([item for item in classes.items() if item[1]])
    runs = _runs(ordered)
    span = ordered[-1][0] - ordered[0][0] + 1 if ordered else 0
    if ordered and span + 1 < 3 * len(runs):
        first = ordered[0][0]
        return Block().u16(1, first, span, *(classes.get(glyph, 0) for glyph in range(first, first + span)))
    return Block().u16(2, len(runs), *chain.from_iterable(runs))


def _runs(ordered: Sequence[tuple[int, int]]) -> list[tuple[int, int, int]]:
    """(first glyph, last glyph, value) of each run of consecutive glyphs with one value."""
    runs: list[tuple[int, int, int]] = []
    start = last = running = -1
    for glyph, value in ordered:
        if value != running or glyph != last + 1:
            if start >= 0:
                runs.append((start, last, running))
            start, running = glyph, value
        last = glyph
    return [*runs, (start, last, running)] if start >= 0 else runs


def halved(mapping: Mapping[int, V]) -> tuple[dict[int, V], dict[int, V]]:
    """The values of the first half of the glyphs, and of the second.

    Each glyph is covered by one half only, so that two subtables of the halves do what one of the whole does.
    Raises `OffsetOverflow` if there is just one glyph.
    """
    ordered = sorted(mapping)
    if len(ordered) < 2:
        raise OffsetOverflow
    middle = len(ordered) // 2
    return {g: mapping[g] for g in ordered[:middle]}, {g: mapping[g] for g in ordered[middle:]}
