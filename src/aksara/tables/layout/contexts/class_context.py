"""Contextual subtables of format 2, whose rules name classes of glyphs."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Set
from typing import Self

from msgspec.structs import replace

from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.contexts.context import Pattern
from aksara.tables.layout.contexts.rules import ContextRule, RuleContext, rule_in, rules_block, rules_parser
from aksara.tables.layout.coverage import class_block, coverage_block, parse_classes, parse_covered, parse_rows
from aksara.tables.layout.glyph_sets import Division, GlyphSets


class ClassContext(RuleContext, frozen=True):
    """Format 2: rules by the class of the first glyph of the input, for covered glyphs only; they name classes.

    Glyphs that a class table does not mention are of class 0.
    """

    covered: frozenset[int]
    backtrack: Mapping[int, int]
    input: Mapping[int, int]
    lookahead: Mapping[int, int]

    @classmethod
    def parse(cls, reader: OffsetReader, *, chained: bool) -> Self:
        covered = parse_covered(reader.required16())
        tables = [parse_classes(reader.offset16()) for _ in range(3 if chained else 1)]
        backtrack, inputs, lookahead = tables if chained else ({}, tables[0], {})
        first_classes = sorted({inputs.get(glyph, 0) for glyph in covered})
        sets = parse_rows(
            reader, {glyph_class: glyph_class for glyph_class in first_classes}, rules_parser(chained=chained), ()
        )
        rules = {glyph_class: rules for glyph_class, rules in sets.items() if rules}
        return cls(chained, rules, covered, backtrack, inputs, lookahead)

    def patterns(self, sets: GlyphSets) -> Iterator[Pattern]:
        for glyph_class, rules in self.rules.items():
            first = sets.of(frozenset(sets.of_class(self.input, glyph_class).among(self.covered)))
            for rule in rules:
                rest = tuple(sets.of_class(self.input, value) for value in rule.rest)
                before = tuple(sets.of_class(self.backtrack, value) for value in rule.backtrack)
                behind = tuple(sets.of_class(self.lookahead, value) for value in rule.lookahead)
                yield Pattern(first, rest, before, behind, rule.actions)

    def divisions(self) -> Iterable[Division]:
        yield from (dict.fromkeys(self.covered, 1), self.backtrack, self.input, self.lookahead)

    def subset(self, glyphs: GlyphMap) -> Self | None:
        rules = self._rules_for(glyphs)
        every = [rule for listed in rules.values() for rule in listed]
        if not every:
            return None
        used = (
            {value for rule in every for value in rule.backtrack},
            {value for rule in every for value in rule.rest} | rules.keys(),
            {value for rule in every for value in rule.lookahead},
        )
        changes = [_compacted(values) for values in used]
        backtrack, inputs, lookahead = (
            _reclassed(table, glyphs, change)
            for table, change in zip((self.backtrack, self.input, self.lookahead), changes, strict=True)
        )
        renumbered = {}
        for glyph_class, own in rules.items():
            kept = (rule_in(rule, *changes) for rule in own)
            renumbered[changes[1][glyph_class]] = tuple(rule for rule in kept if rule is not None)
        covered = glyphs.set_of(glyph for glyph in self.covered if self.input.get(glyph, 0) in rules)
        return replace(self, covered=covered, backtrack=backtrack, input=inputs, lookahead=lookahead, rules=renumbered)

    def _rules_for(self, glyphs: GlyphMap) -> dict[int, tuple[ContextRule, ...]]:
        """The rules that can match the kept glyphs, by the class of the first; classes are the old ones."""
        starts = {self.input.get(glyph, 0) for glyph in self.covered if glyph in glyphs}
        present = [_present(table, glyphs) for table in (self.backtrack, self.input, self.lookahead)]
        identity = [{value: value for value in values} for values in present]
        rules = {
            glyph_class: tuple(rule for rule in listed if rule_in(rule, *identity) is not None)
            for glyph_class, listed in self.rules.items()
            if glyph_class in starts
        }
        return {glyph_class: listed for glyph_class, listed in rules.items() if listed}

    def block(self) -> Block:
        block = Block().u16(2).offset16(coverage_block(self.covered))
        if self.chained:
            block.offset16(class_block(self.backtrack)).offset16(class_block(self.input)).offset16(
                class_block(self.lookahead)
            )
        else:
            block.offset16(class_block(self.input))
        sets = range(max(self.rules, default=-1) + 1)
        return block.offsets16(
            rules_block(self.rules.get(glyph_class, ()), chained=self.chained) for glyph_class in sets
        )


def _present(classes: Mapping[int, int], glyphs: Collection[int]) -> set[int]:
    """The classes that some of these glyphs are of."""
    return {classes.get(glyph, 0) for glyph in glyphs}


def _compacted(used: Set[int]) -> dict[int, int]:
    """Used class → new class, without gaps. Class 0, "all others", stays."""
    return {value: glyph_class for glyph_class, value in enumerate(sorted(used - {0}), 1)} | (
        {0: 0} if 0 in used else {}
    )


def _reclassed(classes: Mapping[int, int], glyphs: GlyphMap, change: Mapping[int, int]) -> dict[int, int]:
    """The classes of kept glyphs. Where rules name "all others", glyphs of unnamed classes must not join these."""
    unnamed = len(change) if 0 in change else 0
    return {glyph: change.get(value, unnamed) for glyph, value in glyphs.keys_of(classes).items()}
