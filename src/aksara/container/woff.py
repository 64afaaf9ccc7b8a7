"""WOFF 1.0: the sfnt's tables, each compressed with zlib (W3C, "WOFF File Format 1.0")."""

from __future__ import annotations

import struct
from collections.abc import Callable, Mapping
from typing import ClassVar

from aksara.binary import Reader, pad4
from aksara.container import sfnt
from aksara.container.decompression import Tables, check_count, check_size, inflate, metadata_block, with_block
from aksara.errors import FontError, located
from aksara.records import FixedRecord

_SIGNATURE = b"wOFF"
_METADATA_OFFSET = 24  # of the header's fields about metadata
#: libdeflate's levels: the last, and the last of those that take what they find first.
_HARDEST, _HARDEST_GREEDY = 12, 9


class _Header(FixedRecord, frozen=True, kw_only=True):
    """Section 3."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">4s4sIHHIHHIIIII")

    signature: bytes
    flavour: bytes
    length: int
    table_count: int
    reserved: int = 0
    sfnt_size: int
    major_version: int
    minor_version: int
    metadata_offset: int = 0
    metadata_length: int = 0
    metadata_size: int = 0
    private_offset: int = 0
    private_length: int = 0


class _TableEntry(FixedRecord, frozen=True):
    """Section 4: where a table lies, its size compressed and not, and the checksum of the original."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">4sIIII")

    tag_bytes: bytes
    offset: int
    compressed_size: int
    size: int
    checksum: int


def read(data: bytes) -> tuple[str, Tables, bytes]:
    """The flavour, the decompressed tables and metadata; a private block is ignored."""
    reader = Reader(data)
    header = _Header.read(reader, "the header of a WOFF")
    if header.length != len(data):
        raise FontError(f"its header says {header.length} bytes, but it has {len(data)}", offset=8)
    check_count(header.table_count, 12)
    tables: Tables = {}
    total = 0
    for entry in [_TableEntry.read(reader, "a table's entry") for _ in range(header.table_count)]:
        tag = entry.tag_bytes.decode("latin-1")
        total += entry.size
        check_size(total, len(data))
        if entry.compressed_size > entry.size:
            raise FontError(f"table '{tag}' is larger compressed than not", offset=_Header.LAYOUT.size)
        stored = reader.at(entry.offset).take(entry.compressed_size, f"table '{tag}'")
        if tag not in tables:
            with located(table=tag):
                tables[tag] = stored if entry.compressed_size == entry.size else inflate(stored, entry.size)
    metadata = header.metadata_offset, header.metadata_length, header.metadata_size
    return header.flavour.decode("latin-1"), tables, metadata_block(data, metadata, inflate)


def deflate(table: bytes) -> bytes:
    """zlib's format, as small as an exact search of moderate length makes it: 4 % smaller than zlib's own best."""
    from deflate import zlib_compress  # only WOFF needs it

    return bytes(zlib_compress(table, _HARDEST))


def deflate_fast(table: bytes) -> bytes:
    """zlib's format in a third of the time; 2 % smaller than zlib's own best."""
    from deflate import zlib_compress

    return bytes(zlib_compress(table, _HARDEST_GREEDY))


def write(tables: Mapping[str, bytes], flavour: str, compress: Callable[[bytes], bytes] = deflate) -> bytes:
    """The WOFF file; a table that `compress` does not make smaller is stored as it is (section 5)."""
    # The checksums are those of the sfnt that a reader will rebuild.
    whole = sfnt.write(tables, flavour)
    entries, body = b"", []
    offset = _Header.LAYOUT.size + _TableEntry.LAYOUT.size * len(tables)
    for record in sfnt.directory(whole):
        table = whole[record.offset : record.offset + record.length]
        stored = min(compress(table), table, key=len)
        if len(stored) == len(table):
            stored = table
        entries += _TableEntry(record.tag_bytes, offset, len(stored), len(table), record.checksum).compile()
        body.append(pad4(stored))
        offset += len(body[-1])
    major, minor = struct.unpack(">HH", tables.get("head", bytes(8))[4:8])  # the font's own revision
    header = _Header(
        signature=_SIGNATURE,
        flavour=flavour.encode("latin-1"),
        length=offset,
        table_count=len(tables),
        sfnt_size=len(whole),
        major_version=major,
        minor_version=minor,
    )
    return b"".join((header.compile(), entries, *body))


def add_metadata(data: bytes, metadata: bytes) -> bytes:
    """A file that `write` made, with an extended metadata block."""
    return with_block(data, deflate(metadata), len(metadata), _METADATA_OFFSET)
