"""Outlines as variations see them: the points of a simple glyph, the components of a composite one."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from aksara.records import ComparedByField
from aksara.truetype.points import Ints, Points, running_sum, starts_of

#: Behind the points of a glyph stand four more: where it starts and ends, horizontally, then vertically.
PHANTOM_POINTS = 4
START, END, TOP, BOTTOM = range(-PHANTOM_POINTS, 0)


class Outline(ComparedByField, Struct, frozen=True):
    """`coordinates` (P by 2) are those of a simple glyph's points, or a composite's offsets of components.

    `contours` are the points of each contour; a composite has none.
    """

    coordinates: Ints
    contours: Ints

    @property
    def point_count(self) -> int:
        """Its points or components, and the four phantom points."""
        return len(self.coordinates) + PHANTOM_POINTS

    @property
    def with_phantoms(self) -> Ints:
        """The coordinates, and zeros for the phantom points, from which nothing is inferred."""
        return np.concatenate((self.coordinates, np.zeros((PHANTOM_POINTS, 2), np.int64)))

    @property
    def parts(self) -> Ints:
        """The points of each contour, then 1 for each point or component that belongs to none."""
        alone = self.point_count - int(self.contours.sum())
        return np.concatenate((self.contours, np.ones(alone, np.int64)))


EMPTY = Outline(np.zeros((0, 2), np.int64), np.zeros(0, np.int64))


def outlines_of(points: Points) -> list[Outline]:
    """The outline of each glyph, its points from the origin."""
    per_glyph = points.per_glyph
    coordinates = np.column_stack((running_sum(points.dx, per_glyph), running_sum(points.dy, per_glyph)))
    outlines = []
    for start, count, first, contours in zip(
        starts_of(per_glyph).tolist(),
        per_glyph.tolist(),
        starts_of(points.contours).tolist(),
        points.contours.tolist(),
        strict=True,
    ):
        outlines.append(Outline(coordinates[start : start + count], points.counts[first : first + contours]))
    return outlines
