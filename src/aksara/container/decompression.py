"""Shared code of the compressed containers: bounded decompression, and metadata."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Callable, Sequence

import brotli

from aksara.errors import BeyondBounds, FontError
from aksara.limits import MAX_METADATA, MAX_TABLES, max_collection_size, max_font_size

Tables = dict[str, bytes]

#: Bytes of a brotli stream that are given at once.
_PIECE = 1 << 12


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


def check_size(size: int, file_size: int) -> None:
    """Refuse a size that the directory of a file claims for its tables before it is believed."""
    if size > max_font_size(file_size):
        raise BeyondBounds(f"its directory claims {size:,} bytes, more than any real font of its size has")


def check_collection(fonts: int, size: int, file_size: int) -> None:
    """Refuse a collection whose fonts claim more bytes together (`size`) than its file can be about."""
    if size > max_collection_size(file_size):
        raise BeyondBounds(f"its {fonts} fonts claim {size:,} bytes, more than those of any real file of its size")


def check_count(tables: int, offset: int) -> None:
    """Refuse a number of tables that the directory at that offset claims."""
    if tables > MAX_TABLES:
        raise BeyondBounds(f"its directory claims {tables:,} tables", offset=offset)


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
    """Brotli data that must decompress to exactly `size` bytes; at most a block beyond that is ever decompressed.

    What lies behind the end of the stream counts for nothing, as in browsers: some tools count the padding in.
    """
    pieces = [data[start : start + _PIECE] for start in range(0, len(data), _PIECE)]
    result, refused = _streamed(pieces, size)
    if refused is not None:
        # The library refuses a piece that holds more than the rest of the stream: it gets this one byte by byte.
        last = pieces[refused]
        result, refused = _streamed([*pieces[:refused], *(last[start : start + 1] for start in range(len(last)))], size)
    if refused is not None:
        raise FontError("its brotli data cannot be decompressed")
    if result is None:
        raise FontError(f"its brotli data should decompress to {size} bytes, but does not")
    return result


def _streamed(pieces: Sequence[bytes], size: int) -> tuple[bytes | None, int | None]:
    """What a stream that comes in pieces decompresses to, None where that are not `size` bytes; and the number of the
    piece that the library refuses."""
    decompressor = brotli.Decompressor()
    parts: list[bytes] = []
    have = 0
    for index, piece in enumerate(pieces):
        try:
            part = decompressor.process(piece, output_buffer_limit=1 << 20)
            while part and have <= size:
                parts.append(part)
                have += len(part)
                part = decompressor.process(b"", output_buffer_limit=1 << 20)
        except brotli.error:
            return None, index
        if have > size or decompressor.is_finished():
            break
    return b"".join(parts) if have == size and decompressor.is_finished() else None, None
