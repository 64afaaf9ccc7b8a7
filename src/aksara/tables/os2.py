"""'OS/2': what Windows and browsers want to know of the whole font (OpenType 1.9.1, versions 0 to 5)."""

from __future__ import annotations

import struct
from dataclasses import dataclass, fields
from typing import ClassVar

from aksara.binary import Reader
from aksara.tables.base import Font

# fsSelection
ITALIC, BOLD, REGULAR, USE_TYPO_METRICS, OBLIQUE = 1 << 0, 1 << 5, 1 << 6, 1 << 7, 1 << 9

# Groups of fields as versions added them, and the first version that has them. The second group is
# missing from Apple's first form of version 0, which has 68 bytes.
_GROUPS = (
    (0, struct.Struct(">HhHHHhhhhhhhhhhh10s4I4sHHH")),
    (0, struct.Struct(">hhhHH")),
    (1, struct.Struct(">II")),
    (2, struct.Struct(">hhHHH")),
    (5, struct.Struct(">HH")),
)


@dataclass(slots=True, frozen=True)
class OS2:
    """Fields that the version (or a table cut short) does not have are None. Lengths are in font units."""

    TAG: ClassVar[str] = "OS/2"

    version: int
    x_avg_char_width: int
    weight_class: int
    width_class: int
    fs_type: int
    y_subscript_x_size: int
    y_subscript_y_size: int
    y_subscript_x_offset: int
    y_subscript_y_offset: int
    y_superscript_x_size: int
    y_superscript_y_size: int
    y_superscript_x_offset: int
    y_superscript_y_offset: int
    y_strikeout_size: int
    y_strikeout_position: int
    family_class: int
    panose: bytes
    unicode_range1: int
    unicode_range2: int
    unicode_range3: int
    unicode_range4: int
    vendor: bytes
    fs_selection: int
    first_char_index: int
    last_char_index: int
    typo_ascender: int | None = None
    typo_descender: int | None = None
    typo_line_gap: int | None = None
    win_ascent: int | None = None
    win_descent: int | None = None
    code_page_range1: int | None = None
    code_page_range2: int | None = None
    x_height: int | None = None
    cap_height: int | None = None
    default_char: int | None = None
    break_char: int | None = None
    max_context: int | None = None
    lower_optical_point_size: int | None = None
    upper_optical_point_size: int | None = None

    @classmethod
    def parse(cls, data: bytes, font: Font) -> OS2:
        reader = Reader(data)
        version = reader.at(0).u16()
        values: list[int] = []
        for number, (since, layout) in enumerate(_GROUPS):
            # Tables that are shorter than their version exist; what is not there is not read.
            if number and (version < since or reader.remaining < layout.size):
                break
            values += reader.unpack(layout, "the fields of OS/2")
        return cls(*values)  # type: ignore[arg-type]  # panose and vendor are bytes, as their layout says

    def compile(self) -> bytes:
        values = [getattr(self, field.name) for field in fields(self)]
        out = b""
        for _, layout in _GROUPS:
            count = len(layout.unpack(bytes(layout.size)))
            group, values = values[:count], values[count:]
            if None in group:
                break
            out += layout.pack(*group)
        return out
