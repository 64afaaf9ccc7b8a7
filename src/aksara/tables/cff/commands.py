"""Charstrings as commands: operators with their operands, which say how far the pen or an edge moves along an axis.

For changing what a glyph draws, not only which of its bytes are kept (Adobe Technical Note 5177; OpenType 1.9.1, "CFF2
charstring format").
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby

from msgspec import Struct

from aksara.errors import FontError
from aksara.tables.cff.dicts import write_integer
from aksara.tables.cff.variable_charstrings import BLEND, VARIATION_DATA

HSTEM, VSTEM, VMOVE, RLINE, HLINE, VLINE, RCURVE = 1, 3, 4, 5, 6, 7, 8
HSTEMHM, HINTMASK, CNTRMASK, RMOVE, HMOVE, VSTEMHM, CURVE_LINE, LINE_CURVE = 18, 19, 20, 21, 22, 23, 24, 25
VVCURVE, HHCURVE, VHCURVE, HVCURVE = 26, 27, 30, 31
HFLEX, FLEX, HFLEX1, FLEX1 = (0x0C00 | number for number in (34, 35, 36, 37))
_ENDCHAR, _ESCAPE, _INT16, _FIXED = 14, 12, 28, 255
_MASKS = frozenset((HINTMASK, CNTRMASK))
_STEMS = frozenset((HSTEM, VSTEM, HSTEMHM, VSTEMHM))
#: Numbers on the stack: in CFF2, and in CFF, less one for a width.
_MAX_STACK, _MAX_STATIC_STACK = 513, 47
_ONE = 0x10000

#: What an operand moves along: the pen's x or y, edges of horizontal stems (along y) or of vertical ones.
X, Y, EDGES_Y, EDGES_X = range(4)


class Operand(Struct, frozen=True):
    """A number at the default with its delta in each region; no deltas if it does not vary."""

    value: float
    deltas: tuple[float, ...] = ()


class Command(Struct):
    """An operator (those of two bytes are 12 << 8 | the second), its operands, and the bytes of a mask."""

    operator: int
    operands: list[Operand]
    mask: bytes = b""


class Program(Struct):
    """A glyph: by which item variation data its numbers vary, and its commands."""

    variation_data: int
    commands: list[Command]


def parse_program(charstring: bytes, region_counts: Sequence[int], variation_data: int) -> Program:
    """The commands of a CFF2 charstring without subroutine calls, flexes as the curves that they draw.

    `variation_data` is by which data it varies unless it says otherwise.
    """
    program = Program(variation_data, [])
    stack: list[Operand] = []
    offset = stems = 0
    while offset < len(charstring):
        first = charstring[offset]
        if first >= 32 or first == _INT16:
            number, offset = _number(charstring, offset)
            stack.append(Operand(number))
            continue
        offset += 1
        if first == BLEND:
            _blend(stack, region_counts, program.variation_data)
            continue
        if first == VARIATION_DATA:
            program.variation_data, stack = round(stack[-1].value) if stack else 0, []
            continue
        operator, mask = first, b""
        if first == _ESCAPE and offset < len(charstring):
            operator = first << 8 | charstring[offset]
            offset += 1
        if operator in _STEMS or operator in _MASKS:
            stems += len(stack) // 2
        if operator in _MASKS:
            mask = charstring[offset : offset + (stems + 7) // 8]
            offset += len(mask)
        program.commands.append(_plain(Command(operator, stack, mask)))
        stack = []
    return program


def _number(data: bytes, offset: int) -> tuple[float, int]:
    """The number there, and where it ends."""
    first = data[offset]
    size = 3 if first == _INT16 else 5 if first == _FIXED else 1 if first <= 246 else 2
    token = data[offset : offset + size]
    if len(token) < size:
        raise FontError("it ends within a number")
    if first == _INT16:
        return int.from_bytes(token[1:], "big", signed=True), offset + size
    if first == _FIXED:
        return int.from_bytes(token[1:], "big", signed=True) / _ONE, offset + size
    if first <= 246:
        return first - 139, offset + size
    return (
        (first - 247) * 256 + token[1] + 108 if first <= 250 else -(first - 251) * 256 - token[1] - 108
    ), offset + size


def _blend(stack: list[Operand], region_counts: Sequence[int], variation_data: int) -> None:
    count = round(stack.pop().value) if stack else -1
    regions = region_counts[variation_data] if 0 <= variation_data < len(region_counts) else 0
    start = len(stack) - count * (regions + 1)
    if count < 0 or start < 0:
        raise FontError("it has too few numbers to blend")
    numbers = [operand.value for operand in stack[start:]]
    deltas = numbers[count:]
    stack[start:] = [Operand(numbers[n], tuple(deltas[n * regions : (n + 1) * regions])) for n in range(count)]


def _plain(command: Command) -> Command:
    """The command itself; for a flex two curves."""
    given, zero = command.operands, Operand(0)
    try:
        if command.operator == FLEX:
            return Command(RCURVE, given[:12])
        if command.operator == HFLEX:
            x1, x2, y2, x3, x4, x5, x6 = given
            return Command(RCURVE, [x1, zero, x2, y2, x3, zero, x4, zero, x5, _back(y2), x6, zero])
        if command.operator == HFLEX1:
            x1, y1, x2, y2, x3, x4, x5, y5, x6 = given
            return Command(RCURVE, [x1, y1, x2, y2, x3, zero, x4, zero, x5, y5, x6, _back(y1, y2, y5)])
        if command.operator == FLEX1:
            *points, last = given
            across = abs(sum(point.value for point in points[::2])) > abs(sum(point.value for point in points[1::2]))
            end = [last, _back(*points[1::2])] if across else [_back(*points[::2]), last]
            return Command(RCURVE, [*points, *end])
    except ValueError:
        raise FontError("a flex has too few numbers") from None
    return command


def _back(*steps: Operand) -> Operand:
    """The step back from all these."""
    regions = max(len(step.deltas) for step in steps)
    deltas = (-sum(step.deltas[n] for step in steps if step.deltas) for n in range(regions))
    return Operand(-sum(step.value for step in steps), tuple(deltas))


def axes_of(command: Command) -> Iterator[int]:
    """What each of the operands moves along."""
    count, operator = len(command.operands), command.operator
    if operator in (HSTEM, HSTEMHM):
        return iter([EDGES_Y] * count)
    if operator in (VSTEM, VSTEMHM) or operator in _MASKS:
        return iter([EDGES_X] * count)
    if operator in (RMOVE, RLINE, RCURVE, CURVE_LINE, LINE_CURVE):
        return (index % 2 for index in range(count))
    if operator in (HMOVE, HLINE):
        return (index % 2 for index in range(count))
    if operator in (VMOVE, VLINE):
        return (1 - index % 2 for index in range(count))
    if operator in (HHCURVE, VVCURVE):
        along = X if operator == HHCURVE else Y
        lead = [1 - along] * (count % 4)
        return iter(lead + [along, X, Y, along] * (count // 4))
    if operator in (HVCURVE, VHCURVE):
        return iter(_alternating(count, X if operator == HVCURVE else Y))
    raise FontError(f"it has the operator {operator}, which no outline has")


def _alternating(count: int, along: int) -> list[int]:
    """Curves that start along one axis and end along the other, in turn; the last may have a number more."""
    values: list[int] = []
    while len(values) + 4 <= count:
        values += [along, X, Y, 1 - along]
        along = 1 - along
    return values + ([1 - along] if count % 4 else [])


# ---- writing


def write_program(program: Program, default_data: int) -> bytes:
    """The CFF2 charstring; `default_data` is by which data it varies if it does not say so. Numbers must be whole."""
    out = bytearray()
    varies = any(operand.deltas for command in program.commands for operand in command.operands)
    if varies and program.variation_data != default_data:
        out += write_integer(program.variation_data) + bytes((VARIATION_DATA,))
    for command in program.commands:
        out += _written(command.operands) + _operator(command)
    return bytes(out)


def write_static_program(program: Program, width: int | None) -> bytes:
    """The charstring of type 2: with the width (as the difference that it is stored as) if there is one, and an end."""
    out = bytearray()
    lead = write_integer(width) if width is not None else b""
    for command in program.commands:
        for part in _short(command):
            out += lead + b"".join(_integer(operand.value) for operand in part.operands) + _operator(part)
            lead = b""
    return bytes(out) + lead + bytes((_ENDCHAR,))


def _operator(command: Command) -> bytes:
    operator = command.operator
    return (operator.to_bytes(2, "big") if operator >> 8 else bytes((operator,))) + command.mask


def _written(operands: Sequence[Operand]) -> bytes:
    """The operands; neighbours that vary are blended together, as many as the stack has room for."""
    out = bytearray()
    on_stack = 0
    for varies, group in groupby(operands, key=lambda operand: bool(operand.deltas)):
        listed = list(group)
        while varies and listed:
            room = max((_MAX_STACK - 1 - on_stack) // (len(listed[0].deltas) + 1), 1)
            together, listed = listed[:room], listed[room:]
            numbers = [blend.value for blend in together] + [delta for blend in together for delta in blend.deltas]
            out += b"".join(map(_integer, numbers)) + write_integer(len(together)) + bytes((BLEND,))
            on_stack += len(together)
        out += b"".join(_integer(operand.value) for operand in listed)
        on_stack += len(listed)
    return bytes(out)


def _integer(value: float) -> bytes:
    number = round(value)
    if not -0x8000 <= number <= 0x7FFF:
        raise FontError("a point of it is farther away than a charstring can say")
    return write_integer(number)


def _short(command: Command) -> Iterator[Command]:
    """The command in parts that the stack of a static font has room for."""
    operator, given = command.operator, command.operands
    if len(given) <= _MAX_STATIC_STACK:
        yield command
    elif operator == CURVE_LINE:
        yield from _short(Command(RCURVE, given[:-2]))
        yield Command(RLINE, given[-2:])
    elif operator == LINE_CURVE:
        yield from _short(Command(RLINE, given[:-6]))
        yield Command(RCURVE, given[-6:])
    elif operator in (HHCURVE, VVCURVE):
        lead = len(given) % 4
        yield Command(operator, given[: 44 + lead])
        yield from _short(Command(operator, given[44 + lead :]))
    elif (size := _PART.get(operator)) is not None:
        yield Command(operator, given[:size])
        yield from _short(Command(operator, given[size:]))
    else:
        yield command


#: Operands after which a command can be cut so that the rest starts along the same axis.
_PART = {RLINE: 46, HLINE: 46, VLINE: 46, RCURVE: 42, HVCURVE: 40, VHCURVE: 40}
