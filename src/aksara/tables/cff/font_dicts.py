"""Font dictionaries: what some glyphs of a CFF font share, and which glyph has which (Adobe Technical Note 5176,
sections 15 and 19)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.tables.cff.dicts import Dict, integer, read_dict, without, write_dict
from aksara.tables.cff.index import read_index, write_index
from aksara.tables.cff.operators import PRIVATE, SUBRS


class FontDict(Struct, frozen=True):
    """What some glyphs share: a Font DICT (empty if not CID-keyed), its Private DICT, and its subroutines."""

    values: Dict
    private: Dict
    subroutines: list[bytes]


def read_font_dict(
    reader: Reader, values: Dict, region_counts: Sequence[int] = (), *, wide_count: bool = False
) -> FontDict:
    """The Font DICT with the Private DICT and the subroutines that it points at."""
    operands = values.get(PRIVATE, (0, 0))
    if len(operands) != 2 or not all(isinstance(number, int) for number in operands):
        raise FontError("a Private DICT has no size and offset")
    size, offset = (number for number in operands if isinstance(number, int))
    private = read_dict(reader.at(offset).take(size, "a Private DICT"), region_counts)
    subroutines = []
    if SUBRS in private:
        subroutines = read_index(reader.at(offset + integer(private, SUBRS, 0)), wide_count=wide_count)
    return FontDict(without(values, {PRIVATE}), without(private, {SUBRS}), subroutines)


def private_body(font_dict: FontDict, *, wide_count: bool = False) -> tuple[int, bytes]:
    """The size of the Private DICT, and it with its subroutines behind it."""
    private = write_dict(font_dict.private)
    if not font_dict.subroutines:
        return len(private), private
    size = len(private)
    while len(text := write_dict(font_dict.private | {SUBRS: (size,)})) != size:
        size = len(text)
    return size, text + write_index(font_dict.subroutines, wide_count=wide_count)


def read_select(reader: Reader, glyphs: int) -> list[int]:
    """FDSelect: the font dictionary of each glyph (section 19; OpenType 1.9.1, 'CFF2', "FDSelect")."""
    start, select_format = reader.position, reader.u8()
    if select_format == 0:
        return list(reader.take(glyphs, "font dictionaries"))
    if select_format == 3:
        records = [(reader.u16(), reader.u8()) for _ in range(reader.u16())]
        ends = [first for first, _ in records[1:]] + [reader.u16()]
    elif select_format == 4:
        count = reader.u32()
        if 6 * count > reader.remaining:
            raise FontError("the ranges of FDSelect run past its end", offset=start)
        records = [(reader.u32(), reader.u16()) for _ in range(count)]
        ends = [first for first, _ in records[1:]] + [reader.u32()]
    else:
        raise FontError(f"an FDSelect of format {select_format}; only 0, 3 and 4 exist", offset=start)
    select: list[int] = []
    position = 0
    for (first, dict_index), end in zip(records, ends, strict=True):
        if first != position or end < first:
            raise FontError("the ranges of FDSelect do not follow one another", offset=start)
        position = end
        select += [dict_index] * (min(end, glyphs) - min(first, glyphs))
    if len(select) < glyphs:
        raise FontError(f"FDSelect covers {len(select)} glyphs, but there are {glyphs}", offset=start)
    return select[:glyphs]


def write_select(select: Sequence[int]) -> bytes:
    """FDSelect in the smaller of formats 0 and 3."""
    array = np.array(select, np.uint8)
    starts = np.flatnonzero(np.concatenate(([True], array[1:] != array[:-1])))
    if 3 * len(starts) + 4 >= len(select):
        return b"\0" + array.tobytes()
    ranges = b"".join(start.to_bytes(2, "big") + bytes((select[start],)) for start in starts.tolist())
    return b"\3" + len(starts).to_bytes(2, "big") + ranges + len(select).to_bytes(2, "big")
