"""GPOS types 3 to 6: glyphs attached to one another by anchors."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Self

from msgspec.structs import replace

from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.anchors import Anchor, anchor_blocks, parse_anchor
from aksara.tables.layout.coverage import coverage_block, halved, parse_coverage, rows_by_glyph
from aksara.tables.layout.devices import DeviceChange
from aksara.tables.layout.glyph_sets import Division, GlyphSets, Join
from aksara.tables.layout.subtable import Subtable

#: One anchor for each class of marks, or None.
Anchors = tuple[Anchor | None, ...]
#: Where the glyph before joins, and where the one behind does.
Joint = tuple[Anchor | None, Anchor | None]
#: Mark → its class and anchor.
Marks = Mapping[int, tuple[int, Anchor]]
AnchorBlocks = Callable[[Anchor | None], Block | None]


class CursiveAttachment(Subtable, frozen=True):
    """Type 3: glyph → the anchors where the one before and the one behind join it."""

    joints: Mapping[int, Joint]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        _, covered = reader.u16(), parse_coverage(reader.required16())
        anchors = list(map(parse_anchor, reader.offsets16(2 * reader.u16())))
        joints = list(zip(anchors[::2], anchors[1::2], strict=True))
        return cls(rows_by_glyph(covered, joints))

    def joins(self, sets: GlyphSets) -> Iterator[Join]:
        left = frozenset(glyph for glyph, (_, leave) in self.joints.items() if leave is not None)
        entered = frozenset(glyph for glyph, (entry, _) in self.joints.items() if entry is not None)
        yield sets.of(left), sets.of(entered)

    def divisions(self) -> Iterable[Division]:
        yield self.joints.keys()

    def subset(self, glyphs: GlyphMap) -> Self | None:
        kept = glyphs.keys_of(self.joints)
        return type(self)(kept) if kept else None

    def changed(self, change: DeviceChange) -> Self:
        return type(self)({glyph: _changed_joint(joint, change) for glyph, joint in self.joints.items()})

    def block(self) -> Block:
        # It has no halves: both ends of a joint must be in one subtable.
        block, block_of = Block().u16(1).offset16(coverage_block(self.joints)).u16(len(self.joints)), anchor_blocks()
        for glyph in sorted(self.joints):
            for anchor in self.joints[glyph]:
                block.offset16(block_of(anchor))
        return block


class MarkAttachment(Subtable, frozen=True):
    """Types 4 and 6: a mark joins a base, or a mark before it: base → its anchor for each class of marks."""

    classes: int
    marks: Marks
    bases: Mapping[int, Anchors]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        marks, bases, classes, mark_array, base_array = _parse_header(reader)
        rows = _parse_rows(base_array, classes) if base_array else []
        return cls(classes, _parse_marks(mark_array, marks, classes), rows_by_glyph(bases, rows))

    def joins(self, sets: GlyphSets) -> Iterator[Join]:
        yield sets.of(frozenset(self.bases)), sets.of(frozenset(self.marks))

    def divisions(self) -> Iterable[Division]:
        yield from (self.marks.keys(), self.bases.keys())

    def subset(self, glyphs: GlyphMap) -> Self | None:
        marks, used = _kept_marks(self.marks, glyphs)
        bases = {glyph: tuple(row[c] for c in used) for glyph, row in glyphs.keys_of(self.bases).items()}
        return type(self)(len(used), marks, bases) if marks and bases else None

    def changed(self, change: DeviceChange) -> Self:
        bases = {glyph: _changed(row, change) for glyph, row in self.bases.items()}
        return replace(self, marks=_changed_marks(self.marks, change), bases=bases)

    def block(self) -> Block:
        block_of = anchor_blocks()
        rows = _rows_block((self.bases[glyph] for glyph in sorted(self.bases)), block_of)
        return _header_block(self.marks, self.bases, self.classes, rows, block_of)

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.bases)
        return type(self)(self.classes, self.marks, first), type(self)(self.classes, self.marks, second)


class LigatureAttachment(Subtable, frozen=True):
    """Type 5: a mark joins a component of a ligature: ligature → for each component its anchor for each class."""

    classes: int
    marks: Marks
    ligatures: Mapping[int, tuple[Anchors, ...]]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        marks, ligatures, classes, mark_array, array = _parse_header(reader)
        starts = array.offsets16(array.u16()) if array else []
        rows = [tuple(_parse_rows(target, classes)) if target is not None else () for target in starts]
        return cls(classes, _parse_marks(mark_array, marks, classes), rows_by_glyph(ligatures, rows))

    def joins(self, sets: GlyphSets) -> Iterator[Join]:
        yield sets.of(frozenset(self.ligatures)), sets.of(frozenset(self.marks))

    def divisions(self) -> Iterable[Division]:
        yield from (self.marks.keys(), self.ligatures.keys())

    def subset(self, glyphs: GlyphMap) -> Self | None:
        marks, used = _kept_marks(self.marks, glyphs)
        ligatures = {
            glyph: tuple(tuple(row[c] for c in used) for row in rows)
            for glyph, rows in glyphs.keys_of(self.ligatures).items()
        }
        return type(self)(len(used), marks, ligatures) if marks and ligatures else None

    def changed(self, change: DeviceChange) -> Self:
        ligatures = {glyph: tuple(_changed(row, change) for row in rows) for glyph, rows in self.ligatures.items()}
        return replace(self, marks=_changed_marks(self.marks, change), ligatures=ligatures)

    def block(self) -> Block:
        block_of = anchor_blocks()
        array = Block().offsets16(_rows_block(self.ligatures[glyph], block_of) for glyph in sorted(self.ligatures))
        return _header_block(self.marks, self.ligatures, self.classes, array, block_of)

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.ligatures)
        return type(self)(self.classes, self.marks, first), type(self)(self.classes, self.marks, second)


def _changed(anchors: Anchors, change: DeviceChange) -> Anchors:
    return tuple(anchor.changed(change) if anchor is not None else None for anchor in anchors)


def _changed_joint(joint: Joint, change: DeviceChange) -> Joint:
    entry, leave = _changed(joint, change)
    return entry, leave


def _changed_marks(marks: Marks, change: DeviceChange) -> dict[int, tuple[int, Anchor]]:
    return {glyph: (mark_class, anchor.changed(change)) for glyph, (mark_class, anchor) in marks.items()}


def _parse_header(
    reader: OffsetReader,
) -> tuple[dict[int, int], dict[int, int], int, OffsetReader | None, OffsetReader | None]:
    """Coverage of the marks and of what they join, the number of classes, and where their arrays are."""
    reader.u16()
    marks, others = parse_coverage(reader.required16()), parse_coverage(reader.required16())
    return marks, others, reader.u16(), reader.offset16(), reader.offset16()


def _parse_marks(
    reader: OffsetReader | None, covered: Mapping[int, int], classes: int
) -> dict[int, tuple[int, Anchor]]:
    if reader is None:
        return {}
    marks: list[tuple[int, Anchor | None]] = []
    for _ in range(reader.u16()):
        mark_class = reader.u16()
        marks.append((mark_class, parse_anchor(reader.offset16())))
    # A mark of a class that nothing has anchors for joins nothing; one without an anchor joins by its origin.
    return {
        glyph: (marks[index][0], marks[index][1] or Anchor(0, 0))
        for glyph, index in covered.items()
        if index < len(marks) and marks[index][0] < classes
    }


def _parse_rows(reader: OffsetReader, classes: int) -> list[Anchors]:
    count = reader.u16()
    anchors = [parse_anchor(target) for target in reader.offsets16(count * classes)]
    return [tuple(anchors[n * classes : (n + 1) * classes]) for n in range(count)]


def _kept_marks(marks: Marks, glyphs: GlyphMap) -> tuple[dict[int, tuple[int, Anchor]], list[int]]:
    """The kept marks with new classes, and which of the old classes these are, in order."""
    kept = glyphs.keys_of(marks)
    used = sorted({mark_class for mark_class, _ in kept.values()})
    new = {old: mark_class for mark_class, old in enumerate(used)}
    return {glyph: (new[mark_class], anchor) for glyph, (mark_class, anchor) in kept.items()}, used


def _header_block(marks: Marks, others: Iterable[int], classes: int, array: Block, block_of: AnchorBlocks) -> Block:
    block = Block().u16(1).offset16(coverage_block(marks)).offset16(coverage_block(others)).u16(classes)
    mark_array = Block().u16(len(marks))
    for glyph in sorted(marks):
        mark_class, anchor = marks[glyph]
        mark_array.u16(mark_class).offset16(block_of(anchor))
    return block.offset16(mark_array).offset16(array)


def _rows_block(rows: Iterable[Anchors], block_of: AnchorBlocks) -> Block:
    listed = list(rows)
    return Block().u16(len(listed)).all16([block_of(anchor) for row in listed for anchor in row])
