"""WOFF2 table directory and its variable-length integers (WOFF2, "Table directory format", "Data types")."""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import FontError

# "Known table tags" of the specification: a tag's index in this list is its code.
KNOWN_TAGS = (
    "cmap head hhea hmtx maxp name OS/2 post cvt_ fpgm glyf loca prep CFF_ VORG EBDT EBLC gasp hdmx kern LTSH PCLT "
    "VDMX vhea vmtx BASE GDEF GPOS GSUB EBSC JSTF MATH CBDT CBLC COLR CPAL SVG_ sbix acnt avar bdat bloc bsln cvar "
    "fdsc feat fmtx fvar gvar hsty just lcar mort morx opbd prop trak Zapf Silf Glat Gloc Feat Sill"
).replace("_", " ")
_TAGS = [KNOWN_TAGS[i : i + 4] for i in range(0, len(KNOWN_TAGS), 5)]
_CODES = {tag: code for code, tag in enumerate(_TAGS)}
_ARBITRARY = 63

#: The transform number that means "none", where that is not 0.
NO_TRANSFORM = {"glyf": 3, "loca": 3}


class Entry(Struct, frozen=True):
    """One table: its transform number, its size, and the bytes that it takes in the stream."""

    tag: str
    transform: int
    size: int
    stored_size: int

    @property
    def transformed(self) -> bool:
        """Whether the table is stored transformed."""
        return self.transform != NO_TRANSFORM.get(self.tag, 0)


def read_entry(reader: Reader) -> Entry:
    """The entry at the cursor (section 4.1)."""
    start = reader.position
    flags = reader.u8()
    code = flags & 0x3F
    tag = reader.tag() if code == _ARBITRARY else _TAGS[code]
    size = stored = read_base128(reader)
    entry = Entry(tag, flags >> 6, size, stored)
    if entry.transformed:
        stored = read_base128(reader)
        if tag == "loca" and stored:
            raise FontError("a transformed 'loca' must take no bytes", offset=start)
    return Entry(tag, entry.transform, size, stored)


def write_entry(entry: Entry) -> bytes:
    """The entry's bytes."""
    code = _CODES.get(entry.tag, _ARBITRARY)
    out = bytes((entry.transform << 6 | code,))
    if code == _ARBITRARY:
        out += entry.tag.encode("latin-1")
    out += base128(entry.size)
    return out + base128(entry.stored_size) if entry.transformed else out


def read_base128(reader: Reader) -> int:
    """UIntBase128: at most five bytes, no leading zeros, fits 32 bits."""
    start, value = reader.position, 0
    for index in range(5):
        byte = reader.u8()
        if index == 0 and byte == 0x80:
            raise FontError("a variable-length number starts with zeros", offset=start)
        value = value << 7 | byte & 0x7F
        if value > 0xFFFFFFFF:
            break
        if not byte & 0x80:
            return value
    raise FontError("a variable-length number does not fit 32 bits", offset=start)


def base128(value: int) -> bytes:
    """UIntBase128 in the fewest bytes."""
    out = [value & 0x7F]
    while value := value >> 7:
        out.append(value & 0x7F | 0x80)
    return bytes(reversed(out))


# 255UInt16: one byte below 253, else a code and one or two more.
_WORD, _PLUS_253, _PLUS_506 = 253, 255, 254
#: Below it a 255UInt16 is a byte.
FIRST_CODE = _WORD


def encode_255(values: NDArray[np.int64]) -> tuple[bytes, NDArray[np.int64]]:
    """All values as 255UInt16 in the shortest form, and the bytes that each takes."""
    sizes = np.where(values < 253, 1, np.where(values < 762, 2, 3)).astype(np.int64)
    out = np.zeros(int(sizes.sum()), np.uint8)
    starts = np.cumsum(sizes) - sizes
    one, two, three = sizes == 1, sizes == 2, sizes == 3
    out[starts[one]] = values[one]
    out[starts[two]] = np.where(values[two] < 506, _PLUS_253, _PLUS_506)
    out[starts[two] + 1] = values[two] - np.where(values[two] < 506, 253, 506)
    out[starts[three]] = _WORD
    out[starts[three] + 1] = values[three] >> 8
    out[starts[three] + 2] = values[three] & 0xFF
    return out.tobytes(), sizes


def read_255(reader: Reader) -> int:
    """255UInt16, in whichever of its forms."""
    first = reader.u8()
    if first == _WORD:
        return reader.u16()
    if first == _PLUS_253:
        return 253 + reader.u8()
    if first == _PLUS_506:
        return 506 + reader.u8()
    return first
