"""'fvar': the axes of a variable font, and its named instances (OpenType 1.9.1)."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from typing import ClassVar, Self

from msgspec import Struct

from aksara.binary import Reader, Writer
from aksara.errors import FontError
from aksara.limits import MAX_AXES
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table

_VERSION, _RESERVED = 0x00010000, 2
_HIDDEN = 0x0001
_ONE = 0x10000


class _Header(FixedRecord, frozen=True, kw_only=True):
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">IHHHHHH")

    version: int = _VERSION
    axes_offset: int
    reserved: int = _RESERVED
    axis_count: int
    axis_size: int
    instance_count: int
    instance_size: int


class VariationAxis(FixedRecord, frozen=True):
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
        return self.minimum / _ONE, self.maximum / _ONE

    @property
    def default_value(self) -> float:
        """The default location, in the units of the axes."""
        return self.default / _ONE

    @property
    def is_hidden(self) -> bool:
        """Whether the maker asks programs not to offer the axis to people."""
        return bool(self.flags & _HIDDEN)


class NamedInstance(Struct, frozen=True):
    """A location that has a name: one coordinate for each axis, 16.16 as stored; IDs of its names.

    `postscript_name_id` is None where the records have no such field; 0xFFFF stands for no name.
    """

    name_id: int
    flags: int
    coordinates: tuple[int, ...]
    postscript_name_id: int | None = None

    def location(self, axes: tuple[VariationAxis, ...]) -> Mapping[str, float]:
        """Axis tag → value in the axis's own units."""
        return {axis.tag: value / _ONE for axis, value in zip(axes, self.coordinates, strict=True)}


class Fvar(Table, frozen=True):
    """The axes, in the order in which other tables count them, and the named instances."""

    TAG: ClassVar[str] = "fvar"

    axes: tuple[VariationAxis, ...]
    instances: tuple[NamedInstance, ...]

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        header = _Header.read(reader, "the header of 'fvar'")
        if header.axis_count > MAX_AXES:
            raise FontError(f"it claims {header.axis_count} axes, more than any font has", offset=8)
        axes: list[VariationAxis] = []
        for index in range(header.axis_count):
            position = header.axes_offset + index * header.axis_size
            axis = VariationAxis.read(reader.at(position), "an axis")
            if not axis.minimum <= axis.default <= axis.maximum:
                raise FontError(
                    f"the default of axis '{axis.tag}' is not between its least and its most", offset=position
                )
            if any(axis.tag == other.tag for other in axes):
                # Style sheets, and all that is worked out here, name axes by their tags.
                raise FontError(f"it has two axes '{axis.tag}'", offset=position)
            axes.append(axis)
        return cls(tuple(axes), _parse_instances(reader, header))

    def compile(self) -> bytes:
        has_postscript_names = any(instance.postscript_name_id is not None for instance in self.instances)
        header = _Header(
            axes_offset=_Header.LAYOUT.size,
            axis_count=len(self.axes),
            axis_size=VariationAxis.LAYOUT.size,
            instance_count=len(self.instances),
            instance_size=_instance_size(len(self.axes)) + 2 * has_postscript_names,
        )
        writer = Writer().append(header.compile()).append(b"".join(axis.compile() for axis in self.axes))
        for instance in self.instances:
            writer.u16(instance.name_id, instance.flags).i32(*instance.coordinates)
            if instance.postscript_name_id is not None:
                writer.u16(instance.postscript_name_id)
        return bytes(writer)

    def name_ids(self) -> set[int]:
        """The names that it refers to."""
        name_ids = {axis.name_id for axis in self.axes} | {instance.name_id for instance in self.instances}
        return name_ids | {
            instance.postscript_name_id for instance in self.instances if instance.postscript_name_id is not None
        }


def _instance_size(axes: int) -> int:
    """Bytes of an instance without a PostScript name: name, flags, coordinates."""
    return 4 + 4 * axes


def _parse_instances(reader: Reader, header: _Header) -> tuple[NamedInstance, ...]:
    short = _instance_size(header.axis_count)
    if header.instance_count and header.instance_size < short:
        raise FontError(
            f"its instances of {header.instance_size} bytes have no room for {header.axis_count} coordinates", offset=14
        )
    start = header.axes_offset + header.axis_count * header.axis_size
    found = []
    for index in range(header.instance_count):
        part = reader.at(start + index * header.instance_size)
        name_id, flags = part.u16(), part.u16()
        coordinates = tuple(part.i32() for _ in range(header.axis_count))
        found.append(
            NamedInstance(name_id, flags, coordinates, part.u16() if header.instance_size >= short + 2 else None)
        )
    return tuple(found)
