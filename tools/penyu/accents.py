"""Accents, and which letter takes which where."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable

from msgspec import Struct

from penyu.design import ASCENDER, CAP, OVER, Drawing, Style, X
from penyu.lower import dot_radius
from penyu.pen import Contour, Path, bar, clockwise, diagonal, disc, polygon, ring, stroke

#: How far an accent's lower edge is above the small letters.
GAP = 62.0


def _pen(path: Path, v: float, h: float) -> Contour:
    return clockwise(stroke(path, v, h))


def _acute(s: Style, sign: int = 1) -> list[Contour]:
    t, y = s.v * 1.02, X + GAP
    w = 74 + s.more * 0.15
    points = (
        (-sign * (w - 6), y),
        (-sign * (w - 6 - t * 0.78), y),
        (sign * (w + t * 0.34), y + 148),
        (sign * (w - t * 0.72), y + 148),
    )
    return [polygon(*points)]


def _grave(s: Style) -> list[Contour]:
    return _acute(s, -1)


def _circumflex(s: Style) -> list[Contour]:
    t, y, w = s.v * 0.98, X + GAP, 122 + s.more * 0.42
    return [diagonal(-w + t * 0.3, y, 0, y + 132, t * 0.92, t), diagonal(w - t * 0.3, y, 0, y + 132, t * 0.92, t)]


def _caron(s: Style) -> list[Contour]:
    t, y, w = s.v * 0.98, X + GAP, 122 + s.more * 0.42
    return [diagonal(-w + t * 0.3, y + 132, 0, y, t * 0.92, t), diagonal(w - t * 0.3, y + 132, 0, y, t * 0.92, t)]


def _tilde(s: Style) -> list[Contour]:
    y, w = X + GAP + 58, 138 + s.more * 0.35
    path = Path(-w, y - 30, 0.95).curve((-w * 0.72, y + 66), (-w * 0.30, y + 48), (0, y + 4))
    return [_pen(path.curve((w * 0.30, y - 40), (w * 0.72, y - 58), (w, y + 38), 0.95), s.h * 0.98, s.h * 0.92)]


def _dot_at(s: Style, x: float, y: float, size: float = 0.96) -> Contour:
    r = dot_radius(s) * size
    return disc(x - r, y - r, x + r, y + r)


def _dots(s: Style) -> list[Contour]:
    r = dot_radius(s)
    step = 92 + s.more * 0.35
    return [_dot_at(s, -step, X + GAP + 6 + r), _dot_at(s, step, X + GAP + 6 + r)]


def _dot(s: Style) -> list[Contour]:
    return [_dot_at(s, 0, X + GAP + 14 + dot_radius(s), 1.04)]


def _dot_below(s: Style) -> list[Contour]:
    return [_dot_at(s, 0, -92 - dot_radius(s), 0.98)]


def _macron(s: Style) -> list[Contour]:
    w = 128 + s.more * 0.3
    return [bar(-w, X + GAP + 24, w, X + GAP + 24 + s.h * 0.92)]


def _breve(s: Style) -> list[Contour]:
    w, y, v, h = 116 + s.more * 0.36, X + GAP, s.v * 0.78 - s.more * 0.12, s.h * 0.86 - s.more * 0.1
    path = Path(-w, y + 148).curve((-w, y + 60), (-w * 0.58, y + h * 0.5), (0, y + h * 0.5))
    return [_pen(path.curve((w * 0.58, y + h * 0.5), (w, y + 60), (w, y + 148)), v, h)]


def _ring(s: Style) -> list[Contour]:
    r, y = 98 + s.more * 0.22, X + 36
    return ring(-r, y, r, y + 2 * r, s.v * 0.66, s.h * 0.72, 0.5523)


def _double_acute(s: Style) -> list[Contour]:
    step = 84 + s.more * 0.45
    return [[(x * 0.82 + dx, y, on) for x, y, on in contour] for dx in (-step, step) for contour in _acute(s)]


def _cedilla(s: Style) -> list[Contour]:
    v, h, y = s.v * 0.72, s.h * 0.80, -58.0
    path = Path(-10, 6).line(-10, y + 20, 0.95)
    body = (
        Path(-12, y + 6)
        .curve((40, y + 8), (92, y - 22), (92, y - 72))
        .curve((92, y - 128), (34, y - 142), (-10, y - 142))
    )
    return [_pen(path, v, h), _pen(body.line(-62, y - 138), v, h)]


def _comma_below(s: Style) -> list[Contour]:
    r = dot_radius(s) * 0.84
    y = -78 - r
    foot = polygon((r * 0.98, y), (0, y - r * 2.5), (-r * 0.8, y - r * 2.5), (-r * 0.4, y))
    return [_dot_at(s, 0, y, 0.84), foot]


def _comma_above(s: Style) -> list[Contour]:
    """The cedilla of g, which has no room below."""
    turned = [[(-x, -y, on) for x, y, on in contour] for contour in _comma_below(s)]
    low = min(y for contour in turned for _, y, _ in contour)
    return [[(x, y - low + X + GAP - 16, on) for x, y, on in contour] for contour in turned]


def _ogonek(s: Style) -> list[Contour]:
    path = Path(34, 16).curve((-40, -34), (-66, -84), (-50, -132)).curve((-36, -178), (24, -178), (72, -150))
    return [_pen(path, s.v * 0.78, s.h * 0.84)]


def _hook(s: Style) -> list[Contour]:
    """The Vietnamese question mark without its dot."""
    y = X + GAP - 6
    path = Path(-66 - s.more * 0.2, y + 138).curve(
        (-36, y + 176), (78 + s.more * 0.2, y + 178), (74 + s.more * 0.2, y + 106)
    )
    return [_pen(path.curve((72 + s.more * 0.2, y + 58), (-2, y + 66), (-2, y)), s.v * 0.82, s.h * 0.86)]


def _horn(s: Style) -> list[Contour]:
    """A curl from a letter's upper right corner, which stands at 0."""
    path = Path(-40, X - s.h * 0.72).curve((28, X - s.h * 0.72), (62, X - 4), (54, X + 74))
    return [_pen(path, s.v * 0.86, s.h * 0.90)]


def _apostrophe(s: Style) -> list[Contour]:
    """The caron of letters with an ascender."""
    t = s.v * 0.92
    return [polygon((0, ASCENDER), (t, ASCENDER), (t * 0.45, ASCENDER - 190), (-t * 0.18, ASCENDER - 190))]


ACCENTS: dict[str, Callable[[Style], list[Contour]]] = {
    "\u0300": _grave, "\u0301": _acute, "\u0302": _circumflex, "\u0303": _tilde, "\u0304": _macron, "\u0306": _breve,
    "\u0307": _dot, "\u0308": _dots, "\u0309": _hook, "\u030a": _ring, "\u030b": _double_acute, "\u030c": _caron,
    "\u031b": _horn, "\u0323": _dot_below, "\u0326": _comma_below, "\u0327": _cedilla, "\u0328": _ogonek,
}  # fmt: skip
APOSTROPHE_CARON = "caron.apostrophe"
COMMA_ABOVE = "comma.above"
# Accents that stand alone as characters of their own.
SPACING = {"`": "\u0300", "´": "\u0301", "ˆ": "\u0302", "˜": "\u0303", "¯": "\u0304", "˘": "\u0306", "˙": "\u0307",
           "¨": "\u0308", "˚": "\u030a", "˝": "\u030b", "ˇ": "\u030c", "¸": "\u0327", "˛": "\u0328"}  # fmt: skip
BELOW = frozenset("\u0323\u0326\u0327\u0328")
_TALL = frozenset("bdfhklt")


class Placed(Struct, frozen=True):
    """An accent on a letter: its glyph and where its origin goes, before the slant."""

    accent: str
    x: float
    y: float


def drawing(name: str, s: Style) -> list[Contour]:
    special = {APOSTROPHE_CARON: _apostrophe, COMMA_ABOVE: _comma_above}
    return (special.get(name) or ACCENTS[name])(s)


def decompose(character: str) -> tuple[str, str] | None:
    """Base letter and accents, fully taken apart; dots go from under accents. None for what does not decompose."""
    parts = unicodedata.normalize("NFD", character)
    if len(parts) < 2 or any(mark not in ACCENTS for mark in parts[1:]):
        return None
    base, marks = parts[0], parts[1:]
    above = [mark for mark in marks if mark not in BELOW and mark != "\u031b"]
    if base in "ij" and above:
        base = {"i": "ı", "j": "ȷ"}[base]
    # Latvian cedillas are drawn as commas below; the one of g is turned and stands above.
    if base in "gGkKlLnNrR" and "\u0327" in marks:
        marks = marks.replace("\u0327", "\u0326")
    return base, marks


def place(base: str, marks: str, glyph: Drawing) -> list[Placed]:
    """Where the accents of a letter go. Two above: as Vietnamese sets them, the second beside a circumflex or breve."""
    s, width = glyph.style, glyph.width
    capital = base.isupper()
    height = CAP if capital else X
    lift = height - X - (14 if capital else 0)
    middle = _middle(base, glyph)
    result: list[Placed] = []
    above = 0
    for mark in marks:
        if mark == "\u031b":
            at = {"o": width - s.v * 0.55, "u": width + 2, "O": width - s.v * 1.05, "U": width + 2}[base]
            result.append(Placed(mark, at, (CAP - X - 8) if capital else 0))
        elif mark == "\u0326" and base == "g":
            result.append(Placed(COMMA_ABOVE, middle, 0))
        elif mark in BELOW:
            x = width * 0.80 if mark == "\u0328" and base not in "iIı" else middle
            result.append(Placed(mark, x, 0))
        elif mark == "\u030c" and base in "dlLt":
            x = {"L": width * 0.72, "t": width * 0.82}.get(base, width + 44)
            result.append(Placed(APOSTROPHE_CARON, x, 0))
        else:
            tall = ASCENDER - X + 26 if base in _TALL else 0.0
            dx, dy = _stacked(mark, s) if above else (0.0, 0.0)
            result.append(Placed(mark, middle + dx, max(lift, 0.0) + tall + dy))
            above += 1
    return result


def _stacked(mark: str, s: Style) -> tuple[float, float]:
    """Shift of a second accent above: acute, grave and hook go beside, the tilde on top."""
    side = 184 + s.more * 0.62
    return {"\u0301": (side, 70.0), "\u0300": (-side, 70.0), "\u0309": (side, 62.0)}.get(
        mark, (0.0, 142.0 + s.more * 0.3)
    )


def _middle(base: str, glyph: Drawing) -> float:
    """The optical middle of a letter's top."""
    s, w = glyph.style, glyph.width
    special = {
        "a": w * (0.5 if s.italic else 0.48), "c": w * 0.55, "C": w * 0.54, "e": w * 0.51, "G": w * 0.53, "L": w * 0.32, "l": s.v / 2,
        "E": w * 0.53, "R": w * 0.47, "r": w * 0.62, "d": w * 0.62, "h": s.v / 2, "t": w * 0.42, "J": w * 0.75, "j": s.v / 2,
        "g": w * 0.47, "D": w * 0.45, "k": w * 0.5, "y": w * 0.52,
    }  # fmt: skip
    return special.get(base, w * 0.5)


def overlaid(base: Drawing, character: str) -> list[Contour] | None:
    """Strokes through a letter, for the characters that do not decompose."""
    s, w = base.style, base.width
    h = s.h * 0.84
    if character in "đħ":
        y = ASCENDER - 128 - s.more * 0.2
        left = w * 0.44 if character == "đ" else -46
        return [bar(left, y, (w + 58) if character == "đ" else w * 0.56, y + h)]
    if character in "ĐÐĦ":
        y = CAP * 0.525 if character != "Ħ" else CAP * 0.735
        left, right = (-58, w * 0.48) if character != "Ħ" else (-52, w + 52)
        return [bar(left, y - h / 2, right, y + h / 2)]
    if character in "łŁ":
        x, y = (s.v / 2, ASCENDER * 0.50) if character == "ł" else (s.cap_v / 2, CAP * 0.46)
        reach, rise, t = 108 + s.more * 0.35, 66, h * 0.56
        return [
            polygon(
                (x - reach, y - rise - t),
                (x - reach, y - rise + t),
                (x + reach, y + rise + t),
                (x + reach, y + rise - t),
            )
        ]
    if character in "øØ":
        height, t = (X, s.v * 0.70) if character == "ø" else (CAP, s.cap_v * 0.72)
        return [diagonal(w * 0.06, -OVER - 34, w * 0.94, height + OVER + 34, t)]
    if character in "ŧŦ":
        y = X * 0.50 if character == "ŧ" else CAP * 0.44
        return [bar(w * 0.02, y, w * 0.95, y + h)] if character == "ŧ" else [bar(w * 0.16, y, w * 0.84, y + h)]
    return None


OVERLAID = {
    "đ": "d",
    "ħ": "h",
    "Đ": "D",
    "Ð": "D",
    "Ħ": "H",
    "ł": "l",
    "Ł": "L",
    "ø": "o",
    "Ø": "O",
    "ŧ": "t",
    "Ŧ": "T",
}
