"""Tables with pictures and drawings (CBDT, sbix, SVG)."""

from __future__ import annotations

import io
import struct

from PIL import Image

from fonts import words


def _png(colour: tuple[int, int, int], size: int = 40) -> bytes:
    out = io.BytesIO()
    picture = Image.new("RGBA", (size, size), (*colour, 255))
    picture.putpixel((3, 5), (255, 255, 255, 255))
    picture.save(out, "PNG")
    return out.getvalue()


PNGS = [_png(colour) for colour in ((200, 30, 30), (30, 160, 30), (30, 30, 200))]


SMALL, _BIG = bytes((40, 40, 2, 38, 44)), bytes((40, 40, 2, 38, 44, 0, 0, 44))


def _stored(image_format: int, png: bytes) -> bytes:
    return {17: SMALL, 18: _BIG, 19: b""}[image_format] + struct.pack(">I", len(png)) + png


def pictures(
    index_format: int, image_format: int, glyphs: tuple[int, ...] = (1, 2, 3), last: int = 0xFFFF
) -> dict[str, bytes]:
    """CBDT and CBLC of one strike, by the specification alone; `last` stands behind the glyphs of index format 4."""
    pngs = PNGS if index_format not in (2, 5) else [PNGS[0] + b"\0" * (max(map(len, PNGS)) - len(PNGS[0]))] * 3
    images = [_stored(image_format, png) for png in pngs]
    data = struct.pack(">HH", 3, 0) + b"".join(images)
    offsets = [sum(map(len, images[:number])) for number in range(len(images) + 1)]
    head = struct.pack(">HHI", index_format, image_format, 4)
    metrics = struct.pack(">I", len(images[0])) + _BIG
    body = {
        1: struct.pack(">4I", *offsets),
        2: metrics,
        3: words(*offsets),
        4: struct.pack(">I", 3) + words(*(n for pair in zip((*glyphs, last), offsets, strict=True) for n in pair)),
        5: metrics + struct.pack(">I", 3) + words(*glyphs),
    }[index_format]
    subtable = head + body
    lines = bytes((38, 0xF8, 44, 0, 0, 0, 0, 0, 0, 0, 0, 0)) * 2
    size = (
        struct.pack(">IIII", 56, 8 + len(subtable), 1, 0)
        + lines
        + words(glyphs[0], glyphs[-1])
        + bytes((40, 40, 32, 1))
    )
    index = struct.pack(">HHI", 3, 0, 1) + size + words(glyphs[0], glyphs[-1]) + struct.pack(">I", 8) + subtable
    return {"CBDT": data, "CBLC": index}


def graphics(*stored: bytes | None) -> bytes:
    """'sbix' of one strike, a picture or None a glyph."""
    at, offsets, body = 4 + 4 * (len(stored) + 1), [], b""
    for each in stored:
        offsets.append(at + len(body))
        body += words(1, -2) + each if each is not None else b""
    strike = words(40, 72) + struct.pack(f">{len(stored) + 1}I", *offsets, at + len(body)) + body
    return words(1, 1) + struct.pack(">II", 1, 12) + strike


def drawings(*entries: tuple[int, int, bytes]) -> bytes:
    """'SVG ' with these documents, each for glyphs from the first to the last."""
    at, records = 2 + 12 * len(entries), b""
    for first, last, document in entries:
        records += words(first, last) + struct.pack(">II", at, len(document))
        at += len(document)
    documents = b"".join(document for _, _, document in entries)
    return words(0) + struct.pack(">II", 10, 0) + words(len(entries)) + records + documents
