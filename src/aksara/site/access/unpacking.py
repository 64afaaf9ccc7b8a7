"""Unpacking what servers send compressed (RFC 9110, section 8.4), counted as it is unpacked.

A few hundred bytes can claim to be gigabytes, and each coding can be put around another; so no step makes more than the
limit, and there are few steps.
"""

from __future__ import annotations

import zlib
from collections.abc import Callable

import brotli

from aksara.limits import MAX_CODINGS

#: The encodings that servers may use.
ACCEPTED = "gzip, deflate, br"
_PIECE = 65_536


class UnpackingError(Exception):
    """An answer cannot be unpacked. The message says why, to follow its address."""


def unpacked(data: bytes, content_encoding: str, limit: int) -> bytes:
    """The data without the codings that a header names, the last one first; at most `limit` bytes.

    Raises `UnpackingError` for data that are more, or not what the header says.
    """
    codings = [name for part in content_encoding.lower().split(",") if (name := part.strip()) not in ("", "identity")]
    if len(codings) > MAX_CODINGS:
        raise UnpackingError(f"is compressed {len(codings)} times over")
    for coding in reversed(codings):
        if coding not in _DECODERS:
            raise UnpackingError(f"is compressed in a way that browsers do not ask for ({coding[:20]})")
        try:
            data = _DECODERS[coding](data, limit)
        except (zlib.error, brotli.error) as error:
            raise UnpackingError(f"is not compressed as the server says ({coding})") from error
        _check_size(data, limit)
    _check_size(data, limit)
    return data


def _check_size(data: bytes, limit: int) -> None:
    if len(data) > limit:
        raise UnpackingError(f"is larger than {limit / 1e6:g} MB once unpacked")


def _gzip(data: bytes, limit: int) -> bytes:
    out = bytearray()
    while data and len(out) <= limit:  # members may follow each other (RFC 1952, section 2.2)
        decoder = zlib.decompressobj(zlib.MAX_WBITS | 16)
        out += decoder.decompress(data, limit + 1 - len(out))
        if not decoder.eof or decoder.unused_data == data:
            break
        data = decoder.unused_data
    return bytes(out)


def _deflate(data: bytes, limit: int) -> bytes:
    try:
        return zlib.decompressobj().decompress(data, limit + 1)
    except zlib.error:  # some servers leave out the wrapper of zlib, and browsers take that
        return zlib.decompressobj(-zlib.MAX_WBITS).decompress(data, limit + 1)


def _brotli(data: bytes, limit: int) -> bytes:
    decoder, out = brotli.Decompressor(), bytearray()
    piece = decoder.process(data, output_buffer_limit=_PIECE)
    while len(out) <= limit:
        out += piece
        if decoder.is_finished() or (not piece and decoder.can_accept_more_data()):
            break
        piece = decoder.process(b"", output_buffer_limit=_PIECE)
    return bytes(out)


_DECODERS: dict[str, Callable[[bytes, int], bytes]] = {
    "gzip": _gzip,
    "x-gzip": _gzip,
    "deflate": _deflate,
    "br": _brotli,
}
