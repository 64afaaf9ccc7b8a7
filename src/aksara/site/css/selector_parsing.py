"""Selectors as they are written: read by a library, made into what can be matched."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Sequence

from cssselect2 import parser as selector_parser
from cssselect2.parser import SelectorError
from msgspec.structs import replace
from tinycss2 import nth

from aksara.limits import MAX_SELECTOR_TOKENS
from aksara.site.css.pseudo_classes import (
    BY_ATTRIBUTE,
    NEVER,
    STATE_NAMES,
    STRUCTURAL,
    direction_of,
    is_in_language,
    is_nth,
)
from aksara.site.css.selectors import Compound, Held, Selector, Test
from aksara.site.css.values import Token, meaningful, split_at_commas, tokens_of
from aksara.site.tree import Element

# Attributes that scripts set in place of states.
_STATE_ATTRIBUTES = {"open": "open"}
# Attributes whose values HTML compares without case (HTML, "case-sensitivity of selectors").
_CASELESS = frozenset(
    "accept accept-charset align alink axis bgcolor charset checked clear codetype color compact declare defer dir "
    "direction disabled enctype face frame hreflang http-equiv lang language link media method multiple nohref "
    "noresize noshade nowrap readonly rel rev rules scope scrolling selected shape target text type valign valuetype "
    "vlink".split()
)

_SVG, _MATH = "http://www.w3.org/2000/svg", "http://www.w3.org/1998/Math/MathML"
_NAMESPACES = {"svg": _SVG, "math": _MATH, "": "http://www.w3.org/1999/xhtml"}


def parse_selectors(tokens: Sequence[Token]) -> list[Selector]:
    """The selectors of a list; [] if one of them is invalid or unknown, which makes the list invalid."""
    found = []
    for part in split_at_commas(tokens):
        selector = _parse(part)
        if selector is None:
            return []
        found.append(selector)
    return found


_OLD_PSEUDO_ELEMENTS = frozenset(("before", "after", "first-line", "first-letter"))
# Pseudo-elements that browsers know (Pseudo-Elements 4); those of WebKit never make a list invalid.
_PSEUDO_ELEMENTS = frozenset(
    "before after first-line first-letter marker placeholder file-selector-button selection backdrop cue cue-region "
    "details-content slotted part target-text spelling-error grammar-error highlight view-transition "
    "view-transition-group view-transition-image-pair view-transition-old view-transition-new column "
    "scroll-marker scroll-marker-group scroll-button checkmark picker-icon picker search-text".split()
)
_PSEUDO_ALIASES = {"-webkit-input-placeholder": "placeholder", "-webkit-file-upload-button": "file-selector-button"}


def _parse(tokens: Sequence[Token]) -> Selector | None:
    if not 0 < len(tokens) <= MAX_SELECTOR_TOKENS:
        return None
    plain, pseudo, argument = _without_pseudo_element(tokens)
    if pseudo is None:
        return None
    try:
        parsed = list(selector_parser.parse(plain, namespaces={"svg": _SVG}))
        if len(parsed) != 1:
            return None
        return _compile(parsed[0], pseudo, argument, "".join(token.serialize() for token in tokens).strip())
    except (SelectorError, ValueError, RecursionError):
        return None


def _without_pseudo_element(tokens: Sequence[Token]) -> tuple[list[Token], str | None, Sequence[Token]]:
    """The selector without its pseudo-element, the pseudo-element's name ("" for none), and its argument.

    The name is None where it is one that browsers do not know.
    """
    for index, token in enumerate(tokens[:-1]):
        if not (token.type == "literal" and token.value == ":"):
            continue
        after = tokens[index + 1]
        double = after.type == "literal" and after.value == ":"
        if double:
            after = tokens[index + 2] if index + 2 < len(tokens) else token
        elif not (after.type == "ident" and after.lower_value in _OLD_PSEUDO_ELEMENTS):
            continue
        if after.type not in ("ident", "function"):
            return [], None, ()
        name = after.lower_value if after.type == "ident" else after.lower_name
        if name not in _PSEUDO_ELEMENTS and not name.startswith("-webkit-"):
            return [], None, ()
        # What follows the pseudo-element are its states: `::before:hover`.
        rest = tokens[index + (3 if double else 2) :]
        plain = [*tokens[:index], *rest]
        if not meaningful(tokens[:index]) or tokens[index - 1].type == "whitespace" or _ends_open(tokens[:index]):
            plain = [*tokens[:index], *tokens_of("*"), *rest]
        arguments = after.arguments if after.type == "function" else ()
        if name == "part":
            plain, inner, _ = _without_pseudo_element(plain)
            return plain, inner if inner is None else f"part::{inner}" if inner else "part", arguments
        return plain, _PSEUDO_ALIASES.get(name, name), arguments
    return list(tokens), "", ()


def _ends_open(tokens: Sequence[Token]) -> bool:
    """Whether a combinator is last, so that a compound selector has to follow."""
    last = meaningful(tokens)[-1:]
    return bool(last) and last[0].type == "literal" and last[0].value in ">+~"


def _compile(selector: selector_parser.Selector, pseudo: str, argument: Sequence[Token], text: str) -> Selector:
    tree = selector.parsed_tree
    parts, combinators = [], []
    while isinstance(tree, selector_parser.CombinedSelector):
        parts.append(tree.right)
        combinators.append(tree.combinator)
        tree = tree.left
    parts.append(tree)
    states: set[str] = set()
    compounds = tuple(_compound(part.simple_selectors, states) for part in parts)
    specificity = [0, 0, int(bool(pseudo))]
    for part in parts:
        for simple in part.simple_selectors:
            for index, count in enumerate(_specificity(simple)):
                specificity[index] += count
    above: list[str] = []
    for combinator, compound in zip(combinators, compounds[1:], strict=True):
        if combinator in " >":
            above += [key for key in compound.keys if key != "html"]
    names = frozenset(token.value for token in argument if token.type == "ident" and pseudo.startswith("part"))
    if pseudo.startswith("part") and not names:
        raise SelectorError("a part without a name")
    if pseudo == "slotted":
        inner = parse_selectors(argument)
        if len(inner) == 1 and not inner[0].combinators:
            only = inner[0]
            return Selector(only.compounds, (), only.specificity, only.states, "slotted", text, ())
    return Selector(
        compounds,
        tuple(combinators),
        (specificity[0], specificity[1], specificity[2]),
        frozenset(states),
        pseudo,
        text,
        tuple(dict.fromkeys(above)),
        names,
    )


def _specificity(simple: object) -> tuple[int, int, int]:
    """The library's specificity, except for `:nth-child(… of S)` and `:host(S)`, which it does not support."""
    if isinstance(simple, selector_parser.FunctionalPseudoClassSelector) and simple.name == "where":
        return 0, 0, 0
    a, b, c = simple.specificity  # type: ignore[attr-defined]
    return a, b, c


def _compound(simples: Sequence[object], states: set[str]) -> Compound:
    local_name = lower_name = identifier = ""
    classes: list[str] = []
    tests: list[Test] = []
    attributes: list[str] = []
    alternatives: tuple[str, ...] = ()
    for simple in simples:
        if isinstance(simple, selector_parser.LocalNameSelector):
            local_name, lower_name = simple.local_name, simple.lower_local_name
        elif isinstance(simple, selector_parser.IDSelector) and not identifier:
            identifier = simple.ident
        elif isinstance(simple, selector_parser.ClassSelector):
            classes.append(simple.class_name)
        else:
            if isinstance(simple, selector_parser.AttributeSelector):
                attributes += [] if simple.lower_name in _STATE_ATTRIBUTES else [simple.lower_name]
            if isinstance(simple, selector_parser.MatchesAnySelector | selector_parser.SpecificityAdjustmentSelector):
                # Compiled once: what is nested in it many times over would be compiled twice at each level.
                inner = [_inner(selector, states) for selector in simple.selector_list]
                alternatives = alternatives or _alternatives(inner)
                tests.append(_any_of(inner))
            else:
                tests.append(_simple(simple, states))
    # A pseudo-element of ours: the top of a shadow tree, which only :host matches.
    if not any(getattr(test, "host", False) for test in tests) and not (local_name or identifier or classes):
        tests.insert(0, _is_element)
    return Compound(local_name, lower_name, identifier, tuple(classes), tuple(tests), tuple(attributes), alternatives)


def _alternatives(inner: Sequence[Selector]) -> tuple[str, ...]:
    """Keys of which whatever `:is()` matches has one; () where some of it has none."""
    keys = tuple(dict.fromkeys(key for alternative in inner for key in alternative.keys))
    return () if "" in keys else keys


def _is_element(element: Element, held: Held) -> bool:
    return not element.tag.startswith("#")


def _simple(simple: object, states: set[str]) -> Test:
    if isinstance(simple, selector_parser.IDSelector):
        identifier = simple.ident
        return lambda element, _: element.id == identifier
    if isinstance(simple, selector_parser.NamespaceSelector):
        namespace = simple.namespace
        return lambda element, _: _NAMESPACES[element.language] == namespace
    if isinstance(simple, selector_parser.AttributeSelector):
        return _attribute(simple, states)
    if isinstance(simple, selector_parser.PseudoClassSelector):
        return _pseudo_class(simple.name, states)
    if isinstance(simple, selector_parser.FunctionalPseudoClassSelector):
        return _functional(simple, states)
    if isinstance(simple, selector_parser.RelationalSelector):
        return _Has(simple, states)
    if isinstance(simple, selector_parser.NegationSelector):
        matches = _any_of([_inner(selector, states) for selector in simple.selector_list])
        return lambda element, held: not matches(element, held)
    raise SelectorError(f"unknown selector {simple!r}")


def _inner(selector: selector_parser.Selector, states: set[str]) -> Selector:
    compiled = _compile(selector, "", (), "")
    states |= compiled.states
    return compiled


def _any_of(inner: Sequence[Selector]) -> Test:
    return lambda element, held: any(alternative.matches(element, held) for alternative in inner)


class _Has:
    """`:has()`: relative selectors, each with the element itself (the anchor) in front (Selectors 4, section 4.5)."""

    def __init__(self, simple: selector_parser.RelationalSelector, states: set[str]) -> None:
        # The innermost is last: a `:has()` may stand in what another looks at.
        self._anchors: list[Element] = []
        anchor = Compound("", "", "", (), (self._is_anchor,))
        self._relative: list[tuple[str, Selector]] = []
        for relative in simple.selector_list:
            selector = _inner(relative.selector, states)
            compounds = (*selector.compounds, anchor)
            combinators = (*selector.combinators, relative.combinator)
            anchored = replace(selector, compounds=compounds, combinators=combinators)
            self._relative.append((relative.combinator, anchored))

    def __call__(self, element: Element, held: Held) -> bool:
        """Whether any of the selectors matches, seen from the element."""
        self._anchors.append(element)
        try:
            return any(
                selector.matches(other, held)
                for combinator, selector in self._relative
                for other in held.spending(_looked_at(combinator, element))
            )
        finally:
            self._anchors.pop()

    def _is_anchor(self, element: Element, _: Held) -> bool:
        return element is self._anchors[-1]


def _looked_at(combinator: str, element: Element) -> Iterator[Element]:
    if combinator in " >":
        yield from element.descendants()
        return
    following = element.parent.elements[element.index + 1 :] if element.parent is not None else []
    for sibling in following[:1] if combinator == "+" else following:
        yield sibling
        yield from sibling.descendants()


def _attribute(simple: selector_parser.AttributeSelector, states: set[str]) -> Test:
    name = simple.lower_name
    operator, value = simple.operator, simple.value or ""
    caseless = simple.case_sensitive is False or (simple.case_sensitive is None and name in _CASELESS)
    state = _STATE_ATTRIBUTES.get(name, "") if operator is None else ""
    if state:
        states.add(state)
    wanted = value.lower() if caseless else value
    exact = simple.name

    def test(element: Element, held: Held) -> bool:
        if state and state in held.states:
            return True
        given = element.attributes.get(exact if element.language else name)
        if given is None:
            return False
        return operator is None or _compare(operator, given.lower() if caseless else given, wanted)

    return test


def _compare(operator: str, given: str, wanted: str) -> bool:
    if operator == "=":
        return given == wanted
    if operator == "~=":
        return bool(wanted) and wanted in given.split()
    if operator == "|=":
        return given == wanted or given.startswith(wanted + "-")
    if not wanted:
        return False
    return {"^=": given.startswith(wanted), "$=": given.endswith(wanted), "*=": wanted in given}[operator]


def _pseudo_class(name: str, states: set[str]) -> Test:
    if name in STRUCTURAL:
        structural = STRUCTURAL[name]
        return lambda element, _: structural(element)
    if name in STATE_NAMES:
        states.add(name)
        attributes = BY_ATTRIBUTE.get(name, ())
        return lambda element, held: (
            name in held.states or any(attribute in element.attributes for attribute in attributes)
        )
    if name == "host":
        return _host(None)
    if name in NEVER:
        return lambda element, _: False
    raise SelectorError(f"unknown pseudo-class {name}")


def _host(inner: Sequence[Selector] | None) -> Test:
    def test(element: Element, held: Held) -> bool:
        if element.tag != "#shadow" or element.host is None:
            return False
        return inner is None or any(alternative.matches(element.host, held) for alternative in inner)

    test.host = True  # type: ignore[attr-defined]
    return test


def _functional(simple: selector_parser.FunctionalPseudoClassSelector, states: set[str]) -> Test:
    name, arguments = simple.name, simple.arguments
    if name in ("nth-child", "nth-last-child", "nth-of-type", "nth-last-of-type"):
        return _nth(name, arguments, states)
    if name == "lang":
        ranges = [token.value.lower() for token in arguments if token.type in ("ident", "string")]
        return lambda element, _: is_in_language(element, ranges)
    if name == "dir":
        word = "".join(token.lower_value for token in arguments if token.type == "ident")
        return lambda element, _: direction_of(element) == word
    if name in ("-webkit-any", "matches"):
        inner = [_inner(selector, states) for selector in selector_parser.parse(arguments, forgiving=True)]
        return lambda element, held: any(alternative.matches(element, held) for alternative in inner)
    if name in ("host", "host-context"):
        return _host([_inner(selector, states) for selector in selector_parser.parse(arguments, forgiving=True)])
    if name in ("state", "active-view-transition-type"):
        return lambda element, _: False
    raise SelectorError(f"unknown pseudo-class {name}")


def _nth(name: str, arguments: Sequence[Token], states: set[str]) -> Test:
    """`:nth-child(2n + 1 of S)` and its kin (Selectors 4, section 13.3)."""
    index = next((n for n, token in enumerate(arguments) if token.type == "ident" and token.lower_value == "of"), None)
    step_and_start = nth.parse_nth(list(arguments[:index]))
    if step_and_start is None:
        raise SelectorError(f"bad argument of {name}")
    step, start = step_and_start
    selectors = [] if index is None else selector_parser.parse(list(arguments[index + 1 :]))
    of = [_inner(selector, states) for selector in selectors]
    by_type, backwards = name.endswith("of-type"), "last" in name

    def test(element: Element, held: Held) -> bool:
        counted = element.siblings
        if by_type:
            counted = element.same_tag
        elif of:
            elements = held.spending(iter(counted))
            counted = [sibling for sibling in elements if any(one.matches(sibling, held) for one in of)]
        index = bisect_left(counted, element.index, key=lambda sibling: sibling.index)
        if index == len(counted) or counted[index] is not element:
            return False
        return is_nth(len(counted) - index if backwards else index + 1, step, start)

    return test
