"""'kern': the old kerning table, in OpenType's form (1.9.1) and in Apple's (TrueType Reference Manual, "kern").

Whatever form it is read from, it is written as lists of pairs with OpenType's header: the one form that all browsers
take.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.tables.base import Font
from aksara.tables.record import ArrayRecord

_PAIR = np.dtype([("left", ">u2"), ("right", ">u2"), ("value", ">i2")])
_HEADER, _FORMAT_0_HEADER, _APPLE_HEADER = 6, 8, 8
#: Pairs of one subtable, whose length has 16 bits.
_MAX_PAIRS = (0xFFFF - _HEADER - _FORMAT_0_HEADER) // _PAIR.itemsize
#: Pairs that classes may unfold to.
_MAX_UNFOLDED = 2_000_000
_HORIZONTAL, _MINIMUM, _CROSS_STREAM = 1, 2, 4
_APPLE_VERTICAL, _APPLE_CROSS_STREAM, _APPLE_VARIATION = 0x80, 0x40, 0x20
Pairs = NDArray[np.int64]


@dataclass(slots=True, frozen=True, eq=False)
class KernPairs(ArrayRecord):
    """`pairs` (N by 3) are left glyph, right glyph, value in font units, sorted; `coverage` are OpenType's flags."""

    coverage: int
    pairs: Pairs

    def compile(self) -> bytes:
        count = len(self.pairs)
        power = max(count.bit_length() - 1, 0)
        search = _PAIR.itemsize << power
        shape = (count, search, power, count * _PAIR.itemsize - search)
        body = np.array(shape, np.int64).astype(">u2").tobytes() + self.pairs.astype(">i2").tobytes()
        # The length field overflows beyond 10,920 pairs; desktop programs trust the count instead.
        length = _HEADER + len(body) & 0xFFFF
        return b"\0\0" + length.to_bytes(2, "big") + self.coverage.to_bytes(2, "big") + body


@dataclass(slots=True, frozen=True)
class Kern:
    """Subtables in order; the values of all that have a pair add up.

    `lost` tells how many subtables there were that no list of pairs can say (Apple's state machines).
    """

    TAG: ClassVar[str] = "kern"

    subtables: tuple[KernPairs, ...]
    lost: int = 0

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Kern:
        reader = Reader(data)
        if reader.u16() == 0:
            return cls._parse_opentype(reader)
        reader.u16()
        return cls._parse_apple(reader)

    @classmethod
    def _parse_opentype(cls, reader: Reader) -> Kern:
        subtables: list[KernPairs] = []
        count, lost = reader.u16(), 0
        for number in range(count):
            start = reader.position
            reader.u16()
            length, form, coverage = reader.u16(), reader.u8(), reader.u8()
            pairs = _pairs(reader, form, start)
            if pairs is None:
                lost += 1
            else:
                subtables.append(KernPairs(coverage, pairs))
            # The length of a list overflows beyond 10,920 pairs; of the last subtable it does not matter.
            if form == 0:
                reader.position = max(reader.position, start + length)
            elif number < count - 1:
                if length < _HEADER:
                    raise FontError(f"kerning subtable {number} is shorter than its header", offset=start)
                reader.position = start + length
        return cls(tuple(subtables), lost)

    @classmethod
    def _parse_apple(cls, reader: Reader) -> Kern:
        subtables: list[KernPairs] = []
        count, lost = reader.u32(), 0
        for number in range(min(count, 0xFFFF)):
            start = reader.position
            length, flags, form = reader.u32(), reader.u8(), reader.u8()
            reader.u16()
            if length < _APPLE_HEADER:
                raise FontError(f"kerning subtable {number} is shorter than its header", offset=start)
            pairs = None if flags & (_APPLE_VERTICAL | _APPLE_VARIATION) else _pairs(reader, form, start)
            if pairs is None:
                lost += 1
            else:
                cross = _CROSS_STREAM if flags & _APPLE_CROSS_STREAM else 0
                subtables.append(KernPairs(_HORIZONTAL | cross, pairs))
            reader.position = start + length
        return cls(tuple(subtables), lost)

    def compile(self) -> bytes:
        return b"\0\0" + len(self.subtables).to_bytes(2, "big") + b"".join(s.compile() for s in self.subtables)

    def subset(self, numbers: Mapping[int, int]) -> Kern:
        """The pairs of kept glyphs (old number → new)."""
        new = np.full(0x10000, -1)
        new[list(numbers)] = list(numbers.values())
        kept = []
        for subtable in self.subtables:
            pairs = subtable.pairs.copy()
            pairs[:, :2] = new[pairs[:, :2]]
            pairs = pairs[(pairs[:, :2] >= 0).all(axis=1)]
            # A pair of 0 says no more than none, unless a minimum is meant.
            if not subtable.coverage & _MINIMUM:
                pairs = pairs[pairs[:, 2] != 0]
            pairs = pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]
            # Browsers drop the whole table where a length has overflowed; several subtables kern the same.
            for start in range(0, len(pairs), _MAX_PAIRS):
                kept.append(KernPairs(subtable.coverage, pairs[start : start + _MAX_PAIRS]))
        return Kern(tuple(kept), self.lost)


def _pairs(reader: Reader, form: int, start: int) -> Pairs | None:
    """The subtable's pairs; `start` is where its header starts, the cursor stands behind that. None if it has none."""
    if form == 0:
        count = reader.u16()
        reader.take(6, "search parameters")
        found = np.frombuffer(reader.take(count * _PAIR.itemsize, "kerning pairs"), _PAIR)
        return np.column_stack([found[name].astype(np.int64) for name in ("left", "right", "value")])
    if form == 2:
        return _class_pairs(reader, start)
    if form == 3:
        return _index_pairs(reader)
    return None


def _class_pairs(reader: Reader, start: int) -> Pairs:
    """Format 2: a matrix, found by adding what the classes of the left and the right glyph have as offsets."""
    reader.u16()
    left_at, right_at, _ = reader.u16(), reader.u16(), reader.u16()
    lefts, rights = _class_offsets(reader.at(start + left_at)), _class_offsets(reader.at(start + right_at))
    words = np.frombuffer(reader.data, np.uint8).astype(np.int64)
    return _product(lefts, rights, lambda left, right: _words_at(words, start + left + right))


def _class_offsets(reader: Reader) -> Pairs:
    """Glyphs and their offsets (N by 2)."""
    first, count = reader.u16(), reader.u16()
    return np.column_stack((np.arange(first, first + count), reader.array(np.uint16, count).astype(np.int64)))


def _words_at(data: Pairs, at: Pairs) -> Pairs:
    inside = (at >= 0) & (at + 1 < len(data))
    places = np.where(inside, at, 0)
    value = data[places] << 8 | data[np.minimum(places + 1, len(data) - 1)]
    return np.where(inside, value - (value >> 15 << 16), 0)


def _index_pairs(reader: Reader) -> Pairs:
    """Format 3 (Apple's): classes of both glyphs, and for each two of them the index of a value."""
    glyphs, values, left_classes, right_classes, _ = reader.u16(), *(reader.u8() for _ in range(4))
    kerns = reader.array(np.int16, values, "kerning values").astype(np.int64)
    lefts, rights = (reader.array(np.uint8, glyphs, "classes").astype(np.int64) for _ in range(2))
    index = reader.array(np.uint8, left_classes * right_classes, "indices").astype(np.int64)
    numbers = np.arange(glyphs)

    def value(left: Pairs, right: Pairs) -> Pairs:
        places = left * right_classes + right
        inside = (left < left_classes) & (right < right_classes) & (places < len(index))
        chosen = index[np.where(inside, places, 0)] if len(index) else np.zeros(len(places), np.int64)
        inside &= chosen < len(kerns)
        return np.where(inside, kerns[np.where(inside, chosen, 0)], 0) if len(kerns) else chosen * 0

    return _product(np.column_stack((numbers, lefts)), np.column_stack((numbers, rights)), value)


def _product(lefts: Pairs, rights: Pairs, value: Callable[[Pairs, Pairs], Pairs]) -> Pairs:
    """All pairs whose value is not 0. `lefts` and `rights` are glyphs and classes (N by 2)."""
    kept, total = [], 0
    for glyph, number in lefts.tolist():
        values = value(np.full(len(rights), number), rights[:, 1])
        at = np.flatnonzero(values)
        total += len(at)
        if total > _MAX_UNFOLDED:
            raise FontError("its classes unfold to more pairs than any real font has")
        kept.append(np.column_stack((np.full(len(at), glyph), rights[at, 0], values[at])))
    return np.concatenate(kept) if kept else np.zeros((0, 3), np.int64)
