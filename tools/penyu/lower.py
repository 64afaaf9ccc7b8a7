"""The small letters."""

from __future__ import annotations

from penyu.design import ASCENDER, DESCENDER, OVER, Drawing, Style, X
from penyu.pen import Path, bar, diagonal, disc, polygon, ring

ROUND, OPEN, SLANT, TIGHT = 0.56, 0.36, 0.16, 0.3
DOT = 0.62  # how much wider than a stem a dot is


def _arch(d: Drawing, x0: float, x1: float, foot: float = 0.0) -> None:
    """From a stem at x0 over to a stem that ends at x1: the shoulder of n, h, m."""
    s = d.style
    top, right, middle = X + OVER - s.h / 2, x1 - s.v / 2, (x0 + s.v + x1 - s.v) / 2 + s.v * 0.10
    path = Path(x0 + s.v * 0.62, X * 0.60, 0.62).arc(middle, top, "v", 0.62, 1.0)
    d.pen(path.arc(right, X * 0.58, "h", 0.60).line(right, foot))


def _bowl(d: Drawing, stem: float, far: float) -> None:
    """A bowl from the stem's middle line at `stem` out to `far`, tapered where it leaves and joins."""
    s = d.style
    sign = 1 if far > stem else -1
    inner, edge = stem + sign * s.v * 0.12, far - sign * s.v / 2
    middle = (stem + sign * s.v / 2 + far - sign * s.v) / 2 + sign * s.v * 0.12
    top, low, y = X + OVER - s.h / 2, -OVER + s.h / 2, X / 2
    path = Path(inner, X * 0.62, 0.6).arc(middle, top, "v", 0.62)
    path.arc(edge, y, "h", 0.57).arc(middle, low, "v", 0.57).arc(inner, X * 0.38, "h", 0.62, 0.6)
    d.pen(path)


def a(s: Style) -> Drawing:
    if s.italic:
        return single_a(s)
    w = 404 + s.more * 0.72
    d = Drawing(s, w, OPEN * 1.3, 0.98)
    right = w - s.v / 2
    hook = Path(w * 0.085 + s.more * 0.1, X * 0.845 - s.more * 0.12, 0.94)
    hook.curve((w * 0.22, X * 0.93), (w * 0.34, X + OVER - s.h / 2), (w * 0.50, X + OVER - s.h / 2))
    d.pen(hook.arc(right, X * 0.66, "h", 0.60).line(right, 0))
    y1 = X * 0.585 - s.h * 0.02
    low = -OVER + s.h / 2
    belly = Path(right, y1, 0.94).line(w * 0.47, y1, 0.96)
    belly.arc(s.v / 2, (y1 + low) / 2 - 2, "h", 0.60).arc(w * 0.41, low, "v", 0.60)
    d.pen(belly.curve((w * 0.60, low), (w * 0.76, X * 0.09), (right + s.v * 0.05, X * 0.27), 0.6))
    return d


def single_a(s: Style) -> Drawing:
    w = 442 + s.more * 0.72
    d = Drawing(s, w, ROUND, 1.0)
    _bowl(d, w - s.v / 2, 0)
    return d.add(bar(w - s.v, 0, w, X))


def b(s: Style) -> Drawing:
    w = 450 + s.more * 0.72
    d = Drawing(s, w, 1.0, ROUND)
    _bowl(d, s.v / 2, w)
    return d.add(bar(0, 0, s.v, ASCENDER))


def c(s: Style) -> Drawing:
    w = 402 + s.more * 0.6
    d = Drawing(s, w, ROUND, OPEN)
    middle, top, low = w * 0.56, X + OVER - s.h / 2, -OVER + s.h / 2
    path = Path(w - s.v * 0.22, X * 0.80 - s.more * 0.12, 0.94)
    path.curve((w * 0.86, X * 0.93), (w * 0.73, top), (middle, top))
    path.arc(s.v / 2, X / 2, "h", 0.58).arc(middle, low, "v", 0.58)
    path.curve((w * 0.73, low), (w * 0.86, X * 0.07), (w - s.v * 0.22, X * 0.20 + s.more * 0.12), 0.94)
    return d.pen(path)


def d_(s: Style) -> Drawing:
    w = 450 + s.more * 0.72
    d = Drawing(s, w, ROUND, 1.0)
    _bowl(d, w - s.v / 2, 0)
    return d.add(bar(w - s.v, 0, w, ASCENDER))


def e(s: Style) -> Drawing:
    w = 444 + s.more * 0.68
    d = Drawing(s, w, ROUND, ROUND * 0.86)
    middle, top, low = w * 0.515, X + OVER - s.h / 2, -OVER + s.h / 2
    y = X * 0.485
    path = Path(w - s.v * 0.49, y - s.h * 0.495, 0.97).line(w - s.v * 0.49, y + s.h * 0.2, 0.97)
    path.arc(middle, top, "v", 0.575).arc(s.v / 2, X / 2, "h", 0.575).arc(middle, low, "v", 0.575)
    path.curve((w * 0.71, low), (w * 0.85, X * 0.065), (w - s.v * 0.34, X * 0.165 + s.more * 0.12), 0.92)
    d.pen(path)
    h = s.h * 0.90
    return d.add(bar(s.v * 0.6, y - h * 0.55, w - s.v * 0.5, y + h * 0.45))


def f(s: Style) -> Drawing:
    w = 292 + s.more * 0.5
    d = Drawing(s, w, TIGHT * 0.55, 0.02)
    x = w * 0.25 + s.v / 2
    top = ASCENDER + 8 - s.h / 2
    path = Path(x, 0).line(x, ASCENDER - s.v * 0.5 - 108 - s.h * 0.2)
    path.curve((x, top - 40), (x + 46 + s.v * 0.1, top), (x + 118 + s.more * 0.2, top), 0.98)
    d.pen(path.line(w, top - 4, 0.98))
    return d.add(bar(0, X - s.h, w * 0.93, X))


def g(s: Style) -> Drawing:
    w = 446 + s.more * 0.72
    d = Drawing(s, w, ROUND, 1.0)
    _bowl(d, w - s.v / 2, 0)
    right, low = w - s.v / 2, DESCENDER - OVER + s.h / 2
    path = Path(right, X).line(right, 10)
    path.arc(w * 0.45, low, "v", 0.60)
    return d.pen(path.curve((w * 0.31, low), (w * 0.20, DESCENDER * 0.86), (w * 0.085, DESCENDER * 0.66), 0.94))


def h(s: Style) -> Drawing:
    w = 418 + s.more * 0.74
    d = Drawing(s, w, 1.0, 0.97)
    _arch(d, 0, w)
    return d.add(bar(0, 0, s.v, ASCENDER))


def dotless_i(s: Style) -> Drawing:
    return Drawing(s, s.v).add(bar(0, 0, s.v, X))


def i(s: Style) -> Drawing:
    d = dotless_i(s)
    r = dot_radius(s)
    y = ASCENDER - 24
    return d.add(disc(s.v / 2 - r, y - r, s.v / 2 + r, y + r))


def dot_radius(s: Style) -> float:
    return s.v * DOT


def dotless_j(s: Style) -> Drawing:
    d = Drawing(s, s.v)
    low, x = DESCENDER - OVER + s.h / 2, s.v / 2
    path = Path(x, X).line(x, DESCENDER + 120 + s.more * 0.3)
    return d.pen(path.curve((x, low + 26), (x - 40, low), (x - 118 - s.more * 0.3, low + 3), 0.96))


def j(s: Style) -> Drawing:
    d = dotless_j(s)
    r = dot_radius(s)
    y = ASCENDER - 24
    return d.add(disc(s.v / 2 - r, y - r, s.v / 2 + r, y + r))


def k(s: Style) -> Drawing:
    w = 402 + s.more * 0.9
    d = Drawing(s, w, 1.0, SLANT)
    t = s.v * 1.16
    d.add(bar(0, 0, s.v, ASCENDER))
    d.add(diagonal(s.v * 0.95, X * 0.33, w - t * 0.55, X, t * 0.98))
    return d.add(diagonal(w - t * 0.52, 0, s.v + w * 0.165, X * 0.56, t * 1.04, t * 0.98))


def l_(s: Style) -> Drawing:
    return Drawing(s, s.v).add(bar(0, 0, s.v, ASCENDER))


def m(s: Style) -> Drawing:
    w = 690 + s.more * 1.15
    d = Drawing(s, w, 1.0, 0.97)
    half = (w + s.v) / 2
    _arch(d, 0, half)
    _arch(d, half - s.v, w)
    return d.add(bar(0, 0, s.v, X))


def n(s: Style) -> Drawing:
    w = 418 + s.more * 0.74
    d = Drawing(s, w, 1.0, 0.97)
    _arch(d, 0, w)
    return d.add(bar(0, 0, s.v, X))


def o(s: Style) -> Drawing:
    w = 474 + s.more * 0.74
    return Drawing(s, w, ROUND, ROUND).add(*ring(0, -OVER, w, X + OVER, s.v * 1.0, s.h * 1.0, 0.575))


def p(s: Style) -> Drawing:
    w = 450 + s.more * 0.72
    d = Drawing(s, w, 1.0, ROUND)
    _bowl(d, s.v / 2, w)
    return d.add(bar(0, DESCENDER, s.v, X))


def q(s: Style) -> Drawing:
    w = 450 + s.more * 0.72
    d = Drawing(s, w, ROUND, 1.0)
    _bowl(d, w - s.v / 2, 0)
    return d.add(bar(w - s.v, DESCENDER, w, X))


def r(s: Style) -> Drawing:
    w = 272 + s.more * 0.66
    d = Drawing(s, w, 1.0, 0.12)
    top = X + OVER - s.h / 2
    path = Path(s.v * 0.62, X * 0.58, 0.62)
    path.curve((s.v * 0.62, X * 0.84), (w * 0.62, top), (w * 0.90, top), 0.98).line(w, top - 3, 0.98)
    d.pen(path)
    return d.add(bar(0, 0, s.v, X))


def s_(s: Style) -> Drawing:
    w = 372 + s.more * 0.72
    d = Drawing(s, w, OPEN * 1.2, OPEN * 1.3)
    return d.pen(double_curve(w, X, s.v, s.h))


def double_curve(w: float, height: float, v: float, h: float) -> Path:
    """The skeleton of S: two arcs and the spine between them."""
    top, low = height + OVER - h / 2, -OVER + h / 2
    upper, lower = height * 0.735, height * 0.268
    left, right = v * 0.5 + w * 0.022, w - v * 0.5
    path = Path(w * 0.925, height * 0.842 - (v - 84) * 0.11, 0.92)
    path.curve((w * 0.83, height * 0.935), (w * 0.68, top), (w * 0.50, top), 0.98)
    path.arc(left, upper, "h", 0.575, 0.98)
    path.curve((left, height * 0.46), (right, height * 0.585), (right, lower), 0.98)
    path.arc(w * 0.485, low, "v", 0.575, 0.98)
    return path.curve((w * 0.29, low), (w * 0.14, height * 0.065), (w * 0.045, height * 0.165 + (v - 84) * 0.11), 0.92)


def t(s: Style) -> Drawing:
    w = 296 + s.more * 0.5
    d = Drawing(s, w, TIGHT * 0.5, OPEN * 0.7)
    x = w * 0.25 + s.v / 2
    low = -OVER + s.h / 2
    path = Path(x, X + 148).line(x, 132 + s.more * 0.2)
    path.curve((x, low + 34), (x + 40, low), (x + 102 + s.more * 0.25, low), 0.98)
    d.pen(path.curve((w * 0.88, low), (w * 0.94, low + 5), (w, low + 14), 0.96))
    return d.add(bar(0, X - s.h, w * 0.96, X))


def u(s: Style) -> Drawing:
    w = 414 + s.more * 0.74
    d = Drawing(s, w, 0.97, 1.0)
    low, left = -OVER + s.h / 2, s.v / 2
    middle = (s.v + w - s.v) / 2 - s.v * 0.10
    path = Path(left, X).line(left, X * 0.42).arc(middle, low, "v", 0.60)
    d.pen(path.arc(w - s.v * 0.62, X * 0.40, "h", 0.62, 0.62))
    return d.add(bar(w - s.v, 0, w, X))


def v(s: Style) -> Drawing:
    w = 446 + s.more * 0.9
    t_ = s.v * 1.07
    d = Drawing(s, w, SLANT, SLANT)
    return d.add(diagonal(t_ / 2, X, w / 2, 0, t_, t_ * 1.02), diagonal(w - t_ / 2, X, w / 2, 0, t_ * 0.97, t_))


def w_(s: Style) -> Drawing:
    w = 690 + s.more * 1.25
    t_ = s.v * 1.02
    d = Drawing(s, w, SLANT, SLANT)
    a_, b_ = w * 0.283, w * 0.717
    d.add(diagonal(t_ / 2, X, a_, 0, t_), diagonal(w - t_ / 2, X, b_, 0, t_))
    return d.add(diagonal(w / 2, X, a_, 0, t_ * 0.92, t_ * 0.97), diagonal(w / 2, X, b_, 0, t_ * 0.92, t_ * 0.97))


def x(s: Style) -> Drawing:
    w = 432 + s.more * 0.9
    t_ = s.v * 1.16
    d = Drawing(s, w, SLANT, SLANT)
    return d.add(diagonal(t_ / 2, 0, w - t_ / 2 - 8, X, t_), diagonal(w - t_ / 2, 0, t_ / 2 + 8, X, t_ * 1.03))


def y(s: Style) -> Drawing:
    w = 446 + s.more * 0.9
    t_ = s.v * 1.07
    d = Drawing(s, w, SLANT, SLANT)
    d.add(diagonal(t_ / 2, X, w / 2 - 3, 0, t_, t_ * 0.94))
    # The tail goes on in the direction of the right stroke.
    slope, turn, low = (w / 2 - t_ / 2) / X, -62.0, DESCENDER - 4 + s.h / 2
    foot = w / 2 + slope * turn
    d.add(diagonal(w - t_ / 2, X, foot + slope * 100, turn + 100, t_ * 0.97, t_ * 0.97))
    path = Path(foot + slope * 150, turn + 150, 0.97).line(foot, turn, 0.97)
    path.curve((foot - slope * 70, turn - 70), (foot - 64, low), (foot - 128 - s.more * 0.15, low), 0.98)
    return d.pen(path.line(foot - 146 - s.more * 0.2, low + 1, 0.98))


def z(s: Style) -> Drawing:
    w = 376 + s.more * 0.7
    d = Drawing(s, w, OPEN, OPEN)
    t_ = s.v * 1.24
    d.add(bar(w * 0.03, X - s.h, w * 0.98, X), bar(0, 0, w, s.h))
    return d.add(diagonal(t_ / 2, s.h * 0.5, w * 0.98 - t_ / 2, X - s.h * 0.5, t_))


def ae(s: Style) -> Drawing:
    left, right = a(Style(s.name, s.weight, s.v * 0.96, s.h, s.cap_v, s.cap_h, s.side)), e(s)
    step = left.width - s.v
    d = Drawing(s, step + right.width, left.left, right.right, left.contours)
    return d.add(*[[(x_ + step, y_, on) for x_, y_, on in contour] for contour in right.contours])


def oe(s: Style) -> Drawing:
    left, right = o(s), e(s)
    step = left.width - s.v * 0.96
    d = Drawing(s, step + right.width, left.left, right.right, left.contours)
    return d.add(*[[(x_ + step, y_, on) for x_, y_, on in contour] for contour in right.contours])


def eszett(s: Style) -> Drawing:
    w = 446 + s.more * 0.8
    d = Drawing(s, w, 1.0, ROUND * 0.9)
    top, left = ASCENDER + 6 - s.h / 2, s.v / 2
    path = Path(left, 0).line(left, ASCENDER * 0.66)
    path.arc(w * 0.49, top, "v", 0.60).arc(w * 0.84 - s.v * 0.1, ASCENDER * 0.755, "h", 0.58)
    d.pen(path.arc(w * 0.52, ASCENDER * 0.555, "v", 0.58, 0.9))
    low, waist = -OVER + s.h / 2, ASCENDER * 0.555
    lower = Path(w * 0.46, waist, 0.92).line(w * 0.55, waist, 0.92)
    lower.arc(w - s.v / 2, waist * 0.51, "h", 0.58).arc(w * 0.53, low, "v", 0.58)
    return d.pen(lower.line(w * 0.36, low + 4, 0.95))


def thorn(s: Style) -> Drawing:
    return p(s).add(bar(0, 0, s.v, ASCENDER))


def eth(s: Style) -> Drawing:
    w = 470 + s.more * 0.74
    d = Drawing(s, w, ROUND, ROUND)
    d.add(*ring(0, -OVER, w, X * 0.92, s.v, s.h, 0.575))
    path = Path(w * 0.27, ASCENDER - s.h * 0.3, 0.95)
    d.pen(path.curve((w * 0.68, ASCENDER * 0.92), (w - s.v / 2, X * 0.86), (w - s.v / 2, X * 0.46), 1.0))
    return d.add(polygon((w * 0.25, 578), (w * 0.83, 694), (w * 0.83, 694 - s.h * 0.9), (w * 0.25, 578 - s.h * 0.9)))


def long_s(s: Style) -> Drawing:
    d = f(s)
    return Drawing(s, d.width, d.left, d.right, d.contours[:1])


def kra(s: Style) -> Drawing:
    d = k(s)
    return Drawing(s, d.width, d.left, d.right, [bar(0, 0, s.v, X), *d.contours[1:]])


def eng(s: Style) -> Drawing:
    w = 418 + s.more * 0.74
    d = Drawing(s, w, 1.0, 0.97)
    _arch(d, 0, w, foot=-60)
    low, right = DESCENDER - OVER + s.h / 2, w - s.v / 2
    path = Path(right, -40).curve((right, low + 30), (right - 36, low), (right - 112 - s.more * 0.3, low + 3), 0.96)
    return d.pen(path).add(bar(0, 0, s.v, X))


LOWER = {
    "a": a, "b": b, "c": c, "d": d_, "e": e, "f": f, "g": g, "h": h, "i": i, "j": j, "k": k, "l": l_, "m": m,
    "n": n, "o": o, "p": p, "q": q, "r": r, "s": s_, "t": t, "u": u, "v": v, "w": w_, "x": x, "y": y, "z": z,
    "ı": dotless_i, "ȷ": dotless_j, "æ": ae, "œ": oe, "ß": eszett, "ſ": long_s, "ĸ": kra, "ŋ": eng, "þ": thorn, "ð": eth,
}  # fmt: skip
