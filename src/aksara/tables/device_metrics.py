"""Tables of a hinted TrueType font about single sizes: 'hdmx', 'LTSH', 'gasp' (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from typing import ClassVar, Self

from msgspec import Struct

from aksara.binary import Reader, Writer
from aksara.errors import FontError
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table
from aksara.tables.maxp import Maxp
from aksara.tables.subsetting import SubsetContext

_ALL_SIZES = 0xFFFF


class _HdmxHeader(FixedRecord, frozen=True):
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">HHI")

    version: int
    count: int
    record_size: int


class DeviceWidths(Struct, frozen=True):
    """The advance widths at one size, in pixels: the largest, and that of each glyph."""

    largest: int
    widths: bytes


class Hdmx(Table, frozen=True):
    """Advance widths in pixels, by size in pixels per em."""

    TAG: ClassVar[str] = "hdmx"
    IS_HINTING: ClassVar[bool] = True

    sizes: dict[int, DeviceWidths]

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader, glyphs = Reader(data), font.table(Maxp).num_glyphs
        header = _HdmxHeader.read(reader, "the header of 'hdmx'")
        if header.count and header.record_size < 2 + glyphs:
            raise FontError(f"its records of {header.record_size} bytes have no room for {glyphs} glyphs", offset=4)
        found = {}
        for index in range(header.count):
            reader.position = _HdmxHeader.LAYOUT.size + index * header.record_size
            size, largest = reader.u8(), reader.u8()
            found[size] = DeviceWidths(largest, reader.take(glyphs, "widths"))
        return cls(found)

    def compile(self) -> bytes:
        glyphs = max((len(size.widths) for size in self.sizes.values()), default=0)
        record_size = 2 + glyphs + -(2 + glyphs) % 4
        writer = Writer(_HdmxHeader(0, len(self.sizes), record_size).compile())
        for size, widths in sorted(self.sizes.items()):
            writer.u8(size, widths.largest).append(widths.widths).align(4)
        return bytes(writer)

    def subset(self, context: SubsetContext) -> Self:
        """An empty glyph has the width of .notdef."""
        glyphs = context.glyphs.old_ids().tolist()
        return type(self)(
            {
                size: DeviceWidths(widths.largest, bytes(map(widths.widths.__getitem__, glyphs)))
                for size, widths in self.sizes.items()
            }
        )


class Ltsh(Table, frozen=True):
    """For each glyph the size in pixels per em from which its width grows with the size."""

    TAG: ClassVar[str] = "LTSH"
    IS_HINTING: ClassVar[bool] = True

    thresholds: bytes

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data, 2)
        return cls(reader.take(reader.u16(), "thresholds"))

    def compile(self) -> bytes:
        return bytes(Writer().u16(0, len(self.thresholds)).append(self.thresholds))

    def subset(self, context: SubsetContext) -> Self:
        known = self.thresholds
        return type(self)(bytes(known[old] if old < len(known) else 1 for old in context.glyphs.old_ids().tolist()))


class Gasp(Table, frozen=True):
    """From which size on (up to and with the key, in pixels per em) hints and smoothing are used (the bits)."""

    TAG: ClassVar[str] = "gasp"
    SMOOTH: ClassVar[int] = 0x0002 | 0x0008  # grey, and smooth along the lines of writing

    version: int
    ranges: tuple[tuple[int, int], ...]

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        return cls(reader.u16(), tuple((reader.u16(), reader.u16()) for _ in range(reader.u16())))

    def compile(self) -> bytes:
        return bytes(Writer().u16(self.version, len(self.ranges), *(n for span in self.ranges for n in span)))

    def subset(self, context: SubsetContext) -> Self:
        """Without hints: smoothing alone, at all sizes."""
        return self if context.hints else type(self)(1, ((_ALL_SIZES, self.SMOOTH),))
