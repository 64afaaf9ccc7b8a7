"""Tables and records of fixed fields, described once and both read and written by that description."""

from __future__ import annotations

import struct
from dataclasses import fields
from functools import cache
from typing import Any, ClassVar, Protocol, TypeVar

import numpy as np

from aksara.binary import Reader


class FixedRecord(Protocol):
    """A dataclass of integers; LAYOUT gives their sizes in order, as in `struct`."""

    LAYOUT: ClassVar[struct.Struct]
    __dataclass_fields__: ClassVar[dict[str, Any]]


R = TypeVar("R", bound=FixedRecord)


@cache
def _names(kind: type[FixedRecord]) -> tuple[str, ...]:
    return tuple(field.name for field in fields(kind))


def read_record(kind: type[R], reader: Reader, what: str) -> R:
    """The record at the cursor."""
    return kind(**dict(zip(_names(kind), reader.unpack(kind.LAYOUT, what), strict=True)))


class ArrayRecord:
    """A dataclass that holds NumPy arrays: equal where all its fields are."""

    __slots__ = ()
    __hash__ = None  # type: ignore[assignment]

    def __eq__(self, other: object) -> bool:
        if type(other) is not type(self):
            return NotImplemented
        names = (field.name for field in fields(self))  # type: ignore[arg-type]
        return all(np.array_equal(getattr(self, name), getattr(other, name)) for name in names)


def pack_record(record: FixedRecord) -> bytes:
    return record.LAYOUT.pack(*(getattr(record, name) for name in _names(type(record))))
