"""Big-endian reading and writing (OpenType 1.9.1, "Data types").

`Reader` checks every access against the end of its data, so that a parser
cannot run past it whatever the offsets and counts claim, and counts its work,
so that it cannot read the same data again and again. `Writer` collects
bytes and lets lengths and offsets be filled in afterwards.
"""

from __future__ import annotations

import struct
from typing import Self, TypeVar

import numpy as np
from numpy.typing import NDArray

from aksara.errors import BeyondBounds, FontError
from aksara.limits import BULK, Work

_Scalar = TypeVar("_Scalar", bound=np.generic)

#: Packs a number of unsigned 16-bit values, for the commonest counts.
_PACK_U16 = tuple(struct.Struct(f">{count}H").pack for count in range(8))


class Reader:
    """A cursor over `data`; positions count from the start of `data`.

    Every method that reads raises `FontError`, with the position and what
    was expected there, when the data ends first, and `BeyondBounds` when
    more has been read than `work` allows, which all readers of the same
    data share.
    """

    __slots__ = ("data", "position", "work")

    def __init__(self, data: bytes, position: int = 0, work: Work | None = None) -> None:
        self.data = data
        self.position = position
        self.work = work or Work(len(data))

    @property
    def remaining(self) -> int:
        """Bytes left behind the cursor."""
        return len(self.data) - self.position

    def _advance(self, size: int, what: str) -> int:
        position = self.position
        if position < 0 or size < 0 or position + size > len(self.data):
            raise FontError(
                f"expected {what} ({size} bytes), found {max(len(self.data) - position, 0)} bytes before the end",
                offset=position,
            )
        self.position = position + size
        # `Work.spend_bulk`, without the calls: this runs more often than anything else.
        work = self.work
        work.left -= 1 + size // BULK
        if work.left < 0:
            raise BeyondBounds
        return position

    def u8(self) -> int:
        """An unsigned 8-bit number."""
        return self.data[self._advance(1, "a byte")]

    def u16(self) -> int:
        """An unsigned 16-bit number."""
        offset = self._advance(2, "a 16-bit number")
        return self.data[offset] << 8 | self.data[offset + 1]

    def i16(self) -> int:
        """A signed 16-bit number."""
        return int.from_bytes(self.take(2, "a 16-bit number"), "big", signed=True)

    def u24(self) -> int:
        """An unsigned 24-bit number."""
        return int.from_bytes(self.take(3, "a 24-bit number"), "big")

    def u32(self) -> int:
        """An unsigned 32-bit number."""
        return int.from_bytes(self.take(4, "a 32-bit number"), "big")

    def i32(self) -> int:
        """A signed 32-bit number."""
        return int.from_bytes(self.take(4, "a 32-bit number"), "big", signed=True)

    def tag(self) -> str:
        """A four-byte tag; bytes outside ASCII are kept apart as Latin-1."""
        return self.take(4, "a tag").decode("latin-1")

    def take(self, size: int, what: str = "data") -> bytes:
        """The next `size` bytes."""
        start = self._advance(size, what)
        return self.data[start : start + size]

    def unpack(self, layout: struct.Struct, what: str = "a record") -> tuple[int, ...]:
        """The next fields, as `struct` describes them."""
        return layout.unpack_from(self.data, self._advance(layout.size, what))

    def array(self, dtype: type[_Scalar] | np.dtype[_Scalar], count: int, what: str = "an array") -> NDArray[_Scalar]:
        """The next `count` big-endian numbers, in the machine's own order. Checked before anything is allocated."""
        native = np.dtype(dtype)
        start = self._advance(native.itemsize * count, what)
        return np.frombuffer(self.data, native.newbyteorder(">"), count, start).astype(native)

    def at(self, position: int) -> Reader:
        """Another cursor over the same data."""
        return Reader(self.data, position, self.work)


class Writer:
    """Bytes in the making; every method gives the writer back, so that calls can follow one another.

    A number that does not fit its field raises `OverflowError`.
    """

    __slots__ = ("data",)

    def __init__(self, data: bytes | bytearray = b"") -> None:
        self.data = bytearray(data)

    def __bytes__(self) -> bytes:
        return bytes(self.data)

    def __len__(self) -> int:
        return len(self.data)

    def u8(self, *values: int) -> Self:
        """Unsigned 8-bit numbers."""
        return self._numbers("B", values)

    def u16(self, *values: int) -> Self:
        """Unsigned 16-bit numbers."""
        try:  # as `_numbers`, without the call: layout tables are made of these
            self.data += (
                _PACK_U16[len(values)](*values) if len(values) < 8 else struct.pack(f">{len(values)}H", *values)
            )
        except struct.error as error:
            raise OverflowError(f"a number does not fit its field ({error})") from error
        return self

    def i16(self, *values: int) -> Self:
        """Signed 16-bit numbers."""
        return self._numbers("h", values)

    def u24(self, value: int) -> Self:
        """An unsigned 24-bit number."""
        self.data += value.to_bytes(3, "big")
        return self

    def u32(self, *values: int) -> Self:
        """Unsigned 32-bit numbers."""
        return self._numbers("I", values)

    def i32(self, *values: int) -> Self:
        """Signed 32-bit numbers."""
        return self._numbers("i", values)

    def tag(self, tag: str) -> Self:
        """A four-byte tag, as `Reader.tag` gives it."""
        self.data += tag.encode("latin-1")
        return self

    def append(self, data: bytes) -> Self:
        """Bytes as they are."""
        self.data += data
        return self

    def align(self, size: int = 4) -> Self:
        """Zeros up to a multiple of `size` bytes."""
        self.data += bytes(-len(self.data) % size)
        return self

    def reserve(self, size: int) -> int:
        """Room for a number that is not known yet; gives its offset, for `patch`."""
        self.data += bytes(size)
        return len(self.data) - size

    def patch(self, offset: int, size: int, value: int) -> None:
        """Fill in the number of `size` bytes at `offset`."""
        self.data[offset : offset + size] = value.to_bytes(size, "big")

    def _numbers(self, code: str, values: tuple[int, ...]) -> Self:
        try:
            self.data += struct.pack(f">{len(values)}{code}", *values)
        except struct.error as error:
            raise OverflowError(f"a number does not fit its field ({error})") from error
        return self


def pad4(data: bytes) -> bytes:
    """`data` followed by zeros up to a multiple of four bytes."""
    return data + bytes(-len(data) % 4)


def checksum(data: bytes) -> int:
    """Sum of the data's 32-bit words, padded with zeros, modulo 2**32 (OpenType, "Calculating checksums")."""
    return int(np.frombuffer(pad4(data), ">u4").sum(dtype=np.uint64)) & 0xFFFFFFFF
