"""Item variation stores: how values change with the axes of a variable font (OpenType 1.9.1, "Font variations common
table formats", "Item variation store")."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Self

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader
from aksara.records import ComparedByField
from aksara.tables.variation.regions import AxisRegion, Region

_FORMAT = 1
#: The bit of wordDeltaCount that says that words have 32 bits, and the others 16.
_LONG_WORDS = 0x8000
_WORD_COUNT = 0x7FFF


class VariationIndex(Struct, frozen=True):
    """Which row of a store a value varies by: the index of its data, and of the row in it."""

    outer: int
    inner: int


class ItemVariationData(ComparedByField, Struct, frozen=True):
    """`deltas` (items by regions) are in the units of the values that vary; `regions` are indices into the store's."""

    regions: tuple[int, ...]
    deltas: NDArray[np.int32]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        """One subtable. Raises `FontError` where it is shorter than it claims."""
        items, words, count = reader.u16s(3)
        regions = reader.u16s(count)
        wide, narrow = (np.int32, np.int16) if words & _LONG_WORDS else (np.int16, np.int8)
        wide_count = min(words & _WORD_COUNT, count)
        row = np.dtype([("wide", wide, (wide_count,)), ("narrow", narrow, (count - wide_count,))]).newbyteorder(">")
        reader.work.spend_numbers(items * count)
        rows = np.frombuffer(reader.take(row.itemsize * items, "deltas"), row, items) if row.itemsize else None
        if rows is None:
            return cls(regions, np.zeros((items, 0), np.int32))
        return cls(regions, np.concatenate((rows["wide"], rows["narrow"]), axis=1).astype(np.int32))

    def block(self) -> Block:
        """The subtable, its columns in the fewest bytes that hold them in this order."""
        items, count = self.deltas.shape
        bits = _bits(self.deltas)
        long_words = bool((bits > 16).any())
        narrow = 16 if long_words else 8
        wide = np.flatnonzero(bits > narrow)
        wide_count = int(wide[-1]) + 1 if len(wide) else 0
        block = Block().u16(items, wide_count | _LONG_WORDS * long_words, count, *self.regions)
        kinds = (np.dtype(">i4"), np.dtype(">i2")) if long_words else (np.dtype(">i2"), np.dtype("i1"))
        rows = np.zeros(items, [("wide", kinds[0], (wide_count,)), ("narrow", kinds[1], (count - wide_count,))])
        rows["wide"], rows["narrow"] = self.deltas[:, :wide_count], self.deltas[:, wide_count:]
        return block.append(rows.tobytes())


def _bits(deltas: NDArray[np.int32]) -> NDArray[np.int64]:
    """The bits that each column needs: 8, 16 or 32."""
    low, high = (deltas.min(axis=0), deltas.max(axis=0)) if len(deltas) else (np.zeros(deltas.shape[1]),) * 2
    return np.where((low >= -0x80) & (high < 0x80), 8, np.where((low >= -0x8000) & (high < 0x8000), 16, 32))


class ItemVariationStore(Struct, frozen=True):
    """The regions in which values change, and by how much each of them does; None where data are left out."""

    axis_count: int
    regions: tuple[Region, ...]
    data: tuple[ItemVariationData | None, ...]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        """The store at the reader's origin. Raises `FontError` for another format, or where it is cut short."""
        store_format = reader.u16()
        if store_format != _FORMAT:
            raise FontError(f"an item variation store of format {store_format}; only 1 exists", offset=reader.origin)
        region_list, count = reader.offset32(), reader.u16()
        axis_count, regions = _parse_regions(region_list) if region_list is not None else (0, ())
        reader.work.spend_numbers(count)
        parts = [reader.offset32() for _ in range(count)]
        return cls(
            axis_count, regions, tuple(target.once(ItemVariationData.parse) if target else None for target in parts)
        )

    def rows(self, indices: Sequence[VariationIndex]) -> NDArray[np.int64]:
        """How each of these values changes in each region of the store (values by regions).

        An index that leads nowhere means no change, as for renderers.
        """
        deltas = np.zeros((len(indices), len(self.regions)), np.int64)
        by_data: dict[int, list[int]] = {}
        for position, index in enumerate(indices):
            by_data.setdefault(index.outer, []).append(position)
        for outer, numbers in by_data.items():
            part = self.data[outer] if outer < len(self.data) else None
            if part is None:
                continue
            there = [position for position in numbers if indices[position].inner < len(part.deltas)]
            columns = [n for n, region in enumerate(part.regions) if region < len(self.regions)]
            rows = part.deltas[[indices[position].inner for position in there]][:, columns]
            for column, old in enumerate(columns):
                deltas[there, part.regions[old]] += rows[:, column]
        return deltas

    def block(self) -> Block:
        """The store, as `parse` reads it."""
        region_list = Block().u16(self.axis_count, len(self.regions))
        for region in self.regions:
            for axis in region:
                region_list.i16(axis.start, axis.peak, axis.end)
        block = Block().u16(_FORMAT).offset32(region_list).u16(len(self.data))
        for part in self.data:
            block.offset32(part.block() if part is not None else None)
        return block


def _parse_regions(reader: OffsetReader) -> tuple[int, tuple[Region, ...]]:
    axis_count, count = reader.u16s(2)
    numbers = reader.i16s(3 * axis_count * count)
    axes = [AxisRegion(*numbers[start : start + 3]) for start in range(0, len(numbers), 3)]
    return axis_count, tuple(tuple(axes[n * axis_count : (n + 1) * axis_count]) for n in range(count))
