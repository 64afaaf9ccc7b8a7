"""Mathematical signs."""

from __future__ import annotations

from penyu.design import CAP, FIGURE, Drawing, Style
from penyu.figures import centred
from penyu.lower import dot_radius
from penyu.pen import Contour, Path, bar, diagonal, disc, polygon


def dot(s: Style, x: float, y: float, size: float = 1.04) -> Contour:
    r = dot_radius(s) * size
    return disc(x - r, y - r, x + r, y + r)


def plus_like(s: Style, *, level: bool = True, upright: bool = True, base: bool = False) -> Drawing:
    w = 440 + s.more * 0.3
    d = centred(s, w)
    t, y, half = s.h * 0.98, FIGURE / 2, w / 2
    if level:
        d.add(bar(0, y - t / 2, w, y + t / 2))
    if upright:
        d.add(bar(half - t / 2, y - half, half + t / 2, y + half))
    if base:
        d.add(bar(0, y - half - 60, w, y - half - 60 + t))
    return d


def times(s: Style) -> Drawing:
    w = 372 + s.more * 0.3
    t, y = s.h * 1.38, FIGURE / 2
    half = w / 2 - t / 2
    d = centred(s, w)
    return d.add(diagonal(t / 2, y - half, w - t / 2, y + half, t), diagonal(t / 2, y + half, w - t / 2, y - half, t))


def divide(s: Style) -> Drawing:
    d = plus_like(s, upright=False)
    y = FIGURE / 2
    return d.add(dot(s, d.width / 2, y + 165), dot(s, d.width / 2, y - 165))


def equal(s: Style) -> Drawing:
    w, t, y = 440 + s.more * 0.3, s.h * 0.98, FIGURE / 2
    gap = 55 + s.more * 0.3
    return centred(s, w).add(bar(0, y + gap, w, y + gap + t), bar(0, y - gap - t, w, y - gap))


def not_equal(s: Style) -> Drawing:
    d = equal(s)
    y, t = FIGURE / 2, s.v * 0.84
    return d.add(diagonal(d.width * 0.28, y - 235, d.width * 0.72, y + 235, t))


def less(s: Style, sign: int, *, base: bool = False) -> Drawing:
    w, y = 430 + s.more * 0.3, FIGURE / 2 + 30 * base
    d = centred(s, w)
    t = s.h * 1.05
    near, far = (0.0, w) if sign < 0 else (w, 0.0)
    for up in (1, -1):
        d.add(
            polygon(
                (near, y - t * 0.5 * 1),
                (near, y + t * 0.5),
                (far, y + up * 205 + t * 0.55),
                (far, y + up * 205 - t * 0.55),
            )
        )
    return d.add(bar(0, y - 300, w, y - 300 + t)) if base else d


def approximate(s: Style) -> Drawing:
    w, y = 440 + s.more * 0.3, FIGURE / 2
    d = centred(s, w)
    for dy in (-80 - s.more * 0.4, 80 + s.more * 0.4):
        d.pen(_wave(w, y + dy), s.h, s.h)
    return d


def _wave(w: float, y: float) -> Path:
    path = Path(4, y - 34).curve((w * 0.16, y + 66), (w * 0.34, y + 58), (w * 0.5, y))
    return path.curve((w * 0.66, y - 58), (w * 0.84, y - 66), (w - 4, y + 34))


def tilde(s: Style) -> Drawing:
    w = 440 + s.more * 0.3
    return centred(s, w).pen(_wave(w, FIGURE / 2), s.h, s.h)


def circumflex_sign(s: Style) -> Drawing:
    w, t = 400 + s.more * 0.3, s.h * 1.2
    return centred(s, w).add(diagonal(t / 2, CAP - 300, w / 2, CAP, t), diagonal(w - t / 2, CAP - 300, w / 2, CAP, t))


def not_sign(s: Style) -> Drawing:
    d = plus_like(s, upright=False)
    t = s.h * 0.98
    return d.add(bar(d.width - t, FIGURE / 2 - 150, d.width, FIGURE / 2))
