"""'GDEF': what kind of glyph each is, for the lookups of GSUB and GPOS (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from typing import ClassVar, Protocol, Self, TypeVar, runtime_checkable

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader, serialize
from aksara.records import ComparedByField
from aksara.tables.base import FontTables, ShapingTable
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.coverage import (
    class_block,
    coverage_block,
    parse_classes,
    parse_coverage,
    parse_covered,
    parse_glyphs,
    parse_rows,
)
from aksara.tables.layout.devices import (
    Device,
    DeviceChange,
    PackedVariations,
    UsedVariations,
    device_block,
    parse_device,
)
from aksara.tables.layout.glyph_sets import Division
from aksara.tables.layout.layout_table import LayoutTable, has_complex_text, has_marks
from aksara.tables.subsetting import SubsetContext
from aksara.tables.variation.item_variation_store import ItemVariationStore

_VERSION_1_0, _VERSION_1_2, _VERSION_1_3 = 0x00010000, 0x00010002, 0x00010003
V = TypeVar("V")
#: The glyph class of marks.
MARK = 3
# The tables whose lookups filter by mark glyph sets; their modules import this one.
_FILTERING = ("GSUB", "GPOS")
_MATH = "MATH"


@runtime_checkable
class _Varying(Protocol):
    """What this table needs of 'MATH', whose module imports this one."""

    def cut(self, glyphs: GlyphMap) -> Self: ...

    def changed(self, change: DeviceChange) -> Self: ...


class Caret(Struct, frozen=True):
    """A cursor position inside a ligature: a distance in font units, or a point of its outline (`by_point`)."""

    value: int
    by_point: bool = False
    device: Device | None = None

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        caret_format = reader.u16()
        if caret_format == 2:
            return cls(reader.u16(), by_point=True)
        if caret_format not in (1, 3):
            raise FontError(f"a caret of format {caret_format}; only 1 to 3 exist", offset=reader.origin)
        (value,) = reader.i16s(1)
        return cls(value, device=parse_device(reader.offset16()) if caret_format == 3 else None)

    def changed(self, change: DeviceChange) -> Self:
        """With its value and device changed."""
        if self.device is None:
            return self
        value, device = change(self.value, self.device)
        return replace(self, value=value, device=device)

    def block(self) -> Block:
        if self.by_point:
            return Block().u16(2, self.value)
        if self.device is not None:
            return Block().u16(3).i16(self.value).offset16(device_block(self.device))
        return Block().u16(1).i16(self.value)


class Gdef(ComparedByField, ShapingTable, frozen=True):
    """`classes`: glyph → 1 base, 2 ligature, 3 mark, 4 component; `points`: glyph → the outline points that others
    attach to; `carets` of ligatures; `mark_classes` for lookup flags; `mark_sets` for lookups' filters.

    None where the table has no such part: for `classes` that means that renderers go by the characters. `variations`
    is the item variation store that carets here, and values in GPOS, vary by.
    """

    TAG: ClassVar[str] = "GDEF"
    NOT_COMPARED: ClassVar[tuple[str, ...]] = ("defects",)
    OPTIONAL: ClassVar[bool] = True

    classes: Mapping[int, int] | None = None
    points: Mapping[int, tuple[int, ...]] | None = None
    carets: Mapping[int, tuple[Caret, ...]] | None = None
    mark_classes: Mapping[int, int] | None = None
    mark_sets: tuple[frozenset[int], ...] | None = None
    variations: ItemVariationStore | None = None
    defects: list[str] = field(default_factory=list)

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        version = reader.version()
        classes, points, carets, mark_classes = reader.offsets16(4)
        mark_sets = reader.offset16() if version >= _VERSION_1_2 else None
        store = reader.offset32() if version >= _VERSION_1_3 else None
        defects: list[str] = []

        def part(target: OffsetReader | None, parse: Callable[[OffsetReader], V]) -> V | None:
            try:
                return parse(target) if target is not None else None
            except FontError as error:
                defects.append(f"GDEF: a part is damaged ({error.problem}) and left out")
                return None

        return cls(
            part(classes, parse_classes),
            part(points, _parse_points),
            part(carets, _parse_carets),
            part(mark_classes, parse_classes),
            part(mark_sets, _parse_sets),
            part(store, ItemVariationStore.parse),
            defects,
        )

    def compile(self) -> bytes:
        version = _VERSION_1_3 if self.variations else _VERSION_1_2 if self.mark_sets is not None else _VERSION_1_0
        root = Block().u32(version)
        root.offset16(class_block(self.classes) if self.classes is not None else None)
        root.offset16(_points_block(self.points) if self.points is not None else None)
        root.offset16(_carets_block(self.carets) if self.carets is not None else None)
        root.offset16(class_block(self.mark_classes) if self.mark_classes is not None else None)
        if version >= _VERSION_1_2:
            root.offset16(_sets_block(self.mark_sets) if self.mark_sets is not None else None)
        if version >= _VERSION_1_3:
            root.offset32(self.variations.block() if self.variations else None)
        return serialize(root)

    def defects_found(self) -> Sequence[str]:
        return self.defects

    def keeps_marks(self, context: SubsetContext) -> bool:
        """Whether text of the kept characters may have marks: those that the font calls marks count, too."""
        if has_complex_text(context.characters) or has_marks(context.characters):
            return True
        return any(value == MARK and glyph in context.glyphs for glyph, value in (self.classes or {}).items())

    def new_mark_sets(self, context: SubsetContext) -> Mapping[int, int]:
        """Old index → new, of the mark glyph sets that kept lookups filter by."""
        used = sorted({mark_set for table in _filtering(context) for mark_set in table.mark_sets()})
        there = len(self.mark_sets or ())
        kept = {old: new for new, old in enumerate(mark_set for mark_set in used if mark_set < there)}
        # A filter by a set that does not exist stays one.
        return kept | {old: len(kept) for old in used if old >= there}

    def divisions(self, features: Collection[str]) -> Iterable[Division]:
        yield from (definition for definition in (self.classes, self.mark_classes) if definition)
        yield from self.mark_sets or ()

    def subset(self, context: SubsetContext) -> Self | None:
        """Nothing where neither lookups nor marks need it; a part stays though it may have become empty."""
        packed = self._variations_left(context)
        varies = packed is not None and packed.store is not None
        if not _filtering(context) and not self.keeps_marks(context) and not varies:
            return None
        glyphs, old_sets = context.glyphs, self.mark_sets or ()
        sets = [glyphs.set_of(old_sets[old]) for old in self.new_mark_sets(context) if old < len(old_sets)]

        def kept(part: Mapping[int, V] | None) -> dict[int, V] | None:
            return glyphs.keys_of(part) if part is not None else None

        cut = replace(self, carets=kept(self.carets) or None)
        if packed is not None:
            cut = cut.changed(packed.change)
        return replace(
            cut,
            classes=kept(self.classes),
            points=kept(self.points) or None,
            mark_classes=kept(self.mark_classes) or None,
            mark_sets=tuple(sets) or None,
            variations=packed.store if packed is not None else None,
        )

    def changed(self, change: DeviceChange) -> Self:
        """With the values of its carets and their devices changed."""
        if self.carets is None:
            return self
        carets = {glyph: tuple(caret.changed(change) for caret in listed) for glyph, listed in self.carets.items()}
        return replace(self, carets=carets)

    def device_change(self, context: SubsetContext) -> DeviceChange | None:
        """How devices in GPOS change, which use this table's store; None if there is no store."""
        packed = self._variations_left(context)
        return packed.change if packed is not None else None

    def _variations_left(self, context: SubsetContext) -> PackedVariations | None:
        """The store with what carets here, and values in GPOS, still vary by; None if there is none."""
        store = self.variations
        if store is None:
            return None

        def pack() -> PackedVariations:
            used = UsedVariations()
            replace(self, carets=context.glyphs.keys_of(self.carets or {})).changed(used.note)
            for table in _filtering(context):
                table.changed(used.note)
            if isinstance(math := context.original_by_tag(_MATH), _Varying):
                math.cut(context.glyphs).changed(used.note)
            return used.packed(store)

        return context.once((Gdef, "variations"), pack)


def _filtering(context: SubsetContext) -> list[LayoutTable]:
    """The subset GSUB and GPOS, with old mark glyph set indices."""
    tables = [context.original_by_tag(tag) for tag in _FILTERING]
    cut = [table.cut_once(context) for table in tables if isinstance(table, LayoutTable)]
    return [table for table in cut if table is not None]


def _parse_points(reader: OffsetReader) -> dict[int, tuple[int, ...]]:
    covered = parse_coverage(reader.required16())
    return parse_rows(reader, covered, parse_glyphs, ())


def _points_block(points: Mapping[int, tuple[int, ...]]) -> Block:
    lists = (points[glyph] for glyph in sorted(points))
    return Block().offset16(coverage_block(points)).offsets16(Block().u16(len(indices), *indices) for indices in lists)


def _parse_carets(reader: OffsetReader) -> dict[int, tuple[Caret, ...]]:
    covered = parse_coverage(reader.required16())
    return parse_rows(reader, covered, _parse_caret_list, ())


def _parse_caret_list(reader: OffsetReader) -> tuple[Caret, ...]:
    return tuple(caret.once(Caret.parse) for caret in reader.offsets16(reader.u16()) if caret is not None)


def _carets_block(carets: Mapping[int, tuple[Caret, ...]]) -> Block:
    lists = (carets[glyph] for glyph in sorted(carets))
    block = Block().offset16(coverage_block(carets))
    return block.offsets16(Block().offsets16(caret.block() for caret in carets) for carets in lists)


def _parse_sets(reader: OffsetReader) -> tuple[frozenset[int], ...]:
    reader.u16()
    targets = [reader.offset32() for _ in range(reader.u16())]
    return tuple(map(parse_covered, targets))


def _sets_block(sets: tuple[frozenset[int], ...]) -> Block:
    block = Block().u16(1, len(sets))
    for covered in sets:
        block.offset32(coverage_block(covered))
    return block
