"""The WOFF2 transform of 'hmtx' (section 5.4): side bearings that equal the glyph's xMin are left out."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.truetype.glyph_data import bounding_boxes, read_offsets, split

_NO_PROPORTIONAL, _NO_MONOSPACED, _RESERVED = 0x01, 0x02, 0xFC


def transform(tables: Mapping[str, bytes], boxes: NDArray[np.int64]) -> bytes | None:
    """The transformed table, or None where it would not give back the same side bearings.

    `boxes` are the glyphs' bounding boxes (G by 4); an empty glyph's xMin counts as 0.
    """
    if "hhea" not in tables or "hmtx" not in tables:
        return None
    count, glyphs = _count(tables), len(boxes)
    data = tables["hmtx"]
    if not 1 <= count <= glyphs or len(data) != 4 * count + 2 * (glyphs - count):
        return None
    pairs = np.frombuffer(data, ">i2", 2 * count).reshape(-1, 2)
    rest = np.frombuffer(data, ">i2", glyphs - count, 4 * count)
    same = pairs[:, 1] == boxes[:count, 0], rest == boxes[count:, 0]
    flags = _NO_PROPORTIONAL * bool(same[0].all()) | _NO_MONOSPACED * bool(same[1].all())
    if not flags & _NO_PROPORTIONAL and not (flags and len(rest)):
        return None  # nothing would be saved
    out = bytes((flags,)) + pairs[:, 0].tobytes()
    if not flags & _NO_PROPORTIONAL:
        out += pairs[:, 1].tobytes()
    if not flags & _NO_MONOSPACED:
        out += rest.tobytes()
    return out


def rebuild(data: bytes, tables: Mapping[str, bytes]) -> bytes:
    """The plain table. Needs 'hhea', 'maxp' and the rebuilt 'glyf' and 'loca'."""
    for tag in ("hhea", "maxp", "glyf", "loca", "head"):
        if tag not in tables:
            raise FontError(f"it is transformed, but there is no '{tag}'")
    count, glyphs = _count(tables), Reader(tables["maxp"], 4).u16()
    if not 1 <= count <= glyphs:
        raise FontError(f"{count} advances for {glyphs} glyphs")
    reader = Reader(data)
    flags = reader.u8()
    if flags & _RESERVED or not flags:
        raise FontError("its transform flags are not ones that WOFF2 defines", offset=0)
    x_min = _x_mins(tables, glyphs)
    pairs = np.empty((count, 2), np.int16)
    pairs[:, 0] = reader.array(np.int16, count, "advances")
    pairs[:, 1] = x_min[:count] if flags & _NO_PROPORTIONAL else reader.array(np.int16, count, "side bearings")
    rest = x_min[count:] if flags & _NO_MONOSPACED else reader.array(np.int16, glyphs - count, "side bearings")
    return pairs.astype(">i2").tobytes() + rest.astype(">i2").tobytes()


def _count(tables: Mapping[str, bytes]) -> int:
    return Reader(tables["hhea"], 34).u16()


def _x_mins(tables: Mapping[str, bytes], glyphs: int) -> NDArray[np.int16]:
    long = Reader(tables["head"], 50).u16() == 1
    offsets = read_offsets(tables["loca"], glyphs, long=long)
    return bounding_boxes(split(tables["glyf"], offsets))[:, 0].astype(np.int16)
