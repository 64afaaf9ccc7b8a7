"""'head': font header (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from typing import ClassVar, Protocol, Self, cast

from msgspec.structs import replace

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table
from aksara.tables.subsetting import SubsetContext

MAC_BOLD, MAC_ITALIC = 0x0001, 0x0002
_MAGIC = 0x5F0F3CF5
# flags: the glyph programs depend on the size, and change advances.
_HINTED_FLAGS = 1 << 2 | 1 << 4
_LOCA = "loca"


class _Offsets(Protocol):
    """What this table needs of 'loca', whose module imports this one."""

    long: bool


class Head(FixedRecord, Table, frozen=True, kw_only=True):
    """Lengths are in font units, dates in seconds since 1904; `index_to_loc_format` is 0 (short) or 1 (long)."""

    TAG: ClassVar[str] = "head"
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">IIIIHHqqhhhhHHhhh")

    version: int
    font_revision: int
    checksum_adjustment: int
    magic: int
    flags: int
    units_per_em: int
    created: int
    modified: int
    x_min: int
    y_min: int
    x_max: int
    y_max: int
    mac_style: int
    lowest_rec_ppem: int
    font_direction_hint: int
    index_to_loc_format: int
    glyph_data_format: int

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        head = cls.read(Reader(data), "the font header")
        if head.magic != _MAGIC:
            raise FontError("its magic number is wrong, so this is not a font header", offset=12)
        if not 16 <= head.units_per_em <= 16384:
            raise FontError(f"{head.units_per_em} units per em; 16 to 16384 are allowed", offset=18)
        if head.index_to_loc_format not in (0, 1):
            raise FontError(f"glyph offsets of format {head.index_to_loc_format}; only 0 and 1 exist", offset=50)
        return head

    def subset(self, context: SubsetContext) -> Self:
        """The bounding box stays that of the whole font: browsers derive nothing from it that a reader sees."""
        head = self if context.hints else replace(self, flags=self.flags & ~_HINTED_FLAGS)
        loca = context.subset_by_tag(_LOCA)
        if loca is None:
            return head
        return replace(head, index_to_loc_format=int(cast(_Offsets, loca).long))
