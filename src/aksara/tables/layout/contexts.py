"""Contextual and chained contextual lookups, which GSUB and GPOS share (OpenType 1.9.1, "Common formats for
contextual lookup subtables"): rules that say where other lookups apply.

The three formats describe glyphs by number, by class, and by coverage. A rule
that cannot match among the kept glyphs is dropped; one that matches and does
nothing is kept, since it keeps those behind it from matching.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Collection, Iterator, Mapping, Set
from dataclasses import dataclass, replace
from typing import Self

from aksara.errors import FontError
from aksara.tables.layout.coverage import (
    class_block,
    coverage_block,
    kept_glyphs,
    read_classes,
    read_coverage,
    read_covered,
)
from aksara.tables.layout.offsets import Block, Place

#: (position in the input, lookup): what a rule does.
Actions = tuple[tuple[int, int], ...]
Numbers = tuple[int, ...]


@dataclass(slots=True, frozen=True)
class Rule:
    """Glyphs or classes before (nearest first), from the second of the input on, and behind; and what is to be done."""

    backtrack: Numbers
    rest: Numbers
    lookahead: Numbers
    actions: Actions


@dataclass(slots=True, frozen=True)
class Match:
    """Glyphs that a rule can meet at each position of its input, and what it does there."""

    inputs: tuple[Set[int], ...]
    actions: Actions


class Context(ABC):
    """A contextual subtable of any format."""

    __slots__ = ()
    chained: bool

    @abstractmethod
    def matches(self, first: Set[int], glyphs: Set[int]) -> Iterator[Match]:
        """The rules that can match where all glyphs are among `glyphs`, and that of the first position in `first`."""

    @abstractmethod
    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        """With only the rules that can match these glyphs (old number → new); None if there are none."""

    @abstractmethod
    def with_actions(self, change: Callable[[Actions], Actions]) -> Self:
        """With every rule's actions changed."""

    @abstractmethod
    def all_actions(self) -> Iterator[Actions]:
        """What each rule does."""

    @abstractmethod
    def block(self) -> Block: ...

    @property
    @abstractmethod
    def span(self) -> int:
        """How many glyphs it looks at together, from the first of the input on."""

    def lookups(self) -> set[int]:
        """The lookups that its rules call."""
        return {lookup for actions in self.all_actions() for _, lookup in actions}


def read_context(place: Place) -> Context:
    return _read(place, chained=False)


def read_chained(place: Place) -> Context:
    return _read(place, chained=True)


def _read(place: Place, *, chained: bool) -> Context:
    form = place.u16()
    if form == 1:
        return GlyphContext.parse(place, chained=chained)
    if form == 2:
        return ClassContext.parse(place, chained=chained)
    if form == 3:
        return CoverageContext.parse(place, chained=chained)
    raise FontError(f"a contextual subtable of format {form}; only 1 to 3 exist", offset=place.origin)


def _read_rules(places: list[Place | None], *, chained: bool) -> list[tuple[Rule, ...]]:
    read = _chained_rules if chained else _plain_rules
    return [place.once(read) if place is not None else () for place in places]


def _plain_rules(place: Place) -> tuple[Rule, ...]:
    rules = []
    for at in place.links(place.u16()):
        if at is None:
            continue
        count, actions = at.u16(), at.u16()
        # A rule for no glyph at all never matches.
        if count:
            rules.append(Rule((), at.u16s(count - 1), (), _read_actions(at, actions)))
    return tuple(rules)


def _chained_rules(place: Place) -> tuple[Rule, ...]:
    rules = []
    for at in place.links(place.u16()):
        if at is None:
            continue
        backtrack, count = at.u16s(at.u16()), at.u16()
        if count:
            rest, lookahead = at.u16s(count - 1), at.u16s(at.u16())
            rules.append(Rule(backtrack, rest, lookahead, _read_actions(at, at.u16())))
    return tuple(rules)


def _read_actions(place: Place, count: int) -> Actions:
    numbers = place.u16s(2 * count)
    return tuple(zip(numbers[::2], numbers[1::2], strict=True))


def _rules_block(rules: Collection[Rule], *, chained: bool) -> Block | None:
    if not rules:
        return None
    return Block().array(_rule_block(rule, chained=chained) for rule in rules)


def _rule_block(rule: Rule, *, chained: bool) -> Block:
    block, flat = Block(), [number for action in rule.actions for number in action]
    if not chained:
        return block.u16(len(rule.rest) + 1, len(rule.actions), *rule.rest, *flat)
    block.u16(len(rule.backtrack), *rule.backtrack).u16(len(rule.rest) + 1, *rule.rest)
    return block.u16(len(rule.lookahead), *rule.lookahead).u16(len(rule.actions), *flat)


class _RuleContext(Context):
    """A context of rules that are found by a number: that of the first glyph, or its class."""

    __slots__ = ()
    rules: Mapping[int, tuple[Rule, ...]]

    def with_actions(self, change: Callable[[Actions], Actions]) -> Self:
        rules = {
            number: tuple(replace(rule, actions=change(rule.actions)) for rule in each)
            for number, each in self.rules.items()
        }
        return replace(self, rules=rules)  # type: ignore[type-var]  # both formats are data classes

    def all_actions(self) -> Iterator[Actions]:
        return (rule.actions for each in self.rules.values() for rule in each)

    @property
    def span(self) -> int:
        lengths = (1 + len(rule.rest) + len(rule.lookahead) for each in self.rules.values() for rule in each)
        return max(lengths, default=1)


@dataclass(slots=True, frozen=True)
class GlyphContext(_RuleContext):
    """Format 1: rules by the first glyph of the input; they name glyphs."""

    chained: bool
    rules: Mapping[int, tuple[Rule, ...]]

    @classmethod
    def parse(cls, place: Place, *, chained: bool) -> Self:
        covered = read_coverage(place.required())
        sets = _read_rules(place.links(place.u16()), chained=chained)
        return cls(chained, {glyph: sets[index] for glyph, index in covered.items() if index < len(sets)})

    def matches(self, first: Set[int], glyphs: Set[int]) -> Iterator[Match]:
        for glyph in sorted(self.rules.keys() & first):
            for rule in self.rules[glyph]:
                if glyphs >= {*rule.backtrack, *rule.rest, *rule.lookahead}:
                    yield Match(({glyph}, *({number} for number in rule.rest)), rule.actions)

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        kept = {}
        for glyph, rules in self.rules.items():
            if glyph in numbers:
                renumbered = [_renumbered(rule, numbers, numbers, numbers) for rule in rules]
                kept[numbers[glyph]] = tuple(rule for rule in renumbered if rule is not None)
        kept = {glyph: rules for glyph, rules in kept.items() if rules}
        return replace(self, rules=kept) if kept else None

    def block(self) -> Block:
        sets = [_rules_block(self.rules[glyph], chained=self.chained) for glyph in sorted(self.rules)]
        return Block().u16(1).link(coverage_block(self.rules)).array(sets)


def _renumbered(
    rule: Rule, backtrack: Mapping[int, int], rest: Mapping[int, int], lookahead: Mapping[int, int]
) -> Rule | None:
    """The rule in new numbers of glyphs or classes; None if one of them is gone, so that it cannot match."""
    try:
        return Rule(
            tuple(backtrack[number] for number in rule.backtrack),
            tuple(rest[number] for number in rule.rest),
            tuple(lookahead[number] for number in rule.lookahead),
            rule.actions,
        )
    except KeyError:
        return None


@dataclass(slots=True, frozen=True)
class ClassContext(_RuleContext):
    """Format 2: rules by the class of the first glyph of the input, for covered glyphs only; they name classes.

    Glyphs that a class table does not mention are of class 0.
    """

    chained: bool
    covered: frozenset[int]
    backtrack: Mapping[int, int]
    input: Mapping[int, int]
    lookahead: Mapping[int, int]
    rules: Mapping[int, tuple[Rule, ...]]

    @classmethod
    def parse(cls, place: Place, *, chained: bool) -> Self:
        covered = read_covered(place.required())
        tables = [read_classes(place.link()) for _ in range(3 if chained else 1)]
        backtrack, inputs, lookahead = tables if chained else ({}, tables[0], {})
        sets = _read_rules(place.links(place.u16()), chained=chained)
        rules = {number: rules for number, rules in enumerate(sets) if rules}
        return cls(chained, covered, backtrack, inputs, lookahead, rules)

    def matches(self, first: Set[int], glyphs: Set[int]) -> Iterator[Match]:
        starts = self.covered & first
        if not starts:
            return
        backtrack, inputs, lookahead = (_members(t, glyphs) for t in (self.backtrack, self.input, self.lookahead))
        for number, members in _members(self.input, starts).items():
            for rule in self.rules.get(number, ()):
                if (
                    all(value in inputs for value in rule.rest)
                    and all(value in backtrack for value in rule.backtrack)
                    and all(value in lookahead for value in rule.lookahead)
                ):
                    yield Match((members, *(inputs[value] for value in rule.rest)), rule.actions)

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        starts = {self.input.get(glyph, 0) for glyph in self.covered if glyph in numbers}
        present = [_present(table, numbers) for table in (self.backtrack, self.input, self.lookahead)]
        identity = [{value: value for value in values} for values in present]
        rules = {
            number: tuple(rule for rule in each if _renumbered(rule, *identity) is not None)
            for number, each in self.rules.items()
            if number in starts
        }
        every = [rule for each in rules.values() for rule in each]
        if not every:
            return None
        rules = {number: each for number, each in rules.items() if each}
        covered = kept_glyphs({glyph for glyph in self.covered if self.input.get(glyph, 0) in rules}, numbers)
        used = (
            {value for rule in every for value in rule.backtrack},
            {value for rule in every for value in rule.rest} | rules.keys(),
            {value for rule in every for value in rule.lookahead},
        )
        changes = [_compacted(values) for values in used]
        tables = [
            _reclassed(table, numbers, change)
            for table, change in zip((self.backtrack, self.input, self.lookahead), changes, strict=True)
        ]
        renumbered = {}
        for number, each in rules.items():
            kept = (_renumbered(rule, *changes) for rule in each)
            renumbered[changes[1][number]] = tuple(rule for rule in kept if rule is not None)
        return replace(
            self, covered=covered, backtrack=tables[0], input=tables[1], lookahead=tables[2], rules=renumbered
        )

    def block(self) -> Block:
        block = Block().u16(2).link(coverage_block(self.covered))
        if self.chained:
            block.link(class_block(self.backtrack)).link(class_block(self.input)).link(class_block(self.lookahead))
        else:
            block.link(class_block(self.input))
        sets = range(max(self.rules, default=-1) + 1)
        return block.array(_rules_block(self.rules.get(number, ()), chained=self.chained) for number in sets)


def _members(classes: Mapping[int, int], glyphs: Set[int]) -> dict[int, set[int]]:
    """Class → the glyphs of it among these, where there are any."""
    found: dict[int, set[int]] = {}
    for glyph in glyphs:
        found.setdefault(classes.get(glyph, 0), set()).add(glyph)
    return found


def _present(classes: Mapping[int, int], glyphs: Collection[int]) -> set[int]:
    """The classes that some of these glyphs are of."""
    return {classes.get(glyph, 0) for glyph in glyphs}


def _compacted(used: Set[int]) -> dict[int, int]:
    """Used class → new number, without gaps. 0, "all others", stays what it is."""
    return {value: number for number, value in enumerate(sorted(used - {0}), 1)} | ({0: 0} if 0 in used else {})


def _reclassed(classes: Mapping[int, int], numbers: Mapping[int, int], change: Mapping[int, int]) -> dict[int, int]:
    """The classes of kept glyphs. Where rules name "all others", glyphs of unnamed classes must not join these."""
    unnamed = len(change) if 0 in change else 0
    return {numbers[glyph]: change.get(value, unnamed) for glyph, value in classes.items() if glyph in numbers}


@dataclass(slots=True, frozen=True)
class CoverageContext(Context):
    """Format 3: one rule, whose every position has a set of glyphs; those before with the nearest first."""

    chained: bool
    backtrack: tuple[frozenset[int], ...]
    input: tuple[frozenset[int], ...]
    lookahead: tuple[frozenset[int], ...]
    actions: Actions

    @classmethod
    def parse(cls, place: Place, *, chained: bool) -> Self:
        def sets(count: int) -> tuple[frozenset[int], ...]:
            return tuple(read_covered(at) if at is not None else frozenset() for at in place.links(count))

        if chained:
            backtrack, inputs, lookahead = (sets(place.u16()) for _ in range(3))
            actions = place.u16()
        else:
            count, actions = place.u16(), place.u16()
            backtrack, inputs, lookahead = (), sets(count), ()
        if not inputs:
            raise FontError("a contextual rule without input", offset=place.origin)
        return cls(chained, backtrack, inputs, lookahead, _read_actions(place, actions))

    def matches(self, first: Set[int], glyphs: Set[int]) -> Iterator[Match]:
        start = self.input[0] & first
        around = (*self.backtrack, *self.input[1:], *self.lookahead)
        if start and not any(covered.isdisjoint(glyphs) for covered in around):
            yield Match((start, *(covered & glyphs for covered in self.input[1:])), self.actions)

    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        backtrack, inputs, lookahead = (
            tuple(kept_glyphs(covered, numbers) for covered in sets)
            for sets in (self.backtrack, self.input, self.lookahead)
        )
        if not all((*backtrack, *inputs, *lookahead)):
            return None
        return replace(self, backtrack=backtrack, input=inputs, lookahead=lookahead)

    def with_actions(self, change: Callable[[Actions], Actions]) -> Self:
        return replace(self, actions=change(self.actions))

    def all_actions(self) -> Iterator[Actions]:
        yield self.actions

    @property
    def span(self) -> int:
        return len(self.input) + len(self.lookahead)

    def block(self) -> Block:
        flat = [number for action in self.actions for number in action]
        if self.chained:
            block = Block().u16(3)
            for sets in (self.backtrack, self.input, self.lookahead):
                block.array(coverage_block(covered) for covered in sets)
            return block.u16(len(self.actions), *flat)
        block = Block().u16(3, len(self.input), len(self.actions))
        for covered in self.input:
            block.link(coverage_block(covered))
        return block.u16(*flat)
