"""'GDEF': what kind of glyph each is, for the lookups of GSUB and GPOS (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import ClassVar, Self, TypeVar

from aksara.errors import FontError
from aksara.tables.base import Font
from aksara.tables.layout.coverage import (
    class_block,
    coverage_block,
    kept_glyphs,
    read_classes,
    read_coverage,
    read_covered,
)
from aksara.tables.layout.offsets import Block, Place, pack
from aksara.tables.layout.values import Device, device_block, read_device, read_store

_VERSION_1_0, _VERSION_1_2, _VERSION_1_3 = 0x00010000, 0x00010002, 0x00010003
V = TypeVar("V")


@dataclass(slots=True, frozen=True)
class Caret:
    """Where a cursor may stand inside a ligature: a distance in font units, or a point of its outline (`by_point`)."""

    value: int
    by_point: bool = False
    device: Device | None = None

    @classmethod
    def parse(cls, place: Place) -> Self:
        form = place.u16()
        if form == 2:
            return cls(place.u16(), by_point=True)
        if form not in (1, 3):
            raise FontError(f"a caret of format {form}; only 1 to 3 exist", offset=place.origin)
        (value,) = place.i16s(1)
        return cls(value, device=read_device(place.link()) if form == 3 else None)

    def block(self) -> Block:
        if self.by_point:
            return Block().u16(2, self.value)
        if self.device is not None:
            return Block().u16(3).i16(self.value).link(device_block(self.device))
        return Block().u16(1).i16(self.value)


@dataclass(slots=True, frozen=True)
class Gdef:
    """`classes`: glyph → 1 base, 2 ligature, 3 mark, 4 component; `points`: glyph → the outline points that others
    attach to; `carets` of ligatures; `mark_classes` for lookup flags; `mark_sets` for lookups' filters.

    None where the table has no such part: for `classes` that means that renderers go by the characters.
    `variations` are the bytes of an item variation store.
    """

    TAG: ClassVar[str] = "GDEF"

    classes: Mapping[int, int] | None = None
    points: Mapping[int, tuple[int, ...]] | None = None
    carets: Mapping[int, tuple[Caret, ...]] | None = None
    mark_classes: Mapping[int, int] | None = None
    mark_sets: tuple[frozenset[int], ...] | None = None
    variations: bytes | None = None
    defects: list[str] = field(default_factory=list, compare=False)

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        place = Place(data)
        version = place.version()
        classes, points, carets, mark_classes = place.links(4)
        mark_sets = place.link() if version >= _VERSION_1_2 else None
        store = place.link32() if version >= _VERSION_1_3 else None
        defects: list[str] = []

        def part(at: Place | None, read: Callable[[Place], V]) -> V | None:
            try:
                return read(at) if at is not None else None
            except FontError as error:
                defects.append(f"GDEF: a part is damaged ({error.problem}) and left out, as browsers do")
                return None

        return cls(
            part(classes, read_classes),
            part(points, _read_points),
            part(carets, _read_carets),
            part(mark_classes, read_classes),
            part(mark_sets, _read_sets),
            part(store, read_store),
            defects,
        )

    def compile(self) -> bytes:
        version = _VERSION_1_3 if self.variations else _VERSION_1_2 if self.mark_sets is not None else _VERSION_1_0
        root = Block().u32(version)
        root.link(class_block(self.classes) if self.classes is not None else None)
        root.link(_points_block(self.points) if self.points is not None else None)
        root.link(_carets_block(self.carets) if self.carets is not None else None)
        root.link(class_block(self.mark_classes) if self.mark_classes is not None else None)
        if version >= _VERSION_1_2:
            root.link(_sets_block(self.mark_sets) if self.mark_sets is not None else None)
        if version >= _VERSION_1_3:
            root.link32(Block(self.variations or b""))
        return pack(root)

    def subset(self, numbers: Mapping[int, int], mark_sets: Mapping[int, int]) -> Self:
        """For the kept glyphs and mark sets (old number → new); a part stays though it may have become empty."""

        def kept(part: Mapping[int, V] | None) -> dict[int, V] | None:
            return {numbers[g]: value for g, value in part.items() if g in numbers} if part is not None else None

        sets: list[frozenset[int]] = [frozenset()] * len(mark_sets)
        for old, new in mark_sets.items():
            if self.mark_sets is not None and old < len(self.mark_sets):
                sets[new] = kept_glyphs(self.mark_sets[old], numbers)
        return replace(
            self,
            classes=kept(self.classes),
            points=kept(self.points) or None,
            carets=kept(self.carets) or None,
            mark_classes=kept(self.mark_classes) or None,
            mark_sets=tuple(sets) if mark_sets else None,
        )


def _read_points(place: Place) -> dict[int, tuple[int, ...]]:
    covered = read_coverage(place.required())
    lists = [at.u16s(at.u16()) if at is not None else () for at in place.links(place.u16())]
    return {glyph: lists[index] for glyph, index in covered.items() if index < len(lists)}


def _points_block(points: Mapping[int, tuple[int, ...]]) -> Block:
    lists = (points[glyph] for glyph in sorted(points))
    return Block().link(coverage_block(points)).array(Block().u16(len(each), *each) for each in lists)


def _read_carets(place: Place) -> dict[int, tuple[Caret, ...]]:
    covered = read_coverage(place.required())
    lists = []
    for at in place.links(place.u16()):
        carets = at.links(at.u16()) if at is not None else []
        lists.append(tuple(caret.once(Caret.parse) for caret in carets if caret is not None))
    return {glyph: lists[index] for glyph, index in covered.items() if index < len(lists)}


def _carets_block(carets: Mapping[int, tuple[Caret, ...]]) -> Block:
    lists = (carets[glyph] for glyph in sorted(carets))
    block = Block().link(coverage_block(carets))
    return block.array(Block().array(caret.block() for caret in each) for each in lists)


def _read_sets(place: Place) -> tuple[frozenset[int], ...]:
    place.u16()
    found = [place.link32() for _ in range(place.u16())]
    return tuple(read_covered(at) if at is not None else frozenset() for at in found)


def _sets_block(sets: tuple[frozenset[int], ...]) -> Block:
    block = Block().u16(1, len(sets))
    for covered in sets:
        block.link32(coverage_block(covered))
    return block
