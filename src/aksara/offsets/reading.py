"""`OffsetReader`: a reader that follows offsets, reads what several of them share once, and counts the work."""

from __future__ import annotations

import struct
from collections.abc import Callable
from typing import TypeVar, cast

from aksara.binary import Reader
from aksara.errors import FontError

T = TypeVar("T")

#: Records of one table; the largest real ones have about 400,000. A thousand offsets may lead to one subtable, so that
#: a small file can claim far more than it holds.
_MAX_RECORDS = 4_000_000


class _Work:
    """What all readers of one table share: the records that may still be read, and what was read already."""

    __slots__ = ("memory", "records_left")

    def __init__(self) -> None:
        self.records_left = _MAX_RECORDS
        self.memory: dict[tuple[object, int], object] = {}


class OffsetReader(Reader):
    """A reader at the start (`origin`) of a table or subtable, from which its offsets count."""

    __slots__ = ("_work", "origin")

    def __init__(self, data: bytes, position: int = 0, parent: OffsetReader | None = None) -> None:
        super().__init__(data, position)
        self.origin = position
        self._work: _Work = parent._work if parent else _Work()

    def at_offset(self, offset: int) -> OffsetReader:
        """A reader of the subtable at that offset from this one's start."""
        return OffsetReader(self.data, self.origin + offset, self)

    def version(self) -> int:
        """The version at the cursor, as 16.16; of all these tables there is only 1 and what has been added to it."""
        version = self.u32()
        if version >> 16 != 1:
            raise FontError(f"its version is {version >> 16}, but only 1 exists", offset=self.origin)
        return version

    def u16s(self, count: int) -> tuple[int, ...]:
        """The next unsigned 16-bit numbers."""
        self.count_records(count)
        return struct.unpack_from(f">{count}H", self.data, self._advance(2 * count, f"{count} numbers"))

    def i16s(self, count: int) -> tuple[int, ...]:
        """The next signed 16-bit numbers."""
        self.count_records(count)
        return struct.unpack_from(f">{count}h", self.data, self._advance(2 * count, f"{count} numbers"))

    def offset16(self) -> OffsetReader | None:
        """The subtable that the next Offset16 leads to; None for a null offset."""
        return self._follow(self.u16())

    def offset24(self) -> OffsetReader | None:
        """The subtable that the next Offset24 leads to; None for a null offset."""
        return self._follow(self.u24())

    def offset32(self) -> OffsetReader | None:
        """The subtable that the next Offset32 leads to; None for a null offset."""
        return self._follow(self.u32())

    def offsets16(self, count: int) -> list[OffsetReader | None]:
        """The subtables that the next Offset16s lead to."""
        return [self._follow(offset) for offset in self.u16s(count)]

    def required16(self) -> OffsetReader:
        """The subtable that the next Offset16 leads to; a null offset is an error."""
        start = self.position
        reader = self.offset16()
        if reader is None:
            raise FontError("a required offset is null", offset=start)
        return reader

    def _follow(self, offset: int) -> OffsetReader | None:
        return self.at_offset(offset) if offset else None

    def once(self, parse: Callable[[OffsetReader], T]) -> T:
        """What `parse` makes of this subtable; it is parsed once, however many offsets lead here."""
        memory, key = self._work.memory, (parse, self.origin)
        if key not in memory:
            memory[key] = parse(self)
        return cast(T, memory[key])

    def count_records(self, records: int) -> None:
        """Count records against what one table may hold, before they are read."""
        self._work.records_left -= records
        if self._work.records_left < 0:
            raise FontError("it holds more records than any real font", offset=self.origin)
