"""The sfnt container: a directory and its tables (OpenType 1.9.1, "Organization of an OpenType font")."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from aksara.binary import Reader, checksum, pad4
from aksara.container.decompression import Tables, check_collection, check_count, check_size
from aksara.errors import BeyondBounds, FontError
from aksara.limits import MAX_COLLECTION
from aksara.records import FixedRecord

FLAVOURS = (b"\x00\x01\x00\x00", b"OTTO", b"true")

_CHECKSUM_MAGIC = 0xB1B0AFBA
_ADJUSTMENT_OFFSET = 8  # of checkSumAdjustment in 'head'


class _Header(FixedRecord, frozen=True):
    """The table directory's own fields: the flavour, and the parameters of a binary search over its records."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">4sHHHH")

    flavour: bytes
    table_count: int
    search_range: int
    entry_selector: int
    range_shift: int

    @classmethod
    def of(cls, flavour: str, count: int) -> _Header:
        selector = max(count.bit_length() - 1, 0)
        search = 16 << selector
        return cls(flavour.encode("latin-1"), count, search, selector, 16 * count - search)


class TableRecord(FixedRecord, frozen=True):
    """Where a table lies, and the checksum over it."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">4sIII")

    tag_bytes: bytes
    checksum: int
    offset: int
    length: int

    @property
    def tag(self) -> str:
        """The tag; bytes outside ASCII are kept apart as Latin-1."""
        return self.tag_bytes.decode("latin-1")


def read_collection(data: bytes) -> list[tuple[str, Tables]]:
    """The fonts of a TTC or OTC, which share tables ("Font collections")."""
    reader = Reader(data, 8)
    count = reader.u32()
    if not count:
        raise FontError("its header says that it holds no fonts", offset=8)
    if count > MAX_COLLECTION:
        raise BeyondBounds(f"its header claims {count:,} fonts", offset=8)
    shared: dict[tuple[int, int], bytes] = {}
    fonts = [read(data, offset, shared) for offset in reader.array(np.uint32, count, "offsets of fonts").tolist()]
    if count > 1:
        check_collection(count, sum(len(table) for _, tables in fonts for table in tables.values()), len(data))
    return fonts


def read(data: bytes, start: int = 0, shared: dict[tuple[int, int], bytes] | None = None) -> tuple[str, Tables]:
    """The flavour and the tables of the font whose directory is at `start`.

    `shared` are tables that were read already, by offset and length. Checksums and order are not believed, nor needed:
    real fonts have them wrong.
    """
    known = {} if shared is None else shared
    reader = Reader(data, start)
    flavour = reader.tag()
    count = reader.u16()
    check_count(count, start + 4)
    reader.position = start + _Header.LAYOUT.size
    tables: Tables = {}
    total = 0
    for record in [TableRecord.read(reader, "a table record") for _ in range(count)]:
        end = record.offset + record.length
        if end > len(data):
            raise FontError(
                f"table '{record.tag}' should lie at {record.offset}-{end}, but the file ends at {len(data)}",
                offset=start + _Header.LAYOUT.size,
            )
        if record.tag in tables:
            continue  # Browsers take the first of two entries with one tag.
        total += record.length
        check_size(total, len(data))
        extent = record.offset, record.length
        if extent not in known:
            known[extent] = data[record.offset : end]
        tables[record.tag] = known[extent]
    return flavour, tables


def directory(data: bytes) -> list[TableRecord]:
    """The table records of a file that `write` made."""
    reader = Reader(data)
    header = _Header.read(reader, "the table directory")
    return [TableRecord.read(reader, "a table record") for _ in range(header.table_count)]


def write(tables: Mapping[str, bytes], flavour: str) -> bytes:
    """The font file: tables in order of tag, padded with zeros, with true checksums."""
    tags = sorted(tables, key=lambda tag: tag.encode("latin-1"))
    contents = {tag: tables[tag] for tag in tags}
    if "head" in contents:
        contents["head"] = without_checksum(contents["head"])
    head = _Header.of(flavour, len(tags)).compile()
    body = []
    offset = len(head) + TableRecord.LAYOUT.size * len(tags)
    for tag in tags:
        table = contents[tag]
        head += TableRecord(tag.encode("latin-1"), checksum(table), offset, len(table)).compile()
        body.append(pad4(table))
        offset += len(body[-1])
    if "head" in contents:
        sums = checksum(head) + sum(checksum(table) for table in body)
        adjusted = _with_adjustment(contents["head"], _CHECKSUM_MAGIC - sums & 0xFFFFFFFF)
        body[tags.index("head")] = pad4(adjusted)
    return b"".join((head, *body))


def without_checksum(head: bytes) -> bytes:
    """'head' with its checkSumAdjustment field 0, as it is while sums are taken."""
    return _with_adjustment(head, 0)


def _with_adjustment(head: bytes, adjustment: int) -> bytes:
    return head[:_ADJUSTMENT_OFFSET] + adjustment.to_bytes(4, "big") + head[_ADJUSTMENT_OFFSET + 4 :]


def size_of(tables: Mapping[str, bytes]) -> int:
    """Bytes of the font file that `write` would make."""
    records = sum(TableRecord.LAYOUT.size + len(table) + -len(table) % 4 for table in tables.values())
    return _Header.LAYOUT.size + records
