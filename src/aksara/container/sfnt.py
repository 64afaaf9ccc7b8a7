"""The sfnt container: a directory and its tables (OpenType spec, "Organization of an OpenType font")."""

from __future__ import annotations

import struct
from collections.abc import Mapping

import numpy as np

from aksara.binary import Reader, checksum, pad4
from aksara.container.limits import MAX_MEMBERS, MAX_TABLES, Tables, check_size
from aksara.errors import FontError

FLAVOURS = (b"\x00\x01\x00\x00", b"OTTO", b"true")

_HEADER = struct.Struct(">4sHHHH")
_ENTRY = struct.Struct(">4sIII")
_CHECKSUM_MAGIC = 0xB1B0AFBA
_ADJUSTMENT_AT = 8  # offset of checkSumAdjustment in 'head'


def read_collection(data: bytes) -> list[tuple[str, Tables]]:
    """The fonts of a TTC or OTC, which share tables ("Font collections")."""
    reader = Reader(data, 8)
    count = reader.u32()
    if not 0 < count <= MAX_MEMBERS:
        raise FontError(f"its header claims {count} fonts", offset=8)
    return [read(data, offset) for offset in reader.array(np.uint32, count, "offsets of fonts").tolist()]


def read(data: bytes, start: int = 0) -> tuple[str, Tables]:
    """The flavour and the tables of the font whose directory is at `start`.

    Checksums and order are not believed, nor needed: real fonts have them wrong.
    """
    reader = Reader(data, start)
    flavour = reader.tag()
    count = reader.u16()
    if count > MAX_TABLES:
        raise FontError(f"its directory claims {count} tables", offset=start + 4)
    reader.position = start + _HEADER.size
    tables: Tables = {}
    total = 0
    for _ in range(count):
        tag, _sum, offset, length = reader.tag(), reader.u32(), reader.u32(), reader.u32()
        if offset + length > len(data):
            # Padding that was cut off the last table is no loss; anything more is.
            raise FontError(
                f"table '{tag}' should lie at {offset}-{offset + length}, but the file ends at {len(data)}",
                offset=reader.position - _ENTRY.size,
            )
        if tag in tables:
            continue  # Browsers take the first of two entries with one tag.
        total += length
        check_size(total, "its directory")
        tables[tag] = data[offset : offset + length]
    return flavour, tables


def write(tables: Mapping[str, bytes], flavour: str) -> bytes:
    """The font file: tables in order of tag, padded with zeros, with true checksums."""
    tags = sorted(tables, key=lambda tag: tag.encode("latin-1"))
    contents = {tag: tables[tag] for tag in tags}
    if "head" in contents:
        contents["head"] = with_adjustment(contents["head"], 0)
    header = _header(flavour, len(tags))
    directory, body = b"", []
    offset = len(header) + _ENTRY.size * len(tags)
    for tag in tags:
        table = contents[tag]
        directory += _ENTRY.pack(tag.encode("latin-1"), checksum(table), offset, len(table))
        body.append(pad4(table))
        offset += len(body[-1])
    if "head" in contents:
        sums = checksum(header + directory) + sum(checksum(table) for table in body)
        adjusted = with_adjustment(contents["head"], _CHECKSUM_MAGIC - sums & 0xFFFFFFFF)
        body[tags.index("head")] = pad4(adjusted)
    return b"".join((header, directory, *body))


def with_adjustment(head: bytes, adjustment: int) -> bytes:
    """'head' with its checkSumAdjustment field replaced; 0 while sums are taken."""
    return head[:_ADJUSTMENT_AT] + adjustment.to_bytes(4, "big") + head[_ADJUSTMENT_AT + 4 :]


def size_of(tables: Mapping[str, bytes]) -> int:
    """Bytes of the font file that `write` would make."""
    return _HEADER.size + sum(_ENTRY.size + len(table) + -len(table) % 4 for table in tables.values())


def _header(flavour: str, count: int) -> bytes:
    power = max(count.bit_length() - 1, 0)
    search = 16 << power
    return _HEADER.pack(flavour.encode("latin-1"), count, search, power, 16 * count - search)
