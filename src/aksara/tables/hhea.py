"""'hhea': horizontal header (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from typing import ClassVar

from aksara.binary import Reader
from aksara.tables.base import Font
from aksara.tables.record import pack_record, read_record


@dataclass(slots=True, frozen=True)
class Hhea:
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
    def parse(cls, data: bytes, font: Font) -> Hhea:
        return read_record(cls, Reader(data), "the horizontal header")

    def compile(self) -> bytes:
        return pack_record(self)
