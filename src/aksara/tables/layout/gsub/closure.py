"""Which glyphs substitutions can lead to.

A rule counts only if every position of it can be met, and the lookups that it calls see only the glyphs of their
position; only behind a substitution that changes the length of the text may any glyph stand anywhere.
"""

from __future__ import annotations

from collections.abc import Sequence, Set

from aksara.tables.layout.contexts import Context
from aksara.tables.layout.gsub.substitution import Substitution
from aksara.tables.layout.gsub.types import ALTERNATE, REVERSE, SINGLE
from aksara.tables.layout.lookups import Lookup

#: Lookups that call lookups that call lookups …: renderers stop there too.
_MAX_NESTING = 64
#: Lookup types that put one glyph in the place of one.
_SAME_LENGTH = (SINGLE, ALTERNATE, REVERSE)


class Closure:
    """Follows the substitutions of the lookups, starting from these glyphs, to a fixed point."""

    def __init__(self, lookups: Sequence[Lookup], glyphs: set[int]) -> None:
        self.lookups = lookups
        self.glyphs = glyphs
        # Lookup → what it has been applied to in this round, and all that it ever made.
        self._done: dict[int, set[int]] = {}
        self._made: dict[int, set[int]] = {}

    def run(self, roots: list[int]) -> set[int]:
        """The glyphs, and all that text of them can turn into by these lookups."""
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
            elif isinstance(subtable, Substitution):
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
        return number < len(self.lookups) and self.lookups[number].lookup_type not in _SAME_LENGTH
