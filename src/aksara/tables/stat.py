"""'STAT': where a font stands on the axes of its family (OpenType 1.9.1). Read; written as it was."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from aksara.binary import Reader
from aksara.tables.base import FontTables, Table
from aksara.tables.subsetting import SubsetScope

# Axis value formats that speak of one axis: 1 a value, 2 a value with its range, 3 a value and what it links to.
_ONE_AXIS = (1, 2, 3)


@dataclass(slots=True, frozen=True)
class Stat(Table):
    """`values`: for each axis, by tag, the values that the table names, in the axis's own units."""

    TAG: ClassVar[str] = "STAT"

    values: dict[str, tuple[float, ...]]
    data: bytes

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data, 4)
        axis_size, axis_count, axes_offset = reader.u16(), reader.u16(), reader.u32()
        value_count, values_offset = reader.u16(), reader.u32()
        tags = [reader.at(axes_offset + number * axis_size).tag() for number in range(axis_count)]
        found: dict[str, list[float]] = {tag: [] for tag in tags}
        offsets = reader.at(values_offset)
        for _ in range(value_count):
            value = reader.at(values_offset + offsets.u16())
            value_format, axis = value.u16(), value.u16()
            value.take(4)  # flags and name
            if value_format in _ONE_AXIS and axis < axis_count:
                found[tags[axis]].append(value.i32() / 65536)
        return cls({tag: tuple(values) for tag, values in found.items()}, data)

    def compile(self) -> bytes:
        return self.data

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return "only variable fonts need it"

    def value(self, tag: str) -> float | None:
        """Where a static font stands on an axis: its one value there, or None if it names none or several."""
        values = set(self.values.get(tag, ()))
        return values.pop() if len(values) == 1 else None
