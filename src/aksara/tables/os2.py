"""'OS/2': metrics and properties of the whole font (OpenType 1.9.1, versions 0 to 5)."""

from __future__ import annotations

import struct
from typing import ClassVar, Self

from msgspec.structs import replace

from aksara.binary import Reader
from aksara.tables.base import FontTables, Table
from aksara.tables.kern import Kern
from aksara.tables.layout.gpos import Gpos
from aksara.tables.layout.gsub import Gsub
from aksara.tables.os2_ranges import true_code_pages, true_unicode_ranges
from aksara.tables.subsetting import SubsetContext

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


class OS2(Table, frozen=True, kw_only=True):
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
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        version = reader.at(0).u16()
        values: list[int] = []
        for index, (since, layout) in enumerate(_GROUPS):
            # Tables that are shorter than their version exist; what is missing is not read.
            if index and (version < since or reader.remaining < layout.size):
                break
            values += reader.unpack(layout, "the fields of OS/2")
        # panose and vendor are bytes, as their layout says.
        return cls(**dict(zip(cls.__struct_fields__, values, strict=False)))  # type: ignore[arg-type]

    def compile(self) -> bytes:
        values = [getattr(self, name) for name in self.__struct_fields__]
        out = b""
        for _, layout in _GROUPS:
            count = len(layout.unpack(bytes(layout.size)))
            group, values = values[:count], values[count:]
            if None in group:
                break
            out += layout.pack(*group)
        return out

    def subset(self, context: SubsetContext) -> Self:
        """The same vertical metrics; characters, Unicode ranges, code pages and context as they are still true."""
        kept = context.characters.keys()
        words = (self.unicode_range1, self.unicode_range2, self.unicode_range3, self.unicode_range4)
        ranges = true_unicode_ranges(sum(word << 32 * n for n, word in enumerate(words)), kept)
        codes = [min(code, 0xFFFF) for code in kept] or [0]
        changed = replace(
            self,
            first_char_index=min(codes),
            last_char_index=max(codes),
            unicode_range1=ranges & 0xFFFFFFFF,
            unicode_range2=ranges >> 32 & 0xFFFFFFFF,
            unicode_range3=ranges >> 64 & 0xFFFFFFFF,
            unicode_range4=ranges >> 96 & 0xFFFFFFFF,
        )
        if self.code_page_range1 is not None and self.code_page_range2 is not None:
            claimed = self.code_page_range1 | self.code_page_range2 << 32
            pages = true_code_pages(claimed, context.source.characters, kept)
            changed = replace(changed, code_page_range1=pages & 0xFFFFFFFF, code_page_range2=pages >> 32)
        if self.max_context is not None:
            changed = replace(changed, max_context=_longest_context(context))
        return changed


def _longest_context(context: SubsetContext) -> int:
    """How many glyphs at most a lookup looks at together; 0 where there are neither lookups nor kerning."""
    tables = [table for table in (context.subset(Gsub), context.subset(Gpos)) if table is not None]
    lengths = [subtable.span for table in tables for lookup in table.lookups for subtable in lookup.subtables]
    if context.subset(Kern) is not None:
        lengths.append(2)
    return max(lengths, default=0)
