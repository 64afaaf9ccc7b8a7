"""Records: base classes for structs that are read, written or compared."""

from __future__ import annotations

import struct
from abc import ABCMeta
from collections.abc import Callable
from typing import Any, ClassVar, Self, cast

import numpy as np
from msgspec import Struct, StructMeta

from aksara.binary import Reader


class _AbstractStructMeta(StructMeta, ABCMeta):
    """The metaclass of structs with abstract methods."""


class AbstractStruct(Struct, metaclass=_AbstractStructMeta, frozen=True):
    """Base of structs that leave methods to their subclasses."""


class FixedRecord(Struct, frozen=True):
    """Base of structs whose fields are described once, by LAYOUT, and both read and written by it.

    LAYOUT gives the sizes of the fields in order, as in `struct`.
    """

    LAYOUT: ClassVar[struct.Struct]

    @classmethod
    def read(cls, reader: Reader, what: str = "a record") -> Self:
        """The record at the cursor, which moves behind it. Raises `FontError` where the data ends first."""
        values = dict(zip(cls.__struct_fields__, reader.unpack(cls.LAYOUT, what), strict=True))
        return cast(Callable[..., Self], cls)(**values)

    def compile(self) -> bytes:
        """The record's bytes, `LAYOUT.size` of them."""
        return self.LAYOUT.pack(*(getattr(self, name) for name in self.__struct_fields__))


class ComparedByField:
    """Mixin of structs that hold NumPy arrays, or fields that say nothing of what they are: equal where all their
    fields are, but those of `NOT_COMPARED`."""

    __slots__ = ()
    __hash__ = None  # type: ignore[assignment]
    NOT_COMPARED: ClassVar[tuple[str, ...]] = ()

    def __eq__(self, other: object) -> bool:
        if type(other) is not type(self):
            return NotImplemented
        names = cast(Any, self).__struct_fields__
        return all(_equal(getattr(self, name), getattr(other, name)) for name in names if name not in self.NOT_COMPARED)


def _equal(first: object, second: object) -> bool:
    if isinstance(first, np.ndarray) and isinstance(second, np.ndarray):
        return np.array_equal(first, second)
    return first == second
