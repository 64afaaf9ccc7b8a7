"""'MATH': setting formulas (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Mapping, Set
from dataclasses import dataclass, replace
from typing import ClassVar, Self, TypeVar

from aksara.tables.base import Font
from aksara.tables.layout.coverage import coverage_block, kept_glyphs, read_coverage, read_covered
from aksara.tables.layout.offsets import Block, Place, pack
from aksara.tables.layout.values import Device, device_block, read_device

V = TypeVar("V")
_VERSION = 0x00010000
#: Percentages and heights without a device, then values with one, then a percentage.
_PLAIN_CONSTANTS, _CONSTANTS = 4, 51


@dataclass(slots=True, frozen=True)
class MathValue:
    """A distance in font units, with a device for small sizes."""

    value: int
    device: Device | None = None

    @classmethod
    def parse(cls, place: Place) -> Self:
        """The record at the cursor; its offset counts from the place's origin."""
        (value,) = place.i16s(1)
        return cls(value, read_device(place.link()))

    def write(self, block: Block) -> None:
        block.i16(self.value).link(device_block(self.device))


@dataclass(slots=True, frozen=True)
class Kerns:
    """One corner of a glyph: kerns between heights, one more than there are heights."""

    heights: tuple[MathValue, ...]
    kerns: tuple[MathValue, ...]

    @classmethod
    def parse(cls, place: Place) -> Self:
        count = place.u16()
        place.spend(count)
        values = [MathValue.parse(place) for _ in range(2 * count + 1)]
        return cls(tuple(values[:count]), tuple(values[count:]))

    def block(self) -> Block:
        block = Block().u16(len(self.heights))
        for value in (*self.heights, *self.kerns):
            value.write(block)
        return block


@dataclass(slots=True, frozen=True)
class Part:
    """A piece of an assembly: its glyph, how far it may overlap at both ends, its length, and whether it repeats."""

    glyph: int
    start: int
    end: int
    full: int
    flags: int


@dataclass(slots=True, frozen=True)
class Assembly:
    """A glyph of any size, put together of parts."""

    italics: MathValue
    parts: tuple[Part, ...]


@dataclass(slots=True, frozen=True)
class Construction:
    """Larger forms of a glyph: ready ones (glyph, size), and an assembly."""

    variants: tuple[tuple[int, int], ...]
    assembly: Assembly | None

    @classmethod
    def parse(cls, place: Place) -> Self:
        assembly = place.link()
        numbers = place.u16s(2 * place.u16())
        variants = tuple(zip(numbers[::2], numbers[1::2], strict=True))
        return cls(variants, assembly.once(_read_assembly) if assembly else None)

    @property
    def glyphs(self) -> set[int]:
        parts = self.assembly.parts if self.assembly else ()
        return {glyph for glyph, _ in self.variants} | {part.glyph for part in parts}

    def subset(self, numbers: Mapping[int, int]) -> Self:
        assembly = self.assembly
        if assembly is not None:
            parts = tuple(replace(part, glyph=numbers[part.glyph]) for part in assembly.parts if part.glyph in numbers)
            # An assembly that lacks a part is none.
            assembly = replace(assembly, parts=parts) if len(parts) == len(assembly.parts) else None
        variants = tuple((numbers[glyph], size) for glyph, size in self.variants if glyph in numbers)
        return type(self)(variants, assembly)

    def block(self) -> Block:
        assembly = None
        if self.assembly is not None:
            assembly = Block()
            self.assembly.italics.write(assembly)
            assembly.u16(len(self.assembly.parts))
            for part in self.assembly.parts:
                assembly.u16(part.glyph, part.start, part.end, part.full, part.flags)
        flat = [number for variant in self.variants for number in variant]
        return Block().link(assembly).u16(len(self.variants), *flat)


def _read_assembly(place: Place) -> Assembly:
    italics = MathValue.parse(place)
    count = place.u16()
    numbers = place.u16s(5 * count)
    return Assembly(italics, tuple(Part(*numbers[at : at + 5]) for at in range(0, 5 * count, 5)))


@dataclass(slots=True, frozen=True)
class Variants:
    """Larger forms of glyphs upright and sideways, and the least overlap of the parts of assemblies."""

    min_overlap: int
    vertical: Mapping[int, Construction]
    horizontal: Mapping[int, Construction]

    @classmethod
    def parse(cls, place: Place) -> Self:
        overlap = place.u16()
        covered = [read_coverage(at) if at is not None else {} for at in place.links(2)]
        counts = place.u16s(2)
        groups: list[dict[int, Construction]] = []
        for glyphs, count in zip(covered, counts, strict=True):
            places = place.links(count)
            groups.append(
                {
                    glyph: at.once(Construction.parse)
                    for glyph, index in glyphs.items()
                    if index < count and (at := places[index]) is not None
                }
            )
        return cls(overlap, *groups)

    def subset(self, numbers: Mapping[int, int]) -> Self:
        vertical, horizontal = (
            {numbers[glyph]: each.subset(numbers) for glyph, each in group.items() if glyph in numbers}
            for group in (self.vertical, self.horizontal)
        )
        return replace(self, vertical=vertical, horizontal=horizontal)

    def block(self) -> Block:
        groups = (self.vertical, self.horizontal)
        block = Block().u16(self.min_overlap)
        for group in groups:
            block.link(coverage_block(group) if group else None)
        block.u16(*map(len, groups))
        for group in groups:
            for glyph in sorted(group):
                block.link(group[glyph].block())
        return block


@dataclass(slots=True, frozen=True)
class Constants:
    """The font's measures for formulas: four plain numbers, 51 values, and a percentage."""

    plain: tuple[int, ...]
    values: tuple[MathValue, ...]
    raise_percent: int

    @classmethod
    def parse(cls, place: Place) -> Self:
        plain = place.i16s(_PLAIN_CONSTANTS)
        values = tuple(MathValue.parse(place) for _ in range(_CONSTANTS))
        return cls(plain, values, place.i16())

    def block(self) -> Block:
        block = Block().i16(*self.plain)
        for value in self.values:
            value.write(block)
        return block.i16(self.raise_percent)


@dataclass(slots=True, frozen=True)
class Math:
    """Constants; of glyphs: italics corrections, places for accents, which are extended shapes, kerns at the four
    corners (top right, top left, bottom right, bottom left); and larger variants."""

    TAG: ClassVar[str] = "MATH"

    constants: Constants | None
    italics: Mapping[int, MathValue]
    accents: Mapping[int, MathValue]
    extended: frozenset[int]
    kerns: Mapping[int, tuple[Kerns | None, ...]]
    variants: Variants | None

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        place = Place(data)
        place.version()
        constants, info, variants = place.links(3)
        italics, accents, extended, kerns = info.links(4) if info else (None, None, None, None)
        return cls(
            constants.once(Constants.parse) if constants else None,
            italics.once(_read_values) if italics else {},
            accents.once(_read_values) if accents else {},
            read_covered(extended) if extended else frozenset(),
            kerns.once(_read_kerns) if kerns else {},
            variants.once(Variants.parse) if variants else None,
        )

    def compile(self) -> bytes:
        info = Block().link(_values_block(self.italics)).link(_values_block(self.accents))
        info.link(coverage_block(self.extended) if self.extended else None).link(_kerns_block(self.kerns))
        root = Block().u32(_VERSION).link(self.constants.block() if self.constants else None).link(info)
        return pack(root.link(self.variants.block() if self.variants else None))

    def closure(self, glyphs: Set[int]) -> set[int]:
        """These glyphs and the larger forms of them, and theirs."""
        found, pending = set(glyphs), list(glyphs)
        groups = (self.variants.vertical, self.variants.horizontal) if self.variants else ()
        while pending:
            glyph = pending.pop()
            for group in groups:
                new = group[glyph].glyphs - found if glyph in group else set()
                found |= new
                pending += new
        return found

    def subset(self, numbers: Mapping[int, int]) -> Self:
        """For the kept glyphs (old number → new)."""

        def kept(part: Mapping[int, V]) -> dict[int, V]:
            return {numbers[glyph]: value for glyph, value in part.items() if glyph in numbers}

        return replace(
            self,
            italics=kept(self.italics),
            accents=kept(self.accents),
            extended=kept_glyphs(self.extended, numbers),
            kerns=kept(self.kerns),
            variants=self.variants.subset(numbers) if self.variants else None,
        )


def _read_values(place: Place) -> dict[int, MathValue]:
    covered = read_coverage(place.required())
    values = [MathValue.parse(place) for _ in range(place.u16())]
    return {glyph: values[index] for glyph, index in covered.items() if index < len(values)}


def _values_block(values: Mapping[int, MathValue]) -> Block | None:
    if not values:
        return None
    block = Block().link(coverage_block(values)).u16(len(values))
    for glyph in sorted(values):
        values[glyph].write(block)
    return block


def _read_kerns(place: Place) -> dict[int, tuple[Kerns | None, ...]]:
    covered = read_coverage(place.required())
    places = place.links(4 * place.u16())
    corners = [at.once(Kerns.parse) if at is not None else None for at in places]
    return {
        glyph: tuple(corners[4 * index : 4 * index + 4])
        for glyph, index in covered.items()
        if 4 * index + 4 <= len(corners)
    }


def _kerns_block(kerns: Mapping[int, tuple[Kerns | None, ...]]) -> Block | None:
    if not kerns:
        return None
    block = Block().link(coverage_block(kerns)).u16(len(kerns))
    for glyph in sorted(kerns):
        for corner in kerns[glyph]:
            block.link(corner.block() if corner else None)
    return block
