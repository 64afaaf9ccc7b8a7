"""'vhea', 'vmtx', 'VORG': metrics of vertical text (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from typing import ClassVar, Self

from msgspec.structs import replace

from aksara.binary import Reader, Writer
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table
from aksara.tables.maxp import Maxp
from aksara.tables.metrics import Metrics
from aksara.tables.subsetting import SubsetContext, SubsetScope


class Vhea(FixedRecord, Table, frozen=True, kw_only=True):
    """Ascender and so on of vertical lines, in font units, from the middle of the line."""

    TAG: ClassVar[str] = "vhea"
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">I15hH")

    version: int
    ascender: int
    descender: int
    line_gap: int
    advance_height_max: int
    min_top_side_bearing: int
    min_bottom_side_bearing: int
    y_max_extent: int
    caret_slope_rise: int
    caret_slope_run: int
    caret_offset: int
    reserved1: int
    reserved2: int
    reserved3: int
    reserved4: int
    metric_data_format: int
    number_of_v_metrics: int

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        return cls.read(Reader(data), "the vertical header")

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return None if Vmtx.TAG in scope.tags else "the table 'vmtx' that it belongs to is missing"

    def subset(self, context: SubsetContext) -> Self:
        vmtx = context.subset(Vmtx)
        return replace(self, number_of_v_metrics=vmtx.stored_advances) if vmtx is not None else self


class Vmtx(Metrics, Table, frozen=True, eq=False):
    """Advance height and top side bearing of every glyph, in font units."""

    TAG: ClassVar[str] = "vmtx"

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        return cls.read(data, font.table(Vhea).number_of_v_metrics, font.table(Maxp).num_glyphs)

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return None if Vhea.TAG in scope.tags else "the table 'vhea' that it belongs to is missing"

    def subset(self, context: SubsetContext) -> Self:
        return self.of_glyphs(context.glyphs)


class Vorg(Table, frozen=True):
    """The vertical origin of glyphs, in font units; `default` for those that are not named."""

    TAG: ClassVar[str] = "VORG"

    default: int
    origins: Mapping[int, int]

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data, 4)
        default = reader.i16()
        return cls(default, {reader.u16(): reader.i16() for _ in range(reader.u16())})

    def compile(self) -> bytes:
        writer = Writer().u16(1, 0).i16(self.default).u16(len(self.origins))
        for glyph, origin in sorted(self.origins.items()):
            writer.u16(glyph).i16(origin)
        return bytes(writer)

    def subset(self, context: SubsetContext) -> Self:
        return type(self)(self.default, context.glyphs.keys_of(self.origins))
