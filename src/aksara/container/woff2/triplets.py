"""Triplets: how WOFF2 stores the points of simple glyphs (WOFF2, section 5.2).

A flag tells the sizes and signs of a step's two parts, and their low bits. Seven bands of flags; each gives the bits of
dx and dy, what is added to each, and the bytes they take.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aksara.truetype.points import Ints, Points, starts_of

#: Bytes of a triplet by its flag.
TRIPLET_BYTES = np.repeat(np.array([1, 2, 3, 4], np.int64), [84, 36, 4, 4])
_SIGN_X, _SIGN_Y = 1, 2


def encode_triplets(points: Points) -> tuple[bytes, bytes, Ints]:
    """Flags, the bytes of all triplets, and the bytes that each takes."""
    dx, dy = points.dx, points.dy
    x, y = np.abs(dx), np.abs(dy)
    signs = np.where(dx >= 0, _SIGN_X, 0) | np.where(dy >= 0, _SIGN_Y, 0)
    bands = [
        (dx == 0) & (y < 1280),
        (dy == 0) & (x < 1280),
        (x < 65) & (y < 65),
        (x < 769) & (y < 769),
        (x < 4096) & (y < 4096),
    ]
    # Where x or y is 0, another band has been chosen before x - 1 or y - 1 could matter.
    u, v = x - 1, y - 1
    flags = np.select(
        bands,
        [
            ((y & 0xF00) >> 7) + (dy >= 0),
            10 + ((x & 0xF00) >> 7) + (dx >= 0),
            20 + (u & 0x30) + ((v & 0x30) >> 2) + signs,
            84 + 12 * ((u & 0x300) >> 8) + ((v & 0x300) >> 6) + signs,
            120 + signs,
        ],
        124 + signs,
    )
    zero = np.zeros_like(x)
    lanes = [
        np.select(bands, [y, x, (u & 15) << 4 | v & 15, u, x >> 4], x >> 8),
        np.select(bands[3:], [v, (x & 15) << 4 | y >> 8], x),
        np.select(bands[4:], [y], y >> 8),
        np.where(bands[4], zero, y),
    ]
    sizes = TRIPLET_BYTES[flags]
    grid = (np.column_stack(lanes) & 0xFF).astype(np.uint8)
    data = grid[np.arange(4) < sizes[:, None]]
    coded = flags | np.where(points.on_curve, 0, 0x80)
    return coded.astype(np.uint8).tobytes(), data.tobytes(), sizes


def decode_triplets(coded: NDArray[np.uint8], data: bytes) -> tuple[Ints, Ints]:
    """The steps dx and dy of each point from its flag, and the bytes of all triplets."""
    flags = (coded & 0x7F).astype(np.int64)
    sizes = TRIPLET_BYTES[flags]
    raw = np.frombuffer(data + bytes(3), np.uint8).astype(np.int64)
    at = starts_of(sizes)
    a, b, c, d = (raw[np.minimum(at + lane, len(raw) - 1)] for lane in range(4))
    bands = [flags < 10, flags < 20, flags < 84, flags < 120, flags < 124]
    third, fourth = flags - 20, flags - 84
    zero = np.zeros_like(flags)
    x = np.select(
        bands,
        [
            zero,
            ((flags - 10 & 14) << 7) + a,
            (third & 0x30) + 1 + (a >> 4),
            (fourth // 12 << 8) + 1 + a,
            (a << 4) + (b >> 4),
        ],
        (a << 8) + b,
    )
    y = np.select(
        bands,
        [
            ((flags & 14) << 7) + a,
            zero,
            ((third & 0x0C) << 2) + 1 + (a & 15),
            ((fourth % 12 >> 2) << 8) + 1 + b,
            ((b & 15) << 8) + c,
        ],
        (c << 8) + d,
    )
    # In the first two bands, and in the others counted from their start, bit 0 is the sign of what there is
    # (dx before dy), bit 1 the sign of dy. Bands start at even numbers, and those of two signs at multiples of 4.
    x_positive = flags & 1
    y_positive = np.where(flags < 10, flags & 1, flags >> 1 & 1)
    return np.where(x_positive, x, -x), np.where(y_positive, y, -y)
