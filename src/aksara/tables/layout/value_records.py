"""Value records: how glyphs are moved (OpenType 1.9.1, "GPOS", "Value record")."""

from __future__ import annotations

from collections.abc import Callable

from aksara.offsets import Block, OffsetReader
from aksara.tables.layout.devices import Device, DeviceChange, device_block, parse_device

#: The fields that a value format announces, in order: numbers in font units, then devices or None. Pairs come in tens
#: of thousands, so a record is no more than a tuple.
Value = tuple[int | Device | None, ...]

#: Bits 0 to 3 of a value format announce numbers, 4 to 7 devices.
NUMBERS, DEVICES = 0x0F, 0xF0


def field_count(value_format: int) -> int:
    """Fields of a value record of that format."""
    return (value_format & 0xFF).bit_count()


def parse_value(reader: OffsetReader, value_format: int) -> Value:
    """The value record at the cursor; its offsets are relative to the reader's origin."""
    numbers: Value = reader.i16s((value_format & NUMBERS).bit_count())
    if not value_format & DEVICES:
        return numbers
    count = (value_format & DEVICES).bit_count()
    return numbers + tuple(parse_device(reader.offset16()) for _ in range(count))


def write_value(
    block: Block, value_format: int, value: Value, block_of: Callable[[Device | None], Block | None] = device_block
) -> None:
    """Append the record to the block of the table from which its offsets count; `block_of` makes devices' blocks."""
    count = (value_format & NUMBERS).bit_count()
    block.i16(*(number for number in value[:count] if isinstance(number, int)))
    for device in value[count:]:
        assert not isinstance(device, int)
        block.offset16(block_of(device))


def with_numbers(value_format: int) -> int:
    """The format with a number for each device, so that the device's value can be put there."""
    return value_format | value_format >> 4 & NUMBERS


def changed_value(value_format: int, value: Value, change: DeviceChange) -> Value:
    """The record in the format `with_numbers`, its numbers and devices changed."""
    if not value_format & DEVICES:
        return value
    fields = dict(zip((bit for bit in range(8) if value_format >> bit & 1), value, strict=True))
    for bit in range(4):
        device = fields.get(bit + 4)
        if value_format >> bit + 4 & 1:
            number = fields.get(bit, 0)
            assert isinstance(number, int) and not isinstance(device, int)
            fields[bit], fields[bit + 4] = change(number, device) if device is not None else (number, None)
    return tuple(fields[bit] for bit in sorted(fields))


def without_unused_fields(value_format: int, values: list[Value]) -> tuple[int, list[Value]]:
    """The format without the fields that are 0 (or have no device) in every value, and the values in it."""
    bits = [bit for bit in range(8) if value_format >> bit & 1]
    used = [n for n in range(len(bits)) if any(value[n] for value in values)]
    if len(used) == len(bits):
        return value_format, values
    return sum(1 << bits[n] for n in used), [tuple(value[n] for n in used) for value in values]
