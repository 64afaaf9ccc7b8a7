"""GPOS types 3 to 6: glyphs attached to one another by anchors."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Self, TypeVar

from aksara.tables.layout.coverage import coverage_block, halved, read_coverage
from aksara.tables.layout.lookups import Subtable
from aksara.tables.layout.offsets import Block, OffsetOverflow, Place
from aksara.tables.layout.values import Anchor, anchor_block, read_anchor

#: One anchor for each class of marks, or None.
Anchors = tuple[Anchor | None, ...]
#: Mark → its class and anchor.
Marks = Mapping[int, tuple[int, Anchor]]
V = TypeVar("V")


@dataclass(slots=True, frozen=True)
class Cursive(Subtable):
    """Type 3: glyph → the anchors where the one before and the one behind join it."""

    joints: Mapping[int, tuple[Anchor | None, Anchor | None]]

    @classmethod
    def parse(cls, place: Place) -> Self:
        _, covered = place.u16(), read_coverage(place.required())
        places = place.links(2 * place.u16())
        anchors = [read_anchor(at) for at in places]
        joints = list(zip(anchors[::2], anchors[1::2], strict=True))
        return cls({glyph: joints[index] for glyph, index in covered.items() if index < len(joints)})

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        kept = {numbers[glyph]: joint for glyph, joint in self.joints.items() if glyph in numbers}
        return type(self)(kept) if kept else None

    def block(self) -> Block:
        block = Block().u16(1).link(coverage_block(self.joints)).u16(len(self.joints))
        for glyph in sorted(self.joints):
            for anchor in self.joints[glyph]:
                block.link(anchor_block(anchor))
        return block

    def halves(self) -> tuple[Self, Self]:
        raise OffsetOverflow  # both ends of a joint must be in one subtable


@dataclass(slots=True, frozen=True)
class MarkAttachment(Subtable):
    """Types 4 and 6: a mark joins a base, or a mark before it: base → its anchor for each class of marks."""

    classes: int
    marks: Marks
    bases: Mapping[int, Anchors]

    @classmethod
    def parse(cls, place: Place) -> Self:
        marks, bases, classes, mark_array, base_array = _read_header(place)
        rows = _read_rows(base_array, classes) if base_array else []
        return cls(classes, _read_marks(mark_array, marks, classes), _by_glyph(bases, rows))

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        marks, used = _kept_marks(self.marks, numbers)
        bases = {numbers[g]: tuple(row[c] for c in used) for g, row in self.bases.items() if g in numbers}
        return type(self)(len(used), marks, bases) if marks and bases else None

    def block(self) -> Block:
        rows = (self.bases[glyph] for glyph in sorted(self.bases))
        return _header_block(self.marks, self.bases, self.classes, _rows_block(rows))

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.bases)
        return type(self)(self.classes, self.marks, first), type(self)(self.classes, self.marks, second)


@dataclass(slots=True, frozen=True)
class LigatureAttachment(Subtable):
    """Type 5: a mark joins a component of a ligature: ligature → for each component its anchor for each class."""

    classes: int
    marks: Marks
    ligatures: Mapping[int, tuple[Anchors, ...]]

    @classmethod
    def parse(cls, place: Place) -> Self:
        marks, ligatures, classes, mark_array, array = _read_header(place)
        places = array.links(array.u16()) if array else []
        rows = [tuple(_read_rows(at, classes)) if at is not None else () for at in places]
        return cls(classes, _read_marks(mark_array, marks, classes), _by_glyph(ligatures, rows))

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        marks, used = _kept_marks(self.marks, numbers)
        ligatures = {
            numbers[glyph]: tuple(tuple(row[c] for c in used) for row in rows)
            for glyph, rows in self.ligatures.items()
            if glyph in numbers
        }
        return type(self)(len(used), marks, ligatures) if marks and ligatures else None

    def block(self) -> Block:
        array = Block().array(_rows_block(self.ligatures[glyph]) for glyph in sorted(self.ligatures))
        return _header_block(self.marks, self.ligatures, self.classes, array)

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.ligatures)
        return type(self)(self.classes, self.marks, first), type(self)(self.classes, self.marks, second)


def _read_header(place: Place) -> tuple[dict[int, int], dict[int, int], int, Place | None, Place | None]:
    """Coverage of the marks and of what they join, the number of classes, and where their arrays are."""
    place.u16()
    marks, others = read_coverage(place.required()), read_coverage(place.required())
    return marks, others, place.u16(), place.link(), place.link()


def _read_marks(place: Place | None, covered: Mapping[int, int], classes: int) -> dict[int, tuple[int, Anchor]]:
    if place is None:
        return {}
    found: list[tuple[int, Anchor | None]] = []
    for _ in range(place.u16()):
        number = place.u16()
        found.append((number, read_anchor(place.link())))
    # A mark of a class that nothing has anchors for joins nothing; one without an anchor joins by its origin.
    return {
        glyph: (found[index][0], found[index][1] or Anchor(0, 0))
        for glyph, index in covered.items()
        if index < len(found) and found[index][0] < classes
    }


def _read_rows(place: Place, classes: int) -> list[Anchors]:
    count = place.u16()
    anchors = [read_anchor(at) for at in place.links(count * classes)]
    return [tuple(anchors[n * classes : (n + 1) * classes]) for n in range(count)]


def _by_glyph(covered: Mapping[int, int], rows: list[V]) -> dict[int, V]:
    return {glyph: rows[index] for glyph, index in covered.items() if index < len(rows)}


def _kept_marks(marks: Marks, numbers: Mapping[int, int]) -> tuple[dict[int, tuple[int, Anchor]], list[int]]:
    """The kept marks with new classes, and which of the old classes these are, in order."""
    kept = {numbers[glyph]: mark for glyph, mark in marks.items() if glyph in numbers}
    used = sorted({number for number, _ in kept.values()})
    new = {old: number for number, old in enumerate(used)}
    return {glyph: (new[number], anchor) for glyph, (number, anchor) in kept.items()}, used


def _header_block(marks: Marks, others: Iterable[int], classes: int, array: Block) -> Block:
    block = Block().u16(1).link(coverage_block(marks)).link(coverage_block(others)).u16(classes)
    mark_array = Block().u16(len(marks))
    for glyph in sorted(marks):
        number, anchor = marks[glyph]
        mark_array.u16(number).link(anchor.block())
    return block.link(mark_array).link(array)


def _rows_block(rows: Iterable[Anchors]) -> Block:
    listed = list(rows)
    block = Block().u16(len(listed))
    for row in listed:
        for anchor in row:
            block.link(anchor_block(anchor))
    return block
