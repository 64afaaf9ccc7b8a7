"""Records: dataclasses that know how they are read, written or compared."""

from __future__ import annotations

import struct
from collections.abc import Callable
from dataclasses import fields
from typing import ClassVar, Self, cast

import numpy as np

from aksara.binary import Reader


class FixedRecord:
    """Base of dataclasses whose fields are described once, by LAYOUT, and both read and written by it.

    LAYOUT gives the sizes of the fields in order, as in `struct`. Subclasses are `@dataclass(slots=True)`.
    """

    __slots__: ClassVar[tuple[str, ...]] = ()
    LAYOUT: ClassVar[struct.Struct]

    @classmethod
    def read(cls, reader: Reader, what: str = "a record") -> Self:
        """The record at the cursor, which moves behind it. Raises `FontError` where the data ends first."""
        values = dict(zip(cls.__slots__, reader.unpack(cls.LAYOUT, what), strict=True))
        return cast(Callable[..., Self], cls)(**values)

    def compile(self) -> bytes:
        """The record's bytes, `LAYOUT.size` of them."""
        return self.LAYOUT.pack(*(getattr(self, name) for name in self.__slots__))


class ArrayRecord:
    """Base of dataclasses that hold NumPy arrays: equal where all their fields are."""

    __slots__ = ()
    __hash__ = None  # type: ignore[assignment]

    def __eq__(self, other: object) -> bool:
        if type(other) is not type(self):
            return NotImplemented
        names = (field.name for field in fields(self) if field.compare)  # type: ignore[arg-type]
        return all(_equal(getattr(self, name), getattr(other, name)) for name in names)


def _equal(first: object, second: object) -> bool:
    if isinstance(first, np.ndarray) and isinstance(second, np.ndarray):
        return np.array_equal(first, second)
    return first == second
