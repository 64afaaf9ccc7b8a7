"""All rules that style a tree, indexed by what they need of an element."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.limits import MAX_ELEMENT_KINDS
from aksara.site.css.media import MediaEnvironment, environments_for, parse_media
from aksara.site.css.properties import Declared
from aksara.site.css.selectors import Compound, Held, Selector, States
from aksara.site.css.styles import (
    AUTHOR,
    AUTHOR_IMPORTANT,
    BROWSER,
    BROWSER_IMPORTANT,
    DeclarationBlock,
    Priority,
    Styles,
)
from aksara.site.css.stylesheets import Layer, StyleRule, StyleSheet
from aksara.site.css.user_agent import quirks_sheet, user_agent_sheet
from aksara.site.css.values import tokens_of, variable_names
from aksara.site.tree import Element

_TOP = 1_000_000


class AppliedSheet(Struct, frozen=True):
    """A sheet as a page applies it: with its media, and the layer of its rules."""

    sheet: StyleSheet
    media: tuple[str, ...] = ()
    layer: Layer = ()


class MediaEnvironments:
    """The screens in which pages with these sheets are read: one for each outcome of their media queries."""

    def __init__(self, sheets: Iterable[AppliedSheet], *, printed: bool) -> None:
        texts: dict[str, None] = {}
        for applied in sheets:
            texts |= dict.fromkeys(applied.media)
            for rule in applied.sheet.rules:
                texts |= dict.fromkeys(rule.media)
        conditions = {text: parse_media(text) for text in texts}
        told_apart: dict[tuple[bool, ...], MediaEnvironment] = {}
        for environment in environments_for(conditions.values(), printed=printed):
            told_apart.setdefault(
                tuple(condition.holds(environment) is True for condition in conditions.values()), environment
            )
        self.all = (1 << len(told_apart)) - 1
        self._masks = {
            text: sum(1 << index for index, outcome in enumerate(told_apart) if outcome[position])
            for position, text in enumerate(conditions)
        }

    def mask(self, media: Sequence[str]) -> int:
        """The environments in which all the queries hold."""
        mask = self.all
        for text in media:
            mask &= self._masks[text]
        return mask


class Match(Struct, frozen=True, eq=False):
    """A selector of a rule, with where it stands in the cascade. `mask` are the environments in which it holds."""

    selector: Selector
    rule: StyleRule
    sheet: StyleSheet
    mask: int
    states: States
    blocks: tuple[DeclarationBlock, ...]
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

    def candidates(self, element: Element, above: Mapping[str, int]) -> Sequence[Match]:
        """All that may match the element, each once; `above` are the keys of its ancestors, with all that a rule
        needs."""
        kind = self.kind(element)
        if not kind.below:
            return kind.anywhere
        found = list(kind.anywhere)
        # Of the keys of ancestors and those that are asked for the fewer are gone through.
        for key in above if len(above) < len(kind.below) else kind.below:
            if key in above and key in kind.below:
                found += (match for match in kind.below[key] if all(each in above for each in match.selector.ancestors))
        return found

    def kind(self, element: Element) -> _Kind:
        """Cached results for elements with the same name, id and classes."""
        key = (element.names, tuple(element.attributes)) if self.attributes else element.names
        found = self._kinds.get(key)
        if found is None:
            if len(self._kinds) >= MAX_ELEMENT_KINDS:
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
                # The rarest key is the most selective.
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


class StyleSet:
    """All rules that style a tree, indexed by what they need. `used` are the custom properties that `style`
    attributes refer to."""

    def __init__(
        self,
        applied: Sequence[AppliedSheet],
        environments: MediaEnvironments,
        *,
        quirks: bool,
        used: Iterable[str] = (),
    ) -> None:
        self.environments = environments
        self.styles = Styles()
        browser = [AppliedSheet(user_agent_sheet())]
        if quirks:
            browser.append(AppliedSheet(quirks_sheet()))
        everything = [*browser, *applied]
        self.needed = _needed_variables((applied_sheet.sheet for applied_sheet in everything), used)
        ranks = _layer_ranks(applied)
        self._by_pseudo: dict[str, _Index] = {"": _Index()}
        self._carried: dict[tuple[Match, int], Match] = {}
        order = 0
        for index, applied_sheet in enumerate(everything):
            for rule in applied_sheet.sheet.rules:
                order += 1
                mask = environments.mask((*applied_sheet.media, *rule.media))
                normal, important = self._kept(rule.normal), self._kept(rule.important)
                if not mask or not (normal or important):
                    continue
                rank = ranks.get((*applied_sheet.layer, *rule.layer), _TOP)
                is_browser = index < len(browser)
                for written in rule.selectors:
                    selector = written.caseless() if quirks else written
                    blocks = _blocks(normal, important, rank, selector, order, is_browser=is_browser)
                    states = selector.states | rule.states
                    match = Match(selector, rule, applied_sheet.sheet, mask, states, blocks, selector.is_its_key)
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
        """The rules that match in all states, and those that depend on states.

        `above` counts the keys of all ancestors, for those that need one that does not exist.
        """
        certain: list[Match] = []
        stateful: list[Match] = []
        index = self._by_pseudo.get(pseudo)
        if index is None:
            return certain, stateful
        held.work.spend()
        for match in index.candidates(element, above):
            if match.states:
                stateful.append(match)
            elif match.by_key or match.selector.matches(element, held):
                certain.append(match)
        return certain, stateful

    def carried(self, match: Match, steps: int) -> Match:
        """A rule of this tree that styles an element of another, `steps` trees farther in (-1: around this one).

        Its selector is known to match when its states hold, so it asks for no more.
        """
        found = self._carried.get((match, steps))
        if found is None:
            asked = Compound("", "", "", (), (lambda _, held: match.states <= held.states,))
            selector = replace(match.selector, compounds=(asked,), combinators=(), ancestors=())
            blocks = tuple(replace(block, priority=_shifted(block.priority, steps)) for block in match.blocks)
            found = self._carried[match, steps] = replace(match, selector=selector, blocks=blocks)
        return found


def _shifted(priority: Priority, steps: int) -> Priority:
    """Trees count for more than `style` attributes; among important declarations the inner one wins."""
    origin, tree, *others = priority
    if origin in (AUTHOR_IMPORTANT, BROWSER_IMPORTANT):
        steps = -steps
    return origin, tree + 2 * steps, *others  # type: ignore[return-value]


def _blocks(
    normal: Declared, important: Declared, rank: int, selector: Selector, order: int, *, is_browser: bool
) -> tuple[DeclarationBlock, ...]:
    blocks = []
    if normal:
        origin = BROWSER if is_browser else AUTHOR
        blocks.append(DeclarationBlock((origin, 0, rank, selector.specificity, order), normal))
    if important:
        origin = BROWSER_IMPORTANT if is_browser else AUTHOR_IMPORTANT
        # Among important declarations the earlier layer wins (CSS Cascade 5, section 6.4.4).
        blocks.append(DeclarationBlock((origin, 0, -rank, selector.specificity, order), important))
    return tuple(blocks)


def _needed_variables(sheets: Iterable[StyleSheet], used: Iterable[str]) -> set[str]:
    """The custom properties that anything about fonts or text depends on, `used` ones and those in their values."""
    sheets = list(sheets)
    needed = {name for sheet in sheets for name in sheet.used} | set(used)
    texts: dict[str, set[str]] = {}
    for sheet in sheets:
        for rule in sheet.rules:
            for declared in (rule.normal, rule.important):
                for name, value in declared.items():
                    if name.startswith("--") and isinstance(value, str) and "var(" in value:
                        texts.setdefault(name, set()).update(variable_names(tokens_of(value)))
    waiting = list(needed)
    while waiting:
        more = texts.get(waiting.pop(), set()) - needed
        needed |= more
        waiting += more
    return needed


def _layer_ranks(applied: Sequence[AppliedSheet]) -> dict[Layer, int]:
    """The rank of each layer; a layer's own rules come after its sublayers (CSS Cascade 5, section 6.4.3)."""
    named: dict[Layer, None] = {}
    for applied_sheet in applied:
        own = [applied_sheet.layer] if applied_sheet.layer else []
        for layer in own + [(*applied_sheet.layer, *inner) for inner in applied_sheet.sheet.layers]:
            for length in range(1, len(layer) + 1):
                named.setdefault(layer[:length])
    order = {layer: index for index, layer in enumerate(named)}

    def key(layer: Layer) -> tuple[int, ...]:
        return (*(order[layer[:length]] for length in range(1, len(layer) + 1)), _TOP)

    return {layer: rank for rank, layer in enumerate(sorted(named, key=key))}


def keys_of(element: Element) -> list[str]:
    """What selectors may ask of an element: `#id`, `.class`, `tag`."""
    keys = ["." + name for name in element.classes]
    if element.id:
        keys.append("#" + element.id)
    keys.append(element.tag.lower() if element.language else element.tag)
    return keys
