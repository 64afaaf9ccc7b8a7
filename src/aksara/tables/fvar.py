"""'fvar': the axes of a variable font (OpenType 1.9.1). Instances are kept as bytes."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from typing import ClassVar

from aksara.binary import Reader
from aksara.tables.base import Font
from aksara.tables.record import pack_record, read_record

_HEADER = struct.Struct(">IHHHHHH")
_AXIS_SIZE = 20


@dataclass(slots=True, frozen=True)
class Axis:
    """An axis of variation; the numbers are 16.16, as stored."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">IiiiHH")

    tag_number: int
    minimum: int
    default: int
    maximum: int
    flags: int
    name_id: int

    @property
    def tag(self) -> str:
        return self.tag_number.to_bytes(4, "big").decode("latin-1")

    @property
    def range(self) -> tuple[float, float]:
        """From least to most, in the axis's own units."""
        return self.minimum / 65536, self.maximum / 65536


@dataclass(slots=True, frozen=True)
class Fvar:
    """The axes, and the instance records as they were (`instance_size` bytes each)."""

    TAG: ClassVar[str] = "fvar"

    axes: tuple[Axis, ...]
    instance_size: int
    instances: bytes

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Fvar:
        reader = Reader(data)
        _, offset, _, count, size, instance_count, instance_size = reader.unpack(_HEADER, "the header of 'fvar'")
        axes = []
        for number in range(count):
            axes.append(read_record(Axis, reader.at(offset + number * size), "an axis"))
        instances = reader.at(offset + count * size).take(instance_count * instance_size, "instances")
        return cls(tuple(axes), instance_size, instances)

    def compile(self) -> bytes:
        count = len(self.instances) // self.instance_size if self.instance_size else 0
        header = _HEADER.pack(0x10000, _HEADER.size, 2, len(self.axes), _AXIS_SIZE, count, self.instance_size)
        return header + b"".join(pack_record(axis) for axis in self.axes) + self.instances
