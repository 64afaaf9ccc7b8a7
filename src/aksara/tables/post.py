"""'post': italic angle, underline, and glyph names (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from typing import ClassVar, Self

from aksara.binary import Reader
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table
from aksara.tables.subsetting import SubsetContext

VERSION_2_0, VERSION_3_0 = 0x00020000, 0x00030000


class PostHeader(FixedRecord, frozen=True, kw_only=True):
    """Angle in degrees as 16.16, lengths in font units; the memory that a printer needs, in bytes."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">IihhIIIII")

    version: int
    italic_angle: int
    underline_position: int
    underline_thickness: int
    is_fixed_pitch: int
    min_mem_type42: int = 0
    max_mem_type42: int = 0
    min_mem_type1: int = 0
    max_mem_type1: int = 0


class Post(Table, frozen=True):
    """The header, and what follows it (glyph names)."""

    TAG: ClassVar[str] = "post"

    header: PostHeader
    names: bytes = b""

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        return cls(PostHeader.read(Reader(data), "the header of 'post'"), data[PostHeader.LAYOUT.size :])

    def compile(self) -> bytes:
        return self.header.compile() + self.names

    def subset(self, context: SubsetContext) -> Self:
        """Version 3.0: no browser uses glyph names, and they are 4 to 9 % of a font."""
        header = self.header
        return type(self)(
            PostHeader(
                version=VERSION_3_0,
                italic_angle=header.italic_angle,
                underline_position=header.underline_position,
                underline_thickness=header.underline_thickness,
                is_fixed_pitch=header.is_fixed_pitch,
            )
        )

    @property
    def is_fixed_pitch(self) -> bool:
        """Whether the font says that all its glyphs are equally wide."""
        return bool(self.header.is_fixed_pitch)

    @property
    def italic_degrees(self) -> float:
        """Counter-clockwise from upright: negative for a font that leans to the right."""
        return self.header.italic_angle / 65536
