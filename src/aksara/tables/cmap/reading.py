"""Readers of the 'cmap' formats: a reader at the subtable's start → {code: glyph}."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import BeyondBounds, FontError
from aksara.limits import MAX_CHARACTERS

Mapped = Mapping[int, int]
Ints = NDArray[np.int64]
Glyphs = NDArray[np.int64] | NDArray[np.uint16] | NDArray[np.uint8]
MAX_CODE = 0x10FFFF
MAX_GLYPH = 0xFFFF
#: From this format on lengths and languages have 32 bits.
_FIRST_LONG = 8


def read_0(reader: Reader) -> Mapped:
    """Byte encoding table."""
    reader.take(6, "the header of format 0")
    return _mapping(np.arange(256), reader.array(np.uint8, 256, "glyphs"))


def read_2(reader: Reader) -> Mapped:
    """High-byte mapping through table: codes of one or two bytes, as East Asian encodings before Unicode had."""
    reader.take(6, "the header of format 2")
    keys = reader.array(np.uint16, 256, "subheader keys").astype(np.int64) // 8
    start, found = reader.position, {}
    for high in range(256):
        part = reader.at(start + 8 * int(keys[high]))
        first, count, delta, range_offset, offset = part.u16(), part.u16(), part.i16(), part.position, part.u16()
        if not keys[high]:
            # Of the first subheader, whose codes have one byte, each stands for itself.
            codes = range(high, high + 1) if first <= high < first + count else range(0)
            base = 0
        else:
            codes, base = range(first, first + count), high << 8
        for low in codes:
            glyph = part.at(range_offset + offset + 2 * (low - first)).u16()
            if glyph:
                found[base | low] = glyph + delta & 0xFFFF
    return {code: glyph for code, glyph in found.items() if glyph}


def read_8(reader: Reader) -> Mapped:
    """Mixed 16-bit and 32-bit coverage: groups as in format 12, behind a map of which codes have 32 bits."""
    reader.take(12, "the header of format 8")
    reader.take(8192, "the map of long codes")
    return _group_list(reader, consecutive=True)


def read_4(reader: Reader) -> Mapped:
    """Segment mapping to delta values. The length field is not believed: it overflows in real fonts."""
    reader.take(6, "the header of format 4")
    segments = reader.u16() // 2
    reader.take(6)
    ends = reader.array(np.uint16, segments, "segment ends").astype(np.int64)
    reader.u16()
    starts = reader.array(np.uint16, segments, "segment starts").astype(np.int64)
    deltas = reader.array(np.uint16, segments, "deltas").astype(np.int64)
    ranges_offset = reader.position
    ranges = reader.array(np.uint16, segments, "range offsets").astype(np.int64)
    # Glyph IDs of the segments with a range offset lie behind it, counted from where the offset stands.
    words = np.frombuffer(reader.data, ">u2", (len(reader.data) - ranges_offset) // 2, ranges_offset)
    sizes = np.maximum(ends - starts + 1, 0)
    if sizes.sum() > 2 * 0x10000:
        raise FontError("segments overlap too often", offset=ranges_offset)
    segment = np.repeat(np.arange(segments), sizes)
    codes = np.arange(len(segment)) - np.repeat(np.cumsum(sizes) - sizes - starts, sizes)
    glyphs = codes + deltas[segment]
    # An offset of 0xFFFF in the last segment stands for "no glyph" in some fonts.
    indirect = (ranges[segment] != 0) & (ranges[segment] != 0xFFFF)
    words_at = segment[indirect] + ranges[segment[indirect]] // 2 + codes[indirect] - starts[segment[indirect]]
    inside = words_at < len(words)
    found = np.where(inside, words[np.minimum(words_at, len(words) - 1)] if len(words) else 0, 0).astype(np.int64)
    glyphs[indirect] = np.where(found > 0, found + deltas[segment[indirect]], 0)
    glyphs &= 0xFFFF
    glyphs[ranges[segment] == 0xFFFF] = 0
    # The first segment that ends at or behind a code decides, so earlier segments win.
    return _mapping(codes[::-1], glyphs[::-1])


def read_6(reader: Reader) -> Mapped:
    """Trimmed table mapping."""
    reader.take(6, "the header of format 6")
    first, count = reader.u16(), reader.u16()
    return _mapping(np.arange(first, first + count), reader.array(np.uint16, count, "glyphs"))


def read_10(reader: Reader) -> Mapped:
    """Trimmed array."""
    reader.take(12, "the header of format 10")
    first, count = reader.u32(), reader.u32()
    glyphs = reader.array(np.uint16, count, "glyphs")
    return _mapping(np.arange(first, first + count), glyphs)


def read_12(reader: Reader) -> Mapped:
    """Segmented coverage: consecutive codes have consecutive glyphs."""
    return _groups(reader, consecutive=True)


def read_13(reader: Reader) -> Mapped:
    """Many-to-one range mappings: all codes of a group have one glyph."""
    return _groups(reader, consecutive=False)


def _groups(reader: Reader, *, consecutive: bool) -> Mapped:
    reader.take(12, "the header of the subtable")
    return _group_list(reader, consecutive=consecutive)


def _group_list(reader: Reader, *, consecutive: bool) -> Mapped:
    start, count = reader.position, reader.u32()
    groups = reader.array(np.uint32, 3 * count, "groups").astype(np.int64).reshape(-1, 3)
    firsts, lasts, glyphs = groups[:, 0], groups[:, 1], groups[:, 2]
    sizes = lasts - firsts + 1
    if len(groups) and (sizes.min() < 1 or lasts.max() > MAX_CODE):
        raise FontError("a group of codes runs backwards or beyond U+10FFFF", offset=start)
    if sizes.sum() > MAX_CHARACTERS:
        raise BeyondBounds("it claims glyphs for more characters than there are", offset=start)
    step = np.arange(int(sizes.sum())) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    glyph_ids = np.repeat(glyphs, sizes) + (step if consecutive else 0)
    return _mapping(np.repeat(firsts, sizes) + step, glyph_ids)


def _mapping(codes: Ints, glyphs: Glyphs) -> dict[int, int]:
    kept = (glyphs > 0) & (glyphs <= MAX_GLYPH) & (codes <= MAX_CODE)
    return dict(zip(codes[kept].tolist(), glyphs[kept].tolist(), strict=True))


class StoredMapping(Mapping[int, int]):
    """A subtable's mapping, which is read when it is first looked into: of many subtables only one is used."""

    def __init__(self, subtable_format: int, reader: Reader) -> None:
        """`subtable_format` is the format; `reader` stands at the subtable's start."""
        self._number = subtable_format
        self._start = reader

    @cached_property
    def language(self) -> int:
        """What matters only on the Macintosh platform."""
        reader, is_long = self._start.at(self._start.position), self._number >= _FIRST_LONG
        reader.take(8 if is_long else 4, "the header of a subtable")
        return reader.u32() if is_long else reader.u16()

    @cached_property
    def codes(self) -> Mapping[int, int]:
        """All of it, quicker to look into."""
        return READERS[self._number](self._start.at(self._start.position))

    def __getitem__(self, code: int) -> int:
        return self.codes[code]

    def __iter__(self) -> Iterator[int]:
        return iter(self.codes)

    def __len__(self) -> int:
        return len(self.codes)


READERS: dict[int, Callable[[Reader], Mapped]] = {
    0: read_0,
    2: read_2,
    4: read_4,
    6: read_6,
    8: read_8,
    10: read_10,
    12: read_12,
    13: read_13,
}
