"""'vhea', 'vmtx', 'VORG': metrics of vertical text (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Self

from aksara.binary import Reader
from aksara.tables.base import Font
from aksara.tables.maxp import Maxp
from aksara.tables.metrics import Metrics
from aksara.tables.record import pack_record, read_record


@dataclass(slots=True, frozen=True)
class Vhea:
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
    def parse(cls, data: bytes, font: Font) -> Self:
        return read_record(cls, Reader(data), "the fields of 'vhea'")

    def compile(self) -> bytes:
        return pack_record(self)


@dataclass(slots=True, frozen=True, eq=False)
class Vmtx(Metrics):
    """Advance height and top side bearing of every glyph, in font units."""

    TAG: ClassVar[str] = "vmtx"

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        return cls.read(data, font.table(Vhea).number_of_v_metrics, font.table(Maxp).num_glyphs)


@dataclass(slots=True, frozen=True)
class Vorg:
    """The vertical origin of glyphs, in font units; `default` for those that are not named."""

    TAG: ClassVar[str] = "VORG"

    default: int
    origins: Mapping[int, int]

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        reader = Reader(data, 4)
        default = reader.i16()
        return cls(default, {reader.u16(): reader.i16() for _ in range(reader.u16())})

    def compile(self) -> bytes:
        head = struct.pack(">HHhH", 1, 0, self.default, len(self.origins))
        return head + b"".join(struct.pack(">Hh", *origin) for origin in sorted(self.origins.items()))

    def subset(self, numbers: Mapping[int, int]) -> Self:
        """For the kept glyphs (old number → new)."""
        return type(self)(self.default, {numbers[g]: y for g, y in self.origins.items() if g in numbers})
