"""'glyf': TrueType outlines (OpenType 1.9.1).

Glyphs stay the bytes they were until something needs their points or components.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.tables.base import Font
from aksara.tables.loca import Loca
from aksara.truetype import (
    ARGS_ARE_WORDS,
    ARGS_ARE_XY,
    HAS_INSTRUCTIONS,
    MORE_COMPONENTS,
    Points,
    component_glyphs,
    component_size,
    decode_simple,
)

_HEADER_SIZE = 10
#: Nesting of composites that is followed; renderers give up far earlier, real fonts stay within 6.
MAX_NESTING = 64


@dataclass(slots=True, frozen=True)
class Component:
    """One part of a composite glyph.

    `first` and `second` are an offset in font units if `flags` has ARGS_ARE_XY, else two point numbers;
    `scale` is the 0, 1, 2 or 4 numbers (2.14) of the transform that `flags` announces.
    """

    glyph: int
    flags: int
    first: int
    second: int
    scale: tuple[int, ...] = ()


@dataclass(slots=True, frozen=True)
class Composite:
    """A glyph made of others. `box` is xMin, yMin, xMax, yMax."""

    box: tuple[int, int, int, int]
    components: tuple[Component, ...]
    program: bytes | None = None

    @classmethod
    def parse(cls, glyph: bytes, number: int) -> Composite:
        reader = Reader(glyph, 2)
        box = (reader.i16(), reader.i16(), reader.i16(), reader.i16())
        components: list[Component] = []
        flags, wants_program = MORE_COMPONENTS, 0
        try:
            while flags & MORE_COMPONENTS:
                start = reader.position
                flags, part = reader.u16(), reader.u16()
                wants_program |= flags & HAS_INSTRUCTIONS
                size, signed = (2 if flags & ARGS_ARE_WORDS else 1), bool(flags & ARGS_ARE_XY)
                first, second = (int.from_bytes(reader.take(size), "big", signed=signed) for _ in range(2))
                numbers = (start + component_size(flags) - reader.position) // 2
                scale = tuple(reader.i16() for _ in range(numbers))
                components.append(Component(part, flags, first, second, scale))
            program = reader.take(reader.u16(), "a program") if wants_program else None
        except FontError as error:
            raise FontError(f"glyph {number}: its components run past its end") from error
        return cls(box, tuple(components), program)

    def compile(self) -> bytes:
        out = [b"\xff\xff", np.array(self.box, ">i2").tobytes()]
        for part in self.components:
            size, signed = (2 if part.flags & ARGS_ARE_WORDS else 1), bool(part.flags & ARGS_ARE_XY)
            out.append(part.flags.to_bytes(2, "big") + part.glyph.to_bytes(2, "big"))
            out += (value.to_bytes(size, "big", signed=signed) for value in (part.first, part.second))
            out.append(np.array(part.scale, ">i2").tobytes())
        if self.program is not None:
            out.append(len(self.program).to_bytes(2, "big") + self.program)
        return b"".join(out)


def _with_parts(glyph: bytes, numbers: Mapping[int, int], *, hints: bool) -> bytes:
    """The composite glyph with new numbers for its parts."""
    out = bytearray(glyph)
    place, flags = _HEADER_SIZE, MORE_COMPONENTS
    while flags & MORE_COMPONENTS and place + 4 <= len(out):
        flags, part = int.from_bytes(out[place : place + 2], "big"), int.from_bytes(out[place + 2 : place + 4], "big")
        out[place + 2 : place + 4] = numbers[part].to_bytes(2, "big")
        if not hints:
            out[place : place + 2] = (flags & ~HAS_INSTRUCTIONS).to_bytes(2, "big")
        place += component_size(flags)
    return bytes(out) if hints else bytes(out[:place])


def _without_program(glyph: bytes) -> bytes:
    """The simple glyph without its instructions, whose length stands behind the ends of its contours."""
    at = _HEADER_SIZE + 2 * int.from_bytes(glyph[:2], "big")
    size = int.from_bytes(glyph[at : at + 2], "big")
    return glyph[:at] + b"\0\0" + glyph[at + 2 + size :]


@dataclass(slots=True)
class Glyf:
    """The glyphs, each as its bytes; an empty glyph has none."""

    TAG: ClassVar[str] = "glyf"

    glyphs: list[bytes]

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Glyf:
        bounds = font.table(Loca).offsets.tolist()
        glyphs = []
        for number, (start, end) in enumerate(itertools.pairwise(bounds)):
            glyph = data[start:end]
            if end > len(data) and len(data) < start + _HEADER_SIZE and start != end:
                raise FontError(f"glyph {number} lies beyond the end of the table", offset=start)
            if 0 < len(glyph) < _HEADER_SIZE:
                # Padding that belongs to nobody; too short for a glyph.
                if any(glyph):
                    raise FontError(f"glyph {number} is cut short", offset=start)
                glyph = b""
            glyphs.append(glyph)
        return cls(glyphs)

    def compile(self) -> bytes:
        padded = not self.loca().long
        return b"".join(glyph + bytes(len(glyph) % 2) if padded else glyph for glyph in self.glyphs)

    def loca(self) -> Loca:
        """The 'loca' that belongs to what `compile` gives: short offsets, which count in twos, if they reach."""
        short = Loca.of_sizes([len(glyph) + len(glyph) % 2 for glyph in self.glyphs])
        return Loca.of_sizes([len(glyph) for glyph in self.glyphs], long=True) if short.long else short

    def take(self, order: Sequence[int | None], numbers: Mapping[int, int], *, hints: bool = True) -> Glyf:
        """The glyphs of `order` (None: an empty one), with new numbers for the parts of composites (old → new).

        Without `hints` they lose their programs.
        """
        glyphs = []
        for old in order:
            glyph = self.glyphs[old] if old is not None else b""
            if glyph and old is not None and self.is_composite(old):
                glyph = _with_parts(glyph, numbers, hints=hints)
            elif glyph and not hints:
                glyph = _without_program(glyph)
            glyphs.append(glyph)
        return Glyf(glyphs)

    def program_size(self) -> int:
        """Bytes that the glyphs' programs take."""
        simple = (glyph for glyph in self.glyphs if glyph and glyph[0] < 0x80)
        size = 0
        for glyph in simple:
            at = _HEADER_SIZE + 2 * (glyph[0] << 8 | glyph[1])
            size += int.from_bytes(glyph[at : at + 2], "big")
        composite = (number for number in range(len(self.glyphs)) if self.is_composite(number))
        return size + sum(len(self.composite(number).program or b"") for number in composite)

    def contours(self, number: int) -> int:
        """Number of contours; negative for a composite glyph, 0 for an empty one."""
        return int.from_bytes(self.glyphs[number][:2], "big", signed=True)

    def is_composite(self, number: int) -> bool:
        return self.contours(number) < 0

    def composite(self, number: int) -> Composite:
        return Composite.parse(self.glyphs[number], number)

    def simple(self, numbers: Iterable[int]) -> Points:
        """The points of these simple glyphs."""
        wanted = list(numbers)
        return decode_simple([self.glyphs[n] for n in wanted], wanted)

    def boxes(self) -> NDArray[np.int64]:
        """Bounding box of every glyph (G by 4: xMin, yMin, xMax, yMax), as its header has it; zeros if empty."""
        heads = b"".join(glyph[:_HEADER_SIZE] or bytes(_HEADER_SIZE) for glyph in self.glyphs)
        return np.frombuffer(heads, ">i2").reshape(-1, 5)[:, 1:].astype(np.int64)

    def with_components(self, numbers: Set[int]) -> set[int]:
        """These glyphs and, however deep they nest, the glyphs they are made of.

        Raises `FontError` for a composite that contains itself or a glyph that does not exist.
        """
        done: set[int] = set()
        for number in sorted(numbers):
            self._add_components(number, done, [])
        return done

    def _add_components(self, number: int, done: set[int], path: list[int]) -> None:
        if number in path or len(path) > MAX_NESTING:
            raise FontError(f"glyph {path[0]} is made of parts that contain itself")
        if number >= len(self.glyphs):
            raise FontError(f"glyph {path[-1]} has glyph {number} as a part, but there are only {len(self.glyphs)}")
        if number in done:
            return
        if self.is_composite(number):
            for part in component_glyphs(self.glyphs[number]):
                self._add_components(part, done, [*path, number])
        done.add(number)
