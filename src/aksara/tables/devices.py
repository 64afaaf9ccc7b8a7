"""Tables of a hinted TrueType font about single sizes: 'hdmx', 'LTSH', 'VDMX', 'gasp' (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Self

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.tables.base import Font
from aksara.tables.maxp import Maxp

_HEADER = 8


@dataclass(slots=True, frozen=True)
class Hdmx:
    """Advance widths in pixels: size in pixels per em → (the largest, that of each glyph)."""

    TAG: ClassVar[str] = "hdmx"

    sizes: dict[int, tuple[int, bytes]]

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        reader, glyphs = Reader(data, 2), font.table(Maxp).num_glyphs
        count, size = reader.u16(), reader.u32()
        if count and size < 2 + glyphs:
            raise FontError(f"its records of {size} bytes have no room for {glyphs} glyphs", offset=4)
        found = {}
        for number in range(count):
            reader.position = _HEADER + number * size
            ppem, widest = reader.u8(), reader.u8()
            found[ppem] = (widest, reader.take(glyphs, "widths"))
        return cls(found)

    def compile(self) -> bytes:
        glyphs = len(next(iter(self.sizes.values()))[1]) if self.sizes else 0
        size = 2 + glyphs + -(2 + glyphs) % 4
        records = [bytes((ppem, widest)) + widths for ppem, (widest, widths) in sorted(self.sizes.items())]
        head = bytes(2) + len(records).to_bytes(2, "big") + size.to_bytes(4, "big")
        return head + b"".join(record.ljust(size, b"\0") for record in records)

    def take(self, glyphs: Sequence[int]) -> Self:
        """For these glyphs, in this order."""
        return type(self)(
            {p: (widest, bytes(map(widths.__getitem__, glyphs))) for p, (widest, widths) in self.sizes.items()}
        )


@dataclass(slots=True, frozen=True)
class Ltsh:
    """For each glyph the size in pixels per em from which its width grows with the size."""

    TAG: ClassVar[str] = "LTSH"

    thresholds: bytes

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        reader = Reader(data, 2)
        return cls(reader.take(reader.u16(), "thresholds"))

    def compile(self) -> bytes:
        return bytes(2) + len(self.thresholds).to_bytes(2, "big") + self.thresholds

    def take(self, glyphs: Sequence[int]) -> Self:
        """For these glyphs, in this order."""
        return type(self)(bytes(self.thresholds[glyph] if glyph < len(self.thresholds) else 1 for glyph in glyphs))


@dataclass(slots=True, frozen=True)
class Gasp:
    """From which size on (up to and with the key, in pixels per em) hints and smoothing are used (the bits)."""

    TAG: ClassVar[str] = "gasp"
    SMOOTH: ClassVar[int] = 0x0002 | 0x0008  # grey, and smooth along the lines of writing

    version: int
    ranges: tuple[tuple[int, int], ...]

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        reader = Reader(data)
        return cls(reader.u16(), tuple((reader.u16(), reader.u16()) for _ in range(reader.u16())))

    def compile(self) -> bytes:
        numbers = (self.version, len(self.ranges), *(number for each in self.ranges for number in each))
        return b"".join(number.to_bytes(2, "big") for number in numbers)
