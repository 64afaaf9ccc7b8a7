"""Packed point numbers and packed deltas, as 'gvar' and 'cvar' hold them (OpenType 1.9.1, "Tuple variation store",
"Packed point numbers", "Packed deltas")."""

from __future__ import annotations

import struct

import numpy as np
from numpy.typing import NDArray

from aksara.errors import FontError
from aksara.truetype.points import Ints, ramp, starts_of

_POINTS_ARE_WORDS = 0x80
_DELTAS_ARE_ZERO, _DELTAS_ARE_WORDS = 0x80, 0x40
_POINT_RUN, _DELTA_RUN = 128, 64


def read_points(data: bytes | memoryview, position: int) -> tuple[list[int] | None, int]:
    """The point numbers at that offset (None: all points), and where they end."""
    try:
        count = data[position]
        position += 1
        if count & 0x80:
            count, position = (count & 0x7F) << 8 | data[position], position + 1
        if not count:
            return None, position
        points: list[int] = []
        number = 0
        while len(points) < count:
            control = data[position]
            run = (control & 0x7F) + 1
            if control & _POINTS_ARE_WORDS:
                steps = struct.unpack_from(f">{run}H", data, position + 1)
                position += 1 + 2 * run
            else:
                steps = tuple(data[position + 1 : position + 1 + run])
                position += 1 + run
            if position > len(data):
                raise IndexError
            for step in steps:
                number += step
                points.append(number)
    except (IndexError, struct.error):
        raise FontError("its point numbers run past its end", offset=position) from None
    if len(points) > count:
        raise FontError("its point numbers are more than it says", offset=position)
    return points, position


def read_deltas(data: bytes | memoryview, position: int, count: int, deltas: list[int]) -> int:
    """Append `count` deltas from that offset. Returns the offset behind them."""
    end = len(deltas) + count
    try:
        while len(deltas) < end:
            control = data[position]
            run = (control & 0x3F) + 1
            position += 1
            kind = control & (_DELTAS_ARE_ZERO | _DELTAS_ARE_WORDS)
            if kind == _DELTAS_ARE_ZERO:
                deltas += [0] * run
            elif kind == _DELTAS_ARE_WORDS:
                deltas += struct.unpack_from(f">{run}h", data, position)
                position += 2 * run
            elif not kind:
                deltas += struct.unpack_from(f">{run}b", data, position)
                position += run
            else:
                raise FontError("its deltas have 32 bits, which glyphs and control values cannot", offset=position - 1)
    except (IndexError, struct.error):
        raise FontError("its deltas run past its end", offset=position) from None
    if len(deltas) > end:
        raise FontError("its deltas are more than its points", offset=position)
    return position


def write_points(points: Ints) -> bytes:
    """These point numbers, which must rise."""
    count = len(points)
    head = bytes((count,)) if count < 0x80 else bytes((0x80 | count >> 8, count & 0xFF))
    steps = np.diff(points, prepend=0)
    if 0 < count <= _POINT_RUN and steps.max() <= 0xFF:
        return head + bytes((count - 1, *steps.tolist()))
    out = bytearray(head)
    offset = 0
    wide = (steps > 0xFF).tolist()
    while offset < count:
        end = offset + 1
        while end < count and end - offset < _POINT_RUN and wide[end] == wide[offset]:
            end += 1
        run = steps[offset:end]
        out.append((_POINTS_ARE_WORDS if wide[offset] else 0) | (end - offset - 1))
        out += run.astype(">u2" if wide[offset] else np.uint8).tobytes()
        offset = end
    return bytes(out)


def write_deltas(values: Ints, sizes: Ints) -> tuple[bytes, Ints]:
    """Consecutive segments of deltas, each packed separately; and the size of each.

    `sizes` are the numbers of deltas in the segments.
    """
    if not len(values):
        return b"", np.zeros(len(sizes), np.int64)
    firsts, runs, width, segment = _runs(values, sizes)
    coded = 1 + width * runs
    out = np.zeros(int(coded.sum()), np.uint8)
    starts = starts_of(coded)
    out[starts] = np.array((_DELTAS_ARE_ZERO, 0, _DELTAS_ARE_WORDS))[width] | (runs - 1)
    value_width = np.repeat(width, runs)
    targets = np.repeat(starts + 1, runs) + value_width * (np.arange(len(values)) - np.repeat(firsts, runs))
    narrow, wide = value_width == 1, value_width == 2
    out[targets[narrow]] = values[narrow] & 0xFF
    out[targets[wide]] = values[wide] >> 8 & 0xFF
    out[targets[wide] + 1] = values[wide] & 0xFF
    return out.tobytes(), np.bincount(segment, coded, len(sizes)).astype(np.int64)


def packed_sizes(values: Ints, sizes: Ints) -> Ints:
    """The bytes of each segment, as `write_deltas` packs it."""
    if not len(values):
        return np.zeros(len(sizes), np.int64)
    _, runs, width, segment = _runs(values, sizes)
    return np.bincount(segment, 1 + width * runs, len(sizes)).astype(np.int64)


def _runs(values: Ints, sizes: Ints) -> tuple[Ints, Ints, Ints, Ints]:
    """The runs of packed deltas: where each starts, how many it has, the bytes of each of them, and its segment."""
    segment = np.repeat(np.arange(len(sizes)), sizes)
    kind = _kinds(values, segment)
    new = np.ones(len(values), bool)
    new[1:] = (kind[1:] != kind[:-1]) | (segment[1:] != segment[:-1])
    indices = np.flatnonzero(new)
    runs = np.diff(indices, append=len(values))
    # A run is at most 64 long: longer ones are cut.
    parts = -(-runs // _DELTA_RUN)
    indices = ramp(np.zeros(len(indices), np.int64), parts) * _DELTA_RUN + np.repeat(indices, parts)
    return indices, np.diff(indices, append=len(values)), kind[indices].astype(np.int64), segment[indices]


def _kinds(values: Ints, segment: Ints) -> NDArray[np.int8]:
    """The bytes that each delta is stored in: 0, 1 or 2.

    A run costs a byte to start, so a single narrower delta between two wider ones is written as these.
    """
    if values.max() > 0x7FFF or values.min() < -0x8000:
        raise OverflowError("a delta does not fit 16 bits")
    kind = np.where(values == 0, 0, np.where((values >= -0x80) & (values < 0x80), 1, 2)).astype(np.int8)
    for wide in (2, 1):
        between = np.zeros(len(kind), bool)
        same = segment[2:] == segment[:-2]
        between[1:-1] = same & (kind[:-2] == wide) & (kind[2:] == wide) & (kind[1:-1] == wide - 1)
        kind[between] = wide
    return kind
