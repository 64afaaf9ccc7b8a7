"""'CBDT' and 'CBLC': glyphs as pictures, and where each of them is (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import ClassVar, Self

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import FontError
from aksara.limits import MAX_PICTURE_READS
from aksara.offsets import OffsetReader
from aksara.tables.base import FontTables, Table
from aksara.tables.subsetting import SubsetContext, SubsetScope

_VERSION = (3).to_bytes(2, "big") + bytes(2)
#: Line metrics of a strike, both directions; metrics of a picture, without and with those for vertical text.
_LINES, _SMALL, _BIG = 24, 5, 8
_WITH_SMALL, _WITH_BIG, _PLAIN = 17, 18, 19
#: Bytes of a record of a strike, and of an entry for a run of glyphs.
_STRIKE, _ENTRY = 48, 8
_PNG = b"\x89PNG\r\n\x1a\n"


class Picture(Struct, frozen=True):
    """A PNG with its `metrics`: 5 or 8 bytes, as stored."""

    metrics: bytes
    png: bytes

    @property
    def stored(self) -> bytes:
        """As the table has it: image format 17 or 18."""
        return self.metrics + len(self.png).to_bytes(4, "big") + self.png


class Strike(Struct, frozen=True):
    """The pictures of one size: by glyph. `lines` are its line metrics, `sizes` pixels an em (both directions), the
    depth of bits, and flags, as they are stored."""

    lines: bytes
    sizes: bytes
    pictures: Mapping[int, Picture]


class Cbdt(Table, frozen=True):
    """The pictures of all sizes."""

    TAG: ClassVar[str] = "CBDT"
    OPTIONAL: ClassVar[bool] = True

    strikes: tuple[Strike, ...]

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return _reason_to_drop(scope)

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        if "CBLC" not in font:
            raise FontError("it has no list of its pictures ('CBLC')")
        reader = OffsetReader(font.raw("CBLC"))
        if reader.u16() not in (2, 3):
            raise FontError("a list of pictures ('CBLC') of another version than 3", offset=0)
        reader.u16()
        count = reader.u32()
        reader.work.spend_numbers(count)
        images = _Images(data)
        return cls(tuple(_parse_strike(reader, images) for _ in range(count)))

    def compile(self) -> bytes:
        return self.written()[1]

    def written(self) -> tuple[bytes, bytes]:
        """'CBLC' and 'CBDT'. Equal pictures are written once."""
        out = bytearray(_VERSION)
        index = bytearray(_VERSION + len(self.strikes).to_bytes(4, "big") + bytes(_STRIKE * len(self.strikes)))
        places: dict[bytes, int] = {}
        for number, strike in enumerate(self.strikes):
            runs = list(_runs(strike, out, places))
            position = len(index)
            entries, heads = bytearray(), bytearray()
            for first, last, kind, offsets in runs:
                entries += first.to_bytes(2, "big") + last.to_bytes(2, "big")
                entries += (_ENTRY * len(runs) + len(heads)).to_bytes(4, "big")
                long = offsets[-1] - offsets[0] > 0xFFFF
                heads += (1 if long else 3).to_bytes(2, "big") + kind.to_bytes(2, "big") + offsets[0].to_bytes(4, "big")
                heads += b"".join((offset - offsets[0]).to_bytes(4 if long else 2, "big") for offset in offsets)
                heads += bytes(-len(heads) % 4)
            index += entries + heads
            glyphs = sorted(strike.pictures)
            record = position.to_bytes(4, "big") + (len(entries) + len(heads)).to_bytes(4, "big")
            record += len(runs).to_bytes(4, "big") + bytes(4) + strike.lines
            record += glyphs[0].to_bytes(2, "big") + glyphs[-1].to_bytes(2, "big") + strike.sizes
            index[8 + _STRIKE * number : 8 + _STRIKE * (number + 1)] = record
        return bytes(index), bytes(out)

    def draws(self, glyph: int) -> bool:
        """Whether it has a picture of the glyph."""
        return any(glyph in strike.pictures for strike in self.strikes)

    def subset(self, context: SubsetContext) -> Self | None:
        strikes = [replace(strike, pictures=context.glyphs.keys_of(strike.pictures)) for strike in self.strikes]
        strikes = [strike for strike in strikes if strike.pictures]
        return type(self)(tuple(strikes)) if strikes else None


class Cblc(Table, frozen=True):
    """Where each picture is: written with 'CBDT', which reads it."""

    TAG: ClassVar[str] = "CBLC"
    OPTIONAL: ClassVar[bool] = True

    data: bytes

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return _reason_to_drop(scope)

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        return cls(data)

    def compile(self) -> bytes:
        return self.data

    def subset(self, context: SubsetContext) -> Self | None:
        pictures = context.subset(Cbdt)
        return type(self)(pictures.written()[0]) if pictures is not None else None


def _reason_to_drop(scope: SubsetScope) -> str | None:
    if "COLR" in scope.tags:
        return "'COLR' draws the same"
    if not {"CBDT", "CBLC"} <= set(scope.tags):
        return "pictures and their list need each other"
    return None


class _Images:
    """The bytes of pictures, each span once: lists may name one for many glyphs, and spans that overlap."""

    def __init__(self, data: bytes) -> None:
        self._data = data
        self._left = MAX_PICTURE_READS * len(data)
        self._known: dict[tuple[int, int], bytes] = {}

    def at(self, start: int, size: int) -> bytes:
        """A picture as it is stored. Raises `FontError` where all together are beyond any real font's."""
        if (start, size) not in self._known:
            found = self._data[start : start + size]
            self._left -= len(found)
            if self._left < 0:
                raise FontError("its pictures lie over one another")
            self._known[start, size] = found
        return self._known[start, size]


def _parse_strike(reader: OffsetReader, images: _Images) -> Strike:
    offset, _, runs, _ = (reader.u32() for _ in range(4))
    lines = reader.take(_LINES, "line metrics")
    reader.u32()  # the first and the last glyph, which the runs say as well
    sizes = reader.take(4, "sizes")
    listed = reader.at_offset(offset)
    reader.work.spend_numbers(runs)
    pictures: dict[int, Picture] = {}
    for _ in range(runs):
        first, last, more = listed.u16(), listed.u16(), listed.u32()
        for glyph, picture in _parse_run(listed.at_offset(more), first, last, images):
            pictures.setdefault(glyph, picture)
    return Strike(lines, sizes, pictures)


def _parse_run(reader: OffsetReader, first: int, last: int, images: _Images) -> Iterator[tuple[int, Picture]]:
    """The pictures of a run of glyphs (index formats 1 to 5)."""
    kind, image_format, start = reader.u16(), reader.u16(), reader.u32()
    count = last - first + 1
    if count < 1:
        raise FontError(f"pictures of glyphs {first} to {last}", offset=reader.origin)
    metrics = b""
    if kind in (1, 3):
        offsets = [reader.u32() for _ in range(count + 1)] if kind == 1 else list(reader.u16s(count + 1))
        glyphs = list(range(first, last + 1))
    elif kind in (2, 5):
        size, metrics = reader.u32(), reader.take(_BIG, "metrics")
        glyphs = list(range(first, last + 1)) if kind == 2 else list(reader.u16s(reader.u32()))
        reader.work.spend_numbers(len(glyphs))
        offsets = [size * position for position in range(len(glyphs) + 1)]
    elif kind == 4:
        numbers = reader.u16s(2 * (reader.u32() + 1))
        glyphs, offsets = list(numbers[:-2:2]), list(numbers[1::2])
    else:
        raise FontError(f"a list of pictures of format {kind}; only 1 to 5 exist", offset=reader.origin)
    for glyph, low, high in zip(glyphs, offsets, offsets[1:], strict=False):
        if high > low:
            yield glyph, _picture(images, (start + low, high - low), image_format, metrics, reader)


def _picture(
    images: _Images, span: tuple[int, int], image_format: int, metrics: bytes, reader: OffsetReader
) -> Picture:
    stored = images.at(*span)
    own = {_WITH_SMALL: _SMALL, _WITH_BIG: _BIG, _PLAIN: 0}.get(image_format)
    if own is None:
        raise FontError(f"a picture of format {image_format}; browsers know 17 to 19", offset=reader.origin)
    if not own and not metrics:
        raise FontError("a picture without metrics", offset=reader.origin)
    size = int.from_bytes(stored[own : own + 4], "big")
    png = images.at(span[0] + own + 4, min(size, max(len(stored) - own - 4, 0)))
    if len(png) < size or not png.startswith(_PNG):
        raise FontError("a picture that is cut short, or is not a PNG", offset=reader.origin)
    return Picture(stored[:own] or metrics, png)


def _runs(strike: Strike, out: bytearray, offsets: dict[bytes, int]) -> Iterator[tuple[int, int, int, list[int]]]:
    """Runs of glyphs that follow one another, whose pictures do, too: first, last, image format, and where each picture
    begins, and the last ends. Pictures are appended to `out`."""
    run: tuple[int, int, int, list[int]] | None = None
    for glyph, picture in sorted(strike.pictures.items()):
        kind = _WITH_SMALL if len(picture.metrics) == _SMALL else _WITH_BIG
        stored = picture.stored
        known = offsets.get(stored)
        offset = known if known is not None else len(out)
        if known is None:
            offsets[stored] = offset
            out += stored
        if run is not None and (glyph, kind, offset) == (run[1] + 1, run[2], run[3][-1]):
            run = (run[0], glyph, kind, [*run[3], offset + len(stored)])
            continue
        if run is not None:
            yield run
        run = (glyph, glyph, kind, [offset, offset + len(stored)])
    if run is not None:
        yield run
