"""The cascade: the styles of an element, in each media environment and state, from the rules that match it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec import Struct

from aksara.limits import MAX_STATE_SETS
from aksara.site.css.selectors import NO_STATES, Held, MatchingWork, States
from aksara.site.css.style_sets import Match, StyleSet
from aksara.site.css.styles import AUTHOR, AUTHOR_IMPORTANT, HINTS, DeclarationBlock, Style
from aksara.site.css.stylesheets import parse_attribute
from aksara.site.css.user_agent import presentational_hints
from aksara.site.tree import Element

#: Rules that match one element and that every site may have.
_FEW_RULES = 100


class _Rules(Struct, frozen=True):
    """What is declared for an element: by rules that match in every environment, in some of them (`partial`), or in
    some states; and by its own attributes, with a key for that."""

    everywhere: Sequence[Match]
    partial: Sequence[Match]
    stateful: Sequence[Match]
    own_blocks: Sequence[DeclarationBlock]
    own_key: tuple[object, ...]


class Variant(Struct, frozen=True):
    """A style that an element may have: in the environments of `mask`, while `states` hold."""

    mask: int
    states: States
    style: Style


class Cascade:
    """Styles the elements of a tree, from the top down."""

    def __init__(self, style_set: StyleSet, work: MatchingWork) -> None:
        self.style_set = style_set
        self._work = work
        self._helds: dict[States, Held] = {}

    @property
    def root_variants(self) -> list[Variant]:
        """The styles that the root element inherits."""
        return [Variant(self.style_set.environments.all, NO_STATES, self.style_set.styles.initial)]

    def held(self, states: States) -> Held:
        """Those states, with the page's work."""
        known = self._helds.get(states)
        if known is None:
            known = self._helds[states] = Held(states, self._work)
        return known

    def variants(
        self,
        element: Element,
        parents: Sequence[Variant],
        above: Mapping[str, int],
        pseudo: str = "",
        more: Sequence[Match] = (),
    ) -> list[Variant]:
        """The styles that an element, or its pseudo-element, may have; `more` are rules of other trees."""
        certain, stateful = self.style_set.matches(element, pseudo, above, self.held(NO_STATES))
        # A few rules for an element are what sites have; many, for many elements, are work without end.
        self._work.spend(max(len(certain) + len(stateful) - _FEW_RULES, 0) // 2)
        if more:
            certain += (match for match in more if not match.states)
            stateful += (match for match in more if match.states)
        if stateful:
            stateful = [match for match in stateful if self._may_match(match, element)]
        own_blocks, own_key = self._own_blocks(element) if not pseudo and element.attributes else ((), ())
        everywhere = self.style_set.environments.all
        partial = [match for match in certain if match.mask != everywhere]
        if not partial and not stateful:
            key = (*certain, *own_key)
            return _merged(
                [
                    Variant(parent.mask, parent.states, self._style(parent, certain, own_blocks, key))
                    for parent in parents
                ]
            )
        whole = [match for match in certain if match.mask == everywhere]
        rules = _Rules(whole, partial, stateful, own_blocks, own_key)
        return _merged(self._in_states(element, parents, rules))

    def _may_match(self, match: Match, element: Element) -> bool:
        """Whether a rule that asks for states matches in any of them."""
        selector = match.selector
        return selector.matches(element, self.held(match.states)) or selector.matches(element, self.held(NO_STATES))

    def _in_states(self, element: Element, parents: Sequence[Variant], rules: _Rules) -> Iterator[Variant]:
        """The element's styles in each set of states that its parents or its rules know."""
        everywhere = self.style_set.environments.all
        for states in self._state_sets(element, parents, rules.stateful):
            held = self.held(states)
            active = [
                match
                for match in rules.stateful
                if match.rule.states <= states and match.selector.matches(element, held)
            ]
            always = [*rules.everywhere, *(match for match in active if match.mask == everywhere)]
            sometimes = [*rules.partial, *(match for match in active if match.mask != everywhere)]
            inherited = [parent for parent in parents if parent.states == states] or [
                parent for parent in parents if not parent.states
            ]
            for parent in inherited:
                for mask, matches in _split(parent.mask, sometimes):
                    chosen = [*always, *matches]
                    style = self._style(parent, chosen, rules.own_blocks, (*chosen, *rules.own_key))
                    yield Variant(mask, states, style)

    def _state_sets(self, element: Element, parents: Sequence[Variant], stateful: Sequence[Match]) -> Iterable[States]:
        """The sets of states in which the element may look different: those of its parents, and of rules that match in
        them only."""
        state_sets = {NO_STATES: None} | dict.fromkeys(parent.states for parent in parents)
        plain = self.held(NO_STATES)
        for match in stateful:
            in_states = match.selector.matches(element, self.held(match.states))
            without = not match.rule.states and match.selector.matches(element, plain)
            if in_states != without and len(state_sets) < MAX_STATE_SETS:
                state_sets[match.states] = None
        return state_sets

    def _style(
        self,
        parent: Variant,
        matches: Sequence[Match],
        own_blocks: Sequence[DeclarationBlock],
        key: tuple[object, ...],
    ) -> Style:
        known = self.style_set.styles.known(parent.style, key)
        if known is not None:
            return known
        blocks = [block for match in matches for block in match.blocks]
        return self.style_set.styles.compute(parent.style, [*blocks, *own_blocks], key)

    def _own_blocks(self, element: Element) -> tuple[Sequence[DeclarationBlock], tuple[object, ...]]:
        """The declarations of the element's attributes, and a key for them."""
        blocks: list[DeclarationBlock] = []
        key: list[object] = []
        if hints := presentational_hints(element):
            blocks.append(DeclarationBlock((HINTS, 0, 0, (0, 0, 0), 0), hints))
            key.append(tuple(hints.items()))
        text = element.attributes.get("style", "")
        if text and _may_matter(text, self.style_set.needed):
            normal, important = parse_attribute(text[:20_000])
            if normal:
                blocks.append(DeclarationBlock((AUTHOR, 1, 0, (0, 0, 0), 0), normal))
            if important:
                blocks.append(DeclarationBlock((AUTHOR_IMPORTANT, 1, 0, (0, 0, 0), 0), important))
            key.append(text)
        return blocks, tuple(key)


_INLINE_WORDS = ("font", "display", "content", "text-", "white-space", "quotes", "list-style", "counter", "all", "hyph",
                 "clamp")  # fmt: skip


def _may_matter(text: str, needed: set[str]) -> bool:
    """Whether a `style` attribute can say anything about fonts or text; most do not."""
    lower = text.lower()
    return any(word in lower for word in _INLINE_WORDS) or ("--" in text and any(name in text for name in needed))


def _split(mask: int, matches: Sequence[Match]) -> list[tuple[int, list[Match]]]:
    """The environments of the mask, put together where the same rules hold."""
    groups: list[tuple[int, list[Match]]] = [(mask, [])]
    for match in matches:
        split = []
        for environments, chosen in groups:
            if inside := environments & match.mask:
                split.append((inside, [*chosen, match]))
            if outside := environments & ~match.mask:
                split.append((outside, chosen))
        groups = split
    return groups


def _merged(variants: Iterable[Variant]) -> list[Variant]:
    """Equal styles in one; states that change nothing are dropped."""
    variants = list(variants)
    if len(variants) == 1:
        return variants
    masks: dict[tuple[States, int], tuple[int, Style]] = {}
    for variant in variants:
        key = (variant.states, id(variant.style))
        mask, _ = masks.get(key, (0, variant.style))
        masks[key] = (mask | variant.mask, variant.style)
    plain = {(id(style), mask) for (states, _), (mask, style) in masks.items() if not states}
    result = [Variant(mask, states, style) for (states, _), (mask, style) in masks.items()]
    if len(masks) == len(plain):
        return result
    changed = {states for (states, _), (mask, style) in masks.items() if (id(style), mask) not in plain}
    return [variant for variant in result if not variant.states or variant.states in changed]
