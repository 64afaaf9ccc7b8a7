"""'maxp': maximum profile (OpenType 1.9.1)."""

from __future__ import annotations

from typing import ClassVar, Self

import numpy as np
from msgspec.structs import replace

from aksara.binary import Reader, Writer
from aksara.errors import FontError
from aksara.tables.base import FontTables, Table
from aksara.tables.subsetting import SubsetContext

VERSION_0_5, VERSION_1_0 = 0x00005000, 0x00010000
#: Fields of version 1.0 behind numGlyphs.
FIELDS = 13


class Maxp(Table, frozen=True):
    """The number of glyphs; with TrueType outlines also limits that glyphs and programs stay within.

    `limits` has the 13 fields of version 1.0 behind numGlyphs, in order, or none in version 0.5.
    """

    TAG: ClassVar[str] = "maxp"

    version: int
    num_glyphs: int
    limits: tuple[int, ...] = ()

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        version, count = reader.u32(), reader.u16()
        if not count:
            raise FontError("it says that there are no glyphs", offset=4)
        # Of a version that does not exist all that counts is whether there are limits.
        if version == VERSION_0_5 or reader.remaining < 2 * FIELDS:
            return cls(version, count)
        return cls(version, count, tuple(reader.array(np.uint16, FIELDS, "limits").tolist()))

    def compile(self) -> bytes:
        return bytes(Writer().u32(self.version).u16(self.num_glyphs, *self.limits))

    def subset(self, context: SubsetContext) -> Self:
        """Limits stay: they cover what remains."""
        counted = replace(self, num_glyphs=len(context.glyphs.order))
        return counted if context.hints else counted.without_hints()

    def without_hints(self) -> Self:
        """With limits of 0 for what only glyph programs use: one zone, no storage, functions, stack, or program."""
        if not self.limits:
            return self
        points, contours, composite_points, composite_contours, *_, parts, depth = self.limits
        outlines = (points, contours, composite_points, composite_contours)
        return replace(self, limits=(*outlines, 1, 0, 0, 0, 0, 0, 0, parts, depth))
