"""Rules of contextual subtables: sequences of glyphs, and the lookups that apply to them (OpenType 1.9.1, "Common
formats for contextual lookup subtables")."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from typing import Self

from msgspec import Struct
from msgspec.structs import replace

from aksara.offsets import Block, OffsetReader
from aksara.tables.layout.contexts.context import Actions, Context, renumbered_actions

Numbers = tuple[int, ...]


class ContextRule(Struct, frozen=True):
    """Glyphs or classes before (nearest first), from the second of the input on, and behind; and what is to be done."""

    backtrack: Numbers
    rest: Numbers
    lookahead: Numbers
    actions: Actions


def rules_parser(*, chained: bool) -> Callable[[OffsetReader], tuple[ContextRule, ...]]:
    """What parses a set of rules."""
    return _chained_rules if chained else _plain_rules


def _plain_rules(reader: OffsetReader) -> tuple[ContextRule, ...]:
    rules = []
    for target in reader.offsets16(reader.u16()):
        if target is None:
            continue
        count, actions = target.u16(), target.u16()
        # A rule for no glyph at all never matches.
        if count:
            rules.append(ContextRule((), target.u16s(count - 1), (), parse_actions(target, actions)))
    return tuple(rules)


def _chained_rules(reader: OffsetReader) -> tuple[ContextRule, ...]:
    rules = []
    for target in reader.offsets16(reader.u16()):
        if target is None:
            continue
        backtrack, count = target.u16s(target.u16()), target.u16()
        if count:
            rest, lookahead = target.u16s(count - 1), target.u16s(target.u16())
            rules.append(ContextRule(backtrack, rest, lookahead, parse_actions(target, target.u16())))
    return tuple(rules)


def parse_actions(reader: OffsetReader, count: int) -> Actions:
    """The sequence lookup records at the cursor."""
    numbers = reader.u16s(2 * count)
    return tuple(zip(numbers[::2], numbers[1::2], strict=True))


def rules_block(rules: Collection[ContextRule], *, chained: bool) -> Block | None:
    """A set of rules in the making; None for an empty one."""
    if not rules:
        return None
    return Block().offsets16(_rule_block(rule, chained=chained) for rule in rules)


def _rule_block(rule: ContextRule, *, chained: bool) -> Block:
    block, flat = Block(), [number for action in rule.actions for number in action]
    if not chained:
        return block.u16(len(rule.rest) + 1, len(rule.actions), *rule.rest, *flat)
    block.u16(len(rule.backtrack), *rule.backtrack).u16(len(rule.rest) + 1, *rule.rest)
    return block.u16(len(rule.lookahead), *rule.lookahead).u16(len(rule.actions), *flat)


def rule_in(
    rule: ContextRule, backtrack: Mapping[int, int], rest: Mapping[int, int], lookahead: Mapping[int, int]
) -> ContextRule | None:
    """The rule in new glyph IDs or classes (old → new); None if one of them is gone, so that it cannot match."""
    try:
        return ContextRule(
            tuple(backtrack[glyph_class] for glyph_class in rule.backtrack),
            tuple(rest[glyph_class] for glyph_class in rule.rest),
            tuple(lookahead[glyph_class] for glyph_class in rule.lookahead),
            rule.actions,
        )
    except KeyError:
        return None


class RuleContext(Context, frozen=True):
    """A contextual subtable whose rules are found by the first glyph's ID, or by its class."""

    rules: Mapping[int, tuple[ContextRule, ...]]

    def renumbered(self, new_indices: Mapping[int, int]) -> Self:
        rules = {
            key: tuple(replace(rule, actions=renumbered_actions(rule.actions, new_indices)) for rule in listed)
            for key, listed in self.rules.items()
        }
        return replace(self, rules=rules)

    def all_actions(self) -> Iterator[Actions]:
        return (rule.actions for listed in self.rules.values() for rule in listed)

    @property
    def span(self) -> int:
        lengths = (1 + len(rule.rest) + len(rule.lookahead) for listed in self.rules.values() for rule in listed)
        return max(lengths, default=1)
