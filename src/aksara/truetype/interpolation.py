"""How points move that a variation does not name: between those of their contour that it does name (OpenType 1.9.1,
'gvar', "Inferred deltas for un-referenced point numbers"), and which points need not be named for that reason.

Contours stand one behind the other in flat arrays; a point's two dimensions are inferred each by itself.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aksara.truetype.points import Ints, ramp, starts_of

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]

#: How far apart two named points may be whose points in between are inferred: more gains next to nothing.
_FARTHEST = 6
#: Differences that only arithmetic makes.
EXACT = 1e-6
_NEVER = np.int32(1 << 20)


def inferred(coordinates: Ints, deltas: Floats, named: Mask, contours: Ints) -> Floats:
    """The deltas of all points (N by 2), given those of the `named` ones; `contours` are the points of each."""
    if not len(contours):
        return np.where(named[:, None], deltas, 0.0)
    before, after, any_named = _neighbours(named, contours)
    moved = np.empty_like(deltas)
    for axis in range(2):
        coordinate, delta = coordinates[:, axis], deltas[:, axis]
        moved[:, axis] = _between(coordinate[before], coordinate[after], delta[before], delta[after], coordinate)
    moved[~any_named] = 0.0
    moved[named] = deltas[named]
    return moved


def _neighbours(named: Mask, contours: Ints) -> tuple[Ints, Ints, Mask]:
    """For each point the named one before it and behind it, around its contour; whether there is one."""
    starts = starts_of(contours)
    index = np.arange(len(named))
    first = np.repeat(starts, contours)
    end = first + np.repeat(contours, contours)
    marked = np.where(named, index, -1)
    last_of = np.repeat(np.maximum.reduceat(marked, starts), contours)
    before = np.maximum.accumulate(marked)
    before = np.where(before >= first, before, last_of)
    marked = np.where(named, index, len(named))
    first_of = np.repeat(np.minimum.reduceat(marked, starts), contours)
    after = np.minimum.accumulate(marked[::-1])[::-1]
    after = np.where(after < end, after, first_of)
    any_named = last_of >= first
    return np.where(any_named, before, 0), np.where(any_named, after, 0), any_named


def _between(one: Ints, other: Ints, delta_one: Floats, delta_other: Floats, coordinate: Ints) -> Floats:
    """The deltas at `coordinate`, between two points and their deltas in the same dimension."""
    swap = one > other
    low, high = np.minimum(one, other), np.maximum(one, other)
    delta_low, delta_high = np.where(swap, delta_other, delta_one), np.where(swap, delta_one, delta_other)
    span = high - low
    share = np.minimum(np.maximum(coordinate - low, 0), span) / np.maximum(span, 1)
    moved: Floats = delta_low + (delta_high - delta_low) * share
    # Two points at one place that move apart say nothing of the others.
    apart = np.flatnonzero((span == 0) & (delta_one != delta_other))
    moved[apart] = 0.0
    return moved


def needed_points(coordinates: Ints, deltas: Ints, wanted: Floats, contours: Ints, tolerance: float = EXACT) -> Mask:
    """Which points (of N) must be named for all others to be inferred as they are `wanted`, within the tolerance.

    `deltas` (N by 2) are what is stored of the named ones, `wanted` what all shall be.
    """
    named = np.zeros(len(deltas), bool)
    if not len(contours):
        return named
    starts = starts_of(contours)
    still = np.maximum.reduceat(np.abs(wanted).max(axis=1), starts) <= tolerance
    first = np.repeat(starts, contours)
    off = np.maximum(np.abs(wanted - deltas[first]).max(axis=1), np.abs(deltas - deltas[first]).max(axis=1))
    rigid = np.maximum.reduceat(off, starts) <= tolerance
    named[starts[rigid & ~still]] = True
    rest = np.flatnonzero(~rigid & ~still)
    # Contours of about the same length are worked on together, a row each.
    rest = rest[np.argsort(contours[rest], kind="stable")]
    while len(rest):
        longest = max(int(contours[rest[0]]) * 5 // 4, 8)
        together = int(np.searchsorted(contours[rest], longest, side="right"))
        rows, rest = rest[:together], rest[together:]
        _name_fewest(named, coordinates, deltas, wanted, starts[rows], contours[rows], tolerance)
    return named


def _name_fewest(
    named: Mask, coordinates: Ints, deltas: Ints, wanted: Floats, starts: Ints, sizes: Ints, tolerance: float
) -> None:
    """Set in `named` the fewest points of these contours that do.

    The shortest way around a contour from named point to named point, each step over points that can be inferred from
    both its ends. It starts at the point that moves most, which hardly ever can be.
    """
    most = int(sizes.max())
    indices = np.arange(most + 1)
    inside = indices < sizes[:, None]
    index = starts[:, None] + np.minimum(indices, sizes[:, None] - 1)
    moved = np.where(inside, np.abs(deltas[index]).sum(axis=2), -1)
    index = starts[:, None] + (moved.argmax(axis=1)[:, None] + indices) % sizes[:, None]
    coordinate, stored, goal = coordinates[index], deltas[index].astype(np.float64), wanted[index]
    reach = [np.ones((len(sizes), most), bool)]
    if most > 1:
        single = _all_inferred(coordinate, stored, goal, 2, tolerance)
        # Where no point follows from its neighbours, hardly any does from others.
        hopeless = ~(single & inside[:, 2:]).any(axis=1)
        if hopeless.any():
            _name_all(named, starts[hopeless], sizes[hopeless])
            if not hopeless.all():
                rest = ~hopeless
                _name_fewest(named, coordinates, deltas, wanted, starts[rest], sizes[rest], tolerance)
            return
        reach.append(single)
    for length in range(3, min(_FARTHEST, most) + 1):
        reach.append(_all_inferred(coordinate, stored, goal, length, tolerance))
    cost = np.full((len(sizes), most + 1), _NEVER, np.int32)
    cost[:, 0] = 0
    step = np.zeros((len(sizes), most + 1), np.int32)
    for end in range(1, most + 1):
        for length in range(1, min(end, len(reach)) + 1):
            way = cost[:, end - length] + 1
            better = (way < cost[:, end]) & reach[length - 1][:, end - length]
            cost[better, end] = way[better]
            step[better, end] = length
    rows, position = np.arange(len(sizes)), sizes.copy()
    while len(rows):
        named[index[rows, position]] = True
        position = position - step[rows, position]
        rows, position = rows[position > 0], position[position > 0]


def _name_all(named: Mask, starts: Ints, sizes: Ints) -> None:
    named[ramp(starts, sizes)] = True


def _all_inferred(coordinate: Ints, stored: Floats, goal: Floats, length: int, tolerance: float) -> Mask:
    """For each start of a step of that length whether all points within it are inferred well."""
    rows, width = coordinate.shape[0], coordinate.shape[1]
    count = width - length
    axes = [
        [np.ascontiguousarray(deltas[..., axis]).ravel() for deltas in (coordinate, stored, goal)] for axis in range(2)
    ]
    # Starts that are still good, as indices into the flat arrays; there are fewer with each point that is looked at.
    left = (np.arange(rows)[:, None] * width + np.arange(count)).reshape(-1)
    for passed in range(1, length):
        for coordinates, moves, goals in axes:
            end, between = left + length, left + passed
            moved = _between(coordinates[left], coordinates[end], moves[left], moves[end], coordinates[between])
            left = left[np.abs(moved - goals[between]) <= tolerance]
    good = np.zeros(rows * width, bool)
    good[left] = True
    return good.reshape(rows, width)[:, :count]
