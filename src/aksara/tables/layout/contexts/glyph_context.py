"""Contextual subtables of format 1, whose rules name glyphs."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Self

from msgspec.structs import replace

from aksara.offsets import Block, OffsetReader
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.contexts.context import Pattern
from aksara.tables.layout.contexts.rules import RuleContext, rule_in, rules_block, rules_parser
from aksara.tables.layout.coverage import coverage_block, parse_coverage, parse_rows
from aksara.tables.layout.glyph_sets import Division, GlyphSet, GlyphSets


class GlyphContext(RuleContext, frozen=True):
    """Format 1: rules by the first glyph of the input; they name glyphs."""

    @classmethod
    def parse(cls, reader: OffsetReader, *, chained: bool) -> Self:
        covered = parse_coverage(reader.required16())
        return cls(chained, parse_rows(reader, covered, rules_parser(chained=chained), ()))

    def patterns(self, sets: GlyphSets) -> Iterator[Pattern]:
        def one(glyph: int) -> GlyphSet:
            return sets.of(frozenset((glyph,)))

        for glyph, rules in self.rules.items():
            for rule in rules:
                rest, before, behind = (
                    tuple(map(one, glyphs)) for glyphs in (rule.rest, rule.backtrack, rule.lookahead)
                )
                yield Pattern(one(glyph), rest, before, behind, rule.actions)

    def divisions(self) -> Iterable[Division]:
        yield dict.fromkeys(self.rules, 1)

    def subset(self, glyphs: GlyphMap) -> Self | None:
        kept = {}
        for glyph, rules in glyphs.keys_of(self.rules).items():
            kept_rules = (rule_in(rule, glyphs, glyphs, glyphs) for rule in rules)
            kept[glyph] = tuple(rule for rule in kept_rules if rule is not None)
        kept = {glyph: rules for glyph, rules in kept.items() if rules}
        return replace(self, rules=kept) if kept else None

    def block(self) -> Block:
        sets = [rules_block(self.rules[glyph], chained=self.chained) for glyph in sorted(self.rules)]
        return Block().u16(1).offset16(coverage_block(self.rules)).offsets16(sets)
