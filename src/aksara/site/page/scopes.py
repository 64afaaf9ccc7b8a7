"""The trees of a page: the document and its shadow trees, each with the rules that style it.

A few rules cross from one tree into another: `:host` and `::slotted()` from a shadow tree to the elements around it,
`::part()` from those into the shadow tree (CSS Shadow Module 1). They are `carried` there, and rank by the tree that
they come from: of normal declarations those of the outer tree win, of important ones those of the inner (CSS Cascade 5,
section 6.2).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct, field

from aksara.site.css.cascade import Cascade, Variant
from aksara.site.css.selectors import NO_STATES
from aksara.site.css.style_sets import Match, keys_of
from aksara.site.tree import Element, Node


class Scope(Struct):
    """The tree that is being walked: its cascade, the keys of the elements above, and of a shadow tree the element that
    it belongs to, what goes into its slots, and the tree around it."""

    cascade: Cascade
    above: dict[str, int] = field(default_factory=dict)
    host: Element | None = None
    assigned: Mapping[str, Sequence[Node]] = field(default_factory=dict)
    outer: Scope | None = None

    def below(self, cascade: Cascade, host: Element) -> Scope:
        """The scope of the shadow tree of an element in this one."""
        assigned: dict[str, list[Node]] = {}
        for node in host.children:
            name = node.attributes.get("slot", "") if isinstance(node, Element) else ""
            assigned.setdefault(name, []).append(node)
        return Scope(cascade, host=host, assigned=assigned, outer=self)

    def enter(self, element: Element) -> None:
        """The content of an element is walked from here on, until it is left."""
        above = self.above
        for key in keys_of(element):
            above[key] = above.get(key, 0) + 1

    def leave(self, element: Element) -> None:
        """The content of the element was walked."""
        above = self.above
        for key in keys_of(element):
            above[key] -= 1
            if not above[key]:
                del above[key]

    def variants(
        self, element: Element, parents: Sequence[Variant], pseudo: str = "", more: Sequence[Match] = ()
    ) -> list[Variant]:
        """The styles that an element of this tree may have; `more` are rules that are carried to it."""
        if "part" in element.attributes and self.outer is not None:
            more = [*more, *self._of_parts(element, pseudo)]
        return self.cascade.variants(element, parents, self.above, pseudo, more)

    def has(self, pseudo: str) -> bool:
        """Whether any rule may be for that pseudo-element of an element of this tree."""
        return self.cascade.style_set.has(pseudo) or any(
            scope.cascade.style_set.has(_part(pseudo)) for scope in self._around()
        )

    def may_generate(self, element: Element, pseudo: str) -> bool:
        """Whether any rule that might match gives `::before` or `::after` of the element its content."""
        if self.cascade.style_set.may_generate(element, pseudo):
            return True
        return "part" in element.attributes and any(
            scope.cascade.style_set.has(_part(pseudo)) for scope in self._around()
        )

    def _around(self) -> Iterator[Scope]:
        scope = self.outer
        while scope is not None:
            yield scope
            scope = scope.outer

    def carried_out(self, element: Element, pseudo: str = "") -> list[Match]:
        """Rules of this shadow tree that style an element outside: `pseudo` is `slotted`, or "" for its host."""
        return self._carried(element, pseudo, -1)

    def _of_parts(self, element: Element, pseudo: str) -> Iterator[Match]:
        """Rules of the trees around that style the element as a part of its host, or of the host of that."""
        names = frozenset(element.attributes["part"].split())
        scope: Scope | None = self
        steps = 0
        while names and scope is not None and (host := scope.host) is not None and scope.outer is not None:
            steps += 1
            scope = scope.outer
            yield from (match for match in scope._carried(host, _part(pseudo), steps) if match.selector.parts <= names)
            names = _exported(host, names)

    def _carried(self, subject: Element, pseudo: str, steps: int) -> list[Match]:
        styles, cascade = self.cascade.style_set, self.cascade
        certain, stateful = styles.matches(subject, pseudo, self.above, cascade.held(NO_STATES))
        certain += [match for match in stateful if match.selector.matches(subject, cascade.held(match.states))]
        # Browsers' own rules style each tree by themselves.
        return [styles.carried(match, steps) for match in certain if match.sheet.url]


def _part(pseudo: str) -> str:
    """As what selectors for parts, or for a pseudo-element of parts, are known."""
    return f"part::{pseudo}" if pseudo else "part"


def _exported(host: Element, names: frozenset[str]) -> frozenset[str]:
    """The names by which a host shows parts of its shadow tree to the tree around it (`exportparts`)."""
    pairs = (pair.partition(":") for pair in host.attributes.get("exportparts", "").split(","))
    return frozenset((outer.strip() or inner.strip()) for inner, _, outer in pairs if inner.strip() in names)
