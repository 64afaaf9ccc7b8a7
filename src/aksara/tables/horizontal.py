"""'hhea' and 'hmtx': metrics of horizontal text (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from typing import ClassVar, Self

import numpy as np
from msgspec.structs import replace

from aksara.binary import Reader
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table
from aksara.tables.glyf import Glyf
from aksara.tables.maxp import Maxp
from aksara.tables.metrics import Metrics
from aksara.tables.subsetting import SubsetContext


class Hhea(FixedRecord, Table, frozen=True, kw_only=True):
    """Line metrics in font units, and how many advances 'hmtx' stores."""

    TAG: ClassVar[str] = "hhea"
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">IhhhHhhhhhhqhH")

    version: int
    ascender: int
    descender: int
    line_gap: int
    advance_width_max: int
    min_left_side_bearing: int
    min_right_side_bearing: int
    x_max_extent: int
    caret_slope_rise: int
    caret_slope_run: int
    caret_offset: int
    reserved: int
    metric_data_format: int
    number_of_h_metrics: int

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        return cls.read(Reader(data), "the horizontal header")

    def subset(self, context: SubsetContext) -> Self:
        """Line metrics stay; the number of advances is that of the subset 'hmtx'."""
        hmtx = context.subset(Hmtx)
        return replace(self, number_of_h_metrics=hmtx.stored_advances) if hmtx is not None else self


class Hmtx(Metrics, Table, frozen=True, eq=False):
    """Advance width and left side bearing of every glyph, in font units."""

    TAG: ClassVar[str] = "hmtx"

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        return cls.read(data, font.table(Hhea).number_of_h_metrics, font.table(Maxp).num_glyphs)

    def subset(self, context: SubsetContext) -> Self:
        """An empty glyph has no side: 0 is as true as any bearing, and lets WOFF2 leave the bearings out."""
        kept = self.of_glyphs(context.glyphs)
        if (glyf := context.original(Glyf)) is None:
            return kept
        drawn = np.array([old is not None and bool(glyf.glyphs[old]) for old in context.glyphs.order])
        return replace(kept, side_bearings=np.where(drawn, kept.side_bearings, 0).astype(np.int16))
