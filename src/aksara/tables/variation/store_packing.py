"""Item variation stores in few bytes: each row once, regions that nothing uses left out, rows that need the same
columns in the same widths together (OpenType 1.9.1, "Item variation store")."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aksara.tables.variation.item_variation_store import ItemVariationData, ItemVariationStore, VariationIndex
from aksara.tables.variation.regions import Region

Rows = NDArray[np.int64]

_MOST_ROWS = 0xFFFF
#: Groups of rows that are tried to be put together; with more of them that takes too long for what it gains.
_MOST_GROUPS = 128


class _Group(Struct):
    """Rows (by number) that share a subtable, and the bytes that each column takes in it: 0, 1, 2 or 4."""

    rows: list[int]
    widths: NDArray[np.int8]

    @property
    def size(self) -> int:
        """About how many bytes the subtable takes."""
        return _size(self.widths, len(self.rows))


def pack_store(
    axis_count: int, regions: Sequence[Region], rows: Rows, *, keep_zeros: bool = False
) -> tuple[ItemVariationStore | None, list[VariationIndex | None]]:
    """The store that holds these rows (values by regions), and where each of them is in it.

    A row of zeros needs no place and gets none, unless they are kept. There is no store if no row has a place.
    """
    indices: list[VariationIndex | None] = [None] * len(rows)
    distinct, inverse = np.unique(rows, axis=0, return_inverse=True) if len(rows) else (rows, np.zeros(0, np.int64))
    wanted = np.flatnonzero(distinct.any(axis=1) | keep_zeros)
    if not len(wanted):
        return None, indices
    used = np.flatnonzero(distinct.any(axis=0))
    order, data = _data(distinct[wanted][:, used])
    by_row: dict[int, VariationIndex] = {}
    for outer, numbers in enumerate(order):
        by_row |= {int(wanted[row_index]): VariationIndex(outer, inner) for inner, row_index in enumerate(numbers)}
    indices = [by_row.get(int(row)) for row in inverse.reshape(-1)]
    kept = tuple(regions[row_index] for row_index in used.tolist())
    return ItemVariationStore(axis_count, kept, tuple(data)), indices


def _data(rows: Rows) -> tuple[list[list[int]], list[ItemVariationData]]:
    """The rows of each subtable, and the subtables."""
    order, data = [], []
    for group in _grouped(rows):
        for start in range(0, len(group.rows), _MOST_ROWS):
            numbers = group.rows[start : start + _MOST_ROWS]
            # Wider columns must come first.
            columns = [int(n) for n in np.argsort(-group.widths, kind="stable") if group.widths[n]]
            order.append(numbers)
            data.append(ItemVariationData(tuple(columns), rows[numbers][:, columns].astype(np.int32)))
    return order, data


def _grouped(rows: Rows) -> list[_Group]:
    """Group rows of the same widths, then join groups that are smaller together."""
    widths = _widths(rows)
    kinds, inverse = np.unique(widths, axis=0, return_inverse=True)
    inverse = inverse.reshape(-1)
    groups = [_Group(np.flatnonzero(inverse == index).tolist(), kinds[index]) for index in range(len(kinds))]
    groups.sort(key=lambda group: (-group.size, group.rows))
    groups, rest = groups[:_MOST_GROUPS], groups[_MOST_GROUPS:]
    for group in rest:
        _join(min(groups, key=lambda other: _joined_size(other, group) - other.size), group)
    _put_together(groups)
    return sorted(groups, key=lambda group: group.rows)


def _put_together(groups: list[_Group]) -> None:
    """Join the two groups that save most, until none saves anything."""
    widths, counts = np.array([group.widths for group in groups]), np.array([len(group.rows) for group in groups])
    saved = np.array([_savings(index, widths, counts) for index in range(len(groups))])
    alive = np.ones(len(groups), bool)
    while len(groups) and saved.max() > 0:
        one, other = sorted(divmod(int(saved.argmax()), len(groups)))
        _join(groups[one], groups[other])
        widths[one], counts[one], alive[other] = groups[one].widths, len(groups[one].rows), False
        new = np.where(alive, _savings(one, widths, counts), 0)
        saved[one], saved[:, one], saved[other], saved[:, other] = new, new, 0, 0
    groups[:] = [group for group, is_alive in zip(groups, alive.tolist(), strict=True) if is_alive]


def _savings(number: int, widths: NDArray[np.int8], counts: NDArray[np.int64]) -> NDArray[np.int64]:
    """The bytes saved by putting that group together with each of the others."""
    joined = _sizes(np.maximum(widths[number], widths), counts[number] + counts)
    saved = _size(widths[number], int(counts[number])) + _sizes(widths, counts) - joined
    saved[number] = 0
    return saved


def _join(group: _Group, other: _Group) -> None:
    group.rows, group.widths = sorted(group.rows + other.rows), np.maximum(group.widths, other.widths)


def _joined_size(group: _Group, other: _Group) -> int:
    return _size(np.maximum(group.widths, other.widths), len(group.rows) + len(other.rows))


def _widths(rows: Rows) -> NDArray[np.int8]:
    """Bytes that each number needs: 0, 1, 2 or 4."""
    narrow, short = (rows >= -0x80) & (rows < 0x80), (rows >= -0x8000) & (rows < 0x8000)
    return np.where(rows == 0, 0, np.where(narrow, 1, np.where(short, 2, 4))).astype(np.int8)


def _size(widths: NDArray[np.int8], rows: int) -> int:
    return int(_sizes(widths[None], np.array([rows]))[0])


def _sizes(widths: NDArray[np.int8], rows: NDArray[np.int64]) -> NDArray[np.int64]:
    """Bytes of subtables with these widths of columns (subtables by columns), with `rows` rows each."""
    # Where one column has 32 bits, the others have at least 16.
    long = (widths == 4).any(axis=1)[:, None]
    stored = np.where(long & (widths > 0), np.maximum(widths, 2), widths).astype(np.int64)
    return np.asarray(10 + 2 * (widths > 0).sum(axis=1) + rows * stored.sum(axis=1), np.int64)
