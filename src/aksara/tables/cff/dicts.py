"""DICT data: operators and their operands (Adobe Technical Note 5176, section 4)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from itertools import groupby

from msgspec import Struct

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.tables.cff.operators import BLEND, VARIATION_DATA

#: A number that does not vary: an integer, or a real number as its bytes (packed decimal digits), which are kept.
Constant = int | bytes


class Blend(Struct, frozen=True):
    """A varying number: its value at the default and its delta in each region (CFF2)."""

    value: Constant
    deltas: tuple[Constant, ...]


Number = Constant | Blend
#: Operator → operands. Operators of two bytes are 12 << 8 | second byte.
Dict = dict[int, tuple[Number, ...]]

_ESCAPE, _REAL, _INT16, _INT32 = 12, 30, 28, 29
#: Bytes below are operators; those from 22 on only CFF2 has.
_OPERATORS = 25
_MAX_OPERANDS = 513


def read_dict(data: bytes, region_counts: Sequence[int] = ()) -> Dict:
    """The operators of DICT data. Raises `FontError` for invalid data.

    `region_counts` is, for each item variation data of a CFF2 font, in how many regions numbers vary.
    """
    reader, entries, operands = Reader(data), Dict(), list[Number]()
    variation_data = 0
    while reader.remaining:
        first = reader.u8()
        if first < _OPERATORS:
            operator = first << 8 | reader.u8() if first == _ESCAPE else first
            if operator == BLEND:
                operands = _blended(operands, region_counts, variation_data)
                continue
            if operator == VARIATION_DATA and operands and isinstance(operands[-1], int):
                variation_data = operands[-1]
            entries[operator] = tuple(operands)
            operands = []
        else:
            operands.append(_read_number(reader, first))
            if len(operands) > _MAX_OPERANDS:
                raise FontError("a DICT has more operands than any operator takes")
    return entries


def _blended(operands: list[Number], region_counts: Sequence[int], variation_data: int) -> list[Number]:
    """The operands with those blended that the last of them counts (CFF2, "blend")."""
    count = operands.pop() if operands else -1
    if not 0 <= variation_data < len(region_counts):
        raise FontError(f"a DICT varies by item variation data {variation_data}, but there are {len(region_counts)}")
    regions = region_counts[variation_data]
    if not isinstance(count, int) or not 0 <= count * (regions + 1) <= len(operands):
        raise FontError("a DICT has too few operands to blend")
    start = len(operands) - count * (regions + 1)
    numbers = [number for number in operands[start:] if not isinstance(number, Blend)]
    if len(numbers) < len(operands) - start:
        raise FontError("a DICT blends what is blended")
    values, deltas = numbers[:count], numbers[count:]
    return operands[:start] + [
        Blend(value, tuple(deltas[n * regions : (n + 1) * regions])) for n, value in enumerate(values)
    ]


def _read_number(reader: Reader, first: int) -> Constant:
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
        for blended, group in groupby(operands, key=lambda operand: isinstance(operand, Blend)):
            listed = list(group)
            numbers = [operand.value if isinstance(operand, Blend) else operand for operand in listed]
            numbers += [delta for operand in listed if isinstance(operand, Blend) for delta in operand.deltas]
            for number in numbers:
                out += bytes((_REAL,)) + number if isinstance(number, bytes) else write_integer(number)
            out += write_integer(len(listed)) + bytes((BLEND,)) if blended else b""
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


def only(values: Mapping[int, tuple[Number, ...]], counts: Mapping[int, range]) -> Dict:
    """The DICT with these operators only, and of them only those that have as many operands as they may."""
    return {
        operator: operands
        for operator, operands in values.items()
        if operator in counts and len(operands) in counts[operator]
    }


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
