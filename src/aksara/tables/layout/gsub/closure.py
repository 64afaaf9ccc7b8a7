"""Which glyphs substitutions can lead to.

A rule counts only if every position of it can be met, and the lookups that it calls see only the glyphs of their
position; only behind a substitution that changes the length of the text may any glyph stand anywhere.

A closure goes through the graph of the font's lookups, and looks at each rule when what it waits for is there. It can
be carried on with more lookups, which is what a further feature costs. Rules may lead to one another without an end in
sight; where that takes more work than any real font, all that any substitution makes counts: too many glyphs, but none
too few.
"""

from __future__ import annotations

from collections.abc import Iterable, Set
from typing import Self

from aksara.errors import BeyondBounds
from aksara.limits import Work
from aksara.tables.layout.contexts.context import Pattern
from aksara.tables.layout.glyph_sets import GlyphSet, common_glyphs
from aksara.tables.layout.gsub.graph import SubstitutionGraph

#: The work is that of reading a large table (bytes); real fonts take a tenth.
_LARGE = 1_000_000
#: Elements of sets that are gone through in a microsecond.
_SET = 16
#: A rule and the lookup that it is of.
_Use = tuple[int, Pattern]


class Closure:
    """The glyphs that were given, and all that text of them can turn into by these lookups."""

    def __init__(self, graph: SubstitutionGraph, glyphs: Set[int], lookups: Iterable[int]) -> None:
        self.glyphs = set(glyphs)
        self._graph = graph
        self._work = Work(_LARGE)
        # Lookups that apply to any glyph, in the order in which they came; of the others, what they were applied to.
        self._everywhere: dict[int, None] = {}
        self._applied: dict[int, set[int]] = {}
        # Lookup → all that it ever made.
        self._made: dict[int, set[int]] = {}
        # Rules that can start, by the set of which no glyph is there yet; rules that can match; and who calls a lookup.
        self._seen: set[_Use] = set()
        self._waiting: dict[GlyphSet, list[_Use]] = {}
        self._working: set[_Use] = set()
        self._callers: dict[int, list[tuple[int, Pattern, int]]] = {}
        # What is still to be applied to which glyphs, and glyphs that no rule has heard of yet.
        self._tasks: list[tuple[int, Set[int]]] = []
        self._new: set[int] = set()
        self._run(lookups)

    def add(self, glyphs: Set[int]) -> None:
        """Glyphs that text holds besides, by another way than these lookups."""
        self._new |= glyphs - self.glyphs
        self.glyphs |= glyphs
        self._run(())

    def with_lookups(self, lookups: Iterable[int]) -> Self:
        """The closure over these lookups, too; this one stays as it is."""
        more = object.__new__(type(self))
        more._graph, more._work = self._graph, Work(_LARGE)
        more.glyphs, more._everywhere = set(self.glyphs), dict(self._everywhere)
        more._applied = {number: set(glyphs) for number, glyphs in self._applied.items()}
        more._made = {number: set(glyphs) for number, glyphs in self._made.items()}
        more._seen, more._working = set(self._seen), set(self._working)
        more._waiting = {awaited: list(uses) for awaited, uses in self._waiting.items()}
        more._callers = {number: list(callers) for number, callers in self._callers.items()}
        more._tasks, more._new = [], set()
        more._run(lookups)
        return more

    def _run(self, lookups: Iterable[int]) -> None:
        try:
            for number in lookups:
                self._apply_everywhere(number)
            while self._tasks or self._new:
                while self._tasks:
                    self._apply(*self._tasks.pop())
                new, self._new = self._new, set()
                if new:
                    self._tell(new)
        except BeyondBounds:
            self.glyphs |= self._graph.everything_made()

    def _apply_everywhere(self, number: int) -> None:
        if number not in self._everywhere:
            self._everywhere[number] = None
            self._tasks.append((number, self.glyphs - self._applied.pop(number, set())))

    def _apply_at(self, number: int, glyphs: Set[int]) -> None:
        """Apply a lookup where these glyphs stand, as far as it was not."""
        if number in self._everywhere:
            return
        applied = self._applied.setdefault(number, set())
        fresh = glyphs - applied
        if fresh:
            applied |= fresh
            self._tasks.append((number, fresh))

    def _apply(self, number: int, fresh: Set[int]) -> None:
        node = self._graph.node(number)
        self._work.spend(1 + len(fresh) // _SET)
        if node.inputs.isdisjoint(fresh):
            return
        self._work.spend(len(node.substitutions) + len(node.starts) // 4)
        for subtable in node.substitutions:
            self._record(number, subtable.made(fresh, self.glyphs))
        for first, patterns in node.starts:
            if not first.isdisjoint(fresh):
                self._work.spend(len(patterns))
                self._start(number, patterns, first & fresh)

    def _start(self, number: int, patterns: Iterable[Pattern], starts: Set[int]) -> None:
        """Rules whose input can start with these glyphs, which it could not before."""
        for pattern in patterns:
            use = number, pattern
            if use not in self._seen:
                self._seen.add(use)
                self._await(use)
            elif use in self._working:
                for called in _called_at(pattern, 0):
                    self._apply_at(called, starts)

    def _await(self, use: _Use) -> None:
        """Set a rule to work if it can match, or let it wait for the first glyphs that are not there."""
        number, pattern = use
        for awaited in (*pattern.rest, *pattern.before, *pattern.behind):
            self._work.spend(1)
            if awaited in self._waiting or not awaited.meets(self.glyphs):
                self._waiting.setdefault(awaited, []).append(use)
                return
        self._working.add(use)
        moved = False
        for place, (position, called) in enumerate(pattern.actions):
            self._work.spend(1)
            if position > len(pattern.rest):
                continue
            self._callers.setdefault(called, []).append((number, pattern, place))
            # Once a lookup has joined or split glyphs, any may stand at a position.
            if moved:
                self._apply_everywhere(called)
            else:
                self._apply_at(called, self._found_at(use, position))
            moved = moved or self._graph.node(called).changes_length
            self._tell_caller(number, pattern, place, self._made.get(called, set()))

    def _found_at(self, use: _Use, position: int) -> Set[int]:
        """The glyphs that the rule can find at a position of its input."""
        number, pattern = use
        self._work.spend(len(self.glyphs) // _SET)
        if position:
            return pattern.rest[position - 1].among(self.glyphs)
        return pattern.first.listed & (self.glyphs if number in self._everywhere else self._applied[number])

    def _record(self, number: int, made: Set[int]) -> None:
        """A lookup makes these glyphs; tell the rules that call it."""
        known = self._made.setdefault(number, set())
        more = made - known
        self._work.spend(1 + len(made) // _SET)
        if not more:
            return
        known |= more
        fresh = more - self.glyphs
        self.glyphs |= fresh
        self._new |= fresh
        for caller, pattern, place in self._callers.get(number, ()):
            self._work.spend(1)
            self._tell_caller(caller, pattern, place, more)

    def _tell_caller(self, caller: int, pattern: Pattern, place: int, made: Set[int]) -> None:
        """What one of a rule's lookups makes, the rule makes, and those behind it at its position may find."""
        if not made:
            return
        position = pattern.actions[place][0]
        for behind, called in pattern.actions[place + 1 :]:
            if behind == position:
                self._apply_at(called, made)
        self._record(caller, made)

    def _tell(self, new: set[int]) -> None:
        """Glyphs that were not there before."""
        self._work.spend(len(self._everywhere) + (len(self._working) + len(self._waiting)) // 2)
        for number in self._everywhere:
            if not self._graph.node(number).inputs.isdisjoint(new):
                self._tasks.append((number, new))
        for _, pattern in self._working:
            for position, called in pattern.actions:
                if 0 < position <= len(pattern.rest) and called not in self._everywhere:
                    self._apply_at(called, pattern.rest[position - 1].among(new))
        for awaited in [awaited for awaited in self._waiting if awaited.meets(new)]:
            for use in self._waiting.pop(awaited):
                self._await(use)
        for number in (*self._everywhere, *self._applied):
            for subtable, awaiting in self._graph.node(number).waiting:
                # Reverse substitutions have the same inputs for all glyphs around them.
                sets = {id(each): each for each in map(awaiting.__getitem__, common_glyphs(awaiting, new))}
                firsts = set().union(*sets.values())
                self._work.spend(1 + len(firsts) // _SET)
                at = self.glyphs if number in self._everywhere else self._applied[number]
                self._record(number, subtable.made(firsts & at, self.glyphs))


def _called_at(pattern: Pattern, position: int) -> Iterable[int]:
    """The lookups that a rule applies at a position."""
    return (called for at, called in pattern.actions if at == position)
