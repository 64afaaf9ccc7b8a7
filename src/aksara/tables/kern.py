"""'kern': the old kerning table (OpenType 1.9.1, version 0; Apple's version 1.0 is kept as bytes)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.tables.base import Font
from aksara.tables.record import ArrayRecord

_PAIR = np.dtype([("left", ">u2"), ("right", ">u2"), ("value", ">i2")])
_SUBTABLE_HEADER, _FORMAT_0_HEADER = 6, 8
#: Pairs of one subtable, whose length has 16 bits.
_MAX_PAIRS = (0xFFFF - _SUBTABLE_HEADER - _FORMAT_0_HEADER) // _PAIR.itemsize
Pairs = NDArray[np.int64]


@dataclass(slots=True, frozen=True, eq=False)
class KernPairs(ArrayRecord):
    """A subtable of format 0; `pairs` (N by 3) are left glyph, right glyph, value in font units, sorted."""

    coverage: int
    pairs: Pairs

    def compile(self) -> bytes:
        count = len(self.pairs)
        power = max(count.bit_length() - 1, 0)
        search = _PAIR.itemsize << power
        shape = (count, search, power, count * _PAIR.itemsize - search)
        body = np.array(shape, np.int64).astype(">u2").tobytes() + self.pairs.astype(">i2").tobytes()
        # The length field overflows beyond 10,920 pairs; readers trust the count instead.
        length = _SUBTABLE_HEADER + len(body) & 0xFFFF
        return b"\0\0" + length.to_bytes(2, "big") + self.coverage.to_bytes(2, "big") + body


@dataclass(slots=True, frozen=True)
class KernOther:
    """A subtable of another format, header included, as it was."""

    data: bytes

    def compile(self) -> bytes:
        return self.data


@dataclass(slots=True, frozen=True)
class Kern:
    """Subtables in order; `apple` is the whole table where it has Apple's header, which is passed through."""

    TAG: ClassVar[str] = "kern"

    subtables: tuple[KernPairs | KernOther, ...]
    apple: bytes | None = None

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Kern:
        reader = Reader(data)
        version, count = reader.u16(), reader.u16()
        if version != 0:
            return cls((), data)
        subtables: list[KernPairs | KernOther] = []
        for number in range(count):
            start = reader.position
            reader.u16()
            length, coverage = reader.u16(), reader.u16()
            if coverage >> 8:
                size = length if number < count - 1 else len(data) - start
                if size < _SUBTABLE_HEADER:
                    raise FontError(f"kerning subtable {number} is shorter than its header", offset=start)
                subtables.append(KernOther(reader.at(start).take(size, "a kerning subtable")))
                reader.position = start + size
                continue
            pairs = reader.u16()
            reader.position = start + _SUBTABLE_HEADER + _FORMAT_0_HEADER
            found = np.frombuffer(reader.take(pairs * _PAIR.itemsize, "kerning pairs"), _PAIR)
            columns = [found[name].astype(np.int64) for name in ("left", "right", "value")]
            subtables.append(KernPairs(coverage, np.column_stack(columns)))
        return cls(tuple(subtables))

    def compile(self) -> bytes:
        if self.apple is not None:
            return self.apple
        return b"\0\0" + len(self.subtables).to_bytes(2, "big") + b"".join(s.compile() for s in self.subtables)

    def subset(self, glyphs: NDArray[np.int64]) -> Kern:
        """The same kerning without the pairs of glyphs that are not in `glyphs` (numbers are kept)."""
        if self.apple is not None:
            return self
        kept: list[KernPairs | KernOther] = []
        for subtable in self.subtables:
            if isinstance(subtable, KernOther):
                kept.append(subtable)
                continue
            pairs = subtable.pairs
            pairs = pairs[np.isin(pairs[:, 0], glyphs) & np.isin(pairs[:, 1], glyphs)]
            # Browsers drop the whole table where a length has overflowed; several subtables kern the same.
            for start in range(0, len(pairs), _MAX_PAIRS):
                kept.append(KernPairs(subtable.coverage, pairs[start : start + _MAX_PAIRS]))
        return Kern(tuple(kept))
