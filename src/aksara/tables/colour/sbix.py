"""'sbix': glyphs as pictures in several sizes (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise
from typing import ClassVar, Self

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import FontError
from aksara.limits import MAX_PICTURE_HOPS
from aksara.offsets import OffsetReader
from aksara.tables.base import FontTables, Table
from aksara.tables.maxp import Maxp
from aksara.tables.subsetting import SubsetContext, SubsetScope

_DUPLICATE = b"dupe"


class Graphic(Struct, frozen=True):
    """A picture: its origin (left and bottom, in pixels), the type of its data ("png "), and the data."""

    left: int
    bottom: int
    kind: bytes
    data: bytes

    def stored(self) -> bytes:
        """As the table has it."""
        return (
            self.left.to_bytes(2, "big", signed=True)
            + self.bottom.to_bytes(2, "big", signed=True)
            + self.kind
            + self.data
        )


class SizedGraphics(Struct, frozen=True):
    """The pictures for one size: by glyph, each with its own data."""

    pixels: int
    density: int
    graphics: Mapping[int, Graphic]


class Sbix(Table, frozen=True):
    """Pictures by size; `flags` say whether outlines are drawn, too. `count` is how many glyphs the font has."""

    TAG: ClassVar[str] = "sbix"
    OPTIONAL: ClassVar[bool] = True

    flags: int
    strikes: tuple[SizedGraphics, ...]
    count: int

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return "'COLR' draws the same" if "COLR" in scope.tags else None

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        reader.u16()
        flags, count = reader.u16(), reader.u32()
        reader.work.spend_numbers(count)
        glyphs = font.table(Maxp).num_glyphs
        offsets = [reader.u32() for _ in range(count)]
        return cls(flags, tuple(_parse_strike(reader.at_offset(offset), glyphs) for offset in offsets), glyphs)

    def compile(self) -> bytes:
        strikes = [_compile_strike(strike, self.count) for strike in self.strikes]
        offset = 8 + 4 * len(strikes)
        head = (1).to_bytes(2, "big") + self.flags.to_bytes(2, "big") + len(strikes).to_bytes(4, "big")
        for strike in strikes:
            head += offset.to_bytes(4, "big")
            offset += len(strike)
        return head + b"".join(strikes)

    def draws(self, glyph: int) -> bool:
        """Whether it has a picture of the glyph."""
        return any(glyph in strike.graphics for strike in self.strikes)

    def subset(self, context: SubsetContext) -> Self | None:
        strikes = [replace(strike, graphics=context.glyphs.keys_of(strike.graphics)) for strike in self.strikes]
        strikes = [strike for strike in strikes if strike.graphics]
        return replace(self, strikes=tuple(strikes), count=len(context.glyphs.order)) if strikes else None


def _parse_strike(reader: OffsetReader, count: int) -> SizedGraphics:
    pixels, density = reader.u16(), reader.u16()
    reader.work.spend_numbers(count)
    offsets = [reader.u32() for _ in range(count + 1)]
    stored: dict[int, Graphic] = {}
    for glyph, (low, high) in enumerate(pairwise(offsets)):
        if high > low:
            part = reader.at(reader.origin + low)
            left, bottom = part.i16(), part.i16()
            kind = part.take(4, "the kind of a picture")
            stored[glyph] = Graphic(left, bottom, kind, part.take(high - low - 8, "a picture"))
    return SizedGraphics(pixels, density, {glyph: _followed(glyph, stored, reader) for glyph in stored})


def _followed(glyph: int, stored: Mapping[int, Graphic], reader: OffsetReader) -> Graphic:
    """The picture of a glyph, that of another one where it only refers to that."""
    graphic = stored[glyph]
    for _ in range(MAX_PICTURE_HOPS):
        if graphic.kind != _DUPLICATE:
            return graphic
        target = int.from_bytes(graphic.data[:2], "big")
        if target not in stored:
            break
        graphic = stored[target]
    raise FontError(f"the picture of glyph {glyph} refers to none, or in a circle", offset=reader.origin)


def _compile_strike(strike: SizedGraphics, count: int) -> bytes:
    """Equal pictures are stored once, and referred to."""
    body = bytearray()
    firsts: dict[Graphic, int] = {}
    offsets = []
    start = 4 + 4 * (count + 1)
    for glyph in range(count):
        offsets.append(start + len(body))
        graphic = strike.graphics.get(glyph)
        if graphic is None:
            continue
        first = firsts.setdefault(graphic, glyph)
        same = replace(graphic, kind=_DUPLICATE, data=first.to_bytes(2, "big"))
        body += (graphic if first == glyph or len(graphic.data) <= 2 else same).stored()
    offsets.append(start + len(body))
    head = strike.pixels.to_bytes(2, "big") + strike.density.to_bytes(2, "big")
    return head + b"".join(offset.to_bytes(4, "big") for offset in offsets) + bytes(body)
