"""Selectors and their matching (Selectors 4), which takes states such as `:hover` into account.

Which states hold (`:hover`, `:checked`, `[open]`) is no fact of the page, so each question is asked under a set of
states that are taken to hold.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from enum import IntEnum

from msgspec import Struct
from msgspec.structs import replace

from aksara.limits import MAX_MATCHING_WORK
from aksara.site.tree import Element

States = frozenset[str]
NO_STATES: States = frozenset()


class TooMuchWorkError(Exception):
    """A page and its selectors are such that finding out which match would take too long."""


class MatchingWork(Struct):
    """How much may still be done for a page."""

    left: int = MAX_MATCHING_WORK

    def spend(self, amount: int = 1) -> None:
        """Raise `TooMuchWorkError` where nothing is left."""
        self.left -= amount
        if self.left < 0:
            raise TooMuchWorkError


class Held(Struct, frozen=True, eq=False):
    """The states that are taken to hold while selectors are matched, and the work that this may take."""

    states: States
    work: MatchingWork

    def spending(self, elements: Iterator[Element]) -> Iterator[Element]:
        """The elements, each counted as work."""
        for element in elements:
            self.work.spend()
            yield element


Test = Callable[[Element, Held], bool]


class _Outcome(IntEnum):
    """Whether a selector matches and, if not, what need not be tried any more: further siblings, or anything."""

    MATCH = 0
    FAILS_HERE = 1
    FAILS_SIBLINGS = 2
    FAILS = 3


class Compound(Struct, frozen=True):
    """Simple selectors without a combinator between them. Empty strings match anything.

    `attributes` are names of which an element must have each, `alternatives` keys of which it must have one; both are
    for finding the selector, and tested besides.
    """

    local_name: str
    lower_name: str
    id: str
    classes: tuple[str, ...]
    tests: tuple[Test, ...]
    attributes: tuple[str, ...] = ()
    alternatives: tuple[str, ...] = ()

    def matches(self, element: Element, held: Held) -> bool:
        """Whether the element is of its kind."""
        if self.local_name and element.tag != (self.local_name if element.language else self.lower_name):
            return False
        if self.id and element.id != self.id:
            return False
        for name in self.classes:
            if name not in element.classes:
                return False
        return all(test(element, held) for test in self.tests)

    @property
    def keys(self) -> Iterator[str]:
        """What an element must have to match, as `#id`, `.class` and `tag`."""
        if self.id:
            yield "#" + self.id
        for name in self.classes:
            yield "." + name
        if self.local_name:
            yield self.lower_name


class Selector(Struct, frozen=True, eq=False):
    """A complex selector. `compounds` go from its subject leftwards; `combinators` stand between them.

    `states` are those that it asks for; `pseudo` its pseudo-element, "" for none. `ancestors` are keys of which each
    must be found above a matching element. Of `::part()` the compounds are those of the host, `parts` the names that
    the part must have, and `pseudo` may be that of the part, as in `part::before`.
    """

    compounds: tuple[Compound, ...]
    combinators: tuple[str, ...]
    specificity: tuple[int, int, int]
    states: States
    pseudo: str
    text: str
    ancestors: tuple[str, ...]
    parts: frozenset[str] = frozenset()

    def caseless(self) -> Selector:
        """The same for quirks mode, where ids and classes of elements are in lower case."""
        compounds = tuple(
            replace(compound, id=compound.id.lower(), classes=tuple(map(str.lower, compound.classes)))
            for compound in self.compounds
        )
        return replace(self, compounds=compounds, ancestors=tuple(map(str.lower, self.ancestors)))

    @property
    def keys(self) -> tuple[str, ...]:
        """Index keys, one of which every subject has: `#id`, `.class`, `tag`, `[attribute`; "" is any."""
        subject = self.compounds[0]
        if key := next(subject.keys, ""):
            return (key,)
        if subject.attributes:
            return ("[" + subject.attributes[0],)
        return subject.alternatives or ("",)

    @property
    def is_its_key(self) -> bool:
        """Whether its only key is the whole selector."""
        subject = self.compounds[0]
        return not self.combinators and not subject.tests and len(list(subject.keys)) == 1

    def matches(self, element: Element, held: Held) -> bool:
        """Whether it matches the element while these states hold."""
        return self._match(0, element, held) is _Outcome.MATCH

    def _match(self, position: int, element: Element, held: Held) -> _Outcome:
        if not self.compounds[position].matches(element, held):
            return _Outcome.FAILS_HERE
        if position == len(self.combinators):
            return _Outcome.MATCH
        combinator = self.combinators[position]
        if combinator == ">":
            if element.parent is None:
                return _Outcome.FAILS
            return self._match(position + 1, element.parent, held)
        if combinator == " ":
            for ancestor in held.spending(element.ancestors()):
                outcome = self._match(position + 1, ancestor, held)
                if outcome in (_Outcome.MATCH, _Outcome.FAILS):
                    return outcome
            return _Outcome.FAILS
        if element.parent is None or not element.index:
            return _Outcome.FAILS_SIBLINGS
        siblings = element.parent.elements
        if combinator == "+":
            return self._match(position + 1, siblings[element.index - 1], held)
        for index in range(element.index - 1, -1, -1):
            held.work.spend()
            outcome = self._match(position + 1, siblings[index], held)
            if outcome is not _Outcome.FAILS_HERE:
                return outcome
        return _Outcome.FAILS_SIBLINGS
