"""'fvar': the axes of a variable font (OpenType 1.9.1). Instances are kept as bytes."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from typing import ClassVar, Self

from aksara.binary import Reader
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table

_VERSION, _RESERVED = 0x00010000, 2


@dataclass(slots=True, frozen=True, kw_only=True)
class _Header(FixedRecord):
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">IHHHHHH")

    version: int = _VERSION
    axes_offset: int
    reserved: int = _RESERVED
    axis_count: int
    axis_size: int
    instance_count: int
    instance_size: int


@dataclass(slots=True, frozen=True)
class VariationAxis(FixedRecord):
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
        """The axis's tag: "wght"."""
        return self.tag_number.to_bytes(4, "big").decode("latin-1")

    @property
    def range(self) -> tuple[float, float]:
        """From least to most, in the axis's own units."""
        return self.minimum / 65536, self.maximum / 65536


@dataclass(slots=True, frozen=True)
class Fvar(Table):
    """The axes, and the instance records as they were (`instance_size` bytes each)."""

    TAG: ClassVar[str] = "fvar"

    axes: tuple[VariationAxis, ...]
    instance_size: int
    instances: bytes

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        header = _Header.read(reader, "the header of 'fvar'")
        axes = []
        for number in range(header.axis_count):
            axes.append(VariationAxis.read(reader.at(header.axes_offset + number * header.axis_size), "an axis"))
        instances = reader.at(header.axes_offset + header.axis_count * header.axis_size)
        return cls(
            tuple(axes), header.instance_size, instances.take(header.instance_count * header.instance_size, "instances")
        )

    def compile(self) -> bytes:
        header = _Header(
            axes_offset=_Header.LAYOUT.size,
            axis_count=len(self.axes),
            axis_size=VariationAxis.LAYOUT.size,
            instance_count=len(self.instances) // self.instance_size if self.instance_size else 0,
            instance_size=self.instance_size,
        )
        return header.compile() + b"".join(axis.compile() for axis in self.axes) + self.instances
