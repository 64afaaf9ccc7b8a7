"""What a pen draws for a glyph: moves, lines and curves in font units with y upwards, of TrueType and CFF alike."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from aksara.errors import FontError, located
from aksara.font import Font, postscript_outlines
from aksara.limits import Work
from aksara.tables import Cff, Glyf, Hmtx
from aksara.tables.cff.charsets import standard_names
from aksara.tables.cff.charstrings import without_width
from aksara.tables.cff.commands import (
    CURVE_LINE,
    HHCURVE,
    HLINE,
    HMOVE,
    HVCURVE,
    LINE_CURVE,
    RCURVE,
    RLINE,
    RMOVE,
    VHCURVE,
    VLINE,
    VMOVE,
    VVCURVE,
    Operand,
    Program,
    X,
    axes_of,
    parse_program,
)
from aksara.truetype.components import ARGS_ARE_XY, Composite
from aksara.truetype.glyph_data import contour_count
from aksara.truetype.outlines import outlines_of
from aksara.truetype.points import decode_simple

#: A point, and whether the outline goes through it.
_Point = tuple[float, float, bool]
_Contour = list[_Point]
#: Where the pen goes: a letter of path data, and the points.
Step = tuple[str, tuple[tuple[float, float], ...]]
#: A number at the default, and what is added to it in each region (R + 1).
Varying = NDArray[np.float64]
VaryingStep = tuple[str, tuple[tuple[Varying, Varying], ...]]
#: A coordinate of either kind.
_Number = TypeVar("_Number", float, Varying)
_DEEPEST = 16
_MOVES, _LINES = (RMOVE, HMOVE, VMOVE), (RLINE, HLINE, VLINE)
_CURVES = (RCURVE, HHCURVE, VVCURVE, HVCURVE, VHCURVE)


def outline_steps(font: Font, glyphs: Sequence[int]) -> list[list[Step]]:
    """The drawing of each glyph ([] if empty), at the default of a variable font.

    A step is a letter of SVG's path data (M, L, Q, C, Z) with its points. Raises `FontError` where an outline is
    damaged.
    """
    draw = _truetype(font) if Glyf.TAG in font else _postscript(font)
    steps = []
    for glyph in glyphs:
        with located(glyph=glyph):
            steps.append(draw(glyph))
    return steps


def varying_steps(font: Font, glyphs: Sequence[int]) -> Iterator[tuple[int, list[VaryingStep]]]:
    """The steps of PostScript outlines with how each coordinate varies, and the item variation data that has the
    regions; of a static font there are no regions, and the data are those of number 0.

    Raises as `outline_steps` does.
    """
    table = font.table(postscript_outlines(font))
    if isinstance(table, Cff):
        for steps in outline_steps(font, glyphs):
            yield 0, [(letter, tuple((np.array([x]), np.array([y])) for x, y in points)) for letter, points in steps]
        return
    counts, runner = table.region_counts(), table.runner()
    for glyph in glyphs:
        with located(glyph=glyph):
            font_dict = table.font_dict_of[glyph] if table.font_dict_of else 0
            charstring, _ = runner.run(glyph, font_dict, hints=False)
            program = parse_program(charstring, counts, table.variation_data_of(font_dict))
            data = program.variation_data
            zero = np.zeros(1 + (counts[data] if data < len(counts) else 0))
            yield data, _drawn(program, partial(_varying, len(zero)), zero)


def _varying(size: int, operand: Operand) -> Varying:
    values = np.zeros(size)
    values[0] = operand.value
    values[1 : 1 + len(operand.deltas)] = operand.deltas
    return values


# ---- TrueType


def _truetype(font: Font) -> Callable[[int], list[Step]]:
    table, metrics = font.table(Glyf), font.table(Hmtx)
    work = Work(sum(map(len, table.glyphs)))

    def draw(glyph: int) -> list[Step]:
        contours = _contours(table.glyphs, glyph, 0, work)
        if not contours:
            return []
        # An outline is drawn where its side bearing says, wherever its points are.
        shift = float(metrics.side_bearings[glyph]) - int.from_bytes(table.glyphs[glyph][2:4], "big", signed=True)
        moved = ([(x + shift, y, on) for x, y, on in contour] for contour in contours if contour)
        return [step for contour in moved for step in _quadratic(contour)]

    return draw


def _contours(glyphs: Sequence[bytes], glyph: int, depth: int, work: Work) -> list[_Contour]:
    data = glyphs[glyph] if glyph < len(glyphs) else b""
    if not data or depth > _DEEPEST:
        return []
    if contour_count(data) < 0:
        return _composed(glyphs, Composite.parse(data, glyph), depth, work)
    points = decode_simple([data], [glyph])
    (outline,) = outlines_of(points)
    work.spend(1 + len(outline.coordinates))
    pairs = zip(outline.coordinates.tolist(), points.on_curve.tolist(), strict=True)
    listed = [(float(x), float(y), bool(on)) for (x, y), on in pairs]
    contours, start = [], 0
    for count in outline.contours.tolist():
        contours.append(listed[start : start + count])
        start += count
    return contours


def _composed(glyphs: Sequence[bytes], composite: Composite, depth: int, work: Work) -> list[_Contour]:
    contours: list[_Contour] = []
    for component in composite.components:
        parts = _contours(glyphs, component.glyph, depth + 1, work)
        xx, yx, xy, yy = component.matrix
        work.spend(1 + sum(map(len, parts)))
        turned = [[(x * xx + y * xy, x * yx + y * yy, on) for x, y, on in part] for part in parts]
        if component.flags & ARGS_ARE_XY:
            dx, dy = component.displacement
        else:
            dx, dy = _between(contours, turned, component.arguments)
        contours += [[(x + dx, y + dy, on) for x, y, on in part] for part in turned]
    return contours


def _between(before: list[_Contour], part: list[_Contour], numbers: tuple[int, int]) -> tuple[float, float]:
    """The offset that moves a point of a component onto a point drawn before it."""
    points, own = ([point for contour in contours for point in contour] for contours in (before, part))
    if numbers[0] >= len(points) or numbers[1] >= len(own):
        raise FontError("a component is placed by a point that does not exist")
    return points[numbers[0]][0] - own[numbers[1]][0], points[numbers[0]][1] - own[numbers[1]][1]


def _quadratic(contour: _Contour) -> Iterator[Step]:
    """A contour of quadratic curves: between two points beside it in a row it goes through their middle."""
    if contour[0][2]:
        rest = [*contour[1:], contour[0]]
    elif contour[-1][2]:
        rest = contour
    else:
        rest = [*contour, (*_middle(contour[-1], contour[0]), True)]
    yield "M", (rest[-1][:2],)
    beside: _Point | None = None
    for point in rest:
        if point[2]:
            yield ("L", (point[:2],)) if beside is None else ("Q", (beside[:2], point[:2]))
            beside = None
        else:
            if beside is not None:
                yield "Q", (beside[:2], _middle(beside, point))
            beside = point
    yield "Z", ()


def _middle(one: _Point, other: _Point) -> tuple[float, float]:
    return (one[0] + other[0]) / 2, (one[1] + other[1]) / 2


# ---- PostScript


def _postscript(font: Font) -> Callable[[int], list[Step]]:
    table = font.table(postscript_outlines(font))
    runner = table.runner()
    counts = () if isinstance(table, Cff) else table.region_counts()

    def draw(glyph: int) -> list[Step]:
        font_dict = table.font_dict_of[glyph] if table.font_dict_of else 0
        charstring, accent = runner.run(glyph, font_dict, hints=False)
        if accent is not None and isinstance(table, Cff):
            return _accented(table, charstring, accent, draw)
        plain = without_width(charstring) if isinstance(table, Cff) else charstring
        data = 0 if isinstance(table, Cff) else table.variation_data_of(font_dict)
        return _cubic(plain, counts, data)

    return draw


def _accented(table: Cff, charstring: bytes, accent: tuple[int, int], draw: Callable[[int], list[Step]]) -> list[Step]:
    """A letter and its accent (Technical Note 5177, Appendix C)."""
    numbers = parse_program(without_width(charstring), (), 0).commands[-1].operands
    dx, dy = (number.value for number in numbers[-4:-2])
    named = {sid: glyph for glyph, sid in reversed(list(enumerate(table.charset)))}
    base, mark = (named.get(sid) for sid in standard_names(accent))
    contours = draw(base) if base is not None else []
    moved = draw(mark) if mark is not None else []
    return contours + [(letter, tuple((x + dx, y + dy) for x, y in points)) for letter, points in moved]


def _cubic(charstring: bytes, region_counts: Sequence[int], variation_data: int) -> list[Step]:
    return _drawn(parse_program(charstring, region_counts, variation_data), lambda operand: operand.value, 0.0)


def _drawn(
    program: Program, number: Callable[[Operand], _Number], zero: _Number
) -> list[tuple[str, tuple[tuple[_Number, _Number], ...]]]:
    """The drawing of a charstring, with its operands converted by `number`."""
    steps: list[tuple[str, tuple[tuple[_Number, _Number], ...]]] = []
    x = y = zero
    for command in program.commands:
        if command.operator not in (*_MOVES, *_LINES, *_CURVES, CURVE_LINE, LINE_CURVE):
            continue
        values = [number(operand) for operand in command.operands]
        axes = list(axes_of(command))
        for size, curved in _pieces(command.operator, len(values)):
            points: list[tuple[_Number, _Number]] = []
            for dx, dy in _steps(command.operator, values[:size], axes[:size], zero, curved=curved):
                x, y = x + dx, y + dy
                points.append((x, y))
            del values[:size], axes[:size]
            if command.operator in _MOVES:
                if steps and steps[-1][0] == "M":
                    steps.pop()
                elif steps:
                    steps.append(("Z", ()))
                steps.append(("M", (points[-1],)))
            else:
                steps.append(("C" if curved else "L", tuple(points)))
    if steps and steps[-1][0] == "M":
        steps.pop()
    if steps and steps[-1][0] != "Z":
        steps.append(("Z", ()))
    return steps


def _pieces(operator: int, count: int) -> Iterator[tuple[int, bool]]:
    """How many numbers each line or curve of a command takes, and whether it is a curve."""
    if operator in _MOVES:
        yield count, False
    elif operator in (HLINE, VLINE):
        yield from [(1, False)] * count
    elif operator == RLINE:
        yield from [(2, False)] * (count // 2)
    elif operator == LINE_CURVE:
        yield from [(2, False)] * ((count - 6) // 2)
        yield 6, True
    elif operator == CURVE_LINE:
        yield from [(6, True)] * ((count - 2) // 6)
        yield 2, False
    elif operator == RCURVE:
        yield from [(6, True)] * (count // 6)
    else:
        whole = count // 4
        for index in range(whole):
            # A number more stands at the start, or at the end, where curves alternate.
            more = index == (0 if operator in (HHCURVE, VVCURVE) else whole - 1) and count % 4
            yield 4 + bool(more), True


def _steps(
    operator: int, values: Sequence[_Number], axes: Sequence[int], zero: _Number, *, curved: bool
) -> list[tuple[_Number, _Number]]:
    """The steps of the pen from point to point."""
    if not curved:
        dx = sum((value for value, axis in zip(values, axes, strict=True) if axis == X), zero)
        return [(dx, sum(values, zero) - dx)]
    if len(values) == 6:
        return list(zip(values[::2], values[1::2], strict=True))
    listed = list(values)
    lead = listed.pop(0) if operator in (HHCURVE, VVCURVE) and len(listed) == 5 else zero
    trail = listed.pop() if len(listed) == 5 else zero
    first, dx, dy, last = listed
    starts_along = axes[1] if operator in (HHCURVE, VVCURVE) and len(values) == 5 else axes[0]
    ends_along = starts_along if operator in (HHCURVE, VVCURVE) else 1 - starts_along
    start = (first, lead) if starts_along == X else (lead, first)
    end = (last, trail) if ends_along == X else (trail, last)
    return [start, (dx, dy), end]
