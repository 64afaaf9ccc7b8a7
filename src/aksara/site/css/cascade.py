"""The cascade: which rules match an element, in which worlds and states, and the styles that follow."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec import Struct, field

from aksara.site.css.media import World, parse_media, worlds_for
from aksara.site.css.properties import Declared
from aksara.site.css.selectors import NO_STATES, Held, Selector, States, Work
from aksara.site.css.styles import (
    AUTHOR,
    AUTHOR_IMPORTANT,
    BROWSER,
    BROWSER_IMPORTANT,
    HINTS,
    Block,
    Style,
    Styles,
)
from aksara.site.css.stylesheets import Layer, Rule, StyleSheet, parse_attribute
from aksara.site.css.user_agent import presentational_hints, quirks_sheet, user_agent_sheet
from aksara.site.css.values import tokens_of, variable_names
from aksara.site.tree import Element

#: Sets of states that are looked at for one element.
_MAX_STATES = 12
_TOP = 1_000_000
# Kinds of elements (name, id, classes) for which rules are looked up once.
_MAX_KINDS = 20_000


class AppliedSheet(Struct, frozen=True):
    """A sheet as a page applies it: with the media that it is for, and the layer that its rules go into."""

    sheet: StyleSheet
    media: tuple[str, ...] = ()
    layer: Layer = ()


class Variant(Struct, frozen=True):
    """A style that an element may have: in the worlds of `mask`, while `states` hold."""

    mask: int
    states: States
    style: Style


class Match(Struct, frozen=True, eq=False):
    """A selector of a rule, with where it stands in the cascade. `mask` are the worlds in which it holds."""

    selector: Selector
    rule: Rule
    sheet: StyleSheet
    mask: int
    states: States
    blocks: tuple[Block, ...]
    #: That an element has its key is enough.
    by_key: bool


class _Kind(Struct):
    """The rules that may match elements of one kind: those that may stand anywhere, and by a key that must be above.

    `generates`: some of them give generated content.
    """

    anywhere: list[Match] = field(default_factory=list)
    below: dict[str, list[Match]] = field(default_factory=dict)
    generates: bool = False


class _Index(Struct):
    """Matches by the id, class or name that their subject needs."""

    ids: dict[str, list[Match]] = field(default_factory=dict)
    classes: dict[str, list[Match]] = field(default_factory=dict)
    tags: dict[str, list[Match]] = field(default_factory=dict)
    attributes: dict[str, list[Match]] = field(default_factory=dict)
    others: list[Match] = field(default_factory=list)
    _kinds: dict[tuple[object, ...], _Kind] = field(default_factory=dict)

    def add(self, match: Match) -> None:
        for key in match.selector.keys:
            if key.startswith("#"):
                self.ids.setdefault(key[1:], []).append(match)
            elif key.startswith("."):
                self.classes.setdefault(key[1:], []).append(match)
            elif key.startswith("["):
                self.attributes.setdefault(key[1:], []).append(match)
            elif key:
                self.tags.setdefault(key, []).append(match)
            else:
                self.others.append(match)

    def candidates(self, element: Element, above: Mapping[str, int]) -> Iterator[Match]:
        """All that may match the element, each once; `above` are the keys of its ancestors."""
        kind = self.kind(element)
        yield from kind.anywhere
        # Of the keys of ancestors and those that are asked for the fewer are gone through.
        for each in above if len(above) < len(kind.below) else kind.below:
            if each in above and each in kind.below:
                yield from kind.below[each]

    def kind(self, element: Element) -> _Kind:
        """What is known of elements with its name, id and classes."""
        key = (element.tag, element.id, element.classes, tuple(element.attributes) if self.attributes else ())
        found = self._kinds.get(key)
        if found is None:
            if len(self._kinds) >= _MAX_KINDS:
                self._kinds.clear()
            found = self._kinds[key] = self._grouped(element)
        return found

    def _grouped(self, element: Element) -> _Kind:
        kind = _Kind()
        candidates = list(dict.fromkeys(self._by_keys(element)))
        asked = Counter(key for match in candidates for key in match.selector.ancestors)
        for match in candidates:
            kind.generates |= any("content" in block.declared for block in match.blocks)
            if match.selector.ancestors:
                # The key that the fewest ask for tells the most.
                kind.below.setdefault(min(match.selector.ancestors, key=asked.__getitem__), []).append(match)
            else:
                kind.anywhere.append(match)
        return kind

    def _by_keys(self, element: Element) -> Iterator[Match]:
        if element.id:
            yield from self.ids.get(element.id, ())
        for name in element.classes:
            yield from self.classes.get(name, ())
        yield from self.tags.get(element.tag.lower() if element.language else element.tag, ())
        if self.attributes:
            for name in element.attributes:
                yield from self.attributes.get(name.lower() if element.language else name, ())
        yield from self.others


class Worlds:
    """The screens in which pages with these sheets are read: one for each outcome of their media queries."""

    def __init__(self, sheets: Iterable[AppliedSheet], *, printed: bool) -> None:
        texts: dict[str, None] = {}
        for applied in sheets:
            texts |= dict.fromkeys(applied.media)
            for rule in applied.sheet.rules:
                texts |= dict.fromkeys(rule.media)
        conditions = {text: parse_media(text) for text in texts}
        told_apart: dict[tuple[bool, ...], World] = {}
        for world in worlds_for(conditions.values(), printed=printed):
            told_apart.setdefault(tuple(condition.holds(world) is True for condition in conditions.values()), world)
        self.all = (1 << len(told_apart)) - 1
        self._masks = {
            text: sum(1 << place for place, outcome in enumerate(told_apart) if outcome[number])
            for number, text in enumerate(conditions)
        }

    def mask(self, media: Sequence[str]) -> int:
        """The worlds in which all the queries hold."""
        mask = self.all
        for text in media:
            mask &= self._masks[text]
        return mask


#: Rules that match one element and that every site may have.
_FEW_RULES = 100


class StyleSet:
    """All rules that a tree is styled by, found by what they need. `used` are the custom properties that `style`
    attributes refer to."""

    def __init__(
        self, applied: Sequence[AppliedSheet], worlds: Worlds, *, quirks: bool, used: Iterable[str] = ()
    ) -> None:
        self.worlds = worlds
        self.styles = Styles()
        browser = [AppliedSheet(user_agent_sheet())]
        if quirks:
            browser.append(AppliedSheet(quirks_sheet()))
        everything = [*browser, *applied]
        self.needed = _needed_variables((each.sheet for each in everything), used)
        ranks = _layer_ranks(applied)
        self._by_pseudo: dict[str, _Index] = {"": _Index()}
        order = 0
        for number, each in enumerate(everything):
            for rule in each.sheet.rules:
                order += 1
                mask = worlds.mask((*each.media, *rule.media))
                normal, important = self._kept(rule.normal), self._kept(rule.important)
                if not mask or not (normal or important):
                    continue
                rank = ranks.get((*each.layer, *rule.layer), _TOP)
                is_browser = number < len(browser)
                for written in rule.selectors:
                    selector = written.caseless() if quirks else written
                    blocks = _blocks(normal, important, rank, selector, order, is_browser=is_browser)
                    states = selector.states | rule.states
                    match = Match(selector, rule, each.sheet, mask, states, blocks, selector.is_its_key)
                    self._by_pseudo.setdefault(selector.pseudo, _Index()).add(match)

    def _kept(self, declared: Declared) -> Declared:
        if not any(name.startswith("--") and name not in self.needed for name in declared):
            return declared
        return {name: value for name, value in declared.items() if not name.startswith("--") or name in self.needed}

    def may_generate(self, element: Element, pseudo: str) -> bool:
        """Whether any rule that might match gives `::before` or `::after` of the element its content."""
        index = self._by_pseudo.get(pseudo)
        return index is not None and index.kind(element).generates

    def has(self, pseudo: str) -> bool:
        """Whether any rule is for that pseudo-element."""
        return pseudo in self._by_pseudo

    def matches(
        self, element: Element, pseudo: str, above: Mapping[str, int], held: Held
    ) -> tuple[list[Match], list[Match]]:
        """The rules that match whatever states hold, and those that some states would change.

        `above` counts the keys of all ancestors, for those that need one that is not there.
        """
        certain: list[Match] = []
        stateful: list[Match] = []
        index = self._by_pseudo.get(pseudo)
        if index is None:
            return certain, stateful
        held.work.spend()
        for match in index.candidates(element, above):
            selector = match.selector
            for key in selector.ancestors:
                if key not in above:
                    break
            else:
                if match.states:
                    stateful.append(match)
                elif match.by_key or selector.matches(element, held):
                    certain.append(match)
        return certain, stateful


def _blocks(
    normal: Declared, important: Declared, rank: int, selector: Selector, order: int, *, is_browser: bool
) -> tuple[Block, ...]:
    found = []
    if normal:
        origin = BROWSER if is_browser else AUTHOR
        found.append(Block((origin, 0, rank, selector.specificity, order), normal))
    if important:
        origin = BROWSER_IMPORTANT if is_browser else AUTHOR_IMPORTANT
        # Among important declarations the earlier layer wins (CSS Cascade 5, section 6.4.4).
        found.append(Block((origin, 0, -rank, selector.specificity, order), important))
    return tuple(found)


def _needed_variables(sheets: Iterable[StyleSheet], used: Iterable[str]) -> set[str]:
    """The custom properties that anything about fonts or text depends on, `used` ones and those in their values."""
    sheets = list(sheets)
    needed = {name for sheet in sheets for name in sheet.used} | set(used)
    texts: dict[str, set[str]] = {}
    for sheet in sheets:
        for rule in sheet.rules:
            for declared in (rule.normal, rule.important):
                for name, value in declared.items():
                    if name.startswith("--") and "var(" in value:
                        texts.setdefault(name, set()).update(variable_names(tokens_of(value)))
    waiting = list(needed)
    while waiting:
        more = texts.get(waiting.pop(), set()) - needed
        needed |= more
        waiting += more
    return needed


def _layer_ranks(applied: Sequence[AppliedSheet]) -> dict[Layer, int]:
    """Where each layer ranks; what is in a layer itself comes after its sublayers (CSS Cascade 5, section 6.4.3)."""
    named: dict[Layer, None] = {}
    for each in applied:
        for layer in ([each.layer] if each.layer else []) + [(*each.layer, *layer) for layer in each.sheet.layers]:
            for length in range(1, len(layer) + 1):
                named.setdefault(layer[:length])
    order = {layer: place for place, layer in enumerate(named)}

    def key(layer: Layer) -> tuple[int, ...]:
        return (*(order[layer[:length]] for length in range(1, len(layer) + 1)), _TOP)

    return {layer: rank for rank, layer in enumerate(sorted(named, key=key))}


class Cascade:
    """Styles the elements of a tree, from the top down."""

    def __init__(self, style_set: StyleSet, work: Work) -> None:
        self.style_set = style_set
        self._work = work
        self._helds: dict[States, Held] = {}

    @property
    def root_variants(self) -> list[Variant]:
        """What the root element inherits from."""
        return [Variant(self.style_set.worlds.all, NO_STATES, self.style_set.styles.initial)]

    def held(self, states: States) -> Held:
        """Those states, with the page's work."""
        found = self._helds.get(states)
        if found is None:
            found = self._helds[states] = Held(states, self._work)
        return found

    def variants(
        self,
        element: Element,
        parents: Sequence[Variant],
        above: Mapping[str, int],
        pseudo: str = "",
        more: Sequence[Match] = (),
    ) -> list[Variant]:
        """The styles that an element, or its pseudo-element, may have; `more` are rules of its own shadow tree."""
        certain, stateful = self.style_set.matches(element, pseudo, above, self.held(NO_STATES))
        # A few rules for an element are what sites have; many, for many elements, are work without end.
        self._work.spend(max(len(certain) + len(stateful) - _FEW_RULES, 0) // 2)
        certain += more
        stateful = [match for match in stateful if self._may_match(match, element)]
        own_blocks, own_key = self._own_blocks(element) if not pseudo else ((), ())
        everywhere = self.style_set.worlds.all
        partial = [match for match in certain if match.mask != everywhere]
        if not partial and not stateful:
            blocks = [block for match in certain for block in match.blocks]
            blocks += own_blocks
            key = (*map(id, certain), *own_key)
            return _merged([Variant(each.mask, each.states, self._style(each, blocks, key)) for each in parents])
        whole = [match for match in certain if match.mask == everywhere]
        return _merged(self._in_states(element, parents, whole, partial, stateful, own_blocks, own_key))

    def _may_match(self, match: Match, element: Element) -> bool:
        """Whether a rule that asks for states matches in any of them."""
        selector = match.selector
        return selector.matches(element, self.held(match.states)) or selector.matches(element, self.held(NO_STATES))

    def _in_states(
        self,
        element: Element,
        parents: Sequence[Variant],
        whole: Sequence[Match],
        partial: Sequence[Match],
        stateful: Sequence[Match],
        own_blocks: Sequence[Block],
        own_key: tuple[object, ...],
    ) -> Iterator[Variant]:
        wanted = {NO_STATES: None} | dict.fromkeys(each.states for each in parents)
        plain = self.held(NO_STATES)
        for match in stateful:
            in_states = match.selector.matches(element, self.held(match.states))
            without = not match.rule.states and match.selector.matches(element, plain)
            if in_states != without and len(wanted) < _MAX_STATES:
                wanted[match.states] = None
        for states in wanted:
            held = self.held(states)
            active = [
                match for match in stateful if match.rule.states <= states and match.selector.matches(element, held)
            ]
            everywhere = self.style_set.worlds.all
            always = [*whole, *(match for match in active if match.mask == everywhere)]
            sometimes = [*partial, *(match for match in active if match.mask != everywhere)]
            inherited = [each for each in parents if each.states == states] or [
                each for each in parents if not each.states
            ]
            for parent in inherited:
                for mask, matches in _split(parent.mask, sometimes):
                    chosen = [*always, *matches]
                    blocks = [block for match in chosen for block in match.blocks]
                    blocks += own_blocks
                    yield Variant(mask, states, self._style(parent, blocks, (*map(id, chosen), *own_key)))

    def _style(self, parent: Variant, blocks: Sequence[Block], key: tuple[object, ...]) -> Style:
        return self.style_set.styles.compute(parent.style, blocks, key)

    def _own_blocks(self, element: Element) -> tuple[Sequence[Block], tuple[object, ...]]:
        """What the element's own attributes declare, and a key for it."""
        blocks: list[Block] = []
        key: list[object] = []
        if hints := presentational_hints(element):
            blocks.append(Block((HINTS, 0, 0, (0, 0, 0), 0), hints))
            key.append(tuple(hints.items()))
        text = element.attributes.get("style", "")
        if text and _may_matter(text, self.style_set.needed):
            normal, important = parse_attribute(text[:20_000])
            if normal:
                blocks.append(Block((AUTHOR, 1, 0, (0, 0, 0), 0), normal))
            if important:
                blocks.append(Block((AUTHOR_IMPORTANT, 1, 0, (0, 0, 0), 0), important))
            key.append(text)
        return blocks, tuple(key)


_INLINE_WORDS = ("font", "display", "content", "text-", "white-space", "quotes", "list-style", "counter", "all", "hyph",
                 "clamp")  # fmt: skip


def _may_matter(text: str, needed: set[str]) -> bool:
    """Whether a `style` attribute can say anything about fonts or text; most do not."""
    lower = text.lower()
    return any(word in lower for word in _INLINE_WORDS) or ("--" in text and any(name in text for name in needed))


def _split(mask: int, matches: Sequence[Match]) -> list[tuple[int, list[Match]]]:
    """The worlds of the mask, put together where the same rules hold."""
    groups: list[tuple[int, list[Match]]] = [(mask, [])]
    for match in matches:
        split = []
        for worlds, chosen in groups:
            if inside := worlds & match.mask:
                split.append((inside, [*chosen, match]))
            if outside := worlds & ~match.mask:
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
    return [each for each in result if not each.states or each.states in changed]


def keys_of(element: Element) -> Iterator[str]:
    """What selectors may ask of an element: `#id`, `.class`, `tag`."""
    if element.id:
        yield "#" + element.id
    for name in element.classes:
        yield "." + name
    yield element.tag.lower() if element.language else element.tag
