"""'MVAR': how the font-wide metrics change along the axes (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from typing import ClassVar, Self

import numpy as np

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader, serialize
from aksara.tables.base import FontTables, Table
from aksara.tables.subsetting import SubsetContext
from aksara.tables.variation.item_variation_store import ItemVariationStore, VariationIndex
from aksara.tables.variation.regions import Region
from aksara.tables.variation.store_packing import pack_store

_VERSION = 0x00010000
_RECORD = struct.Struct(">4sHH")


class Mvar(Table, frozen=True):
    """`values`: the tag of each metric ("xhgt", "strs") → the row of the store that it varies by."""

    TAG: ClassVar[str] = "MVAR"

    store: ItemVariationStore | None
    values: Mapping[str, VariationIndex]

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        reader.version()
        reader.u16()
        size, count = reader.u16s(2)
        store = reader.offset16()
        if count and size < _RECORD.size:
            raise FontError(f"its records have {size} bytes; they need {_RECORD.size}", offset=6)
        start = reader.position
        values = {}
        for index in range(count):
            part = reader.at(start + index * size)
            tag = part.tag()
            values[tag] = VariationIndex(part.u16(), part.u16())
        return cls(store.once(ItemVariationStore.parse) if store else None, values)

    def compile(self) -> bytes:
        root = Block().u32(_VERSION).u16(0, _RECORD.size, len(self.values))
        root.offset16(self.store.block() if self.store else None)
        for tag, index in sorted(self.values.items()):
            root.tag(tag).u16(index.outer, index.inner)
        return serialize(root)

    def subset(self, context: SubsetContext) -> Self | None:
        """It says nothing of glyphs, but may be written in fewer bytes."""
        if self.store is None:
            return None
        rows = self.store.rows(list(self.values.values()))
        return self.of_rows(
            self.store.axis_count, self.store.regions, dict(zip(self.values, rows.tolist(), strict=True))
        )

    @classmethod
    def of_rows(cls, axis_count: int, regions: tuple[Region, ...], rows: Mapping[str, list[int]]) -> Self | None:
        """The table for these rows in these regions; None if nothing changes."""
        table = np.array(list(rows.values()), np.int64).reshape(len(rows), len(regions))
        store, indices = pack_store(axis_count, regions, table)
        if store is None:
            return None
        return cls(store, {tag: index for tag, index in zip(rows, indices, strict=True) if index is not None})
