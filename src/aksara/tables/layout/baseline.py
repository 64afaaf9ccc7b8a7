"""'BASE': where the baselines of scripts lie (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import ClassVar, Self

from aksara.errors import FontError
from aksara.tables.base import Font
from aksara.tables.layout.offsets import Block, Place, pack
from aksara.tables.layout.values import Device, device_block, read_device, read_store

_VERSION_1_0, _VERSION_1_1 = 0x00010000, 0x00010001


@dataclass(slots=True, frozen=True)
class Coordinate:
    """A place in font units; renderers that hint may read it off a point of a glyph (`reference`: glyph, point)."""

    value: int
    reference: tuple[int, int] | None = None
    device: Device | None = None

    @classmethod
    def parse(cls, place: Place) -> Self:
        form = place.u16()
        (value,) = place.i16s(1)
        if form == 2:
            glyph, point = place.u16s(2)
            return cls(value, (glyph, point))
        if form not in (1, 3):
            raise FontError(f"a coordinate of format {form}; only 1 to 3 exist", offset=place.origin)
        return cls(value, device=read_device(place.link()) if form == 3 else None)

    def subset(self, numbers: Mapping[int, int]) -> Self:
        if self.reference is None:
            return self
        glyph, point = self.reference
        return replace(self, reference=(numbers[glyph], point) if glyph in numbers else None)

    def block(self) -> Block:
        if self.reference is not None:
            return Block().u16(2).i16(self.value).u16(*self.reference)
        if self.device is not None:
            return Block().u16(3).i16(self.value).link(device_block(self.device))
        return Block().u16(1).i16(self.value)


Extent = tuple[Coordinate | None, Coordinate | None]


@dataclass(slots=True, frozen=True)
class Extents:
    """How far text reaches below and above: of a language, and with certain features."""

    extent: Extent
    features: tuple[tuple[str, Extent], ...] = ()


@dataclass(slots=True, frozen=True)
class BaseScript:
    """The default baseline (index into the axis's tags), a coordinate for each tag, and extents by language."""

    default: int | None = None
    coordinates: tuple[Coordinate | None, ...] = ()
    extents: Extents | None = None
    languages: Mapping[str, Extents] = field(default_factory=dict)


@dataclass(slots=True, frozen=True)
class Axis:
    """The baselines of one direction of text: their tags, and where they lie for each script."""

    tags: tuple[str, ...]
    scripts: Mapping[str, BaseScript]


@dataclass(slots=True, frozen=True)
class Base:
    """Baselines of horizontal and of vertical text. `variations` are the bytes of an item variation store."""

    TAG: ClassVar[str] = "BASE"

    horizontal: Axis | None
    vertical: Axis | None
    variations: bytes | None = None

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        place = Place(data)
        version = place.version()
        horizontal, vertical = place.links(2)
        store = place.link32() if version >= _VERSION_1_1 else None
        return cls(
            horizontal.once(_read_axis) if horizontal else None,
            vertical.once(_read_axis) if vertical else None,
            store.once(read_store) if store else None,
        )

    def compile(self) -> bytes:
        root = Block().u32(_VERSION_1_1 if self.variations else _VERSION_1_0)
        root.link(_axis_block(self.horizontal)).link(_axis_block(self.vertical))
        return pack(root.link32(Block(self.variations)) if self.variations else root)

    def subset(self, numbers: Mapping[int, int]) -> Self:
        """For the kept glyphs (old number → new)."""
        return replace(
            self, horizontal=_axis_subset(self.horizontal, numbers), vertical=_axis_subset(self.vertical, numbers)
        )


def _read_axis(place: Place) -> Axis:
    tags, scripts = place.link(), place.link()
    found = tuple(tags.tag() for _ in range(tags.u16())) if tags else ()
    records = [(scripts.tag(), scripts.link()) for _ in range(scripts.u16())] if scripts else []
    return Axis(found, {tag: at.once(_read_script) for tag, at in records if at is not None})


def _read_script(place: Place) -> BaseScript:
    values, extents = place.links(2)
    records = [(place.tag(), place.link()) for _ in range(place.u16())]
    languages = {tag: at.once(_read_extents) for tag, at in records if at is not None}
    default: int | None = None
    coordinates: tuple[Coordinate | None, ...] = ()
    if values is not None:
        default = values.u16()
        coordinates = tuple(_coordinate(at) for at in values.links(values.u16()))
    return BaseScript(default, coordinates, extents.once(_read_extents) if extents else None, languages)


def _coordinate(place: Place | None) -> Coordinate | None:
    return place.once(Coordinate.parse) if place is not None else None


def _read_extents(place: Place) -> Extents:
    low, high = place.links(2)
    features = []
    for _ in range(place.u16()):
        tag, (below, above) = place.tag(), place.links(2)
        features.append((tag, (_coordinate(below), _coordinate(above))))
    return Extents((_coordinate(low), _coordinate(high)), tuple(features))


def _axis_block(axis: Axis | None) -> Block | None:
    if axis is None:
        return None
    tags = Block().u16(len(axis.tags))
    for tag in axis.tags:
        tags.tag(tag)
    scripts = Block().u16(len(axis.scripts))
    for tag in sorted(axis.scripts):
        scripts.tag(tag).link(_script_block(axis.scripts[tag]))
    return Block().link(tags if axis.tags else None).link(scripts)


def _script_block(script: BaseScript) -> Block:
    values = None
    if script.default is not None:
        values = Block().u16(script.default).array(_coordinate_block(each) for each in script.coordinates)
    block = Block().link(values).link(_extents_block(script.extents)).u16(len(script.languages))
    for tag in sorted(script.languages):
        block.tag(tag).link(_extents_block(script.languages[tag]))
    return block


def _coordinate_block(coordinate: Coordinate | None) -> Block | None:
    return coordinate.block() if coordinate is not None else None


def _extents_block(extents: Extents | None) -> Block | None:
    if extents is None:
        return None
    block = Block()
    for each in extents.extent:
        block.link(_coordinate_block(each))
    block.u16(len(extents.features))
    for tag, extent in extents.features:
        block.tag(tag)
        for each in extent:
            block.link(_coordinate_block(each))
    return block


def _axis_subset(axis: Axis | None, numbers: Mapping[int, int]) -> Axis | None:
    def kept(coordinate: Coordinate | None) -> Coordinate | None:
        return coordinate.subset(numbers) if coordinate is not None else None

    def extents(each: Extents) -> Extents:
        low, high = each.extent
        features = tuple((tag, (kept(below), kept(above))) for tag, (below, above) in each.features)
        return Extents((kept(low), kept(high)), features)

    if axis is None:
        return None
    return Axis(
        axis.tags,
        {
            tag: BaseScript(
                script.default,
                tuple(kept(each) for each in script.coordinates),
                extents(script.extents) if script.extents else None,
                {language: extents(each) for language, each in script.languages.items()},
            )
            for tag, script in axis.scripts.items()
        },
    )
