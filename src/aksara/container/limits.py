"""What no font may exceed. Checked against claims before anything is allocated."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Callable

import brotli

from aksara.errors import FontError

Tables = dict[str, bytes]

#: Decompressed bytes of one font. The largest real ones (complete CJK fonts) stay under 70 MB.
MAX_FONT_SIZE = 160_000_000
#: Tables of one font; the OpenType registry has fewer than 100 tags.
MAX_TABLES = 512
#: Fonts of one collection; real ones have up to 72.
MAX_MEMBERS = 256


#: Decompressed bytes of the extended metadata.
MAX_METADATA = 1_000_000


def metadata_block(data: bytes, fields: tuple[int, int, int], decompress: Callable[[bytes, int], bytes]) -> bytes:
    """The decompressed metadata of a WOFF or WOFF2 file; `fields` are its offset, length and decompressed length.

    Damaged metadata is no fault of the font (WOFF, "Extended metadata block"): it counts as none.
    """
    offset, length, size = fields
    if not offset or not length or size > MAX_METADATA or offset + length > len(data):
        return b""
    try:
        return decompress(data[offset : offset + length], size)
    except FontError:
        return b""


def with_block(data: bytes, compressed: bytes, size: int, fields_at: int) -> bytes:
    """A WOFF or WOFF2 file with the compressed metadata at its end.

    `size` is the metadata's size before compression, `fields_at` where the header has its offset, length and size.
    """
    fields = struct.pack(">III", len(data), len(compressed), size)
    whole = data[:fields_at] + fields + data[fields_at + len(fields) :] + compressed
    return whole[:8] + struct.pack(">I", len(whole)) + whole[12:]


def check_size(size: int, what: str) -> None:
    """Refuse a claimed size before it is believed."""
    if size > MAX_FONT_SIZE:
        raise FontError(f"{what} claims {size:,} bytes, more than any real font has")


def inflate(data: bytes, size: int) -> bytes:
    """zlib data that must decompress to exactly `size` bytes."""
    decompressor = zlib.decompressobj()
    try:
        result = decompressor.decompress(data, size + 1)
    except zlib.error as error:
        raise FontError(f"its zlib data cannot be decompressed ({error})") from error
    if len(result) != size:
        raise FontError(f"its zlib data should decompress to {size} bytes, but does not")
    return result


def unbrotli(data: bytes, size: int) -> bytes:
    """Brotli data that must decompress to exactly `size` bytes; at most a block beyond that is ever decompressed."""
    decompressor = brotli.Decompressor()
    parts: list[bytes] = []
    have = 0
    try:
        part = decompressor.process(data, output_buffer_limit=1 << 20)
        while part:
            parts.append(part)
            have += len(part)
            if have > size:
                break
            part = decompressor.process(b"", output_buffer_limit=1 << 20)
        complete = decompressor.is_finished()
    except brotli.error as error:
        raise FontError("its brotli data cannot be decompressed") from error
    if have != size or not complete:
        raise FontError(f"its brotli data should decompress to {size} bytes, but does not")
    return b"".join(parts)
