"""What no font may exceed. Checked against claims before anything is allocated."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Callable

import brotli

from aksara.errors import FontError

Tables = dict[str, bytes]

#: Unpacked bytes of one font. The largest real ones (complete CJK fonts) stay under 70 MB.
MAX_FONT_SIZE = 160_000_000
#: Tables of one font; the OpenType registry has fewer than 100 tags.
MAX_TABLES = 512
#: Fonts of one collection; real ones have up to 72.
MAX_MEMBERS = 256


#: Unpacked bytes of the extended metadata.
MAX_METADATA = 1_000_000


def metadata_block(data: bytes, fields: tuple[int, int, int], unpack: Callable[[bytes, int], bytes]) -> bytes:
    """The unpacked metadata of a WOFF or WOFF2 file; `fields` are its offset, length and unpacked length.

    Damaged metadata is no fault of the font (WOFF, "Extended metadata block"): it counts as none.
    """
    offset, length, size = fields
    if not offset or not length or size > MAX_METADATA or offset + length > len(data):
        return b""
    try:
        return unpack(data[offset : offset + length], size)
    except FontError:
        return b""


def with_block(data: bytes, packed: bytes, size: int, fields_at: int) -> bytes:
    """A WOFF or WOFF2 file with the packed metadata at its end.

    `size` is the metadata's unpacked size, `fields_at` where the header has its offset, length and unpacked length.
    """
    place = struct.pack(">III", len(data), len(packed), size)
    whole = data[:fields_at] + place + data[fields_at + len(place) :] + packed
    return whole[:8] + struct.pack(">I", len(whole)) + whole[12:]


def check_size(size: int, what: str) -> None:
    """Refuse a claimed size before it is believed."""
    if size > MAX_FONT_SIZE:
        raise FontError(f"{what} claims {size:,} bytes, more than any real font has")


def inflate(data: bytes, size: int) -> bytes:
    """zlib data that must unpack to exactly `size` bytes."""
    unpacker = zlib.decompressobj()
    try:
        result = unpacker.decompress(data, size + 1)
    except zlib.error as error:
        raise FontError(f"its zlib data cannot be unpacked ({error})") from error
    if len(result) != size:
        raise FontError(f"its zlib data should unpack to {size} bytes, but does not")
    return result


def unbrotli(data: bytes, size: int) -> bytes:
    """Brotli data that must unpack to exactly `size` bytes, and no byte more is ever unpacked than a block beyond."""
    unpacker = brotli.Decompressor()
    parts: list[bytes] = []
    have = 0
    try:
        part = unpacker.process(data, output_buffer_limit=1 << 20)
        while part:
            parts.append(part)
            have += len(part)
            if have > size:
                break
            part = unpacker.process(b"", output_buffer_limit=1 << 20)
        complete = unpacker.is_finished()
    except brotli.error as error:
        raise FontError("its brotli data cannot be unpacked") from error
    if have != size or not complete:
        raise FontError(f"its brotli data should unpack to {size} bytes, but does not")
    return b"".join(parts)
