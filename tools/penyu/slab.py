"""Penyu Slab: the letters of Penyu Sans with flat serifs wherever a stroke ends level on a line of the alphabet."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from penyu.design import ASCENDER, CAP, DESCENDER, FIGURE, STYLES, Drawing, Style, X
from penyu.pen import Contour, bar

FAMILY = "Penyu Slab"
#: Lines on which strokes may end, and on which side of the line the serif lies.
_LINES = {0.0: 1, float(X): -1, float(CAP): -1, float(ASCENDER): -1, float(DESCENDER): 1, float(FIGURE): -1}
_SLANTED = frozenset("vwxykVWXYAK")
_NO_SERIFS = frozenset("+-=<>|/\\()[]{}_~^*#%‰@&.,:;!?¡¿'\"‘’‚“”„†‡•…′″‹›«»–—¦§¶©®°·×÷¬±µ←→↑↓↔−≠≤≥≈⁄€£¥¢$₫₹¤zZtLEFTtŧŦ")


def styles() -> tuple[Style, ...]:
    """The styles of the Sans with a little more room for serifs."""
    return tuple(replace(style, side=style.side + 22, h=style.h * 0.94, cap_h=style.cap_h * 0.94) for style in STYLES)


def with_serifs(name: str, drawing: Drawing) -> Drawing:
    """The drawing with a slab across every level end of a stroke."""
    if name in _NO_SERIFS or not name[0].isalpha():
        return drawing
    s = drawing.style
    thick, reach = s.h * 0.82, 50 - s.more * 0.12
    slabs = []
    for left, right, y in sorted(set(_level_ends(drawing.contours, s))):
        low, high = (y, y + thick) if _LINES[y] > 0 else (y - thick, y)
        # The tops of small letters have theirs on the left only, where the pen sets in.
        one_sided = name[0].islower() and y in (X, ASCENDER) and name[0] not in "vwxy"
        slabs.append(bar(left - reach, low, right + (0 if one_sided else reach), high))
    # Letters of slanted strokes stand close in the Sans; here their serifs need room.
    room = 0.62 if name[0] in _SLANTED else 0.0
    sides = max(drawing.left, room), max(drawing.right, room)
    return replace(drawing, contours=[*drawing.contours, *slabs], left=sides[0], right=sides[1])


def _level_ends(contours: list[Contour], s: Style) -> Iterator[tuple[float, float, float]]:
    """Straight level edges on a line, as wide as a stroke: left, right, height."""
    for contour in contours:
        for (x0, y0, on0), (x1, y1, on1) in zip(contour, (*contour[1:], contour[0]), strict=True):
            y = float(round(y0))
            if on0 and on1 and y in _LINES and abs(y0 - y1) < 1 and 0.6 * s.v < abs(x1 - x0) < 1.65 * s.cap_v:
                yield min(x0, x1), max(x0, x1), y
