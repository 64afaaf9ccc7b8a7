"""`OffsetReader`: a reader that follows offsets, and reads what several of them share once."""

from __future__ import annotations

import struct
from collections.abc import Callable
from typing import TypeVar, cast

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.limits import NUMBERS

T = TypeVar("T")

#: Unpacks a number of unsigned 16-bit values, for the commonest counts.
_COMMON = 32
_UNPACK_U16 = tuple(struct.Struct(f">{count}H").unpack_from for count in range(_COMMON))


class OffsetReader(Reader):
    """A reader at the start (`origin`) of a table or subtable, from which its offsets count."""

    __slots__ = ("_memory", "origin")

    def __init__(self, data: bytes, position: int = 0, parent: OffsetReader | None = None) -> None:
        if parent is None:
            super().__init__(data, position)
            # What was read already, for all readers of the table, and how much work that was.
            self._memory: dict[tuple[object, int], tuple[object, int]] = {}
        else:
            self.data, self.position = data, position
            self.work, self._memory = parent.work, parent._memory
        self.origin = position

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
        self.work.left -= 1 + count // NUMBERS  # `Work.spend_numbers`, without the calls
        offset = self._advance(2 * count, "numbers")
        return (
            _UNPACK_U16[count](self.data, offset)
            if count < _COMMON
            else struct.unpack_from(f">{count}H", self.data, offset)
        )

    def i16s(self, count: int) -> tuple[int, ...]:
        """The next signed 16-bit numbers."""
        self.work.spend_numbers(count)
        return struct.unpack_from(f">{count}h", self.data, self._advance(2 * count, "numbers"))

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
        return [self.at_offset(offset) if offset else None for offset in self.u16s(count)]

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
        """The result of `parse` for this subtable; it is parsed once, however many offsets point to it.

        Each of them counts as if it were read again, since whoever uses what was read goes through it each time.
        """
        key = (parse, self.origin)
        if key in self._memory:
            known, work = self._memory[key]
            self.work.spend(work)
            return cast(T, known)
        before = self.work.left
        made = parse(self)
        self._memory[key] = made, before - self.work.left
        return made
