"""'BASE': where the baselines of scripts lie (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import ClassVar, Self

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader, serialize
from aksara.tables.base import FontTables, Table
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.devices import Device, DeviceChange, UsedVariations, device_block, parse_device
from aksara.tables.subsetting import SubsetContext
from aksara.tables.variation.item_variation_store import ItemVariationStore

_VERSION_1_0, _VERSION_1_1 = 0x00010000, 0x00010001


class Coordinate(Struct, frozen=True):
    """A distance in font units; renderers that hint may read it off a point of a glyph (`reference`: glyph, point)."""

    value: int
    reference: tuple[int, int] | None = None
    device: Device | None = None

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        coordinate_format = reader.u16()
        (value,) = reader.i16s(1)
        if coordinate_format == 2:
            glyph, point = reader.u16s(2)
            return cls(value, (glyph, point))
        if coordinate_format not in (1, 3):
            raise FontError(f"a coordinate of format {coordinate_format}; only 1 to 3 exist", offset=reader.origin)
        return cls(value, device=parse_device(reader.offset16()) if coordinate_format == 3 else None)

    def changed(self, change: DeviceChange) -> Self:
        """With its value and device changed."""
        if self.device is None:
            return self
        value, device = change(self.value, self.device)
        return replace(self, value=value, device=device)

    def subset(self, glyphs: GlyphMap) -> Self:
        """With its reference under the new glyph ID, or without one."""
        if self.reference is None:
            return self
        glyph, point = self.reference
        return replace(self, reference=(glyphs[glyph], point) if glyph in glyphs else None)

    def block(self) -> Block:
        if self.reference is not None:
            return Block().u16(2).i16(self.value).u16(*self.reference)
        if self.device is not None:
            return Block().u16(3).i16(self.value).offset16(device_block(self.device))
        return Block().u16(1).i16(self.value)


Extent = tuple[Coordinate | None, Coordinate | None]


class Extents(Struct, frozen=True):
    """How far text reaches below and above: of a language, and with certain features."""

    extent: Extent
    features: tuple[tuple[str, Extent], ...] = ()


class BaseScript(Struct, frozen=True):
    """The default baseline (index into the axis's tags), a coordinate for each tag, and extents by language."""

    default: int | None = None
    coordinates: tuple[Coordinate | None, ...] = ()
    extents: Extents | None = None
    languages: Mapping[str, Extents] = field(default_factory=dict)


class BaselineAxis(Struct, frozen=True):
    """The baselines of one direction of text: their tags, and where they lie for each script."""

    tags: tuple[str, ...]
    scripts: Mapping[str, BaseScript]


class Base(Table, frozen=True):
    """Baselines of horizontal and of vertical text. `variations` is the store that coordinates vary by."""

    TAG: ClassVar[str] = "BASE"
    OPTIONAL: ClassVar[bool] = True

    horizontal: BaselineAxis | None
    vertical: BaselineAxis | None
    variations: ItemVariationStore | None = None

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        version = reader.version()
        horizontal, vertical = reader.offsets16(2)
        store = reader.offset32() if version >= _VERSION_1_1 else None
        return cls(
            horizontal.once(_parse_axis) if horizontal else None,
            vertical.once(_parse_axis) if vertical else None,
            store.once(ItemVariationStore.parse) if store else None,
        )

    def compile(self) -> bytes:
        root = Block().u32(_VERSION_1_1 if self.variations else _VERSION_1_0)
        root.offset16(_axis_block(self.horizontal)).offset16(_axis_block(self.vertical))
        return serialize(root.offset32(self.variations.block()) if self.variations else root)

    def subset(self, context: SubsetContext) -> Self:
        cut = self._each(lambda coordinate: coordinate.subset(context.glyphs))
        if self.variations is None:
            return cut
        used = UsedVariations()
        cut.changed(used.note)
        packed = used.packed(self.variations)
        return replace(cut.changed(packed.change), variations=packed.store)

    def changed(self, change: DeviceChange) -> Self:
        """With all coordinates and their devices changed."""
        return self._each(lambda coordinate: coordinate.changed(change))

    def _each(self, change: Callable[[Coordinate], Coordinate]) -> Self:
        horizontal, vertical = (_axis_changed(axis, change) for axis in (self.horizontal, self.vertical))
        return replace(self, horizontal=horizontal, vertical=vertical)


def _parse_axis(reader: OffsetReader) -> BaselineAxis:
    tags, scripts = reader.offset16(), reader.offset16()
    baseline_tags = tuple(tags.tag() for _ in range(tags.u16())) if tags else ()
    records = [(scripts.tag(), scripts.offset16()) for _ in range(scripts.u16())] if scripts else []
    return BaselineAxis(
        baseline_tags, {tag: target.once(_parse_script) for tag, target in records if target is not None}
    )


def _parse_script(reader: OffsetReader) -> BaseScript:
    values, extents = reader.offsets16(2)
    records = [(reader.tag(), reader.offset16()) for _ in range(reader.u16())]
    languages = {tag: target.once(_parse_extents) for tag, target in records if target is not None}
    default: int | None = None
    coordinates: tuple[Coordinate | None, ...] = ()
    if values is not None:
        default = values.u16()
        coordinates = tuple(_coordinate(target) for target in values.offsets16(values.u16()))
    return BaseScript(default, coordinates, extents.once(_parse_extents) if extents else None, languages)


def _coordinate(reader: OffsetReader | None) -> Coordinate | None:
    return reader.once(Coordinate.parse) if reader is not None else None


def _parse_extents(reader: OffsetReader) -> Extents:
    low, high = reader.offsets16(2)
    features = []
    for _ in range(reader.u16()):
        tag, (below, above) = reader.tag(), reader.offsets16(2)
        features.append((tag, (_coordinate(below), _coordinate(above))))
    return Extents((_coordinate(low), _coordinate(high)), tuple(features))


def _axis_block(axis: BaselineAxis | None) -> Block | None:
    if axis is None:
        return None
    tags = Block().u16(len(axis.tags))
    for tag in axis.tags:
        tags.tag(tag)
    scripts = Block().u16(len(axis.scripts))
    for tag in sorted(axis.scripts):
        scripts.tag(tag).offset16(_script_block(axis.scripts[tag]))
    return Block().offset16(tags if axis.tags else None).offset16(scripts)


def _script_block(script: BaseScript) -> Block:
    values = None
    if script.default is not None:
        values = (
            Block().u16(script.default).offsets16(_coordinate_block(coordinate) for coordinate in script.coordinates)
        )
    block = Block().offset16(values).offset16(_extents_block(script.extents)).u16(len(script.languages))
    for tag in sorted(script.languages):
        block.tag(tag).offset16(_extents_block(script.languages[tag]))
    return block


def _coordinate_block(coordinate: Coordinate | None) -> Block | None:
    return coordinate.block() if coordinate is not None else None


def _extents_block(extents: Extents | None) -> Block | None:
    if extents is None:
        return None
    block = Block()
    for coordinate in extents.extent:
        block.offset16(_coordinate_block(coordinate))
    block.u16(len(extents.features))
    for tag, extent in extents.features:
        block.tag(tag)
        for coordinate in extent:
            block.offset16(_coordinate_block(coordinate))
    return block


def _axis_changed(axis: BaselineAxis | None, change: Callable[[Coordinate], Coordinate]) -> BaselineAxis | None:
    def kept(coordinate: Coordinate | None) -> Coordinate | None:
        return change(coordinate) if coordinate is not None else None

    def extents(each: Extents) -> Extents:
        low, high = each.extent
        features = tuple((tag, (kept(below), kept(above))) for tag, (below, above) in each.features)
        return Extents((kept(low), kept(high)), features)

    if axis is None:
        return None
    return BaselineAxis(
        axis.tags,
        {
            tag: BaseScript(
                script.default,
                tuple(kept(coordinate) for coordinate in script.coordinates),
                extents(script.extents) if script.extents else None,
                {language: extents(own) for language, own in script.languages.items()},
            )
            for tag, script in axis.scripts.items()
        },
    )
