"""WOFF 1.0: the sfnt's tables, each packed with zlib (W3C, "WOFF File Format 1.0")."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Callable, Mapping

from aksara.binary import Reader, pad4
from aksara.container import sfnt
from aksara.container.limits import MAX_TABLES, Tables, check_size, inflate, metadata_block, with_block
from aksara.errors import FontError, located

_HEADER = struct.Struct(">4s4sIHHIHHIIIII")
_ENTRY = struct.Struct(">4sIIII")
_METADATA_AT = 24
_ITERATIONS = 15


def read(data: bytes) -> tuple[str, Tables, bytes]:
    """The flavour, the unpacked tables and metadata; a private block is passed over."""
    reader = Reader(data, 4)
    flavour, length, count = reader.tag(), reader.u32(), reader.u16()
    if length != len(data):
        raise FontError(f"its header says {length} bytes, but it has {len(data)}", offset=8)
    if count > MAX_TABLES:
        raise FontError(f"its directory claims {count} tables", offset=12)
    reader.position = _METADATA_AT
    metadata = reader.u32(), reader.u32(), reader.u32()
    reader.position = _HEADER.size
    tables: Tables = {}
    total = 0
    for _ in range(count):
        tag, offset, packed_size, size = reader.tag(), reader.u32(), reader.u32(), reader.u32()
        reader.u32()  # checksum of the unpacked table
        total += size
        check_size(total, "its directory")
        if packed_size > size:
            raise FontError(f"table '{tag}' is larger packed than unpacked", offset=reader.position - 20)
        packed = reader.at(offset).take(packed_size, f"table '{tag}'")
        if tag not in tables:
            with located(table=tag):
                tables[tag] = packed if packed_size == size else inflate(packed, size)
    return flavour, tables, metadata_block(data, metadata, inflate)


def press(table: bytes) -> bytes:
    """zlib at its best."""
    return zlib.compress(table, 9)


def press_hard(table: bytes) -> bytes:
    """zlib's format as small as a long search makes it."""
    from zopfli.zlib import compress  # only needed here, and not by everybody

    packed: bytes = compress(table, numiterations=_ITERATIONS)
    return min(packed, press(table), key=len)


def write(tables: Mapping[str, bytes], flavour: str, press: Callable[[bytes], bytes] = press) -> bytes:
    """The WOFF file; a table that `press` does not make smaller is stored as it is (section 5)."""
    # The checksums are those of the sfnt that a reader will rebuild.
    whole = sfnt.write(tables, flavour)
    directory = Reader(whole, 12)
    entries, body = b"", []
    offset = _HEADER.size + _ENTRY.size * len(tables)
    for _ in range(len(tables)):
        tag, check, start, size = directory.tag(), directory.u32(), directory.u32(), directory.u32()
        table = whole[start : start + size]
        packed = press(table)
        if len(packed) >= size:
            packed = table
        entries += _ENTRY.pack(tag.encode("latin-1"), offset, len(packed), size, check)
        body.append(pad4(packed))
        offset += len(body[-1])
    header = _HEADER.pack(
        b"wOFF",
        flavour.encode("latin-1"),
        offset,
        len(tables),
        0,
        len(whole),
        *_font_revision(tables),
        *(0, 0, 0, 0, 0),
    )
    return b"".join((header, entries, *body))


def add_metadata(data: bytes, metadata: bytes) -> bytes:
    """A file that `write` made, with an extended metadata block."""
    packed = zlib.compress(metadata, 9)
    return with_block(data, packed, len(metadata), _METADATA_AT)


def _font_revision(tables: Mapping[str, bytes]) -> tuple[int, int]:
    """Major and minor version of the WOFF file: the font's own revision, as in 'head'."""
    head = tables.get("head", b"")
    return (int.from_bytes(head[4:6], "big"), int.from_bytes(head[6:8], "big"))
