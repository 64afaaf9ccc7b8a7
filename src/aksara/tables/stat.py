"""'STAT': which place a font has on the axes of its family (OpenType 1.9.1). Read; written as it was."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from aksara.binary import Reader
from aksara.tables.base import Font

# Axis value formats that speak of one axis: 1 a value, 2 a value with its range, 3 a value and what it links to.
_ONE_AXIS = (1, 2, 3)


@dataclass(slots=True, frozen=True)
class Stat:
    """`values`: for each axis, by tag, the values that the table names, in the axis's own units."""

    TAG: ClassVar[str] = "STAT"

    values: dict[str, tuple[float, ...]]
    data: bytes

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Stat:
        reader = Reader(data, 4)
        axis_size, axis_count, axes_at = reader.u16(), reader.u16(), reader.u32()
        value_count, values_at = reader.u16(), reader.u32()
        tags = [reader.at(axes_at + number * axis_size).tag() for number in range(axis_count)]
        found: dict[str, list[float]] = {tag: [] for tag in tags}
        offsets = reader.at(values_at)
        for _ in range(value_count):
            value = reader.at(values_at + offsets.u16())
            form, axis = value.u16(), value.u16()
            value.take(4)  # flags and name
            if form in _ONE_AXIS and axis < axis_count:
                found[tags[axis]].append(int.from_bytes(value.take(4), "big", signed=True) / 65536)
        return cls({tag: tuple(values) for tag, values in found.items()}, data)

    def compile(self) -> bytes:
        return self.data

    def place(self, tag: str) -> float | None:
        """Where a static font stands on an axis: its one value there, or None if it names none or several."""
        values = set(self.values.get(tag, ()))
        return values.pop() if len(values) == 1 else None
