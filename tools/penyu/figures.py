"""The figures, and what is made of them."""

from __future__ import annotations

from collections.abc import Callable

from penyu.design import CAP, FIGURE, OVER, Drawing, Style
from penyu.pen import Contour, Path, bar, diagonal, polygon, ring

FIGURE_WIDTH = 556
Draw = Callable[[Style], Drawing]


def moved(contours: list[Contour], dx: float, dy: float, scale: float = 1.0) -> list[Contour]:
    return [[(x * scale + dx, y * scale + dy, on) for x, y, on in contour] for contour in contours]


def figure(s: Style, ink: float) -> Drawing:
    """An empty figure whose ink is centred in the common width."""
    full = FIGURE_WIDTH + s.more * 0.55
    ink += s.more * 0.75
    room = (full - ink) / 2 / s.side
    return Drawing(s, ink, room, room)


def centred(s: Style, ink: float) -> Drawing:
    room = (FIGURE_WIDTH + s.more * 0.55 - ink) / 2 / s.side
    return Drawing(s, ink, room, room)


def zero(s: Style) -> Drawing:
    d = figure(s, 438)
    return d.add(*ring(0, -OVER, d.width, FIGURE + OVER, s.v * 1.03, s.h * 1.02, 0.60))


def one(s: Style) -> Drawing:
    d = figure(s, 258)
    v, right = s.v * 1.03, d.width * 0.84
    d.add(bar(right - v, 0, right, FIGURE))
    return d.add(
        polygon(
            (right - v * 0.5, FIGURE),
            (0, FIGURE - 118),
            (0, FIGURE - 118 - s.h * 1.15),
            (right - v * 0.5, FIGURE - s.h * 1.3),
        )
    )


def two(s: Style) -> Drawing:
    d = figure(s, 412)
    w, v, h = d.width, s.v * 1.03, s.h * 1.02
    top = FIGURE + OVER - h / 2
    path = Path(w * 0.055 + s.more * 0.06, FIGURE * 0.775 - s.more * 0.1, 0.95)
    path.curve((w * 0.13, FIGURE * 0.92), (w * 0.29, top), (w * 0.48, top)).arc(
        w - v * 0.56, FIGURE * 0.715, "h", 0.575
    )
    path.curve((w - v * 0.56, FIGURE * 0.50), (w * 0.56, FIGURE * 0.36), (w * 0.145, h * 0.62), 1.0)
    return d.pen(path, v, h).add(bar(w * 0.03, 0, w, h))


def three(s: Style) -> Drawing:
    d = figure(s, 412)
    w, v, h = d.width, s.v * 1.02, s.h * 1.0
    top, low, waist = FIGURE + OVER - h / 2, -OVER + h / 2, FIGURE * 0.535
    upper = Path(w * 0.06 + s.more * 0.05, FIGURE * 0.825 - s.more * 0.08, 0.94)
    upper.curve((w * 0.16, FIGURE * 0.94), (w * 0.30, top), (w * 0.46, top))
    upper.arc(w * 0.945 - v / 2, FIGURE * 0.755, "h", 0.57).arc(w * 0.52, waist, "v", 0.57, 0.95)
    d.pen(upper.line(w * 0.30, waist, 0.95), v, h)
    lower = Path(w * 0.30, waist, 0.95).line(w * 0.53, waist, 0.95)
    lower.arc(w - v / 2, FIGURE * 0.275, "h", 0.57).arc(w * 0.46, low, "v", 0.57)
    return d.pen(
        lower.curve(
            (w * 0.27, low), (w * 0.11, FIGURE * 0.06), (w * 0.02 + s.more * 0.05, FIGURE * 0.175 + s.more * 0.08), 0.94
        ),
        v,
        h,
    )


def four(s: Style) -> Drawing:
    d = figure(s, 470)
    w, v, h = d.width, s.v * 1.03, s.h * 1.02
    x, y = w * 0.80 - v / 2, FIGURE * 0.215
    t = s.v * 1.12
    d.add(bar(x - v / 2, 0, x + v / 2, FIGURE), bar(0, y, w, y + h))
    return d.add(diagonal(t * 0.5, y + h * 0.4, x - v / 2 + t * 0.42, FIGURE, t, t))


def five(s: Style) -> Drawing:
    d = figure(s, 410)
    w, v, h = d.width, s.v * 1.02, s.h * 1.02
    low, crown = -OVER + h / 2, FIGURE * 0.635
    d.add(bar(w * 0.15, FIGURE - h, w * 0.93, FIGURE))
    d.add(
        polygon(
            (w * 0.15, FIGURE),
            (w * 0.15 + v * 0.95, FIGURE),
            (w * 0.10 + v * 0.72, FIGURE * 0.50),
            (w * 0.10, FIGURE * 0.50),
        )
    )
    path = Path(w * 0.10 + v * 0.42, FIGURE * 0.545, 0.72)
    path.curve((w * 0.26, crown - h * 0.62), (w * 0.36, crown - h / 2), (w * 0.48, crown - h / 2))
    path.arc(w - v / 2, FIGURE * 0.315, "h", 0.57).arc(w * 0.46, low, "v", 0.57)
    return d.pen(
        path.curve(
            (w * 0.27, low),
            (w * 0.12, FIGURE * 0.06),
            (w * 0.025 + s.more * 0.05, FIGURE * 0.165 + s.more * 0.08),
            0.94,
        ),
        v,
        h,
    )


def six(s: Style) -> Drawing:
    d = figure(s, 432)
    w, v, h = d.width, s.v * 1.02, s.h * 1.0
    crown = FIGURE * 0.62
    d.add(*ring(0, -OVER, w, crown, v, h, 0.575))
    path = Path(v / 2, crown * 0.49).curve((v / 2, FIGURE * 0.66), (w * 0.30, FIGURE * 0.86), (w * 0.66, FIGURE), 0.96)
    return d.pen(path, v, h)


def seven(s: Style) -> Drawing:
    d = figure(s, 416)
    w, h, t = d.width, s.h * 1.03, s.v * 1.16
    return d.add(bar(0, FIGURE - h, w, FIGURE), diagonal(w * 0.255, 0, w - t * 0.5, FIGURE - h * 0.5, t))


def eight(s: Style) -> Drawing:
    d = figure(s, 434)
    w, v, h = d.width, s.v * 1.0, s.h * 0.98
    waist = FIGURE * 0.535
    inset = w * 0.045
    d.add(*ring(inset, waist - h * 0.5, w - inset, FIGURE + OVER, v * 0.96, h, 0.575))
    return d.add(*ring(0, -OVER, w, waist + h * 0.5, v, h, 0.575))


def nine(s: Style) -> Drawing:
    d = six(s)
    turned = [[(d.width - x, FIGURE - y, on) for x, y, on in contour] for contour in d.contours]
    return Drawing(s, d.width, d.left, d.right, turned)


def raised(draw: Draw, *, base: float = 290.0, scale: float = 0.58, thicker: float = 1.42) -> Draw:
    """A small raised or lowered form, its strokes thickened to match the text."""

    def make(s: Style) -> Drawing:
        grown = thicker - s.more * 0.0012
        heavy = Style(s.name, s.weight, s.v * grown, s.h * grown, s.cap_v * grown, s.cap_h * grown, s.side)
        d = draw(heavy)
        return Drawing(s, d.width * scale, 0.45, 0.45, moved(d.contours, 0, base, scale))

    return make


def fraction(top: Draw, bottom: Draw) -> Draw:
    def make(s: Style) -> Drawing:
        over, under = raised(top)(s), raised(bottom, base=0.0)(s)
        w = over.width + under.width + 165
        d = Drawing(s, w, 0.4, 0.4, over.contours)
        d.add(*moved(under.contours, w - under.width, 0))
        return d.add(diagonal(over.width - 40, 0, w - under.width + 30, CAP, s.v * 0.80))

    return make


FIGURES: dict[str, Draw] = {
    "0": zero, "1": one, "2": two, "3": three, "4": four, "5": five, "6": six, "7": seven, "8": eight, "9": nine,
}  # fmt: skip
