"""'STAT': a font's values on the axes of its family, and their names (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from typing import ClassVar, Self

from msgspec import Struct

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader, serialize
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table
from aksara.tables.subsetting import SubsetScope

_FVAR = "fvar"
_VERSION_1_1, _VERSION_1_2 = 0x00010001, 0x00010002
_ONE = 0x10000
# Axis value formats: 1 a value, 2 a value with its range, 3 a value and what it links to, 4 values on several axes.
_NUMBERS = {1: 1, 2: 3, 3: 2}
_SEVERAL_AXES = 4
#: Name ID for a font whose names are all elidable, if there is no name.
_NO_NAME = 0xFFFF


class DesignAxis(FixedRecord, frozen=True):
    """An axis of the family; `ordering` is the position of its names in a font's name."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">IHH")

    tag_number: int
    name_id: int
    ordering: int

    @property
    def tag(self) -> str:
        """The axis's tag: "wght"."""
        return self.tag_number.to_bytes(4, "big").decode("latin-1")


class AxisValue(Struct, frozen=True):
    """A name for a place: `positions` are axes (by index) with numbers of 16.16, as its format has them.

    That is a value (format 1); a value, the least and the most of its range (2); a value and the one that it links to
    (3); or a value on each of several axes (4).
    """

    value_format: int
    flags: int
    name_id: int
    positions: tuple[tuple[int, tuple[int, ...]], ...]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        value_format = reader.u16()
        if value_format == _SEVERAL_AXES:
            count, flags, name_id = reader.u16s(3)
            reader.work.spend_numbers(count)
            return cls(value_format, flags, name_id, tuple((reader.u16(), (reader.i32(),)) for _ in range(count)))
        if value_format not in _NUMBERS:
            raise FontError(f"an axis value of format {value_format}; only 1 to 4 exist", offset=reader.origin)
        axis, flags, name_id = reader.u16s(3)
        return cls(value_format, flags, name_id, ((axis, tuple(reader.i32() for _ in range(_NUMBERS[value_format]))),))

    def block(self) -> Block:
        block = Block().u16(self.value_format)
        if self.value_format == _SEVERAL_AXES:
            block.u16(len(self.positions), self.flags, self.name_id)
            for axis, (position,) in self.positions:
                block.u16(axis).i32(position)
            return block
        ((axis, numbers),) = self.positions
        return block.u16(axis, self.flags, self.name_id).i32(*numbers)

    def value_on(self, axis: int) -> float | None:
        """The value that it names on that axis, in the axis's own units; None if it says nothing of it."""
        return next((numbers[0] / _ONE for axis_index, numbers in self.positions if axis_index == axis), None)


class Stat(Table, frozen=True):
    """The axes of the family, the named places on them, and the name of a font that has no other left to say."""

    TAG: ClassVar[str] = "STAT"
    OPTIONAL: ClassVar[bool] = True

    axes: tuple[DesignAxis, ...]
    axis_values: tuple[AxisValue, ...]
    fallback_name_id: int | None = None

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        version = reader.version()
        axis_size, axis_count = reader.u16s(2)
        axes_at = reader.offset32()
        value_count = reader.u16()
        values_at = reader.offset32()
        fallback = reader.u16() if version >= _VERSION_1_1 and reader.remaining >= 2 else None
        axes = []
        for index in range(axis_count if axes_at else 0):
            assert axes_at is not None
            axes.append(DesignAxis.read(axes_at.at(axes_at.origin + index * axis_size), "an axis"))
        targets = values_at.offsets16(value_count) if values_at else []
        return cls(
            tuple(axes), tuple(target.once(AxisValue.parse) for target in targets if target is not None), fallback
        )

    def compile(self) -> bytes:
        several = any(value.value_format == _SEVERAL_AXES for value in self.axis_values)
        root = Block().u32(_VERSION_1_2 if several else _VERSION_1_1)
        axes = Block(b"".join(axis.compile() for axis in self.axes))
        values = Block()
        for value in self.axis_values:
            values.offset16(value.block())
        root.u16(DesignAxis.LAYOUT.size, len(self.axes)).offset32(axes if self.axes else None)
        root.u16(len(self.axis_values)).offset32(values if self.axis_values else None)
        return serialize(root.u16(self.fallback_name_id if self.fallback_name_id is not None else _NO_NAME))

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return "only variable fonts need it" if _FVAR not in scope.tags else None

    @property
    def values(self) -> Mapping[str, tuple[float, ...]]:
        """For each axis, by tag, the values that are named on it, in the axis's own units."""
        values_by_axis: dict[str, tuple[float, ...]] = {}
        for index, axis in enumerate(self.axes):
            named = (value.value_on(index) for value in self.axis_values if len(value.positions) == 1)
            values_by_axis[axis.tag] = tuple(value for value in named if value is not None)
        return values_by_axis

    def value(self, tag: str) -> float | None:
        """A static font's value on an axis; None if it has no value or several."""
        values = set(self.values.get(tag, ()))
        return values.pop() if len(values) == 1 else None

    def name_ids(self) -> set[int]:
        """The names that it refers to."""
        name_ids = {axis.name_id for axis in self.axes} | {value.name_id for value in self.axis_values}
        return name_ids | ({self.fallback_name_id} if self.fallback_name_id is not None else set())
