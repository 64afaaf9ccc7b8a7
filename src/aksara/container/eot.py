"""EOT: a TTF behind a header, which Internet Explorer 6 to 8 take (W3C member submission "Embedded OpenType (EOT) File
Format", version 0x00020001, neither compressed nor encrypted)."""

from __future__ import annotations

import struct
from collections.abc import Mapping

from aksara.container import sfnt
from aksara.container.decompression import Tables
from aksara.errors import FontError, UnsupportedFont

_VERSION, _MAGIC = 0x00020001, 0x504C
#: The header up to the names: sizes, version, flags, PANOSE, charset, slant, weight, permission, magic, ranges, sum.
_HEAD = struct.Struct("<4I10sBBIHH4I2II4IH")
_AT_MAGIC = 34
_CHARSET_OF_ANY_KIND = 1
_COMPRESSED, _ENCRYPTED = 0x4, 0x10000000
#: The names that the header repeats: family, style, version, full name.
_NAMES = (1, 2, 5, 4)
_WINDOWS, _ENGLISH = 3, 0x409


def is_eot(data: bytes) -> bool:
    """Whether a file is one, by its magic number."""
    return data[_AT_MAGIC : _AT_MAGIC + 2] == _MAGIC.to_bytes(2, "little") and data[8:12] in (
        b"\x00\x00\x01\x00", b"\x01\x00\x02\x00", b"\x02\x00\x02\x00",
    )  # fmt: skip


def write(tables: Mapping[str, bytes], flavour: str) -> bytes:
    """Write the file. Its header repeats what the font's tables say."""
    font = sfnt.write(tables, flavour)
    os2, names = tables["OS/2"], _names(tables.get("name", b""))
    weight, permission = struct.unpack_from(">H", os2, 4)[0], struct.unpack_from(">H", os2, 8)[0]
    ranges, selection = struct.unpack_from(">4I", os2, 42), struct.unpack_from(">H", os2, 62)[0]
    pages = struct.unpack_from(">2I", os2, 78) if len(os2) >= 86 else (0, 0)
    (adjustment,) = struct.unpack_from(">I", sfnt.read(font)[1]["head"], 8)
    body = b"".join(len(name).to_bytes(2, "little") + name + bytes(2) for name in names)
    # The root string, which would name the sites that may use it, is empty: any may.
    body += bytes(2)
    size = _HEAD.size + len(body) + len(font)
    head = _HEAD.pack(
        size, len(font), _VERSION, 0, os2[32:42], _CHARSET_OF_ANY_KIND, selection & 1, weight, permission, _MAGIC,
        *ranges, *pages, adjustment, 0, 0, 0, 0, 0,
    )  # fmt: skip
    return head + body + font


def read(data: bytes) -> tuple[str, Tables]:
    """The flavour and tables of the font in it. Raises `FontError` for a damaged one, `UnsupportedFont` for one that is
    compressed or encrypted."""
    if len(data) < _HEAD.size:
        raise FontError("an EOT that is cut short", offset=0)
    size, font_size, _, flags = struct.unpack_from("<4I", data)
    if flags & (_COMPRESSED | _ENCRYPTED):
        raise UnsupportedFont("an EOT that is compressed or encrypted; ask its maker for TTF or OTF")
    if size != len(data) or font_size > len(data) - _HEAD.size:
        raise FontError("an EOT whose sizes are not what it says", offset=0)
    return sfnt.read(data[len(data) - font_size :])


def _names(table: bytes) -> list[bytes]:
    """The names as the header has them, in UTF-16 little-endian; empty where the font has none."""
    texts: dict[int, bytes] = {}
    count, start = (struct.unpack_from(">HH", table, 2)) if len(table) >= 6 else (0, 0)
    for index in range(count):
        platform, _, language, name_id, size, offset = struct.unpack_from(">6H", table, 6 + 12 * index)
        if platform == _WINDOWS and (language == _ENGLISH or name_id not in texts):
            texts[name_id] = table[start + offset : start + offset + size]
    return [texts.get(name_id, b"").decode("utf-16-be", "replace").encode("utf-16-le") for name_id in _NAMES]
