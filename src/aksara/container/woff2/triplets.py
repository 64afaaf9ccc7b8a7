"""Triplets: how WOFF2 stores the points of simple glyphs (WOFF2, section 5.2).

A flag tells the sizes and signs of a step's two parts, and their low bits. Seven bands of flags; each gives the bits of
dx and dy, what is added to each, and the bytes they take.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from aksara.truetype.points import Bytes, Ints, Points, starts_of

#: Bytes of a triplet by its flag.
TRIPLET_BYTES = np.repeat(np.array([1, 2, 3, 4], np.int64), [84, 36, 4, 4])
_SIGN_X, _SIGN_Y = 1, 2

_Numbers = NDArray[np.int32]
_FLAGS = np.arange(128, dtype=np.int32)
#: The bands: flags for dy alone, for dx alone, and for both in 4, 8, 12 and 16 bits.
_BANDS = np.searchsorted([10, 20, 84, 120, 124], _FLAGS, side="right")


def _by_band(*values: int) -> _Numbers:
    """A value for each flag from those of the bands."""
    return np.array(values, np.int32)[_BANDS]


# By flag: where dx and dy stand in the triplet's bytes, taken as a number of 32 bits from their start on; their bits;
# and what is added to each.
_X_SHIFT, _Y_SHIFT = _by_band(0, 24, 28, 24, 20, 16), _by_band(24, 0, 24, 16, 8, 0)
_X_MASK, _Y_MASK = _by_band(0, 0xFF, 0xF, 0xFF, 0xFFF, 0xFFFF), _by_band(0xFF, 0, 0xF, 0xFF, 0xFFF, 0xFFFF)
_THIRD, _FOURTH = _FLAGS - 20, _FLAGS - 84
_NONE = np.zeros_like(_FLAGS)
_X_MORE = np.choose(
    _BANDS, [_NONE, (_FLAGS - 10 & 14) << 7, (_THIRD & 0x30) + 1, (_FOURTH // 12 << 8) + 1, _NONE, _NONE]
)
_Y_MORE = np.choose(
    _BANDS, [(_FLAGS & 14) << 7, _NONE, ((_THIRD & 12) << 2) + 1, ((_FOURTH % 12 >> 2) << 8) + 1, _NONE, _NONE]
)
# In the first two bands, and in the others counted from their start, bit 0 is the sign of what there is (dx before dy),
# bit 1 the sign of dy. Bands start at even numbers, and those of two signs at multiples of 4.
_X_SIGN = np.where(_FLAGS & 1, 1, -1)
_Y_SIGN = np.where(np.where(_FLAGS < 10, _FLAGS & 1, _FLAGS >> 1 & 1), 1, -1)


def encode_triplets(points: Points) -> tuple[bytes, bytes, Ints]:
    """Flags, the bytes of all triplets, and the bytes that each takes."""
    dx, dy = points.dx.astype(np.int32), points.dy.astype(np.int32)
    x, y = np.abs(dx), np.abs(dy)
    right, up = dx >= 0, dy >= 0
    signs = _SIGN_X * right + _SIGN_Y * up
    largest = np.maximum(x, y)
    # From the widest band to the narrowest, each for the points that fit it; points of another keep what they have.
    flags: _Numbers = signs + np.where(largest < 4096, 120, 124)
    _put(
        flags,
        largest < 769,
        lambda indices: 84 + 12 * (x[indices] - 1 >> 8) + (y[indices] - 1 >> 8 << 2) + signs[indices],
    )
    _put(
        flags,
        largest < 65,
        lambda indices: 20 + (x[indices] - 1 & 0x30) + ((y[indices] - 1 & 0x30) >> 2) + signs[indices],
    )
    _put(flags, (dy == 0) & (x < 1280), lambda indices: 10 + (x[indices] >> 8 << 1) + right[indices])
    _put(flags, (dx == 0) & (y < 1280), lambda indices: (y[indices] >> 8 << 1) + up[indices])
    words = (x - _X_MORE[flags]).astype(np.uint32) << _X_SHIFT[flags].astype(np.uint32)
    words |= (y - _Y_MORE[flags]).astype(np.uint32) << _Y_SHIFT[flags].astype(np.uint32)
    sizes = TRIPLET_BYTES[flags]
    grid = words.astype(">u4").view(np.uint8).reshape(-1, 4)
    data = grid[np.arange(4) < sizes[:, None]]
    coded = flags | np.where(points.on_curve, 0, 0x80)
    return coded.astype(np.uint8).tobytes(), data.tobytes(), sizes


def _put(flags: _Numbers, where: NDArray[np.bool_], value: Callable[[Ints], _Numbers]) -> None:
    indices = np.flatnonzero(where)
    flags[indices] = value(indices)


def decode_triplets(coded: Bytes, data: bytes) -> tuple[Ints, Ints]:
    """The steps dx and dy of each point from its flag, and the bytes of all triplets."""
    flags = coded & 0x7F
    at = starts_of(TRIPLET_BYTES[flags])
    # The number of 32 bits that starts at each byte.
    words = np.ndarray(len(data) + 1, ">u4", data + bytes(4), strides=(1,))[at].astype(np.int64)
    x = (words >> _X_SHIFT[flags] & _X_MASK[flags]) + _X_MORE[flags]
    y = (words >> _Y_SHIFT[flags] & _Y_MASK[flags]) + _Y_MORE[flags]
    return x * _X_SIGN[flags], y * _Y_SIGN[flags]
