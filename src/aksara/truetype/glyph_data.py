"""Glyph data: 'glyf' taken apart by the offsets of 'loca', and put together again ('glyf', 'loca')."""

from __future__ import annotations

import itertools
import struct
from collections.abc import Sequence
from itertools import zip_longest

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.truetype.components import Composite
from aksara.truetype.points import Ints, decode_simple

#: Bytes of a glyph's header: the number of its contours and its bounding box.
HEADER_SIZE = 10
#: Glyphs whose points are compared at once; the points of a large font would take a hundred times its size.
_AT_ONCE = 1024
#: The farthest that short offsets, which count in twos, reach.
_SHORT_REACH = 0x1FFFE


def read_offsets(data: bytes, glyphs: int, *, long: bool) -> Ints:
    """Where each of the glyphs starts in 'glyf', and where the last ends (G + 1, in bytes)."""
    size = 4 if long else 2
    # Fonts with one offset too few exist: their last glyph is taken to be empty, as browsers do.
    stored = glyphs if len(data) // size == glyphs else glyphs + 1
    dtype = np.dtype(np.uint32) if long else np.dtype(np.uint16)
    offsets = Reader(data).array(dtype, stored, "glyph offsets").astype(np.int64) * (1 if long else 2)
    backwards = np.flatnonzero(np.diff(offsets) < 0)
    if len(backwards):
        raise FontError("it ends before it starts", glyph=int(backwards[0]), offset=int(backwards[0]) * size)
    return np.append(offsets, offsets[-1:]) if stored < glyphs + 1 else offsets


def write_offsets(offsets: Ints, *, long: bool) -> bytes:
    """The table 'loca'; short offsets must be even."""
    return offsets.astype(">u4").tobytes() if long else (offsets // 2).astype(">u2").tobytes()


def split(data: bytes, offsets: Ints) -> list[bytes]:
    """Each glyph's bytes; an empty glyph has none."""
    glyphs = [data[start:end] for start, end in itertools.pairwise(offsets.tolist())]
    sizes = np.diff(np.minimum(offsets, len(data)))
    for number in np.flatnonzero((sizes < HEADER_SIZE) & (np.diff(offsets) > 0)).tolist():
        start = int(offsets[number])
        if offsets[number + 1] > len(data):
            raise FontError("it lies beyond the end of the table", glyph=number, offset=start)
        # Padding after the last glyph; too short to be one.
        if any(glyphs[number]):
            raise FontError("it is cut short", glyph=number, offset=start)
        glyphs[number] = b""
    return glyphs


def join(glyphs: Sequence[bytes], alignment: int) -> tuple[bytes, Ints]:
    """The table 'glyf' with every glyph at a multiple of `alignment`, and the offsets (G + 1)."""
    padded = [glyph + bytes(-len(glyph) % alignment) for glyph in glyphs]
    return b"".join(padded), np.cumsum([0, *map(len, padded)]).astype(np.int64)


def needs_long_offsets(size: int) -> bool:
    """Whether a 'glyf' of that many bytes is beyond the reach of short offsets."""
    return size > _SHORT_REACH


def contour_count(glyph: bytes) -> int:
    """Number of contours; negative for a composite glyph, 0 for an empty one."""
    return int.from_bytes(glyph[:2], "big", signed=True)


def is_composite(glyph: bytes) -> bool:
    """Whether the glyph is composite: its number of contours is negative."""
    return glyph[:1] >= b"\x80"


def with_box(glyph: bytes, box: tuple[int, int, int, int]) -> bytes:
    """A glyph that is not empty with this bounding box (xMin, yMin, xMax, yMax) in its header."""
    return glyph[:2] + struct.pack(">4h", *box) + glyph[HEADER_SIZE:]


def bounding_boxes(glyphs: Sequence[bytes]) -> NDArray[np.int64]:
    """Bounding box of every glyph (G by 4: xMin, yMin, xMax, yMax), as its header has it; zeros if empty."""
    heads = b"".join(glyph[:HEADER_SIZE] or bytes(HEADER_SIZE) for glyph in glyphs)
    return np.frombuffer(heads, ">i2").reshape(-1, 5)[:, 1:].astype(np.int64)


def first_difference(first: Sequence[bytes], second: Sequence[bytes]) -> int | None:
    """The ID of the first glyph that the two do not draw alike; None if all are the same.

    A glyph may be encoded in several ways: only where the bytes differ are points and components compared.
    """
    differing = [
        index
        for index, (one, other) in enumerate(zip_longest(first, second))
        if one is None or other is None or (one != other and _padded(one) != _padded(other))
    ]
    simple: list[int] = []
    for index in differing:
        if index >= min(len(first), len(second)) or not _may_be_same(first[index], second[index], index):
            return index
        simple += [index] if contour_count(first[index]) > 0 else []
    # Many at once, which is far quicker than one by one; only if they do differ it matters which.
    for start in range(0, len(simple), _AT_ONCE):
        some = simple[start : start + _AT_ONCE]
        if not _same_points([first[index] for index in some], [second[index] for index in some], some):
            return next(index for index in some if not _same_points([first[index]], [second[index]], [index]))
    return None


def _padded(glyph: bytes) -> bytes:
    return glyph + bytes(-len(glyph) % 4)


def _may_be_same(first: bytes, second: bytes, number: int) -> bool:
    """Whether the glyphs are the same, but for the points of simple ones."""
    contours = contour_count(first)
    if contours != contour_count(second) or not contours:
        return contours == contour_count(second)
    if contours < 0:
        return Composite.parse(first, number) == Composite.parse(second, number)
    return first[:HEADER_SIZE] == second[:HEADER_SIZE]


def _same_points(first: list[bytes], second: list[bytes], numbers: list[int]) -> bool:
    return decode_simple(first, numbers) == decode_simple(second, numbers)
