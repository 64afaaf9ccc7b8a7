"""Punctuation, arrows, mathematical and other signs."""

from __future__ import annotations

from penyu.capitals import CAPITALS
from penyu.design import ASCENDER, CAP, OVER, Drawing, Style, X
from penyu.figures import Draw, four, fraction, moved, one, raised, three, two
from penyu.lower import LOWER, OPEN, dot_radius, double_curve
from penyu.mathematics import (
    approximate,
    circumflex_sign,
    divide,
    dot,
    equal,
    less,
    not_equal,
    not_sign,
    plus_like,
    tilde,
    times,
)
from penyu.pen import Contour, Path, bar, diagonal, disc, polygon, ring


def _dots(s: Style, *heights: float) -> Drawing:
    r = dot_radius(s) * 1.04
    return Drawing(s, 2 * r, 0.9, 0.9).add(*(dot(s, r, y + r - 4) for y in heights))


def _tail(s: Style, x: float, y: float, up: float = 1.0) -> list[Contour]:
    """A comma: the dot and a slanted tail."""
    r = dot_radius(s) * 1.04
    foot = polygon(
        (x + r * 0.98, y - r * 0.1),
        (x + r * 0.05, y - r * 2.75),
        (x - r * 0.72, y - r * 2.75),
        (x - r * 0.35, y - r * 0.2),
    )
    return [dot(s, x, y), foot]


def comma(s: Style) -> Drawing:
    r = dot_radius(s) * 1.04
    return Drawing(s, 2 * r, 0.9, 0.9).add(*_tail(s, r, r - 4))


def semicolon(s: Style) -> Drawing:
    r = dot_radius(s) * 1.04
    return comma(s).add(dot(s, r, X - r + 4))


def _quotes(s: Style, count: int, *, turned: bool, base: float) -> Drawing:
    """Comma-shaped marks in a row; turned ones open."""
    r = dot_radius(s) * 0.98
    step = r * 2.9
    d = Drawing(s, 2 * r + step * (count - 1), 0.62, 0.62)
    for number in range(count):
        mark = _tail(s, 0, 0)
        if turned:
            mark = [[(-x, -y, on) for x, y, on in contour] for contour in mark]
        d.add(*moved(mark, r + step * number, base))
    return d


def _straight_quotes(s: Style, count: int) -> Drawing:
    t = s.v * 0.92
    step = t * 1.85
    d = Drawing(s, t + step * (count - 1), 0.7, 0.7)
    for number in range(count):
        x = step * number
        d.add(polygon((x, CAP + 20), (x + t, CAP + 20), (x + t * 0.82, CAP - 205), (x + t * 0.18, CAP - 205)))
    return d


def _angle(s: Style, count: int, sign: int) -> Drawing:
    w, step, t = 168 + s.more * 0.4, 168 + s.more * 0.55, s.v * 1.0
    d = Drawing(s, w + step * (count - 1), 0.7, 0.7)
    for number in range(count):
        x0 = step * number + t / 2
        x1 = x0 + w - t
        near, far = (x0, x1) if sign < 0 else (x1, x0)
        d.add(diagonal(far, 78, near, X / 2, t), diagonal(near, X / 2, far, X - 78, t))
    return d


def _dash(s: Style, width: float, y: float = X * 0.5, side: float = 0.7) -> Drawing:
    return Drawing(s, width, side, side).add(bar(0, y - s.h * 0.52, width, y + s.h * 0.52))


def exclamation(s: Style) -> Drawing:
    r = dot_radius(s) * 1.04
    d = Drawing(s, 2 * r, 0.95, 0.95).add(dot(s, r, r - 4))
    t = s.v * 0.56
    return d.add(polygon((r - t, CAP), (r + t, CAP), (r + t * 0.68, CAP * 0.285), (r - t * 0.68, CAP * 0.285)))


def question(s: Style) -> Drawing:
    w = 352 + s.more * 0.7
    d = Drawing(s, w, OPEN, OPEN * 1.2)
    r = dot_radius(s) * 1.04
    top = CAP + OVER - s.h / 2
    path = Path(w * 0.06 + s.more * 0.05, CAP * 0.82 - s.more * 0.1, 0.95)
    path.curve((w * 0.15, CAP * 0.94), (w * 0.30, top), (w * 0.48, top)).arc(w - s.v / 2, CAP * 0.755, "h", 0.575)
    path.curve((w - s.v / 2, CAP * 0.56), (w * 0.50, CAP * 0.55), (w * 0.48, CAP * 0.285), 0.97)
    return d.pen(path).add(dot(s, w * 0.48, r - 4))


def turned(draw: Draw, height: float) -> Draw:
    """The sign turned about the middle of `height`."""

    def make(s: Style) -> Drawing:
        d = draw(s)
        contours = [[(d.width - x, height - y, on) for x, y, on in contour] for contour in d.contours]
        return Drawing(s, d.width, d.right, d.left, contours)

    return make


def mirrored(draw: Draw) -> Draw:
    def make(s: Style) -> Drawing:
        d = draw(s)
        contours = [[(d.width - x, y, on) for x, y, on in reversed(contour)] for contour in d.contours]
        return Drawing(s, d.width, d.right, d.left, contours)

    return make


def parenthesis(s: Style) -> Drawing:
    w, top, low = 168 + s.more * 0.55, ASCENDER + 20, -150
    d = Drawing(s, w, 0.85, 0.45)
    path = Path(w - s.v * 0.42, top, 0.86)
    path.curve((w * 0.42, top * 0.82), (s.v / 2, top * 0.62), (s.v / 2, (top + low) / 2), 1.0)
    return d.pen(path.curve((s.v / 2, low * 0.1), (w * 0.42, low * 0.62), (w - s.v * 0.42, low), 0.86), s.v * 0.96)


def bracket(s: Style) -> Drawing:
    w, top, low = 178 + s.more * 0.5, ASCENDER + 20, -150
    d = Drawing(s, w, 0.95, 0.45).add(bar(0, low, s.v * 0.94, top))
    return d.add(bar(0, top - s.h * 0.94, w, top), bar(0, low, w, low + s.h * 0.94))


def brace(s: Style) -> Drawing:
    w, top, low = 216 + s.more * 0.5, ASCENDER + 20, -150
    d = Drawing(s, w, 0.4, 0.4)
    x, middle, h = w * 0.5, (top + low) / 2, s.h * 0.92
    upper = Path(w, top - h / 2).curve((x, top - h / 2), (x, top - 60), (x, top - 130))
    upper.line(x, middle + 110).curve((x, middle + 30), (w * 0.32, middle), (0, middle))
    lower = Path(0, middle).curve((w * 0.32, middle), (x, middle - 30), (x, middle - 110))
    lower.line(x, low + 130).curve((x, low + 60), (x, low + h / 2), (w, low + h / 2))
    return d.pen(upper, s.v * 0.92, h).pen(lower, s.v * 0.92, h)


def slash(s: Style) -> Drawing:
    w, t = 330 + s.more * 0.5, s.v * 0.96
    return Drawing(s, w, 0.2, 0.2).add(diagonal(t / 2, -90, w - t / 2, ASCENDER, t))


def _line(s: Style) -> Drawing:
    return Drawing(s, s.v * 0.86, 1.2, 1.2).add(bar(0, -160, s.v * 0.86, ASCENDER + 40))


def broken_bar(s: Style) -> Drawing:
    return Drawing(s, s.v * 0.86, 1.2, 1.2).add(bar(0, -160, s.v * 0.86, 230), bar(0, 350, s.v * 0.86, ASCENDER + 40))


def asterisk(s: Style) -> Drawing:
    w, t, y = 310 + s.more * 0.6, s.v * 0.72, CAP - 120
    d = Drawing(s, w, 0.5, 0.5).add(bar(w / 2 - t / 2, y - 150, w / 2 + t / 2, y + 150))
    rise = 78
    for sign in (1, -1):
        d.add(
            polygon(
                (8, y - sign * rise - t * 0.55),
                (8, y - sign * rise + t * 0.55),
                (w - 8, y + sign * rise + t * 0.55),
                (w - 8, y + sign * rise - t * 0.55),
            )
        )
    return d


def ampersand(s: Style) -> Drawing:
    w = 640 + s.more * 0.9
    d = Drawing(s, w, ROUNDED_SIDE, 0.15)
    v, h, top, low = s.cap_v * 0.97, s.cap_h, CAP + OVER - s.cap_h / 2, -OVER + s.cap_h / 2
    path = Path(w - v * 0.55, 0 + v * 0.12, 1.0).line(w * 0.235, CAP * 0.62, 0.92)
    path.curve((w * 0.13, CAP * 0.76), (w * 0.17, top), (w * 0.385, top), 0.95)
    path.curve((w * 0.60, top), (w * 0.64, CAP * 0.74), (w * 0.44, CAP * 0.595), 0.92)
    path.curve((w * 0.26, CAP * 0.47), (v / 2, CAP * 0.41), (v / 2, CAP * 0.225), 1.0)
    path.curve((v / 2, CAP * 0.08), (w * 0.19, low), (w * 0.36, low), 1.0)
    return d.pen(path.curve((w * 0.62, low), (w * 0.79, CAP * 0.18), (w * 0.83, CAP * 0.43), 0.95), v, h)


ROUNDED_SIDE = 0.5


def at(s: Style) -> Drawing:
    w = 800 + s.more * 0.6
    d = Drawing(s, w, 0.6, 0.6)
    v, h = s.v * 0.80, s.h * 0.84
    top, low, middle = CAP * 0.985, -130.0, (CAP * 0.985 - 130) / 2
    d.add(*ring(w * 0.285, middle - 168, w * 0.665, middle + 168, v, h, 0.58))
    path = Path(w * 0.665 - v / 2, middle + 165).line(w * 0.665 - v / 2, middle - 40)
    path.curve((w * 0.665 - v / 2, middle - 190), (w - v / 2, middle - 190), (w - v / 2, middle + 30))
    path.curve((w - v / 2, middle + 250), (w * 0.80, top), (w * 0.52, top))
    path.arc(v / 2, middle, "h", 0.57).arc(w * 0.53, low, "v", 0.57)
    return d.pen(path.curve((w * 0.64, low), (w * 0.72, low + 14), (w * 0.80, low + 46)), v, h)


def number_sign(s: Style) -> Drawing:
    w = 500 + s.more * 0.8
    d = Drawing(s, w, 0.4, 0.4)
    t, h = s.v * 0.84, s.h * 0.86
    for x in (w * 0.27, w * 0.63):
        d.add(diagonal(x, 0, x + w * 0.10, CAP, t))
    return d.add(bar(0, CAP * 0.27, w * 0.97, CAP * 0.27 + h), bar(w * 0.03, CAP * 0.62, w, CAP * 0.62 + h))


def percent(s: Style, count: int = 2) -> Drawing:
    bowl, v, h = 250 + s.more * 0.35, s.v * 0.84, s.h * 0.84
    w = 720 + s.more * 0.7 + (count - 2) * (bowl + 30)
    d = Drawing(s, w, 0.5, 0.5).add(*ring(0, CAP * 0.47, bowl, CAP + OVER, v, h))
    for number in range(count - 1):
        right = w - number * (bowl + 30)
        d.add(*ring(right - bowl, -OVER, right, CAP * 0.53, v, h))
    return d.add(diagonal(210 + s.more * 0.2, 0, 510 + s.more * 0.5, CAP, s.v * 0.84))


def section(s: Style) -> Drawing:
    w, height = 380 + s.more * 0.7, 548.0
    d = Drawing(s, w, OPEN, OPEN)
    for base in (165.0, -118.0):  # two S that share an oval in the middle
        half = Drawing(s, w).pen(double_curve(w, height, s.v * 0.94, s.h * 0.92), s.v * 0.94, s.h * 0.92)
        d.add(*moved(half.contours, 0, base))
    return d


def paragraph(s: Style) -> Drawing:
    w, t = 460 + s.more * 0.6, s.v * 0.84
    d = Drawing(s, w, OPEN, 0.9)
    d.add(bar(w - t, -110, w, CAP), bar(w - 2.6 * t, -110, w - 1.6 * t, CAP), bar(w * 0.42, CAP - s.h, w, CAP))
    return d.add(disc(0, CAP * 0.42, CAP * 0.58, CAP))


def _in_circle(s: Style, letter: str) -> Drawing:
    w = 740.0
    v, h = 52 + s.more * 0.25, 50 + s.more * 0.22
    d = Drawing(s, w, 0.5, 0.5).add(*ring(0, CAP / 2 - w / 2, w, CAP / 2 + w / 2, v, h, 0.5523))
    thin = Style(s.name, s.weight, 78 + s.more * 0.4, 66 + s.more * 0.3, 92 + s.more * 0.5, 80 + s.more * 0.4, s.side)
    inner = CAPITALS[letter](thin)
    scale = 0.54
    return d.add(*moved(inner.contours, (w - inner.width * scale) / 2, CAP / 2 - CAP * scale / 2, scale))


def degree(s: Style) -> Drawing:
    w = 250 + s.more * 0.3
    return Drawing(s, w, 0.6, 0.6).add(*ring(0, CAP + OVER - w, w, CAP + OVER, s.v * 0.74, s.h * 0.84, 0.5523))


def _ordinal(letter: str) -> Draw:
    return raised(LOWER[letter], base=400.0)


def bullet(s: Style) -> Drawing:
    r = 128 + s.more * 0.1
    return Drawing(s, 2 * r, 0.9, 0.9).add(disc(0, X / 2 + 30 - r, 2 * r, X / 2 + 30 + r))


def ellipsis(s: Style) -> Drawing:
    r = dot_radius(s) * 1.04
    step = r * 2 + 130
    return Drawing(s, 2 * r + 2 * step, 0.9, 0.9).add(*(dot(s, r + step * k, r - 4) for k in range(3)))


def _arrow(s: Style, dx: int, dy: int, *, both: bool = False) -> Drawing:
    """A shaft and a head of two strokes; up and down are the level arrow turned."""
    w, y, t, reach = 720.0, 320.0, s.h * 0.98, 205.0
    half = t * 0.72
    parts: list[Contour] = [bar(half if both else 0, y - t / 2, w - half, y + t / 2)]
    for tip, sign in ((w, 1), (0.0, -1)):
        if sign == 1 or both:
            for up in (1, -1):
                back = tip - sign * reach
                parts.append(
                    polygon(
                        (tip - sign * half * 1.4, y),
                        (tip, y),
                        (back, y + up * reach),
                        (back - sign * half * 1.4, y + up * reach),
                    )
                )
    if dx < 0:
        parts = [[(w - x, y_, on) for x, y_, on in contour] for contour in parts]
    if dy:
        parts = [[(y_ - y + 220, (x if dy > 0 else w - x) - 40, on) for x, y_, on in contour] for contour in parts]
        return Drawing(s, 440, 0.8, 0.8, parts)
    return Drawing(s, w, 0.8, 0.8, parts)


def dagger(s: Style, arms: int = 1) -> Drawing:
    w, t, h = 300 + s.more * 0.5, s.v * 0.94, s.h * 0.94
    d = Drawing(s, w, 0.6, 0.6)
    foot = t * (0.36 if arms == 1 else 0.5)
    d.add(polygon((w / 2 - t / 2, CAP), (w / 2 + t / 2, CAP), (w / 2 + foot, -110), (w / 2 - foot, -110)))
    for arm in range(arms):
        y = CAP * 0.70 - arm * CAP * 0.46
        d.add(bar(0, y - h / 2, w, y + h / 2))
    return d


def prime(s: Style, count: int = 1) -> Drawing:
    t = s.v * 0.9
    lean, step = 74.0, t * 1.7
    d = Drawing(s, lean + t + step * (count - 1), 0.6, 0.6)
    for number in range(count):
        x = step * number
        d.add(
            polygon((x + lean, CAP + 20), (x + lean + t, CAP + 20), (x + t * 0.62, CAP - 215), (x + t * 0.1, CAP - 215))
        )
    return d


def micro(s: Style) -> Drawing:
    d = LOWER["u"](s)
    return d.add(bar(0, -190, s.v, X))


def underscore(s: Style) -> Drawing:
    return Drawing(s, 500, 0.0, 0.0).add(bar(0, -120 - s.h, 500, -120))


def space_of(width: float) -> Draw:
    return lambda s: Drawing(s, width, 0.0, 0.0)


SIGNS: dict[str, Draw] = {
    " ": space_of(248), "\u00a0": space_of(248), "\u2002": space_of(500), "\u2003": space_of(1000),
    "\u2009": space_of(170), "\u202f": space_of(140),
    ".": lambda s: _dots(s, 0), ":": lambda s: _dots(s, 0, X - 2.08 * dot_radius(s) + 8), ",": comma, ";": semicolon,
    "…": ellipsis, "·": lambda s: _dots(s, X / 2 - dot_radius(s)), "•": bullet,
    "!": exclamation, "¡": turned(exclamation, X), "?": question, "¿": turned(question, X),
    "'": lambda s: _straight_quotes(s, 1), '"': lambda s: _straight_quotes(s, 2),
    "‘": lambda s: _quotes(s, 1, turned=True, base=CAP - 150), "’": lambda s: _quotes(s, 1, turned=False, base=CAP - 32),
    "“": lambda s: _quotes(s, 2, turned=True, base=CAP - 150), "”": lambda s: _quotes(s, 2, turned=False, base=CAP - 32),
    "‚": lambda s: _quotes(s, 1, turned=False, base=48), "„": lambda s: _quotes(s, 2, turned=False, base=48),
    "‹": lambda s: _angle(s, 1, -1), "›": lambda s: _angle(s, 1, 1), "«": lambda s: _angle(s, 2, -1), "»": lambda s: _angle(s, 2, 1),
    "-": lambda s: _dash(s, 236), "\u00ad": lambda s: _dash(s, 236), "\u2010": lambda s: _dash(s, 236), "\u2011": lambda s: _dash(s, 236),
    "–": lambda s: _dash(s, 500, side=0.3), "—": lambda s: _dash(s, 860, side=0.3), "−": lambda s: plus_like(s, upright=False),
    "_": underscore, "(": parenthesis, ")": mirrored(parenthesis), "[": bracket, "]": mirrored(bracket), "{": brace, "}": mirrored(brace),
    "/": slash, "\\": mirrored(slash), "|": _line, "¦": broken_bar, "*": asterisk, "&": ampersand, "@": at, "#": number_sign,
    "%": percent, "‰": lambda s: percent(s, 3), "+": plus_like, "±": lambda s: plus_like(s, base=True), "×": times, "÷": divide,
    "=": equal, "≠": not_equal, "<": lambda s: less(s, -1), ">": lambda s: less(s, 1), "≤": lambda s: less(s, -1, base=True),
    "≥": lambda s: less(s, 1, base=True), "≈": approximate, "~": tilde, "^": circumflex_sign, "¬": not_sign,
    "§": section, "¶": paragraph, "©": lambda s: _in_circle(s, "C"), "®": lambda s: _in_circle(s, "R"), "°": degree,
    "¹": raised(one), "²": raised(two), "³": raised(three), "½": fraction(one, two), "¼": fraction(one, four), "¾": fraction(three, four),
    "†": dagger, "‡": lambda s: dagger(s, 2), "′": prime, "″": lambda s: prime(s, 2),
    "ª": _ordinal("a"), "º": _ordinal("o"), "µ": micro,
    "→": lambda s: _arrow(s, 1, 0), "←": lambda s: _arrow(s, -1, 0), "↑": lambda s: _arrow(s, 1, 1), "↓": lambda s: _arrow(s, 1, -1),
    "↔": lambda s: _arrow(s, 1, 0, both=True),
}  # fmt: skip
