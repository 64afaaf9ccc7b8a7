"""'kern': the old kerning table, with OpenType's header (1.9.1) or Apple's (TrueType Reference Manual, "kern").

Whatever format it is read from, it is written as lists of pairs (format 0) with OpenType's header, which all browsers
take.
"""

from __future__ import annotations

import struct
from collections.abc import Collection, Iterator
from typing import ClassVar, Self

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import FontError, located
from aksara.records import ComparedByField, FixedRecord
from aksara.tables.base import FontTables, ShapingTable
from aksara.tables.kern_formats import Pairs, read_pairs
from aksara.tables.layout.glyph_sets import GlyphSet, Join
from aksara.tables.layout.gpos import Gpos
from aksara.tables.subsetting import SubsetContext

_HORIZONTAL, _MINIMUM, _CROSS_STREAM = 1, 2, 4
_APPLE_VERTICAL, _APPLE_CROSS_STREAM, _APPLE_VARIATION = 0x80, 0x40, 0x20
_MAX_SUBTABLES = 0xFFFF
_KERN = "kern"


class _SubtableHeader(FixedRecord, frozen=True):
    """OpenType's; `coverage` are flags."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">HHBB")

    version: int
    length: int
    format: int
    coverage: int


class _AppleSubtableHeader(FixedRecord, frozen=True):
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">IBBH")

    length: int
    flags: int
    format: int
    tuple_index: int


class _Format0Header(FixedRecord, frozen=True):
    """How many pairs follow, and the parameters of a binary search over them."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">HHHH")

    count: int
    search_range: int
    entry_selector: int
    range_shift: int


_PAIR_SIZE = 6
#: Pairs of one subtable, whose length has 16 bits.
_MAX_PAIRS = (0xFFFF - _SubtableHeader.LAYOUT.size - _Format0Header.LAYOUT.size) // _PAIR_SIZE


class KernPairs(ComparedByField, Struct, frozen=True):
    """`pairs` (N by 3) are left glyph, right glyph, value in font units, sorted; `coverage` are OpenType's flags."""

    coverage: int
    pairs: Pairs

    def compile(self) -> bytes:
        """The subtable in format 0."""
        count = len(self.pairs)
        selector = max(count.bit_length() - 1, 0)
        search = _PAIR_SIZE << selector
        shift = count * _PAIR_SIZE - search & 0xFFFF
        body = _Format0Header(count, search & 0xFFFF, selector, shift).compile() + self.pairs.astype(">i2").tobytes()
        # The length field overflows beyond 10,920 pairs; desktop programs trust the count instead.
        length = _SubtableHeader.LAYOUT.size + len(body) & 0xFFFF
        return _SubtableHeader(0, length, 0, self.coverage).compile() + body

    def subset(self, new_ids: NDArray[np.int64]) -> Pairs:
        """The pairs of kept glyphs, sorted; `new_ids` has the new ID of each old one, -1 for one that is not kept."""
        pairs = self.pairs.copy()
        pairs[:, :2] = new_ids[pairs[:, :2]]
        pairs = pairs[(pairs[:, :2] >= 0).all(axis=1)]
        # A pair of 0 says no more than none, unless a minimum is meant.
        if not self.coverage & _MINIMUM:
            pairs = pairs[pairs[:, 2] != 0]
        return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]


class Kern(ShapingTable, frozen=True):
    """Subtables in order; the values of all that have a pair add up.

    `lost` tells how many subtables there were that no list of pairs can say (Apple's state machines).
    """

    TAG: ClassVar[str] = "kern"
    OPTIONAL: ClassVar[bool] = True

    subtables: tuple[KernPairs, ...]
    lost: int = 0

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        if reader.u16() == 0:
            return cls._parse_opentype(reader)
        reader.u16()
        return cls._parse_apple(reader)

    @classmethod
    def _parse_opentype(cls, reader: Reader) -> Self:
        subtables: list[KernPairs] = []
        count, lost = reader.u16(), 0
        for index in range(count):
            start = reader.position
            header = _SubtableHeader.read(reader, "a kerning subtable's header")
            with located(subtable=index):
                pairs = read_pairs(reader, header.format, start)
            if pairs is None:
                lost += 1
            else:
                subtables.append(KernPairs(header.coverage, pairs))
            # The length of a list overflows beyond 10,920 pairs; of the last subtable it does not matter.
            if header.format == 0:
                reader.position = max(reader.position, start + header.length)
            elif index < count - 1:
                _check_length(header.length, _SubtableHeader.LAYOUT.size, index, start)
                reader.position = start + header.length
        return cls(tuple(subtables), lost)

    @classmethod
    def _parse_apple(cls, reader: Reader) -> Self:
        subtables: list[KernPairs] = []
        count, lost = reader.u32(), 0
        for index in range(min(count, _MAX_SUBTABLES)):
            start = reader.position
            header = _AppleSubtableHeader.read(reader, "a kerning subtable's header")
            _check_length(header.length, _AppleSubtableHeader.LAYOUT.size, index, start)
            pairs = None
            if not header.flags & (_APPLE_VERTICAL | _APPLE_VARIATION):
                with located(subtable=index):
                    pairs = read_pairs(reader, header.format, start)
            if pairs is None:
                lost += 1
            else:
                cross = _CROSS_STREAM if header.flags & _APPLE_CROSS_STREAM else 0
                subtables.append(KernPairs(_HORIZONTAL | cross, pairs))
            reader.position = start + header.length
        return cls(tuple(subtables), lost)

    def compile(self) -> bytes:
        return b"\0\0" + len(self.subtables).to_bytes(2, "big") + b"".join(s.compile() for s in self.subtables)

    def joins(self, features: Collection[str], *, kerning: bool) -> Iterator[Join]:
        if not kerning:
            return
        for subtable in self.subtables:
            moved = subtable.pairs[subtable.pairs[:, 2] != 0]
            seconds: dict[int, list[int]] = {}
            for first, second, _ in moved.tolist():
                seconds.setdefault(first, []).append(second)
            for first, others in seconds.items():
                yield GlyphSet(frozenset((first,))), GlyphSet(frozenset(others))

    def subset(self, context: SubsetContext) -> Self | None:
        """Nothing where GPOS kerns all text: renderers then pass this table over."""
        if is_passed_over(context.original(Gpos)):
            return None
        new_ids = context.glyphs.array()
        kept = []
        for subtable in self.subtables:
            pairs = subtable.subset(new_ids)
            # Browsers drop the whole table where a length has overflowed; several subtables kern the same.
            for start in range(0, len(pairs), _MAX_PAIRS):
                kept.append(KernPairs(subtable.coverage, pairs[start : start + _MAX_PAIRS]))
        return type(self)(tuple(kept), self.lost) if kept else None


def is_passed_over(gpos: Gpos | None) -> bool:
    """Whether renderers do not look at 'kern' beside this GPOS, which kerns all text."""
    return gpos is not None and _KERN in gpos.tags_everywhere()


def _check_length(length: int, least: int, number: int, start: int) -> None:
    if length < least:
        raise FontError("it is shorter than its header", subtable=number, offset=start)
