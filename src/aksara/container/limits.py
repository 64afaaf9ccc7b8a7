"""What no font may exceed. Checked against claims before anything is allocated."""

from __future__ import annotations

import zlib

import brotli

from aksara.errors import FontError

Tables = dict[str, bytes]

#: Unpacked bytes of one font. The largest real ones (complete CJK fonts) stay under 70 MB.
MAX_FONT_SIZE = 160_000_000
#: Tables of one font; the OpenType registry has fewer than 100 tags.
MAX_TABLES = 512


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
