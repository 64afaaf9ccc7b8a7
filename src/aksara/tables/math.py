"""'MATH': setting formulas (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import ClassVar, Self

from msgspec import Struct
from msgspec.structs import replace

from aksara.offsets import Block, OffsetReader, serialize
from aksara.tables.base import FontTables, Table
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.coverage import coverage_block, parse_coverage, parse_covered, rows_by_glyph
from aksara.tables.layout.devices import Device, DeviceChange, device_block, parse_device
from aksara.tables.layout.gdef import Gdef
from aksara.tables.subsetting import SubsetContext, SubsetScope

_VERSION = 0x00010000
#: Percentages and heights without a device, then values with one, then a percentage.
_PLAIN_CONSTANTS, _CONSTANTS = 4, 51


class MathValue(Struct, frozen=True):
    """A distance in font units, perhaps with a device that corrects it."""

    value: int
    device: Device | None = None

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        """The record at the cursor; its offset is relative to the reader's origin."""
        (value,) = reader.i16s(1)
        return cls(value, parse_device(reader.offset16()))

    def changed(self, change: DeviceChange) -> Self:
        """With its value and device changed."""
        return type(self)(*change(self.value, self.device)) if self.device is not None else self

    def write(self, block: Block) -> None:
        block.i16(self.value).offset16(device_block(self.device))


class Kerns(Struct, frozen=True):
    """One corner of a glyph: kerns between heights, one more than there are heights."""

    heights: tuple[MathValue, ...]
    kerns: tuple[MathValue, ...]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        count = reader.u16()
        reader.work.spend_numbers(count)
        values = [MathValue.parse(reader) for _ in range(2 * count + 1)]
        return cls(tuple(values[:count]), tuple(values[count:]))

    def changed(self, change: DeviceChange) -> Self:
        """With all values and their devices changed."""
        heights, kerns = (tuple(value.changed(change) for value in side) for side in (self.heights, self.kerns))
        return type(self)(heights, kerns)

    def block(self) -> Block:
        block = Block().u16(len(self.heights))
        for value in (*self.heights, *self.kerns):
            value.write(block)
        return block


class Part(Struct, frozen=True):
    """A piece of an assembly: its glyph, how far it may overlap at both ends, its length, and whether it repeats."""

    glyph: int
    start: int
    end: int
    full: int
    flags: int


class Assembly(Struct, frozen=True):
    """A glyph of any size, put together of parts."""

    italics: MathValue
    parts: tuple[Part, ...]


class Construction(Struct, frozen=True):
    """Larger forms of a glyph: ready ones (glyph, size), and an assembly."""

    variants: tuple[tuple[int, int], ...]
    assembly: Assembly | None

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        assembly = reader.offset16()
        numbers = reader.u16s(2 * reader.u16())
        variants = tuple(zip(numbers[::2], numbers[1::2], strict=True))
        return cls(variants, assembly.once(_parse_assembly) if assembly else None)

    @property
    def glyphs(self) -> set[int]:
        parts = self.assembly.parts if self.assembly else ()
        return {glyph for glyph, _ in self.variants} | {part.glyph for part in parts}

    def subset(self, glyphs: GlyphMap) -> Self:
        """With the kept variants; an assembly without all its parts is dropped."""
        assembly = self.assembly
        if assembly is not None:
            parts = tuple(replace(part, glyph=glyphs[part.glyph]) for part in assembly.parts if part.glyph in glyphs)
            assembly = replace(assembly, parts=parts) if len(parts) == len(assembly.parts) else None
        variants = tuple((glyphs[glyph], size) for glyph, size in self.variants if glyph in glyphs)
        return type(self)(variants, assembly)

    def changed(self, change: DeviceChange) -> Self:
        """With the italics correction of its assembly changed."""
        if self.assembly is None:
            return self
        return replace(self, assembly=replace(self.assembly, italics=self.assembly.italics.changed(change)))

    def block(self) -> Block:
        assembly = None
        if self.assembly is not None:
            assembly = Block()
            self.assembly.italics.write(assembly)
            assembly.u16(len(self.assembly.parts))
            for part in self.assembly.parts:
                assembly.u16(part.glyph, part.start, part.end, part.full, part.flags)
        flat = [number for variant in self.variants for number in variant]
        return Block().offset16(assembly).u16(len(self.variants), *flat)


def _parse_assembly(reader: OffsetReader) -> Assembly:
    italics = MathValue.parse(reader)
    count = reader.u16()
    numbers = reader.u16s(5 * count)
    return Assembly(italics, tuple(Part(*numbers[start : start + 5]) for start in range(0, 5 * count, 5)))


class Variants(Struct, frozen=True):
    """Larger forms of glyphs upright and sideways, and the least overlap of the parts of assemblies."""

    min_overlap: int
    vertical: Mapping[int, Construction]
    horizontal: Mapping[int, Construction]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        overlap = reader.u16()
        covered = [parse_coverage(target) if target is not None else {} for target in reader.offsets16(2)]
        counts = reader.u16s(2)
        groups = []
        for glyphs, count in zip(covered, counts, strict=True):
            targets = rows_by_glyph(glyphs, reader.offsets16(count))
            groups.append(
                {glyph: target.once(Construction.parse) for glyph, target in targets.items() if target is not None}
            )
        return cls(overlap, *groups)

    def subset(self, glyphs: GlyphMap) -> Self:
        """The variants of kept glyphs."""
        vertical, horizontal = (
            {glyph: parts.subset(glyphs) for glyph, parts in glyphs.keys_of(group).items()}
            for group in (self.vertical, self.horizontal)
        )
        return replace(self, vertical=vertical, horizontal=horizontal)

    def block(self) -> Block:
        groups = (self.vertical, self.horizontal)
        block = Block().u16(self.min_overlap)
        for group in groups:
            block.offset16(coverage_block(group) if group else None)
        block.u16(*map(len, groups))
        for group in groups:
            for glyph in sorted(group):
                block.offset16(group[glyph].block())
        return block


class Constants(Struct, frozen=True):
    """The font's measures for formulas: four plain numbers, 51 values, and a percentage."""

    plain: tuple[int, ...]
    values: tuple[MathValue, ...]
    raise_percent: int

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        plain = reader.i16s(_PLAIN_CONSTANTS)
        values = tuple(MathValue.parse(reader) for _ in range(_CONSTANTS))
        return cls(plain, values, reader.i16())

    def block(self) -> Block:
        block = Block().i16(*self.plain)
        for value in self.values:
            value.write(block)
        return block.i16(self.raise_percent)


class Math(Table, frozen=True):
    """Constants; of glyphs: italics corrections, attachment points of accents, extended shapes, kerns at the four
    corners (top right, top left, bottom right, bottom left); and larger variants."""

    TAG: ClassVar[str] = "MATH"
    OPTIONAL: ClassVar[bool] = True

    constants: Constants | None
    italics: Mapping[int, MathValue]
    accents: Mapping[int, MathValue]
    extended: frozenset[int]
    kerns: Mapping[int, tuple[Kerns | None, ...]]
    variants: Variants | None

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        reader.version()
        constants, info, variants = reader.offsets16(3)
        italics, accents, extended, kerns = info.offsets16(4) if info else (None, None, None, None)
        return cls(
            constants.once(Constants.parse) if constants else None,
            italics.once(_parse_values) if italics else {},
            accents.once(_parse_values) if accents else {},
            parse_covered(extended) if extended else frozenset(),
            kerns.once(_parse_kerns) if kerns else {},
            variants.once(Variants.parse) if variants else None,
        )

    def compile(self) -> bytes:
        info = Block().offset16(_values_block(self.italics)).offset16(_values_block(self.accents))
        info.offset16(coverage_block(self.extended) if self.extended else None).offset16(_kerns_block(self.kerns))
        root = Block().u32(_VERSION).offset16(self.constants.block() if self.constants else None).offset16(info)
        return serialize(root.offset16(self.variants.block() if self.variants else None))

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return None if any(map(is_mathematical, scope.characters)) else "no mathematical character is kept"

    def substitution_closure(self, glyphs: set[int], features: Collection[str]) -> set[int]:
        """These glyphs and the larger forms of them, and theirs."""
        reached, pending = set(glyphs), list(glyphs)
        groups = (self.variants.vertical, self.variants.horizontal) if self.variants else ()
        while pending:
            glyph = pending.pop()
            for group in groups:
                new = group[glyph].glyphs - reached if glyph in group else set()
                reached |= new
                pending += new
        return reached

    def subset(self, context: SubsetContext) -> Self:
        cut, gdef = self.cut(context.glyphs), context.original(Gdef)
        change = gdef.device_change(context) if gdef is not None else None
        return cut.changed(change) if change is not None else cut

    def changed(self, change: DeviceChange) -> Self:
        """With all values and their devices changed; those of variable fonts vary by the store in 'GDEF'."""
        constants, variants = self.constants, self.variants
        if constants is not None:
            constants = replace(constants, values=tuple(value.changed(change) for value in constants.values))
        if variants is not None:
            vertical, horizontal = (
                {glyph: parts.changed(change) for glyph, parts in group.items()}
                for group in (variants.vertical, variants.horizontal)
            )
            variants = replace(variants, vertical=vertical, horizontal=horizontal)
        return replace(
            self,
            constants=constants,
            italics={glyph: value.changed(change) for glyph, value in self.italics.items()},
            accents={glyph: value.changed(change) for glyph, value in self.accents.items()},
            kerns={
                glyph: tuple(corner.changed(change) if corner is not None else None for corner in corners)
                for glyph, corners in self.kerns.items()
            },
            variants=variants,
        )

    def cut(self, glyphs: GlyphMap) -> Self:
        """The values of the kept glyphs, with unchanged devices."""
        return replace(
            self,
            italics=glyphs.keys_of(self.italics),
            accents=glyphs.keys_of(self.accents),
            extended=glyphs.set_of(self.extended),
            kerns=glyphs.keys_of(self.kerns),
            variants=self.variants.subset(glyphs) if self.variants else None,
        )


def is_mathematical(code: int) -> bool:
    """Operators and mathematical letters (blocks Mathematical Operators, Supplemental…, Alphanumeric Symbols)."""
    return (
        0x2200 <= code <= 0x22FF or 0x27C0 <= code <= 0x27EF or 0x2980 <= code <= 0x2AFF or 0x1D400 <= code <= 0x1D7FF
    )


def _parse_values(reader: OffsetReader) -> dict[int, MathValue]:
    covered = parse_coverage(reader.required16())
    values = [MathValue.parse(reader) for _ in range(reader.u16())]
    return rows_by_glyph(covered, values)


def _values_block(values: Mapping[int, MathValue]) -> Block | None:
    if not values:
        return None
    block = Block().offset16(coverage_block(values)).u16(len(values))
    for glyph in sorted(values):
        values[glyph].write(block)
    return block


def _parse_kerns(reader: OffsetReader) -> dict[int, tuple[Kerns | None, ...]]:
    covered = parse_coverage(reader.required16())
    starts = reader.offsets16(4 * reader.u16())
    corners = [target.once(Kerns.parse) if target is not None else None for target in starts]
    return rows_by_glyph(covered, [tuple(corners[target : target + 4]) for target in range(0, len(corners), 4)])


def _kerns_block(kerns: Mapping[int, tuple[Kerns | None, ...]]) -> Block | None:
    if not kerns:
        return None
    block = Block().offset16(coverage_block(kerns)).u16(len(kerns))
    for glyph in sorted(kerns):
        for corner in kerns[glyph]:
            block.offset16(corner.block() if corner else None)
    return block
