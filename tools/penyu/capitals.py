"""The capitals."""

from __future__ import annotations

from penyu.design import CAP, OVER, Drawing, Style
from penyu.lower import OPEN, SLANT, TIGHT, double_curve
from penyu.pen import Path, bar, diagonal, polygon, ring

WIDE = 1.1  # room beside an upright, against that of a small letter
ROUNDED = 0.62


def _pen(d: Drawing, path: Path) -> Drawing:
    return d.pen(path, d.style.cap_v, d.style.cap_h)


def a(s: Style) -> Drawing:
    w = 612 + s.more * 1.0
    t = s.cap_v * 1.06
    d = Drawing(s, w, SLANT, SLANT)
    top = t * 1.06
    d.add(diagonal(t / 2, 0, w / 2, CAP, t, top), diagonal(w - t / 2, 0, w / 2, CAP, t, top))
    y = CAP * 0.215
    return d.add(bar(w * 0.19, y, w * 0.81, y + s.cap_h * 0.95))


def _lobe(d: Drawing, x0: float, y0: float, x1: float, y1: float, k: float = 0.59) -> None:
    """Half a bowl between two level strokes whose outer edges are y0 and y1."""
    s = d.style
    low, high, edge = y0 + s.cap_h / 2, y1 - s.cap_h / 2, x1 - s.cap_v / 2
    reach = min((y1 - y0) * 0.56, x1 - x0 - s.cap_v * 0.9)
    path = Path(x0, high).line(x1 - reach, high).arc(edge, (low + high) / 2, "h", k)
    _pen(d, path.arc(x1 - reach, low, "v", k).line(x0, low))


def b(s: Style) -> Drawing:
    w = 486 + s.more * 0.8
    d = Drawing(s, w, WIDE, ROUNDED * 0.85)
    waist = CAP * 0.525
    _lobe(d, s.cap_v * 0.5, waist - s.cap_h / 2, w * 0.94, CAP)
    _lobe(d, s.cap_v * 0.5, 0, w, waist + s.cap_h / 2)
    return d.add(bar(0, 0, s.cap_v, CAP))


def c(s: Style) -> Drawing:
    w = 568 + s.more * 0.75
    d = Drawing(s, w, ROUNDED, OPEN)
    middle, top, low = w * 0.545, CAP + OVER - s.cap_h / 2, -OVER + s.cap_h / 2
    path = Path(w - s.cap_v * 0.32, CAP * 0.795 - s.more * 0.1, 0.95)
    path.curve((w * 0.86, CAP * 0.925), (w * 0.73, top), (middle, top))
    path.arc(s.cap_v / 2, CAP / 2, "h", 0.575).arc(middle, low, "v", 0.575)
    return _pen(
        d, path.curve((w * 0.73, low), (w * 0.86, CAP * 0.075), (w - s.cap_v * 0.32, CAP * 0.205 + s.more * 0.1), 0.95)
    )


def d_(s: Style) -> Drawing:
    w = 562 + s.more * 0.8
    d = Drawing(s, w, WIDE, ROUNDED)
    x0, low, high, edge = s.cap_v * 0.5, s.cap_h / 2, CAP - s.cap_h / 2, w - s.cap_v / 2
    path = Path(x0, high).line(w * 0.36, high).arc(edge, CAP / 2, "h", 0.60)
    _pen(d, path.arc(w * 0.36, low, "v", 0.60).line(x0, low))
    return d.add(bar(0, 0, s.cap_v, CAP))


def e(s: Style) -> Drawing:
    w = 424 + s.more * 0.7
    d = Drawing(s, w, WIDE, OPEN * 1.1)
    y = CAP * 0.525
    d.add(bar(0, 0, s.cap_v, CAP), bar(0, CAP - s.cap_h, w * 0.985, CAP), bar(0, 0, w, s.cap_h))
    return d.add(bar(0, y - s.cap_h / 2, w * 0.92, y + s.cap_h / 2))


def f(s: Style) -> Drawing:
    w = 404 + s.more * 0.7
    d = Drawing(s, w, WIDE, TIGHT * 0.8)
    y = CAP * 0.50
    d.add(bar(0, 0, s.cap_v, CAP), bar(0, CAP - s.cap_h, w, CAP))
    return d.add(bar(0, y - s.cap_h / 2, w * 0.92, y + s.cap_h / 2))


def g(s: Style) -> Drawing:
    w = 602 + s.more * 0.75
    d = Drawing(s, w, ROUNDED, 0.9)
    middle, top, low = w * 0.53, CAP + OVER - s.cap_h / 2, -OVER + s.cap_h / 2
    right = w - s.cap_v / 2
    path = Path(w - s.cap_v * 0.36, CAP * 0.805 - s.more * 0.1, 0.95)
    path.curve((w * 0.85, CAP * 0.93), (w * 0.72, top), (middle, top))
    path.arc(s.cap_v / 2, CAP / 2, "h", 0.575).arc(middle, low, "v", 0.575)
    path.curve((w * 0.72, low), (right, CAP * 0.08), (right, CAP * 0.26), 0.97)
    _pen(d, path.line(right, CAP * 0.485, 0.97))
    y = CAP * 0.485
    return d.add(bar(w * 0.56, y - s.cap_h, w - s.cap_v * 0.02, y))


def h(s: Style) -> Drawing:
    w = 530 + s.more * 0.8
    y = CAP * 0.52
    d = Drawing(s, w, WIDE, WIDE).add(bar(0, 0, s.cap_v, CAP), bar(w - s.cap_v, 0, w, CAP))
    return d.add(bar(0, y - s.cap_h / 2, w, y + s.cap_h / 2))


def i(s: Style) -> Drawing:
    return Drawing(s, s.cap_v, WIDE, WIDE).add(bar(0, 0, s.cap_v, CAP))


def j(s: Style) -> Drawing:
    w = 322 + s.more * 0.8
    d = Drawing(s, w, TIGHT, WIDE)
    x, low = w - s.cap_v / 2, -OVER + s.cap_h / 2
    path = Path(x, CAP).line(x, CAP * 0.27).arc(w * 0.40, low, "v", 0.60)
    return _pen(d, path.curve((w * 0.25, low), (w * 0.12, CAP * 0.04), (w * 0.02, CAP * 0.125), 0.95))


def k(s: Style) -> Drawing:
    w = 512 + s.more * 1.0
    t = s.cap_v * 1.16
    d = Drawing(s, w, WIDE, SLANT)
    d.add(bar(0, 0, s.cap_v, CAP), diagonal(s.cap_v * 0.92, CAP * 0.33, w - t * 0.62, CAP, t * 0.98))
    return d.add(diagonal(w - t * 0.5, 0, s.cap_v + w * 0.155, CAP * 0.545, t * 1.04, t * 0.98))


def l_(s: Style) -> Drawing:
    w = 396 + s.more * 0.7
    return Drawing(s, w, WIDE, TIGHT * 0.6).add(bar(0, 0, s.cap_v, CAP), bar(0, 0, w, s.cap_h))


def m(s: Style) -> Drawing:
    w = 668 + s.more * 1.2
    d = Drawing(s, w, WIDE, WIDE)
    t = s.cap_v * 1.06
    d.add(bar(0, 0, s.cap_v, CAP), bar(w - s.cap_v, 0, w, CAP))
    foot = CAP * 0.10
    d.add(diagonal(t * 0.52, CAP, w / 2, foot, t * 1.04, t))
    return d.add(diagonal(w - t * 0.52, CAP, w / 2, foot, t * 1.04, t))


def n(s: Style) -> Drawing:
    w = 548 + s.more * 0.9
    d = Drawing(s, w, WIDE, WIDE)
    t = s.cap_v * 1.14
    d.add(bar(0, 0, s.cap_v, CAP), bar(w - s.cap_v, 0, w, CAP))
    return d.add(diagonal(t * 0.5, CAP, w - t * 0.5, 0, t))


def o(s: Style) -> Drawing:
    w = 646 + s.more * 0.8
    return Drawing(s, w, ROUNDED, ROUNDED).add(*ring(0, -OVER, w, CAP + OVER, s.cap_v, s.cap_h, 0.572))


def p(s: Style) -> Drawing:
    w = 462 + s.more * 0.8
    d = Drawing(s, w, WIDE, TIGHT * 1.1)
    _lobe(d, s.cap_v * 0.5, CAP * 0.405, w, CAP)
    return d.add(bar(0, 0, s.cap_v, CAP))


def q(s: Style) -> Drawing:
    d = o(s)
    w, t = d.width, s.cap_v * 1.06
    return d.add(diagonal(w * 0.60, CAP * 0.21, w * 0.885, -OVER - 72, t, t))


def r(s: Style) -> Drawing:
    w = 496 + s.more * 0.85
    d = Drawing(s, w, WIDE, SLANT * 1.4)
    _lobe(d, s.cap_v * 0.5, CAP * 0.425, w * 0.955, CAP)
    t = s.cap_v * 1.13
    d.add(bar(0, 0, s.cap_v, CAP))
    return d.add(diagonal(w - t * 0.52, 0, w * 0.485, CAP * 0.47, t, t * 0.98))


def s_(s: Style) -> Drawing:
    w = 466 + s.more * 0.8
    return _pen(Drawing(s, w, OPEN * 1.3, OPEN * 1.3), double_curve(w, CAP, s.cap_v, s.cap_h))


def t(s: Style) -> Drawing:
    w = 520 + s.more * 0.7
    d = Drawing(s, w, TIGHT * 0.7, TIGHT * 0.7).add(bar(0, CAP - s.cap_h, w, CAP))
    return d.add(bar(w / 2 - s.cap_v / 2, 0, w / 2 + s.cap_v / 2, CAP))


def u(s: Style) -> Drawing:
    w = 528 + s.more * 0.8
    d = Drawing(s, w, WIDE * 0.95, WIDE * 0.95)
    left, right, low = s.cap_v / 2, w - s.cap_v / 2, -OVER + s.cap_h / 2
    path = Path(left, CAP).line(left, CAP * 0.345).arc(w / 2, low, "v", 0.60)
    return _pen(d, path.arc(right, CAP * 0.345, "h", 0.60).line(right, CAP))


def v(s: Style) -> Drawing:
    w = 602 + s.more * 1.0
    t_ = s.cap_v * 1.06
    d = Drawing(s, w, SLANT, SLANT)
    return d.add(diagonal(t_ / 2, CAP, w / 2, 0, t_, t_ * 1.06), diagonal(w - t_ / 2, CAP, w / 2, 0, t_, t_ * 1.06))


def w_(s: Style) -> Drawing:
    w = 896 + s.more * 1.35
    t_ = s.cap_v * 1.03
    d = Drawing(s, w, SLANT, SLANT)
    a_, b_ = w * 0.28, w * 0.72
    d.add(diagonal(t_ / 2, CAP, a_, 0, t_), diagonal(w - t_ / 2, CAP, b_, 0, t_))
    return d.add(diagonal(w / 2, CAP, a_, 0, t_ * 0.92, t_ * 0.97), diagonal(w / 2, CAP, b_, 0, t_ * 0.92, t_ * 0.97))


def x(s: Style) -> Drawing:
    w = 572 + s.more * 1.0
    t_ = s.cap_v * 1.17
    d = Drawing(s, w, SLANT, SLANT)
    return d.add(diagonal(t_ / 2, 0, w - t_ / 2 - 14, CAP, t_), diagonal(w - t_ / 2, 0, t_ / 2 + 14, CAP, t_ * 1.03))


def y(s: Style) -> Drawing:
    w = 564 + s.more * 1.0
    t_ = s.cap_v * 1.10
    fork = CAP * 0.37
    d = Drawing(s, w, SLANT * 0.8, SLANT * 0.8)
    d.add(
        diagonal(t_ / 2, CAP, w / 2, fork - 20, t_, s.cap_v), diagonal(w - t_ / 2, CAP, w / 2, fork - 20, t_, s.cap_v)
    )
    return d.add(bar(w / 2 - s.cap_v / 2, 0, w / 2 + s.cap_v / 2, fork + 10))


def z(s: Style) -> Drawing:
    w = 496 + s.more * 0.8
    d = Drawing(s, w, OPEN, OPEN)
    t_ = s.cap_v * 1.24
    d.add(bar(w * 0.02, CAP - s.cap_h, w * 0.985, CAP), bar(0, 0, w, s.cap_h))
    return d.add(diagonal(t_ / 2, s.cap_h * 0.5, w * 0.985 - t_ / 2, CAP - s.cap_h * 0.5, t_))


def ae(s: Style) -> Drawing:
    w = 836 + s.more * 1.2
    d = Drawing(s, w, SLANT, OPEN)
    t_, x0 = s.cap_v * 1.06, w * 0.47
    d.add(diagonal(t_ / 2, 0, x0 + t_ * 0.2, CAP, t_), bar(x0, 0, x0 + s.cap_v, CAP), bar(x0, 0, w, s.cap_h))
    d.add(bar(x0 - 30, CAP - s.cap_h, w * 0.985, CAP))
    d.add(bar(x0, CAP * 0.525 - s.cap_h / 2, w * 0.955, CAP * 0.525 + s.cap_h / 2))
    return d.add(bar(w * 0.16, CAP * 0.205, x0 + 20, CAP * 0.205 + s.cap_h * 0.95))


def oe(s: Style) -> Drawing:
    w = 872 + s.more * 1.2
    d = Drawing(s, w, ROUNDED, OPEN)
    x0, top, low = w * 0.52, CAP + OVER - s.cap_h / 2, -OVER + s.cap_h / 2
    path = Path(x0 + 30, top - 6).line(w * 0.36, top).arc(s.cap_v / 2, CAP / 2, "h", 0.575)
    _pen(d, path.arc(w * 0.36, low, "v", 0.575).line(x0 + 30, low + 6))
    d.add(bar(x0, 0, x0 + s.cap_v, CAP), bar(x0, 0, w, s.cap_h), bar(x0, CAP - s.cap_h, w * 0.985, CAP))
    return d.add(bar(x0, CAP * 0.525 - s.cap_h / 2, w * 0.955, CAP * 0.525 + s.cap_h / 2))


def thorn(s: Style) -> Drawing:
    w = 462 + s.more * 0.8
    d = Drawing(s, w, WIDE, ROUNDED * 0.8)
    _lobe(d, s.cap_v * 0.5, CAP * 0.20, w, CAP * 0.795)
    return d.add(bar(0, 0, s.cap_v, CAP))


def eszett(s: Style) -> Drawing:
    w = 560 + s.more * 0.85
    d = Drawing(s, w, WIDE, ROUNDED * 0.8)
    top, left = CAP + OVER - s.cap_h / 2, s.cap_v / 2
    path = Path(left, 0).line(left, CAP * 0.60).arc(w * 0.48, top, "v", 0.60)
    _pen(d, path.line(w * 0.70, top - OVER))
    d.add(polygon((w * 0.66, CAP), (w * 0.96, CAP), (w * 0.96, CAP - s.cap_h), (w * 0.66, CAP - s.cap_h)))
    t_ = s.cap_v * 1.1
    d.add(diagonal(w * 0.96 - t_ / 2, CAP - s.cap_h * 0.6, w * 0.56, CAP * 0.52, t_))
    low, waist = -OVER + s.cap_h / 2, CAP * 0.56
    lower = Path(w * 0.50, waist, 0.9).line(w * 0.58, waist, 0.95)
    lower.arc(w - s.cap_v / 2, waist * 0.52, "h", 0.58).arc(w * 0.58, low, "v", 0.58)
    return _pen(d, lower.line(w * 0.40, low + 4, 0.95))


def eng(s: Style) -> Drawing:
    d = n(s)
    w, low = d.width, -170 + s.cap_h / 2
    right = w - s.cap_v / 2
    path = Path(right, 60).curve((right, low + 20), (right - 40, low), (right - 130, low + 3), 0.96)
    return _pen(d, path)


CAPITALS = {
    "A": a, "B": b, "C": c, "D": d_, "E": e, "F": f, "G": g, "H": h, "I": i, "J": j, "K": k, "L": l_, "M": m,
    "N": n, "O": o, "P": p, "Q": q, "R": r, "S": s_, "T": t, "U": u, "V": v, "W": w_, "X": x, "Y": y, "Z": z,
    "Æ": ae, "Œ": oe, "Þ": thorn, "Ŋ": eng, "ẞ": eszett,
}  # fmt: skip
