"""'post': italic angle, underline, and glyph names (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from dataclasses import dataclass, replace
from typing import ClassVar

from aksara.binary import Reader
from aksara.tables.base import Font

VERSION_3_0 = 0x00030000
_HEADER = struct.Struct(">IihhIIIII")


@dataclass(slots=True, frozen=True)
class Post:
    """Angle in degrees as 16.16, lengths in font units; `names` is what follows the header (glyph names)."""

    TAG: ClassVar[str] = "post"

    version: int
    italic_angle: int
    underline_position: int
    underline_thickness: int
    is_fixed_pitch: int
    memory: tuple[int, int, int, int] = (0, 0, 0, 0)
    names: bytes = b""

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Post:
        version, angle, position, thickness, fixed, *memory = Reader(data).unpack(_HEADER, "the header of 'post'")
        a, b, c, d = memory
        return cls(version, angle, position, thickness, fixed, (a, b, c, d), data[_HEADER.size :])

    def compile(self) -> bytes:
        head = (self.version, self.italic_angle, self.underline_position, self.underline_thickness, self.is_fixed_pitch)
        return _HEADER.pack(*head, *self.memory) + self.names

    def without_names(self) -> Post:
        """Version 3.0: no browser uses glyph names, and they are 4 to 9 % of a font."""
        return replace(self, version=VERSION_3_0, memory=(0, 0, 0, 0), names=b"")

    @property
    def italic_degrees(self) -> float:
        """Counter-clockwise from upright: negative for a font that leans to the right."""
        return self.italic_angle / 65536
