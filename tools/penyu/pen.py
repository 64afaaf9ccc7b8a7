"""The pen: strokes along a skeleton, bars, diagonals and rings, as TrueType contours.

The pen is an ellipse, `v` wide and `h` high, so upright strokes come out
heavier than level ones. A skeleton is offset in a space stretched until the
ellipse is a circle; quadratic curves survive that stretching unchanged.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar

from msgspec import Struct, field

Point = tuple[float, float]
#: A contour: x, y, and whether the point is on the curve.
Contour = list[tuple[float, float, bool]]

_TURN = math.radians(33)  # how far one quadratic may turn
_STEPS = 48
_OPEN = 0.40  # of a bowl's width, the most that a stroke takes


class SamePoints:
    """Where curves are cut and bent, so that several styles are drawn with the same points and can be interpolated.

    The first style that is drawn decides where its strokes are cut; a segment is curved if it is in any style.
    """

    def __init__(self) -> None:
        self._cuts: list[list[float]] = []
        self._bends: list[list[bool]] = []
        self._cut_at = self._bend_at = 0

    def begin(self) -> None:
        """Another style is drawn from its first stroke on."""
        self._cut_at = self._bend_at = 0

    def cuts(self, own: list[float]) -> list[float]:
        if self._cut_at == len(self._cuts):
            self._cuts.append(own)
        self._cut_at += 1
        return self._cuts[self._cut_at - 1]

    def bends(self, own: list[bool]) -> list[bool]:
        if self._bend_at == len(self._bends):
            self._bends.append(own)
        self._bend_at += 1
        known = self._bends[self._bend_at - 1]
        known[:] = [a or b for a, b in zip(known, own, strict=True)]
        return known


_same_points: ContextVar[SamePoints | None] = ContextVar("same points", default=None)


@contextmanager
def drawn_with(points: SamePoints | None) -> Iterator[None]:
    """What is drawn inside has the same points as all that is drawn so, too."""
    if points is not None:
        points.begin()
    token = _same_points.set(points)
    try:
        yield
    finally:
        _same_points.reset(token)


class Cubic(Struct):
    """A piece of a skeleton; `start` and `end` widths are parts of the pen's own."""

    points: tuple[Point, Point, Point, Point]
    start: float = 1.0
    end: float = 1.0

    def at(self, t: float) -> Point:
        (ax, ay), (bx, by), (cx, cy), (dx, dy) = self.points
        s = 1 - t
        a, b, c, d = s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t
        return a * ax + b * bx + c * cx + d * dx, a * ay + b * by + c * cy + d * dy

    def direction(self, t: float) -> Point:
        # Slightly inside, where handles of no length leave no direction.
        t = min(max(t, 1e-4), 1 - 1e-4)
        (x0, y0), (x1, y1) = self.at(t - 1e-4), self.at(t + 1e-4)
        length = math.hypot(x1 - x0, y1 - y0) or 1.0
        return (x1 - x0) / length, (y1 - y0) / length


class Path(Struct):
    """A skeleton, built from where it stands: lines, quarter arcs and free curves."""

    x: float
    y: float
    width: float = 1.0
    pieces: list[Cubic] = field(default_factory=list)

    def curve(self, c1: Point, c2: Point, end: Point, width: float = 1.0) -> Path:
        self.pieces.append(Cubic(((self.x, self.y), c1, c2, end), self.width, width))
        (self.x, self.y), self.width = end, width
        return self

    def line(self, x: float, y: float, width: float = 1.0) -> Path:
        dx, dy = (x - self.x) / 3, (y - self.y) / 3
        return self.curve((self.x + dx, self.y + dy), (x - dx, y - dy), (x, y), width)

    def arc(self, x: float, y: float, first: str, k: float = 0.58, width: float = 1.0) -> Path:
        """A quarter of a superellipse that leaves level ('h') or upright ('v'); `k` 0.55 is round, more is squarer."""
        dx, dy = x - self.x, y - self.y
        if first == "h":
            return self.curve((self.x + k * dx, self.y), (x, y - k * dy), (x, y), width)
        return self.curve((self.x, self.y + k * dy), (x - k * dx, y), (x, y), width)


def stroke(path: Path, v: float, h: float) -> Contour:
    """The outline of the pen's way along the path, cut straight across at both ends."""
    stretch = v / h
    sides: list[list[tuple[Point, Point]]] = [[], []]
    for piece in path.pieces:
        flat = Cubic(_stretched(piece.points, stretch), piece.start, piece.end)
        for side, sign in enumerate((1, -1)):
            found = _offset(flat, sign * v / 2)
            sides[side] += found if not sides[side] else found[1:]
    left, right = _quadratics(sides[0]), _quadratics([(p, (-dx, -dy)) for p, (dx, dy) in reversed(sides[1])])
    return [(x, y / stretch, on) for x, y, on in (*left, *right)]


def _stretched(points: Sequence[Point], factor: float) -> tuple[Point, Point, Point, Point]:
    a, b, c, d = ((x, y * factor) for x, y in points)
    return a, b, c, d


def _offset(piece: Cubic, distance: float) -> list[tuple[Point, Point]]:
    """Points of the offset curve with their directions, close enough for one quadratic from each to the next."""

    def point(t: float) -> Point:
        (x, y), (dx, dy) = piece.at(t), piece.direction(t)
        reach = distance * (piece.start + (piece.end - piece.start) * t)
        return x - dy * reach, y + dx * reach

    def direction(t: float) -> Point:
        a, b = point(max(t - 0.003, 0.0)), point(min(t + 0.003, 1.0))
        # A taper tilts the outline; at the very ends the skeleton's own direction joins better.
        if t in (0.0, 1.0):
            return piece.direction(t)
        length = math.hypot(b[0] - a[0], b[1] - a[1]) or 1.0
        return (b[0] - a[0]) / length, (b[1] - a[1]) / length

    cuts, turned, before = [0.0], 0.0, piece.direction(0.0)
    for step in range(1, _STEPS + 1):
        t = step / _STEPS
        now = piece.direction(t)
        turned += abs(math.atan2(before[0] * now[1] - before[1] * now[0], before[0] * now[0] + before[1] * now[1]))
        before = now
        if turned > _TURN and t < 0.97:
            cuts.append(t)
            turned = 0.0
    cuts.append(1.0)
    if (same := _same_points.get()) is not None:
        cuts = same.cuts(cuts)
    return [(point(t), direction(t)) for t in cuts]


def _quadratics(marks: Sequence[tuple[Point, Point]]) -> Contour:
    """On-curve points with, between them, the crossing of their tangents."""
    reaches = [_reach(*mark, *following) for mark, following in itertools.pairwise(marks)]
    bends = [reach is not None for reach in reaches]
    if (same := _same_points.get()) is not None:
        bends = same.bends(bends)
    out: Contour = [(*marks[0][0], True)]
    for ((p, d), (q, _)), reach, bent in zip(itertools.pairwise(marks), reaches, bends, strict=True):
        if reach is not None and bent:
            out.append((p[0] + d[0] * reach, p[1] + d[1] * reach, False))
        elif bent:
            out.append(((p[0] + q[0]) / 2, (p[1] + q[1]) / 2, False))
        out.append((*q, True))
    return out


def _reach(p: Point, d: Point, q: Point, e: Point) -> float | None:
    """How far from p, in direction d, its tangent meets that of q; None if the two are as good as one line."""
    cross = d[0] * e[1] - d[1] * e[0]
    if abs(cross) <= 0.03:
        return None
    reach = ((q[0] - p[0]) * e[1] - (q[1] - p[1]) * e[0]) / cross
    return reach if reach > 0 else None


def ring(x0: float, y0: float, x1: float, y1: float, v: float, h: float, k: float = 0.58) -> list[Contour]:
    """A closed bowl: outer edge and counter, which even the heaviest strokes leave open."""
    v, h = min(v, (x1 - x0) * _OPEN), min(h, (y1 - y0) * _OPEN)
    return [_oval(x0, y0, x1, y1, k), _oval(x0 + v, y0 + h, x1 - v, y1 - h, k)[::-1]]


def disc(x0: float, y0: float, x1: float, y1: float) -> Contour:
    """A dot."""
    return _oval(x0, y0, x1, y1, 0.5523)


def _oval(x0: float, y0: float, x1: float, y1: float, k: float) -> Contour:
    cx, cy = (x0 + x1) / 2, (y0 + y1) / 2
    path = Path(x0, cy).arc(cx, y1, "v", k).arc(x1, cy, "h", k).arc(cx, y0, "v", k).arc(x0, cy, "h", k)
    marks: list[tuple[Point, Point]] = []
    for piece in path.pieces:
        found = _offset(piece, 0.0)
        marks += found if not marks else found[1:]
    return _quadratics(marks)[:-1]


def polygon(*points: Point) -> Contour:
    """Straight sides, drawn clockwise as outer contours are."""
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, (*points[1:], points[0]), strict=True))
    ordered = points if area < 0 else points[::-1]
    return [(x, y, True) for x, y in ordered]


def bar(x0: float, y0: float, x1: float, y1: float) -> Contour:
    """An upright or level stroke."""
    return polygon((x0, y0), (x0, y1), (x1, y1), (x1, y0))


def diagonal(x0: float, y0: float, x1: float, y1: float, w0: float, w1: float | None = None) -> Contour:
    """A slanted stroke cut level at both ends, `w0` and `w1` wide there; x0 and x1 are the middles."""
    a, b = w0 / 2, (w0 if w1 is None else w1) / 2
    return polygon((x0 - a, y0), (x1 - b, y1), (x1 + b, y1), (x0 + a, y0))


def clockwise(contour: Contour) -> Contour:
    """The contour in the direction of outer contours."""
    pairs = zip(contour, (*contour[1:], contour[0]), strict=True)
    return contour if sum(a[0] * b[1] - b[0] * a[1] for a, b in pairs) < 0 else contour[::-1]
