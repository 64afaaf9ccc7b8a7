"""Regions on narrower axes: variations from a new default expressed by new regions.

On each axis a region is a tent. Over a part of the axis, and with what it does at the new default taken out, it is
still made of straight pieces, and so the sum of tents that each have their peak where two pieces meet. Over several
axes the tents multiply.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aksara.errors import FontError
from aksara.instancing.limits import AxisChange
from aksara.tables.variation.regions import EVERYWHERE, AxisRegion, Region, scalar

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
#: A part of a sum: a region, and its share.
_Part = tuple[AxisRegion, float]


class Rebased(Struct, frozen=True, eq=False):
    """Old regions (R) expressed by new ones (N): what each adds to the new default (R) and to each new region (R by N).

    `overlaps` (N by N) is how much each new region (column) counts at the peak of each (row).
    """

    regions: tuple[Region, ...]
    to_default: Floats
    to_regions: Floats
    overlaps: Floats


class Rebasing:
    """Rebases the regions of one font; each list of regions is worked out once."""

    def __init__(self, changes: Sequence[AxisChange]) -> None:
        self.changes = tuple(changes)
        self.axis_count = sum(not change.is_pinned for change in changes)
        self._known: dict[tuple[Region, ...], Rebased] = {}
        self._sums: dict[Region, dict[Region, float]] = {}

    def of(self, regions: tuple[Region, ...]) -> Rebased:
        """What becomes of these regions, in an order in which wider ones come first."""
        known = self._known.get(regions)
        if known is None:
            known = self._known[regions] = self._rebased(regions)
        return known

    def _rebased(self, regions: tuple[Region, ...]) -> Rebased:
        default = (EVERYWHERE,) * self.axis_count
        sums = [self._sum(region) for region in regions]
        new = sorted({region for row_sums in sums for region in row_sums if region != default}, key=_breadth)
        index = {region: position for position, region in enumerate(new)}
        to_default, to_regions = np.zeros(len(regions)), np.zeros((len(regions), len(new)))
        for row, row_sums in enumerate(sums):
            for region, share in row_sums.items():
                if region == default:
                    to_default[row] = share
                else:
                    to_regions[row, index[region]] = share
        peaks = [[axis.peak for axis in region] for region in new]
        overlaps = np.array([[scalar(region, peak) for region in new] for peak in peaks]).reshape(len(new), len(new))
        return Rebased(tuple(new), to_default, to_regions, overlaps)

    def _sum(self, region: Region) -> dict[Region, float]:
        """The new regions that add up to the old one, and their shares."""
        if region in self._sums:
            return self._sums[region]
        if len(region) != len(self.changes):
            raise FontError(f"a region has {len(region)} axes, but the font has {len(self.changes)}")
        total: dict[Region, float] = {(): 1.0}
        for axis, change in zip(region, self.changes, strict=True):
            parts = _tents(axis, change)
            if change.is_pinned:
                total = {have: share * sum(part for _, part in parts) for have, share in total.items()}
            else:
                total = {(*have, new): share * part for have, share in total.items() for new, part in parts}
        self._sums[region] = {product: share for product, share in total.items() if share}
        return self._sums[region]


def _breadth(region: Region) -> tuple[int, list[int], Region]:
    """Sorts regions of fewer axes, and nearer to the default, first."""
    return sum(axis.counts for axis in region), [abs(axis.peak) for axis in region], region


def _tents(axis: AxisRegion, change: AxisChange) -> list[_Part]:
    """The tents on the new axis that add up to the old one's; that over everything is what it does at the default."""
    if not axis.counts:
        return [(EVERYWHERE, 1.0)]
    if change.is_whole:
        return [(axis, 1.0)]
    base = axis.scalar(change.default)
    parts = [(EVERYWHERE, base)] if base else []
    if change.is_pinned:
        return parts
    for end in (change.low, change.high):
        if end != change.default:
            parts += _tents_on_side(axis, change, base, end)
    return parts


def _tents_on_side(axis: AxisRegion, change: AxisChange, base: float, end: float) -> list[_Part]:
    """Those between the default and one end of the axis."""
    low, high = sorted((change.default, end))
    # A tent may begin or end at its very peak, like a cliff: one unit beside it there is nothing.
    bends = {
        axis.start,
        axis.peak,
        axis.end,
        axis.peak - (axis.start == axis.peak),
        axis.peak + (axis.end == axis.peak),
    }
    places = {round(change.renormalised(bend)): axis.scalar(bend) - base for bend in sorted(bends) if low < bend < high}
    places |= {0: 0.0, round(change.renormalised(end)): axis.scalar(end) - base}
    listed = sorted(places.items(), key=lambda item: abs(item[0]))
    parts: list[_Part] = []
    for index, (peak, value) in enumerate(listed):
        if peak and value:
            inner = listed[index - 1][0]
            outer = listed[index + 1][0] if index + 1 < len(listed) else peak
            parts.append((AxisRegion(min(inner, outer), peak, max(inner, outer)), value))
    return parts


def rounded(deltas: Floats, rest: Floats, overlaps: Floats) -> Ints:
    """Whole numbers for the deltas (any by N) such that at each region's peak values are as near as they can be.

    `rest` (any) is what rounding the default left over. What one region leaves over, the next makes up for.
    """
    stored = np.zeros(deltas.shape, np.int64)
    for index in range(deltas.shape[-1]):
        stored[..., index] = np.rint(wanted_at(index, deltas, stored, rest, overlaps))
    return stored


def wanted_at(number: int, deltas: Floats, stored: Floats | Ints, rest: Floats, overlaps: Floats) -> Floats:
    """What a region's delta should be, given those that are `stored` of the regions before it."""
    left = (deltas[..., :number] - stored[..., :number]) @ overlaps[number, :number]
    return np.asarray(deltas[..., number] + rest + left, np.float64)
