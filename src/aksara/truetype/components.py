"""Composite glyphs and their components ('glyf', "Composite glyph description")."""

from __future__ import annotations

import struct
from collections.abc import Iterator, Mapping

from msgspec import Struct
from msgspec.structs import replace

from aksara.binary import Reader, Writer
from aksara.errors import FontError, located

ARGS_ARE_WORDS = 0x0001
ARGS_ARE_XY = 0x0002
HAS_SCALE = 0x0008
MORE_COMPONENTS = 0x0020
HAS_XY_SCALE = 0x0040
HAS_TWO_BY_TWO = 0x0080
HAS_INSTRUCTIONS = 0x0100
OVERLAP_COMPOUND = 0x0400
SCALED_COMPONENT_OFFSET = 0x0800

_SCALED = HAS_SCALE | HAS_XY_SCALE | HAS_TWO_BY_TWO

_HEADER_SIZE = 10
_F2DOT14 = 1 << 14
_TOO_SHORT = "its components run past its end"


class Component(Struct, frozen=True):
    """One part of a composite glyph.

    `arguments` are an offset in font units if `flags` has ARGS_ARE_XY, else two point numbers; `scale` is the 0, 1, 2
    or 4 numbers (2.14) of the transform that `flags` announces.
    """

    glyph: int
    flags: int
    arguments: tuple[int, int]
    scale: tuple[int, ...] = ()

    @property
    def offset(self) -> tuple[int, int]:
        """How far it is moved, in font units; not at all if it is placed by points."""
        return self.arguments if self.flags & ARGS_ARE_XY else (0, 0)

    @property
    def matrix(self) -> tuple[float, float, float, float]:
        """What points are multiplied by: x' = xx·x + xy·y and y' = yx·x + yy·y, as (xx, yx, xy, yy)."""
        numbers = [number / _F2DOT14 for number in self.scale]
        if self.flags & HAS_SCALE:
            return numbers[0], 0.0, 0.0, numbers[0]
        if self.flags & HAS_XY_SCALE:
            return numbers[0], 0.0, 0.0, numbers[1]
        if self.flags & HAS_TWO_BY_TWO:
            return numbers[0], numbers[1], numbers[2], numbers[3]
        return 1.0, 0.0, 0.0, 1.0

    @property
    def displacement(self) -> tuple[float, float]:
        """How far its points are moved, in font units, once they are multiplied by the matrix; not at all if it is
        placed by points.

        The specification does not say how an offset is scaled by a matrix that skews or turns
        ("SCALED_COMPONENT_OFFSET"). FreeType takes the lengths of (xx, xy) and (yx, yy); Chromium takes the larger
        number of each and three eighths of the smaller one; HarfBuzz moves the points first. As in Chromium 156 on
        Linux; where nothing is skewed or turned, all agree.
        """
        if not self.flags & SCALED_COMPONENT_OFFSET:
            return self.offset
        xx, yx, xy, yy = map(abs, self.matrix)
        dx, dy = self.offset
        return dx * (max(xx, xy) + min(xx, xy) * 3 / 8), dy * (max(yx, yy) + min(yx, yy) * 3 / 8)

    def moved_to(self, offset: tuple[int, int]) -> Component:
        """The same with another offset, in as many bytes as that needs."""
        flags = self.flags
        if any(not -0x80 <= number <= 0x7F for number in offset):
            flags |= ARGS_ARE_WORDS
        return replace(self, flags=flags, arguments=offset)

    @classmethod
    def read(cls, reader: Reader) -> Component:
        """The component record at the cursor."""
        start = reader.position
        flags, glyph = reader.u16(), reader.u16()
        size, signed = (2 if flags & ARGS_ARE_WORDS else 1), bool(flags & ARGS_ARE_XY)
        first, second = (int.from_bytes(reader.take(size), "big", signed=signed) for _ in range(2))
        numbers = (start + component_size(flags) - reader.position) // 2
        return cls(glyph, flags, (first, second), tuple(reader.i16() for _ in range(numbers)))

    def write(self, writer: Writer) -> None:
        """Append the record."""
        size, signed = (2 if self.flags & ARGS_ARE_WORDS else 1), bool(self.flags & ARGS_ARE_XY)
        writer.u16(self.flags, self.glyph)
        for argument in self.arguments:
            writer.append(argument.to_bytes(size, "big", signed=signed))
        writer.i16(*self.scale)


class Composite(Struct, frozen=True):
    """A composite glyph. `box` is xMin, yMin, xMax, yMax in font units; `program` its instructions, if any."""

    box: tuple[int, int, int, int]
    components: tuple[Component, ...]
    program: bytes | None = None

    @classmethod
    def parse(cls, data: bytes, glyph: int) -> Composite:
        """The composite glyph with that ID. Raises `FontError` where it ends too early."""
        reader = Reader(data, 2)
        components: list[Component] = []
        try:
            box = (reader.i16(), reader.i16(), reader.i16(), reader.i16())
            while not components or components[-1].flags & MORE_COMPONENTS:
                components.append(Component.read(reader))
            wants_program = any(component.flags & HAS_INSTRUCTIONS for component in components)
            program = reader.take(reader.u16(), "a program") if wants_program else None
        except FontError as error:
            raise FontError(_TOO_SHORT, glyph=glyph) from error
        return cls(box, tuple(components), program)

    def compile(self) -> bytes:
        """The glyph's bytes in 'glyf'."""
        writer = Writer().i16(-1, *self.box)
        for component in self.components:
            component.write(writer)
        if self.program is not None:
            writer.u16(len(self.program)).append(self.program)
        return bytes(writer)


def component_size(flags: int) -> int:
    """Bytes of a component record with these flags, the flags themselves included."""
    size = 8 if flags & ARGS_ARE_WORDS else 6
    if not flags & _SCALED:
        return size
    return size + (2 if flags & HAS_SCALE else 4 if flags & HAS_XY_SCALE else 8)


def _records(data: bytes | bytearray, start: int = _HEADER_SIZE) -> Iterator[tuple[int, int, int]]:
    """Offset, flags and glyph ID of each component record, as far as the data go."""
    offset, flags = start, MORE_COMPONENTS
    while flags & MORE_COMPONENTS and offset + 4 <= len(data):
        flags, glyph = struct.unpack_from(">HH", data, offset)
        yield offset, flags, glyph
        offset += component_size(flags)


def component_ids(data: bytes) -> list[int]:
    """The glyph IDs of a composite glyph's components, as far as its records go."""
    return [glyph for _, _, glyph in _records(data)]


def with_component_ids(data: bytes, new_ids: Mapping[int, int], *, keep_program: bool) -> bytes:
    """The composite glyph with its components under new glyph IDs; without its program unless that is kept."""
    out = bytearray(data)
    end = len(out)
    for offset, flags, glyph in _records(data):
        kept_flags = flags if keep_program else flags & ~HAS_INSTRUCTIONS
        struct.pack_into(">HH", out, offset, kept_flags, new_ids[glyph])
        end = offset + component_size(flags)
    return bytes(out) if keep_program else bytes(out[:end])


def split_composite(data: bytes, glyph: int) -> tuple[bytes, bytes | None]:
    """A composite glyph's component records, and the program behind them if they announce one."""
    reader = Reader(data, _HEADER_SIZE)
    records, has_program = take_records(reader, glyph)
    if not has_program:
        return records, None
    with located(glyph=glyph):
        return records, reader.take(reader.u16(), "a program")


def take_records(reader: Reader, glyph: int) -> tuple[bytes, bool]:
    """All component records at the cursor, and whether a program follows behind them."""
    data, end, flags, announced = reader.data, reader.position, MORE_COMPONENTS, 0
    while flags & MORE_COMPONENTS:
        flags = int.from_bytes(data[end : end + 2], "big")
        announced |= flags
        end += component_size(flags)
    if end > len(data):
        raise FontError(_TOO_SHORT, glyph=glyph)
    return reader.take(end - reader.position, "components"), bool(announced & HAS_INSTRUCTIONS)
