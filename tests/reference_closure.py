"""The closure over substitutions in the plainest way: every rule is looked at again until nothing new is made.

`aksara.tables.layout.gsub.closure` does the same by way of a graph, and is held against this.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Set

from aksara.tables import Gsub
from aksara.tables.layout.contexts import Actions, ClassContext, Context, CoverageContext, GlyphContext
from aksara.tables.layout.gsub import ALTERNATE, REVERSE, SINGLE
from aksara.tables.layout.gsub.substitution import Substitution

Match = tuple[tuple[Set[int], ...], Actions]


def reference_closure(table: Gsub, glyphs: Set[int], features: Collection[str] | None = None) -> set[int]:
    """These glyphs and all that text of them can turn into with these features (None: all)."""
    return _Closure(table, set(glyphs)).run(sorted(table.lookups_applied(features)))


class _Closure:
    def __init__(self, table: Gsub, glyphs: set[int]) -> None:
        self.lookups = table.lookups
        self.glyphs = glyphs
        self.made: dict[int, set[int]] = {}

    def run(self, roots: list[int]) -> set[int]:
        before: object = None
        while before != (now := (len(self.glyphs), sum(map(len, self.made.values())))):
            before = now
            for number in roots:
                self._apply(number, self.glyphs, ())
        return self.glyphs

    def _apply(self, number: int, inputs: Set[int], within: tuple[int, ...]) -> set[int]:
        """Apply a lookup where its first glyph is among `inputs`; what it has made there, or elsewhere before."""
        made = self.made.setdefault(number, set())
        if number >= len(self.lookups) or number in within:
            return made
        for subtable in self.lookups[number].subtables:
            if isinstance(subtable, Context):
                for found, actions in list(_matches(subtable, set(inputs), self.glyphs)):
                    made |= self._act(found, actions, (*within, number))
            elif isinstance(subtable, Substitution):
                made |= subtable.made(set(inputs), self.glyphs)
        self.glyphs |= made
        return made

    def _act(self, inputs: tuple[Set[int], ...], actions: Actions, within: tuple[int, ...]) -> set[int]:
        at = {position: set(found) for position, found in enumerate(inputs)}
        everything: set[int] = set()
        moved = False
        for position, number in actions:
            if position not in at:
                continue
            # Once a lookup has joined or split glyphs, any may stand at a position.
            made = self._apply(number, self.glyphs if moved else at[position], within)
            at[position] |= made
            everything |= made
            lookup_type = self.lookups[number].lookup_type if number < len(self.lookups) else 0
            moved = moved or lookup_type not in (SINGLE, ALTERNATE, REVERSE)
        return everything


def _matches(context: Context, first: Set[int], glyphs: Set[int]) -> Iterator[Match]:
    """The glyphs that each rule finds at the positions of its input, and what it does there."""
    if isinstance(context, CoverageContext):
        start = context.input[0] & first
        around = (*context.backtrack, *context.input[1:], *context.lookahead)
        if start and not any(covered.isdisjoint(glyphs) for covered in around):
            yield (start, *(covered & glyphs for covered in context.input[1:])), context.actions
    elif isinstance(context, ClassContext):
        backtrack, inputs, lookahead = (
            _members(classes, glyphs) for classes in (context.backtrack, context.input, context.lookahead)
        )
        for value, members in _members(context.input, context.covered & first).items():
            for rule in context.rules.get(value, ()):
                named = ((rule.backtrack, backtrack), (rule.rest, inputs), (rule.lookahead, lookahead))
                if all(each in present for values, present in named for each in values):
                    yield (members, *(inputs[each] for each in rule.rest)), rule.actions
    else:
        assert isinstance(context, GlyphContext)
        for glyph in sorted(context.rules.keys() & first):
            for rule in context.rules[glyph]:
                if glyphs >= {*rule.backtrack, *rule.rest, *rule.lookahead}:
                    yield ({glyph}, *({each} for each in rule.rest)), rule.actions


def _members(classes: Mapping[int, int], glyphs: Set[int]) -> dict[int, set[int]]:
    """Class → the glyphs of it among these, where there are any."""
    found: dict[int, set[int]] = {}
    for glyph in glyphs:
        found.setdefault(classes.get(glyph, 0), set()).add(glyph)
    return found
