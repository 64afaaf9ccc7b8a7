"""'HVAR' and 'VVAR': how advances and side bearings change along the axes; they are written alike (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Self

import numpy as np
from msgspec.structs import replace

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader, serialize
from aksara.tables.base import FontTables, Table
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.subsetting import SubsetContext
from aksara.tables.variation.index_map import index_map_block, parse_index_map
from aksara.tables.variation.item_variation_store import ItemVariationData, ItemVariationStore, VariationIndex
from aksara.tables.variation.store_packing import Rows, pack_store

_VERSION = 0x00010000
IndexMap = tuple[VariationIndex, ...]


class MetricsVariations(Table, frozen=True):
    """`maps` tell which row of the store each glyph's metrics vary by: the advance, then the side bearings and origins.

    A glyph beyond the end of a map has its last entry. Without a map for them advances vary by the row of the glyph's
    ID in the first data; the other metrics then do not vary.
    """

    MAPS: ClassVar[int]

    store: ItemVariationStore
    maps: tuple[IndexMap | None, ...]

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        reader.version()
        store = reader.offset32()
        if store is None:
            raise FontError("it has no item variation store", offset=4)
        maps = [reader.offset32() for _ in range(cls.MAPS)]
        return cls(
            store.once(ItemVariationStore.parse),
            tuple((target.once(parse_index_map) or None) if target else None for target in maps),
        )

    def compile(self) -> bytes:
        root = Block().u32(_VERSION).offset32(self.store.block())
        for entries in self.maps:
            root.offset32(index_map_block(entries) if entries else None)
        return serialize(root)

    def rows(self, map_index: int, glyphs: Sequence[int]) -> Rows | None:
        """How that metric of each glyph changes in each region (glyphs by regions); None if it does not vary."""
        entries = self.maps[map_index]
        if entries is None:
            return self.store.rows([VariationIndex(0, glyph) for glyph in glyphs]) if map_index == 0 else None
        return self.store.rows([entries[min(glyph, len(entries) - 1)] for glyph in glyphs])

    def subset(self, context: SubsetContext) -> Self | None:
        return self.of_glyphs(context.glyphs)

    def of_glyphs(self, glyphs: GlyphMap) -> Self:
        """The metrics of the kept glyphs; those of glyphs kept only for their ID do not vary."""
        old, kept = glyphs.old_ids().tolist(), glyphs.is_kept()
        rows_of_maps = [self.rows(index, old) for index in range(self.MAPS)]
        rows = [deltas * kept[:, None] if deltas is not None else None for deltas in rows_of_maps]
        return self.of_rows(self.store, rows)

    @classmethod
    def of_rows(cls, store: ItemVariationStore, rows: Sequence[Rows | None]) -> Self:
        """The table for these rows of each metric, in the regions of the store; with index maps or without."""
        there = [row for row in rows if row is not None]
        packed, indices = pack_store(store.axis_count, store.regions, np.concatenate(there), keep_zeros=True)
        if packed is None:  # no glyphs, no rows
            return cls(ItemVariationStore(store.axis_count, (), ()), (None,) * len(rows))
        listed = iter([place or VariationIndex(0, 0) for place in indices])
        maps = tuple(tuple(next(listed) for _ in row) if row is not None else None for row in rows)
        mapped = cls(packed, maps)
        if len(there) > 1 or rows[0] is None:
            return mapped
        plain = replace(mapped, store=_one_row_a_glyph(store, rows[0]), maps=(None,) * len(rows))
        return min(mapped, plain, key=lambda table: len(table.compile()))


def _one_row_a_glyph(store: ItemVariationStore, rows: Rows) -> ItemVariationStore:
    """The store of one subtable with the rows as they are."""
    used = np.flatnonzero(rows.any(axis=0))
    widest = np.argsort(-np.abs(rows[:, used]).max(axis=0, initial=0), kind="stable")
    data = ItemVariationData(tuple(widest.tolist()), rows[:, used[widest]].astype(np.int32))
    return ItemVariationStore(store.axis_count, tuple(store.regions[region] for region in used), (data,))


class Hvar(MetricsVariations, frozen=True):
    """Maps of advance widths, and of left and right side bearings."""

    TAG: ClassVar[str] = "HVAR"
    MAPS: ClassVar[int] = 3


class Vvar(MetricsVariations, frozen=True):
    """Maps of advance heights, of top and bottom side bearings, and of vertical origins."""

    TAG: ClassVar[str] = "VVAR"
    MAPS: ClassVar[int] = 4
