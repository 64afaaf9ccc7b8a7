"""Signs of currencies."""

from __future__ import annotations

from penyu.capitals import CAPITALS
from penyu.design import ASCENDER, CAP, FIGURE, OVER, Drawing, Style, X
from penyu.figures import Draw, centred, figure, moved
from penyu.lower import LOWER
from penyu.pen import Path, bar, diagonal, ring


def dollar(s: Style) -> Drawing:
    d = CAPITALS["S"](s)
    w = d.width * 0.92
    out = figure(s, w - s.more * 0.75).add(*moved(d.contours, 0, 0, 0.92))
    out.contours = [[(x, y + 28, on) for x, y, on in contour] for contour in out.contours]
    t = s.v * 0.80
    return out.add(bar(w / 2 - t / 2, CAP - 90, w / 2 + t / 2, CAP + 60), bar(w / 2 - t / 2, -60, w / 2 + t / 2, 100))


def cent(s: Style) -> Drawing:
    d, t = LOWER["c"](s), s.v * 0.78
    ink = d.width - s.more * 0.75
    out = figure(s, ink).add(*moved(d.contours, 0, 80))
    x = d.width * 0.54
    return out.add(bar(x - t / 2, X + 40, x + t / 2, X + 170), bar(x - t / 2, -10, x + t / 2, 120))


def pound(s: Style) -> Drawing:
    d = figure(s, 424)
    w, v, h = d.width, s.v, s.h
    x, top = w * 0.30, FIGURE + OVER - h / 2
    path = Path(w * 0.93, FIGURE * 0.83 - s.more * 0.1, 0.95)
    path.curve((w * 0.86, FIGURE * 0.95), (w * 0.74, top), (w * 0.62, top)).arc(x, FIGURE * 0.68, "h", 0.60)
    d.pen(path.line(x, FIGURE * 0.22).curve((x, FIGURE * 0.13), (w * 0.22, h * 0.8), (w * 0.10, h * 0.5), 0.9), v, h)
    return d.add(bar(w * 0.02, 0, w, h), bar(0, FIGURE * 0.40, w * 0.74, FIGURE * 0.40 + h * 0.94))


def yen(s: Style) -> Drawing:
    d = CAPITALS["Y"](s)
    w = d.width * 0.9
    out = centred(s, w).add(*moved([[(x * 0.9, y, on) for x, y, on in c] for c in d.contours], 0, 0))
    h = s.h * 0.84
    return out.add(bar(w * 0.12, 215, w * 0.88, 215 + h), bar(w * 0.12, 75, w * 0.88, 75 + h))


def euro(s: Style) -> Drawing:
    d = CAPITALS["C"](s)
    shift = 46
    w = d.width * 0.88 + shift
    out = centred(s, w).add(*moved([[(x * 0.88, y, on) for x, y, on in c] for c in d.contours], shift, 0))
    h = s.h * 0.84
    return out.add(bar(0, 390, w * 0.76, 390 + h), bar(0, 245, w * 0.72, 245 + h))


def dong(s: Style) -> Drawing:
    d = LOWER["d"](s)
    out = centred(s, d.width).add(*d.contours)
    h = s.h * 0.86
    return out.add(
        bar(d.width * 0.45, ASCENDER - 150, d.width + 60, ASCENDER - 150 + h), bar(20, -110, d.width, -110 + h)
    )


def rupee(s: Style) -> Drawing:
    d = figure(s, 430)
    w, v, h = d.width, s.v, s.h * 0.92
    d.add(bar(0, FIGURE - h, w, FIGURE), bar(0, FIGURE * 0.735 - h / 2, w, FIGURE * 0.735 + h / 2))
    path = Path(0, FIGURE - h / 2).line(w * 0.36, FIGURE - h / 2).arc(w * 0.74, FIGURE * 0.735, "h")
    d.pen(path.arc(w * 0.36, FIGURE * 0.475, "v").line(0, FIGURE * 0.475), v, h)
    t = v * 1.15
    return d.add(diagonal(w * 0.86, 0, w * 0.20, FIGURE * 0.47, t))


def currency(s: Style) -> Drawing:
    w, y, r = 420 + s.more * 0.3, FIGURE / 2, 150.0
    d = centred(s, w).add(*ring(w / 2 - r, y - r, w / 2 + r, y + r, s.v * 0.8, s.h * 0.9, 0.5523))
    t = s.h * 1.1
    for x0, x1 in ((0.0, w / 2 - 90), (w, w / 2 + 90)):
        near = x0 + (t / 2 if x0 == 0 else -t / 2)
        d.add(diagonal(near, y - 205, x1, y - 90, t), diagonal(near, y + 205, x1, y + 90, t))
    return d


CURRENCIES: dict[str, Draw] = {
    "$": dollar, "¢": cent, "£": pound, "¥": yen, "€": euro, "₫": dong, "₹": rupee, "¤": currency,
}  # fmt: skip
