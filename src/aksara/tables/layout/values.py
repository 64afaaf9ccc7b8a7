"""What positions are made of: device tables, value records, anchors (OpenType 1.9.1, "Device and VariationIndex
tables", "GPOS", "Shared tables")."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from aksara.tables.layout.offsets import Block, Place

#: A device or variation index table as its bytes: what it says depends on nothing that subsetting changes.
Device = bytes
#: The fields that a value format announces, in order: numbers in font units, then devices or None.
Value = tuple[int | Device | None, ...]

#: Bits 0 to 3 of a value format announce numbers, 4 to 7 devices.
NUMBERS, DEVICES = 0x0F, 0xF0
_VARIATION_INDEX = 0x8000


def read_device(place: Place | None) -> Device | None:
    """The device table there; None if there is none, or one that renderers do not know."""
    return place.once(_device) if place is not None else None


def _device(place: Place) -> Device | None:
    first, last, form = place.u16(), place.u16(), place.u16()
    if form == _VARIATION_INDEX:
        size = 6
    elif form in (1, 2, 3) and first <= last:
        # A correction takes 2, 4 or 8 bits; they are packed in 16-bit words.
        size = 6 + 2 * ((((last - first + 1) << form) + 15) // 16)
    else:
        return None
    return place.there(0).take(size, "a device table")


def device_block(device: Device | int | None) -> Block | None:
    assert not isinstance(device, int)
    return Block(device) if device is not None else None


def field_count(form: int) -> int:
    """Fields of a value record of that format."""
    return (form & 0xFF).bit_count()


def read_value(place: Place, form: int) -> Value:
    """The value record at the cursor; its offsets count from the place's origin."""
    numbers: Value = place.i16s((form & NUMBERS).bit_count())
    if not form & DEVICES:
        return numbers
    return numbers + tuple(read_device(place.link()) for _ in range((form & DEVICES).bit_count()))


def write_value(block: Block, form: int, value: Value) -> None:
    """Put the record into the block of the subtable, from which its offsets count."""
    count = (form & NUMBERS).bit_count()
    block.i16(*value[:count])  # type: ignore[arg-type]  # the first fields are numbers
    for device in value[count:]:
        block.link(device_block(device))


def used_format(form: int, values: list[Value]) -> tuple[int, list[Value]]:
    """The format without the fields that are 0 (or without device) in every value, and the values in it."""
    bits = [bit for bit in range(8) if form >> bit & 1]
    used = [n for n in range(len(bits)) if any(value[n] for value in values)]
    if len(used) == len(bits):
        return form, values
    return sum(1 << bits[n] for n in used), [tuple(value[n] for n in used) for value in values]


@dataclass(slots=True, frozen=True)
class Anchor:
    """A point to attach by, in font units: perhaps also a point of the glyph's outline, or devices."""

    x: int
    y: int
    point: int | None = None
    x_device: Device | None = None
    y_device: Device | None = None

    def block(self) -> Block:
        """Its table; one for all anchors that are equal."""
        return _anchor_block(self)

    def _new_block(self) -> Block:
        if self.x_device is not None or self.y_device is not None:
            block = Block().u16(3).i16(self.x, self.y)
            return block.link(device_block(self.x_device)).link(device_block(self.y_device))
        if self.point is not None:
            return Block().u16(2).i16(self.x, self.y).u16(self.point)
        return Block().u16(1).i16(self.x, self.y)


@lru_cache(maxsize=1 << 16)
def _anchor_block(anchor: Anchor) -> Block:
    return anchor._new_block()


def read_anchor(place: Place | None) -> Anchor | None:
    return place.once(_anchor) if place is not None else None


def _anchor(place: Place) -> Anchor:
    form = place.u16()
    x, y = place.i16s(2)
    if form == 2:
        return Anchor(x, y, place.u16())
    if form == 3:
        return Anchor(x, y, None, read_device(place.link()), read_device(place.link()))
    return Anchor(x, y) if form == 1 else Anchor(0, 0)


def anchor_block(anchor: Anchor | None) -> Block | None:
    return anchor.block() if anchor is not None else None


def read_store(place: Place) -> bytes:
    """The bytes of an item variation store, as far as its parts reach ("Item variation store")."""
    _, regions, count = place.u16(), place.u32(), place.u16()
    ends = [place.position + 4 * count]
    at = place.there(regions)
    axes, listed = at.u16s(2)
    ends.append(at.position + 6 * axes * listed)
    for _ in range(count):
        if (data := place.link32()) is not None:
            items, words, indices = data.u16s(3)
            # The high bit says that words are of 32 bits, and the others of 16.
            unit = 2 if words & 0x8000 else 1
            ends.append(data.position + 2 * indices + items * unit * (indices + (words & 0x7FFF)))
    return place.there(0).take(max(ends) - place.origin, "an item variation store")
