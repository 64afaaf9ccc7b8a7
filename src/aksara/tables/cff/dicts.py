"""DICT data: operators and their operands (Adobe Technical Note 5176, section 4)."""

from __future__ import annotations

from collections.abc import Mapping, Set

from aksara.binary import Reader
from aksara.errors import FontError

#: A number: an integer, or a real number as its bytes (packed decimal digits), which are kept as they are.
Number = int | bytes
#: Operator → operands. Operators of two bytes are 12 << 8 | second byte.
Dict = dict[int, tuple[Number, ...]]

_ESCAPE, _REAL, _INT16, _INT32 = 12, 30, 28, 29
_OPERATORS = 22
_MAX_OPERANDS = 513


def read_dict(data: bytes) -> Dict:
    """The operators of DICT data. Raises `FontError` for what is none."""
    reader, found, operands = Reader(data), Dict(), list[Number]()
    while reader.remaining:
        first = reader.u8()
        if first < _OPERATORS:
            operator = first << 8 | reader.u8() if first == _ESCAPE else first
            found[operator] = tuple(operands)
            operands = []
        else:
            operands.append(_read_number(reader, first))
            if len(operands) > _MAX_OPERANDS:
                raise FontError("a DICT has more operands than any operator takes")
    return found


def _read_number(reader: Reader, first: int) -> Number:
    if 32 <= first <= 246:
        return first - 139
    if 247 <= first <= 250:
        return (first - 247) * 256 + reader.u8() + 108
    if 251 <= first <= 254:
        return -(first - 251) * 256 - reader.u8() - 108
    if first == _INT16:
        return reader.i16()
    if first == _INT32:
        return reader.i32()
    if first != _REAL:
        raise FontError(f"a DICT has the byte {first}, which starts nothing", offset=reader.position - 1)
    start = reader.position
    while True:
        byte = reader.u8()
        if byte & 0x0F == 0x0F or byte >> 4 == 0x0F:
            return reader.data[start : reader.position]


def write_dict(values: Mapping[int, tuple[Number, ...]]) -> bytes:
    """DICT data, operators in the order of `values`."""
    out = bytearray()
    for operator, operands in values.items():
        for operand in operands:
            out += bytes((_REAL,)) + operand if isinstance(operand, bytes) else write_integer(operand)
        out += operator.to_bytes(2, "big") if operator >> 8 else bytes((operator,))
    return bytes(out)


def write_integer(value: int) -> bytes:
    """The number in the fewest bytes."""
    if -107 <= value <= 107:
        return bytes((value + 139,))
    if 108 <= value <= 1131:
        value -= 108
        return bytes((247 + (value >> 8), value & 0xFF))
    if -1131 <= value <= -108:
        value = -value - 108
        return bytes((251 + (value >> 8), value & 0xFF))
    if -0x8000 <= value <= 0x7FFF:
        return bytes((_INT16,)) + value.to_bytes(2, "big", signed=True)
    return bytes((_INT32,)) + value.to_bytes(4, "big", signed=True)


def without(values: Mapping[int, tuple[Number, ...]], operators: Set[int]) -> Dict:
    """The DICT without these operators."""
    return {operator: operands for operator, operands in values.items() if operator not in operators}


def integer(values: Dict, operator: int, default: int) -> int:
    """The one whole number of an operator. Raises `FontError` for anything else."""
    operands = values.get(operator, (default,))
    if len(operands) != 1 or not isinstance(operands[0], int):
        raise FontError(f"operator {operator} of a DICT has no whole number")
    return operands[0]


def offset_of(values: Dict, operator: int) -> int:
    """The offset that an operator of the Top DICT must hold."""
    offset = integer(values, operator, 0)
    if offset <= 0:
        raise FontError(f"operator {operator} of the Top DICT, an offset, is missing or wrong")
    return offset
