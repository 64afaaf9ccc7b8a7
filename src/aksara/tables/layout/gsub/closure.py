"""Which glyphs substitutions can lead to.

A rule counts only if every position of it can be met, and the lookups that it calls see only the glyphs of their
position; only behind a substitution that changes the length of the text may any glyph stand anywhere.

Whatever is made may be what another rule waits for, so rules are looked at again and again; a font can be made so that
this has no end in sight. Where it takes more work than any real font, all that any substitution makes counts: too many
glyphs, but none too few.
"""

from __future__ import annotations

from collections.abc import Sequence, Set

from aksara.errors import BeyondBounds
from aksara.limits import Work
from aksara.tables.layout.contexts import Context
from aksara.tables.layout.gsub.substitution import Substitution
from aksara.tables.layout.gsub.types import ALTERNATE, REVERSE, SINGLE
from aksara.tables.layout.lookups import Lookup

#: Lookups that call lookups that call lookups …: renderers stop there too.
_MAX_NESTING = 64
#: The work is that of reading a large table (bytes); real fonts take a tenth.
_LARGE = 1_000_000
#: Elements of sets that are gone through in a microsecond, and glyphs that are made.
_SET, _MADE = 16, 4
_EVERY_GLYPH = frozenset(range(0x10000))
#: Lookup types that put one glyph in the place of one.
_SAME_LENGTH = (SINGLE, ALTERNATE, REVERSE)


class Closure:
    """Follows the substitutions of the lookups, starting from these glyphs, to a fixed point."""

    def __init__(self, lookups: Sequence[Lookup], glyphs: set[int]) -> None:
        self.lookups = lookups
        self.glyphs = glyphs
        # Lookup → what it has been applied to in this round, and all that it ever made.
        self._done: dict[int, Set[int]] = {}
        self._made: dict[int, set[int]] = {}
        self._work = Work(_LARGE)

    def run(self, roots: list[int]) -> set[int]:
        """The glyphs, and all that text of them can turn into by these lookups."""
        try:
            size = -1
            while size != len(self.glyphs):
                size = len(self.glyphs)
                self._done.clear()
                for number in roots:
                    self._apply(number, self.glyphs, 0)
        except BeyondBounds:
            for lookup in self.lookups:
                for subtable in lookup.subtables:
                    if isinstance(subtable, Substitution):
                        self.glyphs |= subtable.made(_EVERY_GLYPH, _EVERY_GLYPH)
        return self.glyphs

    def _apply(self, number: int, inputs: Set[int], depth: int) -> set[int]:
        """Apply a lookup where its first glyph is among `inputs`; what it has made there, or elsewhere before."""
        made = self._made.setdefault(number, set())
        if number >= len(self.lookups) or depth > _MAX_NESTING:
            return made
        done = self._done.get(number, frozenset())
        self._work.spend(1 + len(inputs) // _SET)
        fresh = inputs - done
        if not fresh:
            return made
        # What the text may hold anywhere has been seen to; what is new by then, the next round sees to.
        everywhere = inputs is self.glyphs
        self._done[number] = _EVERY_GLYPH if everywhere else done | fresh
        for subtable in self.lookups[number].subtables:
            self._work.spend(1)
            if isinstance(subtable, Context):
                self._work.spend(subtable.weight // _SET)
                for match in list(subtable.matches(fresh, self.glyphs)):
                    self._work.spend(1 + sum(map(len, match.inputs)) // _SET)
                    made |= self._act(match.inputs, match.actions, depth)
            elif isinstance(subtable, Substitution):
                pending: Set[int] = fresh
                while pending:
                    new = subtable.made(pending, self.glyphs)
                    self._work.spend(1 + len(new) // _MADE)
                    pending = new - self.glyphs if everywhere else frozenset()
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
        return number < len(self.lookups) and self.lookups[number].lookup_type not in _SAME_LENGTH
