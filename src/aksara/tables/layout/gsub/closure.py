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

from msgspec import Struct, field

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


class _Known(Struct, eq=False):
    """How far a closure has come."""

    glyphs: set[int] = field(default_factory=set)
    #: Lookups that apply to any glyph, in the order in which they came; of the others, what they were applied to.
    everywhere: dict[int, None] = field(default_factory=dict)
    applied: dict[int, set[int]] = field(default_factory=dict)
    #: Lookup → all that it ever made.
    made: dict[int, set[int]] = field(default_factory=dict)
    #: Rules that can start, by the set of which no glyph is there yet; rules that can match; and who calls a lookup.
    seen: set[_Use] = field(default_factory=set)
    waiting: dict[GlyphSet, list[_Use]] = field(default_factory=dict)
    working: set[_Use] = field(default_factory=set)
    callers: dict[int, list[tuple[int, Pattern, int]]] = field(default_factory=dict)

    def copied(self) -> _Known:
        """An independent copy."""
        return _Known(
            set(self.glyphs),
            dict(self.everywhere),
            {lookup_index: set(glyphs) for lookup_index, glyphs in self.applied.items()},
            {lookup_index: set(glyphs) for lookup_index, glyphs in self.made.items()},
            set(self.seen),
            {awaited: list(uses) for awaited, uses in self.waiting.items()},
            set(self.working),
            {lookup_index: list(callers) for lookup_index, callers in self.callers.items()},
        )


class Closure:
    """The glyphs that were given, and all that text of them can turn into by these lookups; `known` is what an earlier
    closure over the same graph has found, from which this one goes on."""

    def __init__(
        self, graph: SubstitutionGraph, glyphs: Set[int], lookups: Iterable[int], known: _Known | None = None
    ) -> None:
        self._graph = graph
        self._work = Work(_LARGE)
        self._known = known.copied() if known is not None else _Known(set(glyphs))
        # What is still to be applied to which glyphs, and glyphs that no rule has heard of yet.
        self._tasks: list[tuple[int, Set[int]]] = []
        self._new: set[int] = set()
        self._run(lookups)

    @property
    def glyphs(self) -> set[int]:
        """All glyphs of the closure."""
        return self._known.glyphs

    def add(self, glyphs: Set[int]) -> None:
        """Add glyphs that text contains for other reasons than these lookups."""
        self._new |= glyphs - self._known.glyphs
        self._known.glyphs |= glyphs
        self._run(())

    def with_lookups(self, lookups: Iterable[int]) -> Closure:
        """The closure over these lookups, too; this one stays as it is."""
        return Closure(self._graph, frozenset(), lookups, self._known)

    def _run(self, lookups: Iterable[int]) -> None:
        try:
            for lookup_index in lookups:
                self._apply_everywhere(lookup_index)
            while self._tasks or self._new:
                while self._tasks:
                    self._apply(*self._tasks.pop())
                new, self._new = self._new, set()
                if new:
                    self._tell(new)
        except BeyondBounds:
            self._known.glyphs |= self._graph.everything_made()

    def _apply_everywhere(self, lookup_index: int) -> None:
        if lookup_index not in self._known.everywhere:
            self._known.everywhere[lookup_index] = None
            self._tasks.append((lookup_index, self._known.glyphs - self._known.applied.pop(lookup_index, set())))

    def _apply_at(self, lookup_index: int, glyphs: Set[int]) -> None:
        """Apply a lookup to these glyphs, unless that was done before."""
        if lookup_index in self._known.everywhere:
            return
        applied = self._known.applied.setdefault(lookup_index, set())
        fresh = glyphs - applied
        if fresh:
            applied |= fresh
            self._tasks.append((lookup_index, fresh))

    def _apply(self, lookup_index: int, fresh: Set[int]) -> None:
        node = self._graph.node(lookup_index)
        self._work.spend(1 + len(fresh) // _SET)
        if node.inputs.isdisjoint(fresh):
            return
        self._work.spend(len(node.substitutions) + len(node.starts) // 4)
        for subtable in node.substitutions:
            self._record(lookup_index, subtable.made(fresh, self._known.glyphs))
        for first, patterns in node.starts:
            if not first.isdisjoint(fresh):
                self._work.spend(len(patterns))
                self._start(lookup_index, patterns, first & fresh)

    def _start(self, lookup_index: int, patterns: Iterable[Pattern], starts: Set[int]) -> None:
        """Rules whose input can start with these glyphs, which it could not before."""
        for pattern in patterns:
            use = lookup_index, pattern
            if use not in self._known.seen:
                self._known.seen.add(use)
                self._await(use)
            elif use in self._known.working:
                for called in _called_at(pattern, 0):
                    self._apply_at(called, starts)

    def _await(self, use: _Use) -> None:
        """Set a rule to work if it can match, or let it wait for the first glyphs that do not exist."""
        lookup_index, pattern = use
        for awaited in (*pattern.rest, *pattern.before, *pattern.behind):
            self._work.spend(1)
            if awaited in self._known.waiting or not awaited.meets(self._known.glyphs):
                self._known.waiting.setdefault(awaited, []).append(use)
                return
        self._known.working.add(use)
        moved = False
        for index, (position, called) in enumerate(pattern.actions):
            self._work.spend(1)
            if position > len(pattern.rest):
                continue
            self._known.callers.setdefault(called, []).append((lookup_index, pattern, index))
            # Once a lookup has joined or split glyphs, any may stand at a position.
            if moved:
                self._apply_everywhere(called)
            else:
                self._apply_at(called, self._found_at(use, position))
            moved = moved or self._graph.node(called).changes_length
            self._tell_caller(lookup_index, pattern, index, self._known.made.get(called, set()))

    def _found_at(self, use: _Use, position: int) -> Set[int]:
        """The glyphs that the rule can find at a position of its input."""
        lookup_index, pattern = use
        self._work.spend(len(self._known.glyphs) // _SET)
        if position:
            return pattern.rest[position - 1].among(self._known.glyphs)
        return pattern.first.listed & (
            self._known.glyphs if lookup_index in self._known.everywhere else self._known.applied[lookup_index]
        )

    def _record(self, lookup_index: int, made: Set[int]) -> None:
        """Record glyphs that a lookup makes, and pass them on to the rules that call it."""
        known = self._known.made.setdefault(lookup_index, set())
        more = made - known
        self._work.spend(1 + len(made) // _SET)
        if not more:
            return
        known |= more
        fresh = more - self._known.glyphs
        self._known.glyphs |= fresh
        self._new |= fresh
        for caller, pattern, index in self._known.callers.get(lookup_index, ()):
            self._work.spend(1)
            self._tell_caller(caller, pattern, index, more)

    def _tell_caller(self, caller: int, pattern: Pattern, index: int, made: Set[int]) -> None:
        """What one of a rule's lookups makes, the rule makes, and those behind it at its position may find."""
        if not made:
            return
        position = pattern.actions[index][0]
        for behind, called in pattern.actions[index + 1 :]:
            if behind == position:
                self._apply_at(called, made)
        self._record(caller, made)

    def _tell(self, new: set[int]) -> None:
        """Glyphs that were not there before."""
        self._work.spend(len(self._known.everywhere) + (len(self._known.working) + len(self._known.waiting)) // 2)
        for lookup_index in self._known.everywhere:
            if not self._graph.node(lookup_index).inputs.isdisjoint(new):
                self._tasks.append((lookup_index, new))
        for _, pattern in self._known.working:
            for position, called in pattern.actions:
                if 0 < position <= len(pattern.rest) and called not in self._known.everywhere:
                    self._apply_at(called, pattern.rest[position - 1].among(new))
        for awaited in [awaited for awaited in self._known.waiting if awaited.meets(new)]:
            for use in self._known.waiting.pop(awaited):
                self._await(use)
        for lookup_index in (*self._known.everywhere, *self._known.applied):
            for subtable, awaiting in self._graph.node(lookup_index).waiting:
                # Reverse substitutions have the same inputs for all glyphs around them.
                sets = {
                    id(glyph_set): glyph_set for glyph_set in map(awaiting.__getitem__, common_glyphs(awaiting, new))
                }
                firsts = set().union(*sets.values())
                self._work.spend(1 + len(firsts) // _SET)
                glyphs_there = (
                    self._known.glyphs if lookup_index in self._known.everywhere else self._known.applied[lookup_index]
                )
                self._record(lookup_index, subtable.made(firsts & glyphs_there, self._known.glyphs))


def _called_at(pattern: Pattern, position: int) -> Iterable[int]:
    """The lookups that a rule applies at a position."""
    return (called for index, called in pattern.actions if index == position)
