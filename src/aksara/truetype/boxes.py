"""Bounding boxes of glyphs whose points have moved, composites put together from their components ('glyf')."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from aksara.truetype.components import ARGS_ARE_XY, Composite
from aksara.truetype.interpolation import Floats

Box = tuple[int, int, int, int]


class AssembledGlyphs:
    """The points of glyphs, components in place. `composite_of` gives None for a glyph that is none, whose points (P by
    2) `points_of` gives."""

    def __init__(self, points_of: Callable[[int], Floats], composite_of: Callable[[int], Composite | None]) -> None:
        self._points_of = points_of
        self._composite_of = composite_of
        self._known: dict[int, Floats] = {}

    def points(self, glyph: int) -> Floats:
        """All points of the glyph, in font units. Its components must not contain it."""
        if glyph not in self._known:
            composite = self._composite_of(glyph)
            self._known[glyph] = self._points_of(glyph) if composite is None else self._assembled(composite)
        return self._known[glyph]

    def box(self, glyph: int) -> Box:
        """xMin, yMin, xMax, yMax of all its points; zeros for a glyph without any."""
        points = self.points(glyph)
        if not len(points):
            return 0, 0, 0, 0
        low, high = np.floor(points.min(axis=0)), np.ceil(points.max(axis=0))
        return int(low[0]), int(low[1]), int(high[0]), int(high[1])

    def _assembled(self, composite: Composite) -> Floats:
        points = np.zeros((0, 2))
        for component in composite.components:
            matrix = np.array(component.matrix).reshape(2, 2)
            own = self.points(component.glyph) @ matrix
            if component.flags & ARGS_ARE_XY:
                offset = np.array(component.displacement)
            else:
                parent, child = component.arguments
                there = parent < len(points) and child < len(own)
                offset = points[parent] - own[child] if there else np.zeros(2)
            points = np.concatenate((points, own + offset))
        return points
