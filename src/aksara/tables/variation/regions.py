"""Regions of the design space, and how much a variation counts at a place in it (OpenType 1.9.1, "OpenType font
variations overview", "Algorithm for interpolation of instance values")."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from msgspec import Struct

#: Normalised coordinates are stored as 2.14.
ONE = 0x4000


class AxisRegion(Struct, frozen=True, order=True):
    """Where on one axis a region begins, has its peak, and ends, in normalised units of 1/16384."""

    start: int
    peak: int
    end: int

    @property
    def counts(self) -> bool:
        """Whether the axis has a say: one without a peak, or whose numbers contradict one another, has none."""
        ordered = self.start <= self.peak <= self.end
        return bool(self.peak) and ordered and not self.start < 0 < self.end

    def scalar(self, coordinate: float) -> float:
        """The scalar of the region at that coordinate of the axis: 1 at the peak, 0 outside."""
        if not self.counts or coordinate == self.peak:
            return 1.0
        if coordinate <= self.start or coordinate >= self.end:
            return 0.0
        if coordinate < self.peak:
            return (coordinate - self.start) / (self.peak - self.start)
        return (self.end - coordinate) / (self.end - self.peak)


#: A region of the design space: one part for each axis.
Region = tuple[AxisRegion, ...]

#: The part of a region on an axis that has no say in it.
EVERYWHERE = AxisRegion(0, 0, 0)


@lru_cache(maxsize=4096)
def around(peaks: tuple[int, ...]) -> Region:
    """The region from the default to these peaks."""
    return tuple(AxisRegion(min(0, peak), peak, max(0, peak)) for peak in peaks)


@lru_cache(maxsize=4096)
def peak_of(region: Region) -> tuple[int, ...]:
    """The peak of the region: a coordinate for each axis."""
    return tuple(axis.peak for axis in region)


def scalar(region: Region, location: Sequence[float]) -> float:
    """The scalar of the region at that location (a normalised coordinate for each axis, in units of 1/16384)."""
    product = 1.0
    for axis, coordinate in zip(region, location, strict=True):
        product *= axis.scalar(coordinate)
    return product
