"""From drawings to PostScript outlines: charstrings with hints, and a subroutine for each letter that is used again."""

from __future__ import annotations

from collections import Counter

from aksara.tables import Cff
from aksara.tables.cff import FontDict
from aksara.tables.cff.charstrings import bias
from aksara.tables.cff.dicts import write_integer
from penyu.design import ASCENDER, CAP, DESCENDER, OVER, Style, X
from penyu.pen import Contour

_HSTEM, _VSTEM, _RLINETO, _RRCURVETO, _CALL, _RETURN, _END, _RMOVETO = 1, 3, 5, 8, 10, 11, 14, 21
# Operators of the Private DICT (Adobe Technical Note 5176, section 15).
_BLUE_VALUES, _OTHER_BLUES, _STD_HW, _STD_VW = 6, 7, 10, 11
_BBOX = 5
_STACK = 48
Point = tuple[int, int]
#: What a glyph is drawn with: (drawing's number, x, y), as in a composite.
Parts = list[tuple[int, int, int]]


def _operation(numbers: list[int], operator: int) -> bytes:
    return b"".join(map(write_integer, numbers)) + bytes((operator,))


class _Outline:
    """Contours as steps from the first point on: where they start, their bytes behind the first move, where they end."""

    def __init__(self, contours: list[Contour]) -> None:
        self.start: Point = (0, 0)
        self.body = b""
        self._at: Point = (0, 0)
        self._pending: list[int] = []
        self._operator = 0
        for number, contour in enumerate(contours):
            first = (int(contour[0][0]), int(contour[0][1]))
            if number:
                self._flush()
                self.body += _operation([first[0] - self._at[0], first[1] - self._at[1]], _RMOVETO)
            else:
                self.start = first
            self._at = first
            self._draw(contour, first)
        self._flush()
        self.end = self._at

    def _draw(self, contour: Contour, first: Point) -> None:
        points = [(int(x), int(y), on) for x, y, on in contour[1:]] + [(*first, True)]
        control: Point | None = None
        for place, (x, y, on) in enumerate(points):
            if not on:
                control = (x, y)
            elif control is not None:
                self._curve(control, (x, y))
                control = None
            elif place < len(points) - 1:  # the last line closes by itself
                self._step(_RLINETO, [x - self._at[0], y - self._at[1]], (x, y))

    def _curve(self, control: Point, end: Point) -> None:
        """A quadratic curve as a cubic one."""
        (x0, y0), (qx, qy), (x3, y3) = self._at, control, end
        x1, y1 = round(x0 + (qx - x0) * 2 / 3), round(y0 + (qy - y0) * 2 / 3)
        x2, y2 = round(x3 + (qx - x3) * 2 / 3), round(y3 + (qy - y3) * 2 / 3)
        self._step(_RRCURVETO, [x1 - x0, y1 - y0, x2 - x1, y2 - y1, x3 - x2, y3 - y2], end)

    def _step(self, operator: int, numbers: list[int], end: Point) -> None:
        if operator != self._operator or len(self._pending) + len(numbers) > _STACK:
            self._flush()
        self._operator = operator
        self._pending += numbers
        self._at = end

    def _flush(self) -> None:
        if self._pending:
            self.body += _operation(self._pending, self._operator)
        self._pending = []


def _stems(contours: list[Contour], style: Style) -> bytes:
    """Hints for level and upright bars: those that do not overlap, from the lowest and leftmost on."""
    level, upright = set(), set()
    for contour in contours:
        xs, ys = sorted({p[0] for p in contour}), sorted({p[1] for p in contour})
        if len(contour) != 4 or len(ys) != 2:
            continue
        if ys[1] - ys[0] < 1.7 * style.h:
            level.add((int(ys[0]), int(ys[1])))
        elif len(xs) == 2 and xs[1] - xs[0] < 1.7 * style.v:
            upright.add((int(xs[0]), int(xs[1])))
    return _stem(level, _HSTEM) + _stem(upright, _VSTEM)


def _stem(edges: set[tuple[int, int]], operator: int) -> bytes:
    numbers: list[int] = []
    at: int | None = None
    for low, high in sorted(edges):
        if at is None or low > at:
            numbers += [low - (at or 0), high - low]
            at = high
    return _operation(numbers, operator) if numbers else b""


def make_cff(
    name: str, style: Style, outlines: list[list[Contour]], parts: dict[int, Parts], advances: list[int], box: list[int]
) -> Cff:
    """The table: glyphs are drawn once; accented letters and their bases call the same subroutines."""
    uses = Counter(part for each in parts.values() for part, _, _ in each)
    shapes = [_Outline(contours) if contours else None for contours in outlines]
    called = [number for number in sorted(uses) if shapes[number] is not None]
    order = {number: place for place, number in enumerate(called)}
    subroutines = [shape.body + bytes((_RETURN,)) for number in called if (shape := shapes[number]) is not None]
    charstrings = []
    for number, contours in enumerate(outlines):
        out = write_integer(advances[number]) + _stems(contours, style)
        x = y = 0
        for part, dx, dy in parts.get(number, [(number, 0, 0)]):
            shape = shapes[part]
            if shape is None:
                continue
            out += _operation([shape.start[0] + dx - x, shape.start[1] + dy - y], _RMOVETO)
            out += _operation([order[part] - bias(len(called))], _CALL) if part in order else shape.body
            x, y = shape.end[0] + dx, shape.end[1] + dy
        charstrings.append(out + bytes((_END,)))
    # Zones as differences: the baseline and what overshoots it, the heights of x, capitals and ascenders.
    private = {
        _BLUE_VALUES: (-OVER, OVER, X, OVER, CAP - X - OVER, OVER, ASCENDER - CAP - OVER, OVER),
        _OTHER_BLUES: (DESCENDER - OVER, OVER),
        _STD_HW: (round(style.h),),
        _STD_VW: (round(style.v),),
    }
    return Cff(
        name.encode(),
        {_BBOX: tuple(box)},
        [],
        list(range(len(charstrings))),
        charstrings,
        [FontDict({}, private, subroutines)],
        [0] * len(charstrings),
        [],
    )
