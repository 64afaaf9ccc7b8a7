"""WOFF 2.0: transformed tables in one brotli stream (W3C, "WOFF File Format 2.0")."""

from __future__ import annotations

import struct
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import ClassVar

import brotli

from aksara.binary import Reader
from aksara.container import sfnt
from aksara.container.decompression import (
    Tables,
    check_collection,
    check_count,
    check_size,
    metadata_block,
    unbrotli,
    with_block,
)
from aksara.container.woff2 import glyf, hmtx
from aksara.container.woff2.directory import NO_TRANSFORM, Entry, read_255, read_entry, write_entry
from aksara.errors import BeyondBounds, FontError, located
from aksara.limits import MAX_COLLECTION
from aksara.records import FixedRecord

_SIGNATURE = b"wOF2"
_METADATA_OFFSET = 28  # of the header's fields about metadata
#: What comes first in the stream: PostScript outlines, which take 0.2 % less there.
_LEAD = ("CFF ",)
#: What else may, so that like stands by like: all by tag, outlines, or all that is not layout.
_LEADS = ((), ("glyf", "CFF "), ("fpgm", "glyf", "prep"), ("CFF ", "cmap", "glyf", "head", "hhea", "hmtx"))
#: Bits of the window of a brotli stream (RFC 7932, section 9.1).
_SMALLEST_WINDOW, _COMMON_WINDOW, _LARGEST_WINDOW = 10, 21, 24
_LOSSLESS = 0x0800  # bit 11 of head.flags: the font went through a lossless transform

Stored = tuple[Entry, bytes]
#: A rebuilt 'glyf', its 'loca', and the format of that.
_Outlines = tuple[bytes, bytes, int]


class _Header(FixedRecord, frozen=True, kw_only=True):
    """Section 4."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">4s4sIHHIIHHIIIII")

    signature: bytes
    flavour: bytes
    length: int
    table_count: int
    reserved: int = 0
    sfnt_size: int
    compressed_size: int
    major_version: int
    minor_version: int
    metadata_offset: int = 0
    metadata_length: int = 0
    metadata_size: int = 0
    private_offset: int = 0
    private_length: int = 0


def read(data: bytes) -> tuple[list[tuple[str, Tables]], bytes]:
    """Flavour and tables, with transforms undone, of the one font or of each in a collection; and the metadata.

    Every length is a claim that is checked.
    """
    reader = Reader(data)
    header = _Header.read(reader, "the header of a WOFF2")
    flavour, count = header.flavour.decode("latin-1"), header.table_count
    if header.length != len(data):
        raise FontError(f"its header says {header.length} bytes, but it has {len(data)}", offset=8)
    check_count(count, 12)
    entries = [read_entry(reader) for _ in range(count)]
    members = _read_members(reader, count) if flavour == "ttcf" else [(flavour, list(range(count)))]
    total = sum(entry.stored_size for entry in entries)
    check_size(max(total, sum(entry.size for entry in entries)), len(data))
    if len(members) > 1:
        claimed = sum(entries[index].size for _, indices in members for index in indices)
        check_collection(len(members), claimed, len(data))
    stream = unbrotli(reader.take(header.compressed_size, "the compressed tables"), total)
    stored: list[Stored] = []
    position = 0
    for entry in entries:
        stored.append((entry, stream[position : position + entry.stored_size]))
        position += entry.stored_size
    del stream  # the tables are copies of its parts, and rebuilding outlines takes room
    rebuilt: dict[bytes, _Outlines] = {}
    fonts = [(directory, _rebuild(_by_tag(stored, indices), rebuilt)) for directory, indices in members]
    metadata = header.metadata_offset, header.metadata_length, header.metadata_size
    return fonts, metadata_block(data, metadata, unbrotli)


def _read_members(reader: Reader, count: int) -> list[tuple[str, list[int]]]:
    """The collection directory (section 4.2): flavour of each font, and indices into the table directory."""
    start = reader.position
    reader.u32()
    members = []
    for _ in range(read_255(reader)):
        size = read_255(reader)
        flavour = reader.tag()
        indices = [read_255(reader) for _ in range(size)]
        if any(index >= count for index in indices):
            raise FontError("a font of the collection has a table that is not in the directory", offset=start)
        members.append((flavour, indices))
        if len(members) > MAX_COLLECTION:
            raise BeyondBounds("its directory claims more fonts than any real collection has", offset=start)
    if not members:
        raise FontError("the collection holds no font", offset=start)
    return members


def _by_tag(stored: Sequence[Stored], indices: Sequence[int]) -> dict[str, Stored]:
    by_tag: dict[str, Stored] = {}
    for index in indices:
        tag = stored[index][0].tag
        if tag in by_tag:
            raise FontError(f"its directory lists table '{tag}' twice")
        by_tag[tag] = stored[index]
    return by_tag


def _rebuild(stored: Mapping[str, Stored], rebuilt: dict[bytes, _Outlines]) -> Tables:
    """The tables with their transforms undone. `rebuilt` are outlines that were rebuilt already, by their
    transformed 'glyf', which fonts of a collection share."""
    tables = {tag: data for tag, (entry, data) in stored.items() if not entry.transformed}
    pending = [tag for tag in stored if tag not in tables]
    if any(tag in ("glyf", "loca") for tag in pending):
        if "glyf" not in pending or "loca" not in pending:
            raise FontError("only one of 'glyf' and 'loca' is transformed")
        with located(table="glyf"):
            transformed = stored["glyf"][1]
            if transformed not in rebuilt:
                rebuilt[transformed] = glyf.rebuild(transformed)
            tables["glyf"], tables["loca"], index_format = rebuilt[transformed]
            if "head" in tables:
                tables["head"] = glyf.with_index_format(tables["head"], index_format)
    if "hmtx" in pending:
        with located(table="hmtx"):
            tables["hmtx"] = hmtx.rebuild(stored["hmtx"][1], tables)
    if len(tables) != len(stored):
        unknown = next(tag for tag in stored if tag not in tables)
        raise FontError(f"table '{unknown}' has a transform that WOFF2 does not define")
    return {tag: tables[tag] for tag in stored}


def write(tables: Mapping[str, bytes], flavour: str, quality: int = 11, *, search: bool = False) -> bytes:
    """The WOFF2 file: 'glyf', 'loca' and 'hmtx' transformed where that loses nothing.

    `quality` is brotli's, 0 to 11. With `search` several orders of the tables are tried.
    """
    contents = {tag: data for tag, data in tables.items() if tag != "DSIG"}  # section 5: signatures do not survive
    contents["head"] = mark_lossless(contents["head"])
    if "glyf" in contents and "loca" in contents:
        contents = glyf.aligned(contents)
    final_size = sfnt.size_of(contents)
    transformed: dict[str, bytes] = {}
    if "glyf" in contents and "loca" in contents:
        transformed["glyf"], boxes = glyf.transform(contents)
        transformed["loca"] = b""
        if (side_bearings := hmtx.transform(contents, boxes)) is not None:
            transformed["hmtx"] = side_bearings
    # The head's adjustment must be right for the sfnt that a reader rebuilds; readers recompute it,
    # so the constant 0 is as good and compresses better.
    contents["head"] = sfnt.without_checksum(contents["head"])

    stored = {tag: transformed.get(tag, data) for tag, data in contents.items()}
    sizes = {tag: len(data) for tag, data in contents.items()}
    del contents  # compression takes room
    order, stream = _compressed(stored, quality, search=search)
    entries = b""
    for tag in order:
        transform = NO_TRANSFORM.get(tag, 0)
        if tag in transformed:
            transform = 1 if tag == "hmtx" else 0
        entries += write_entry(Entry(tag, transform, sizes[tag], len(stored[tag])))
    # Readers want the compressed tables to end at a multiple of four bytes, also where nothing follows.
    end = _Header.LAYOUT.size + len(entries) + len(stream)
    end += -end % 4
    major, minor = struct.unpack(">HH", stored["head"][4:8])  # the font's own revision
    header = _Header(
        signature=_SIGNATURE,
        flavour=flavour.encode("latin-1"),
        length=end,
        table_count=len(sizes),
        sfnt_size=final_size,
        compressed_size=len(stream),
        major_version=major,
        minor_version=minor,
    )
    return bytes(header.compile() + entries + stream).ljust(end, b"\0")


def add_metadata(data: bytes, metadata: bytes) -> bytes:
    """A file that `write` made, with an extended metadata block."""
    return with_block(data, _compressed_metadata(metadata), len(metadata), _METADATA_OFFSET)


@lru_cache(maxsize=8)
def _compressed_metadata(metadata: bytes) -> bytes:
    """All slices of a face have the same."""
    compressed: bytes = brotli.compress(metadata, mode=brotli.MODE_TEXT, quality=11)
    return compressed


def mark_lossless(head: bytes) -> bytes:
    """'head' with bit 11 of its flags set, as section 5 asks of an encoder that transforms."""
    flags = int.from_bytes(head[16:18], "big") | _LOSSLESS
    return head[:16] + flags.to_bytes(2, "big") + head[18:]


def _compressed(stored: Mapping[str, bytes], quality: int, *, search: bool) -> tuple[list[str], bytes]:
    """The order of the tables and their stream; of several orders the one that compresses best."""
    orders = [_order(stored, _LEAD)]
    if search:
        orders += [order for lead in _LEADS if (order := _order(stored, lead)) not in orders]
    modes = (brotli.MODE_FONT, brotli.MODE_GENERIC) if search else (brotli.MODE_FONT,)
    best: tuple[list[str], bytes] | None = None
    for order in orders:
        for mode in modes:
            window = _window(sum(map(len, stored.values())), spare=not search)
            compressor = brotli.Compressor(mode=mode, quality=quality, lgwin=window)
            stream = b"".join([*(compressor.process(stored[tag]) for tag in order), compressor.finish()])
            if best is None or len(stream) < len(best[1]):
                best = order, stream
    assert best is not None
    return best


def _window(size: int, *, spare: bool) -> int:
    """The smallest window that reaches back over this many bytes; a larger one would only take memory.

    To spare memory, of which each of its bytes takes eight, the window of a large font reaches back over half of it at
    least: two such fonts, of 3 and 5 MB, take 0.03 % more and 0.04 % less.
    """
    bits = max(size.bit_length(), _SMALLEST_WINDOW)
    return min(bits - (spare and bits > _COMMON_WINDOW), _LARGEST_WINDOW)


def _order(tables: Mapping[str, bytes], lead: tuple[str, ...]) -> list[str]:
    """Order of tables in the stream: `lead` first, the others by tag, but 'loca' right behind 'glyf' (section 5.3)."""
    tags = sorted((tag for tag in tables if tag != "loca"), key=lambda tag: (tag not in lead, tag))
    if "loca" in tables:
        tags.insert(tags.index("glyf") + 1 if "glyf" in tags else 0, "loca")
    return tags
