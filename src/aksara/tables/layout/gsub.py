"""'GSUB': glyph substitution (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Set
from dataclasses import dataclass
from typing import ClassVar, Self

from aksara.errors import FontError
from aksara.tables.layout.contexts import Context, read_chained, read_context
from aksara.tables.layout.coverage import coverage_block, halved, kept_glyphs, read_coverage, read_covered
from aksara.tables.layout.lookups import LayoutTable, Lookup, Subtable
from aksara.tables.layout.offsets import Block, OffsetOverflow, Place

SINGLE, MULTIPLE, ALTERNATE, LIGATURE, CONTEXT, CHAINED, EXTENSION, REVERSE = range(1, 9)
#: Lookups that call lookups that call lookups …: renderers stop there too.
_MAX_NESTING = 64


class Substitution(Subtable):
    """A subtable that puts glyphs in the place of others."""

    __slots__ = ()

    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        """What it can make of `inputs` where all glyphs in the text are among `glyphs`."""
        raise NotImplementedError

    def halves(self) -> tuple[Self, Self]:
        raise OffsetOverflow


@dataclass(slots=True, frozen=True)
class Single(Substitution):
    """Type 1: one glyph by one."""

    substitutes: Mapping[int, int]

    @classmethod
    def parse(cls, place: Place) -> Self:
        form, covered = place.u16(), read_coverage(place.required())
        if form == 1:
            (delta,) = place.i16s(1)
            return cls({glyph: glyph + delta & 0xFFFF for glyph in covered})
        if form != 2:
            raise FontError(f"a single substitution of format {form}; only 1 and 2 exist", offset=place.origin)
        made = place.u16s(place.u16())
        return cls({glyph: made[index] for glyph, index in covered.items() if index < len(made)})

    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        return {self.substitutes[glyph] for glyph in self.substitutes.keys() & inputs}

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        kept = {numbers[a]: numbers[b] for a, b in self.substitutes.items() if a in numbers and b in numbers}
        return type(self)(kept) if kept else None

    def block(self) -> Block:
        distances = {made - glyph & 0xFFFF for glyph, made in self.substitutes.items()}
        covered = coverage_block(self.substitutes)
        if len(distances) == 1:
            return Block().u16(1).link(covered).u16(distances.pop())
        ordered = [self.substitutes[glyph] for glyph in sorted(self.substitutes)]
        return Block().u16(2).link(covered).u16(len(ordered), *ordered)


@dataclass(slots=True, frozen=True)
class _Sequences(Substitution):
    """Types 2 and 3 look the same: a list of glyphs for each covered one."""

    sequences: Mapping[int, tuple[int, ...]]

    @classmethod
    def parse(cls, place: Place) -> Self:
        _, covered = place.u16(), read_coverage(place.required())
        sequences = [_read_sequence(at) if at is not None else () for at in place.links(place.u16())]
        return cls({glyph: sequences[index] for glyph, index in covered.items() if index < len(sequences)})

    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        return {part for glyph in self.sequences.keys() & inputs for part in self.sequences[glyph]}

    def block(self) -> Block:
        block = Block().u16(1).link(coverage_block(self.sequences))
        ordered = (self.sequences[glyph] for glyph in sorted(self.sequences))
        return block.array(Block().u16(len(sequence), *sequence) for sequence in ordered)

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.sequences)
        return type(self)(first), type(self)(second)


class Multiple(_Sequences):
    """Type 2: one glyph by several, or by none."""

    __slots__ = ()

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        kept = {
            numbers[glyph]: tuple(numbers[part] for part in sequence)
            for glyph, sequence in self.sequences.items()
            if glyph in numbers and all(part in numbers for part in sequence)
        }
        return type(self)(kept) if kept else None


class Alternate(_Sequences):
    """Type 3: one glyph by one of several, which the user chooses by its place."""

    __slots__ = ()

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        kept = {
            numbers[glyph]: tuple(numbers[choice] for choice in choices)
            for glyph, choices in self.sequences.items()
            if glyph in numbers and all(choice in numbers for choice in choices)
        }
        return type(self)(kept) if kept else None


def _read_sequence(place: Place) -> tuple[int, ...]:
    return place.u16s(place.u16())


@dataclass(slots=True, frozen=True)
class Ligature(Substitution):
    """Type 4: several glyphs by one. First glyph → (the other components, the ligature), the best first."""

    ligatures: Mapping[int, tuple[tuple[tuple[int, ...], int], ...]]

    @classmethod
    def parse(cls, place: Place) -> Self:
        _, covered = place.u16(), read_coverage(place.required())
        sets = [at.once(_read_ligatures) if at is not None else () for at in place.links(place.u16())]
        return cls({glyph: sets[index] for glyph, index in covered.items() if index < len(sets)})

    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        return {
            ligature
            for glyph in self.ligatures.keys() & inputs
            for rest, ligature in self.ligatures[glyph]
            if all(part in glyphs for part in rest)
        }

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        kept = {}
        for glyph, ligatures in self.ligatures.items():
            if glyph in numbers:
                kept[numbers[glyph]] = tuple(
                    (tuple(numbers[part] for part in rest), numbers[made])
                    for rest, made in ligatures
                    if made in numbers and all(part in numbers for part in rest)
                )
        kept = {glyph: ligatures for glyph, ligatures in kept.items() if ligatures}
        return type(self)(kept) if kept else None

    @property
    def span(self) -> int:
        return max((len(rest) + 1 for each in self.ligatures.values() for rest, _ in each), default=1)

    def block(self) -> Block:
        block = Block().u16(1).link(coverage_block(self.ligatures))
        sets = []
        for glyph in sorted(self.ligatures):
            each = (Block().u16(made, len(rest) + 1, *rest) for rest, made in self.ligatures[glyph])
            sets.append(Block().array(each))
        return block.array(sets)

    def halves(self) -> tuple[Self, Self]:
        first, second = halved(self.ligatures)
        return type(self)(first), type(self)(second)


def _read_ligatures(place: Place) -> tuple[tuple[tuple[int, ...], int], ...]:
    found = []
    for at in place.links(place.u16()):
        if at is not None:
            made, count = at.u16s(2)
            # One of no components at all never applies.
            if count:
                found.append((at.u16s(count - 1), made))
    return tuple(found)


@dataclass(slots=True, frozen=True)
class Reverse(Substitution):
    """Type 8: one glyph by one where glyphs before (nearest first) and behind fit, from the end of the text on."""

    substitutes: Mapping[int, int]
    backtrack: tuple[frozenset[int], ...]
    lookahead: tuple[frozenset[int], ...]

    @classmethod
    def parse(cls, place: Place) -> Self:
        _, covered = place.u16(), read_coverage(place.required())
        backtrack, lookahead = (
            tuple(read_covered(at) if at is not None else frozenset() for at in place.links(place.u16()))
            for _ in range(2)
        )
        made = place.u16s(place.u16())
        substitutes = {glyph: made[index] for glyph, index in covered.items() if index < len(made)}
        return cls(substitutes, backtrack, lookahead)

    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        if any(around.isdisjoint(glyphs) for around in (*self.backtrack, *self.lookahead)):
            return set()
        return {self.substitutes[glyph] for glyph in self.substitutes.keys() & inputs}

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        kept = {numbers[a]: numbers[b] for a, b in self.substitutes.items() if a in numbers and b in numbers}
        backtrack = tuple(kept_glyphs(around, numbers) for around in self.backtrack)
        lookahead = tuple(kept_glyphs(around, numbers) for around in self.lookahead)
        return type(self)(kept, backtrack, lookahead) if kept and all((*backtrack, *lookahead)) else None

    @property
    def span(self) -> int:
        return 1 + len(self.lookahead)

    def block(self) -> Block:
        block = Block().u16(1).link(coverage_block(self.substitutes))
        block.array(coverage_block(around) for around in self.backtrack)
        block.array(coverage_block(around) for around in self.lookahead)
        ordered = [self.substitutes[glyph] for glyph in sorted(self.substitutes)]
        return block.u16(len(ordered), *ordered)


class Gsub(LayoutTable):
    """Substitutions: type 7, extension, is only another way to write the others."""

    TAG: ClassVar[str] = "GSUB"
    EXTENSION = EXTENSION
    READERS: ClassVar = {
        SINGLE: Single.parse,
        MULTIPLE: Multiple.parse,
        ALTERNATE: Alternate.parse,
        LIGATURE: Ligature.parse,
        CONTEXT: read_context,
        CHAINED: read_chained,
        REVERSE: Reverse.parse,
    }

    def closure(self, glyphs: Set[int], tags: Collection[str] | None = None) -> set[int]:
        """These glyphs and all that text of them can turn into with features of these tags (None: all)."""
        # A lookup that is only called by rules applies where these match, not everywhere.
        return _Closure(self.lookups, set(glyphs)).run(sorted(self.directly_reached(tags)))


class _Closure:
    """Follows substitutions to a fixed point."""

    def __init__(self, lookups: list[Lookup], glyphs: set[int]) -> None:
        self.lookups = lookups
        self.glyphs = glyphs
        # Lookup → what it has been applied to in this round, and all that it ever made.
        self._done: dict[int, set[int]] = {}
        self._made: dict[int, set[int]] = {}

    def run(self, roots: list[int]) -> set[int]:
        size = -1
        while size != len(self.glyphs):
            size = len(self.glyphs)
            self._done.clear()
            for number in roots:
                self._apply(number, self.glyphs, 0)
        return self.glyphs

    def _apply(self, number: int, inputs: Set[int], depth: int) -> set[int]:
        """Apply a lookup where its first glyph is among `inputs`; what it has made there, or elsewhere before."""
        made = self._made.setdefault(number, set())
        if number >= len(self.lookups) or depth > _MAX_NESTING:
            return made
        done = self._done.setdefault(number, set())
        fresh = inputs - done
        if not fresh:
            return made
        done |= fresh
        for subtable in self.lookups[number].subtables:
            if isinstance(subtable, Context):
                for match in list(subtable.matches(fresh, self.glyphs)):
                    made |= self._act(match.inputs, match.actions, depth)
            else:
                new = subtable.made(fresh, self.glyphs)
                made |= new
                self.glyphs |= new
        return made

    def _act(self, inputs: tuple[Set[int], ...], actions: tuple[tuple[int, int], ...], depth: int) -> set[int]:
        """What a rule's lookups make, each at its position; what one makes there, the next may find there."""
        at = {position: set(found) for position, found in enumerate(inputs)}
        everything: set[int] = set()
        moved = False
        for position, lookup in actions:
            if position not in at:
                continue
            # Once a lookup has joined or split glyphs, any may stand at a position.
            made = self._apply(lookup, self.glyphs if moved else at[position], depth + 1)
            at[position] |= made
            everything |= made
            moved = moved or self._changes_length(lookup)
        return everything

    def _changes_length(self, number: int) -> bool:
        return number < len(self.lookups) and self.lookups[number].kind not in (SINGLE, ALTERNATE, REVERSE)
