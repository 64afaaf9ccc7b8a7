"""Coverage and class tables: which glyphs a subtable is about, and what they count as
(OpenType 1.9.1, "Coverage table", "Class definition table").

Both are searched by bisection. In real fonts they are sometimes out of order
or overlap; such a table is read as a renderer's bisection finds its way in it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence, Set
from itertools import groupby, pairwise
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from aksara.tables.layout.offsets import Block, OffsetOverflow, Place

Ints = NDArray[np.int64]
V = TypeVar("V")
_GLYPHS = 0x10000


def read_coverage(place: Place) -> dict[int, int]:
    """Glyph → coverage index."""
    return place.once(_coverage)


def read_covered(place: Place) -> frozenset[int]:
    """The covered glyphs."""
    return place.once(_covered)


def _covered(place: Place) -> frozenset[int]:
    return frozenset(_coverage(place.there(0)))


def _coverage(place: Place) -> dict[int, int]:
    kind, count = place.u16(), place.u16()
    if kind == 1:
        glyphs = np.array(place.u16s(count), np.int64)
        first = last = glyphs
        index = np.arange(count)
    elif kind == 2:
        first, last, index = _ranges(place, count)
    else:
        return {}  # to renderers, a coverage of an unknown format covers nothing
    glyphs, indices = _searched(first, last, index)
    place.spend(len(glyphs))
    return dict(zip(glyphs.tolist(), indices.tolist(), strict=True))


def read_classes(place: Place | None) -> dict[int, int]:
    """Glyph → class, without those of class 0, "all others". No place: all are of class 0."""
    return place.once(_classes) if place is not None else {}


def _classes(place: Place) -> dict[int, int]:
    kind = place.u16()
    if kind == 1:
        start, count = place.u16(), place.u16()
        return {start + n: value for n, value in enumerate(place.u16s(count)) if value and start + n < _GLYPHS}
    if kind != 2:
        return {}
    first, last, value = _ranges(place, place.u16())
    # A class is the same for the whole range, an index counts on.
    glyphs, classes = _searched(first, last, value, counting=False)
    place.spend(len(glyphs))
    kept = classes > 0
    return dict(zip(glyphs[kept].tolist(), classes[kept].tolist(), strict=True))


def _ranges(place: Place, count: int) -> tuple[Ints, Ints, Ints]:
    ranges = np.array(place.u16s(3 * count), np.int64).reshape(-1, 3)
    return ranges[:, 0], ranges[:, 1], ranges[:, 2]


def _searched(first: Ints, last: Ints, value: Ints, *, counting: bool = True) -> tuple[Ints, Ints]:
    """The glyphs that bisection finds in these ranges, and their values."""
    if (first <= last).all() and (first[1:] > last[:-1]).all():
        sizes = last - first + 1
        step = np.arange(int(sizes.sum())) - np.repeat(np.cumsum(sizes) - sizes, sizes)
        glyphs = np.repeat(first, sizes) + step
        return glyphs, np.repeat(value, sizes) + (step if counting else 0)
    wanted = np.arange(_GLYPHS)
    low, high = np.zeros(_GLYPHS, np.int64), np.full(_GLYPHS, len(first) - 1)
    found = np.full(_GLYPHS, -1)
    while (searching := (low <= high) & (found < 0)).any():
        middle = (low + high) // 2
        at = np.clip(middle, 0, len(first) - 1)
        below, above = searching & (wanted < first[at]), searching & (wanted > last[at])
        high = np.where(below, middle - 1, high)
        low = np.where(above, middle + 1, low)
        found = np.where(searching & ~below & ~above, at, found)
    glyphs = np.flatnonzero(found >= 0)
    hit = found[glyphs]
    return glyphs, value[hit] + (glyphs - first[hit] if counting else 0)


def searched(keys: Sequence[int], values: Sequence[V]) -> dict[int, V]:
    """What bisection finds for each key, in a list that should be sorted, without doubles, and may not be."""
    if all(a < b for a, b in pairwise(keys)):
        return dict(zip(keys, values, strict=True))
    array = np.array(keys, np.int64)
    glyphs, indices = _searched(array, array, np.arange(len(array)))
    return {glyph: values[index] for glyph, index in zip(glyphs.tolist(), indices.tolist(), strict=True)}


def coverage_block(glyphs: Iterable[int]) -> Block:
    """A coverage table of these glyphs, whose coverage index is their place in order; the smaller of both formats."""
    ordered = sorted(glyphs)
    runs = list(_runs((glyph, 0) for glyph in ordered))
    if 3 * len(runs) >= len(ordered):
        return Block().u16(1, len(ordered), *ordered)
    block, index = Block().u16(2, len(runs)), 0
    for start, end, _ in runs:
        block.u16(start, end, index)
        index += end - start + 1
    return block


def class_block(classes: Mapping[int, int]) -> Block:
    """A class definition of these glyphs, in the smaller of both formats; class 0 needs no mention."""
    ordered = sorted((glyph, value) for glyph, value in classes.items() if value)
    runs = list(_runs(ordered))
    span = ordered[-1][0] - ordered[0][0] + 1 if ordered else 0
    if ordered and span + 1 < 3 * len(runs):
        first = ordered[0][0]
        return Block().u16(1, first, span, *(classes.get(glyph, 0) for glyph in range(first, first + span)))
    block = Block().u16(2, len(runs))
    for run in runs:
        block.u16(*run)
    return block


def _runs(ordered: Iterable[tuple[int, int]]) -> Iterable[tuple[int, int, int]]:
    """(first glyph, last glyph, value) of each run of consecutive glyphs with one value."""
    for (_, value), group in groupby(enumerate(ordered), key=lambda item: (item[1][0] - item[0], item[1][1])):
        glyphs = [glyph for _, (glyph, _) in group]
        yield glyphs[0], glyphs[-1], value


def kept_glyphs(glyphs: Set[int] | Mapping[int, int], numbers: Mapping[int, int]) -> frozenset[int]:
    """The new numbers of those glyphs that are kept; `numbers` is old number → new."""
    return frozenset(numbers[glyph] for glyph in glyphs if glyph in numbers)


def halved(mapping: Mapping[int, V]) -> tuple[dict[int, V], dict[int, V]]:
    """What is said of the first half of the glyphs, and of the second.

    Each is covered by one only, so that two subtables of the halves do what one of the whole does.
    Raises `OffsetOverflow` if there is just one.
    """
    ordered = sorted(mapping)
    if len(ordered) < 2:
        raise OffsetOverflow
    middle = len(ordered) // 2
    return {g: mapping[g] for g in ordered[:middle]}, {g: mapping[g] for g in ordered[middle:]}
