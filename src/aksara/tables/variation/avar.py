"""'avar': how the axes are stretched (OpenType 1.9.1).

A table of version 2, in which axes depend on one another, stays the bytes that it was.
"""

from __future__ import annotations

from itertools import pairwise
from typing import ClassVar, Self

from aksara.binary import Reader, Writer
from aksara.errors import FontError
from aksara.tables.base import FontTables, Table
from aksara.tables.fvar import Fvar
from aksara.tables.variation.regions import ONE

#: From → to, both normalised, in units of 1/16384; rising.
Segments = tuple[tuple[int, int], ...]
#: What changes nothing.
STRAIGHT: Segments = ((-ONE, -ONE), (0, 0), (ONE, ONE))


class Avar(Table, frozen=True):
    """`segments` of each axis, none for one that is not stretched; `data` is the whole of a table of version 2."""

    TAG: ClassVar[str] = "avar"

    segments: tuple[Segments, ...]
    data: bytes = b""

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        major, _, _, count = (reader.u16() for _ in range(4))
        if major not in (1, 2):
            raise FontError(f"its version is {major}, but only 1 and 2 exist")
        axes = len(font.table(Fvar).axes)
        if count != axes:
            raise FontError(f"it has {count} axes, but 'fvar' has {axes}", offset=6)
        segments = tuple(_parse_segments(reader) for _ in range(count))
        return cls(segments, data if major == 2 else b"")

    @property
    def is_version_2(self) -> bool:
        """Whether axes depend on one another."""
        return bool(self.data)

    def compile(self) -> bytes:
        if self.is_version_2:
            return self.data
        writer = Writer().u16(1, 0, 0, len(self.segments))
        for segments in self.segments:
            writer.u16(len(segments))
            for pair in segments:
                writer.i16(*pair)
        return bytes(writer)

    def mapped(self, axis: int, coordinate: float) -> float:
        """Where that coordinate of the axis is taken to (normalised, in units of 1/16384)."""
        return mapped(self.segments[axis], coordinate)


def mapped(segments: Segments, coordinate: float) -> float:
    """Where the segments take a coordinate to."""
    if not segments:
        return coordinate
    if coordinate <= segments[0][0]:
        return segments[0][1] + coordinate - segments[0][0]
    for (low, to_low), (high, to_high) in pairwise(segments):
        if coordinate <= high:
            return to_low + (to_high - to_low) * (coordinate - low) / (high - low) if high > low else to_high
    return segments[-1][1] + coordinate - segments[-1][0]


def _parse_segments(reader: Reader) -> Segments:
    position = reader.position
    count = reader.u16()
    if 4 * count > reader.remaining:
        raise FontError("its maps run past its end", offset=position)
    segments = tuple((reader.i16(), reader.i16()) for _ in range(count))
    if any(b[0] < a[0] or b[1] < a[1] for a, b in pairwise(segments)):
        raise FontError("one of its maps runs backwards", offset=position)
    return segments
