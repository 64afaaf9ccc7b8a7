"""Selectors (Selectors 4): parsed by a library, matched here, since what a state might change has to count.

Which states hold (`:hover`, `:checked`, `[open]`) is no fact of the page, so each question is asked under a set of
states that are taken to hold.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from enum import IntEnum

from cssselect2 import parser as selector_parser
from cssselect2.parser import SelectorError
from tinycss2 import nth

from aksara.site.tree import Element
from aksara.site.values import Token, meaningful, split_at_commas, tokens_of

#: Tokens of one selector, those in brackets counted once; longer ones are invalid.
MAX_TOKENS = 400

States = frozenset[str]
NO_STATES: States = frozenset()
#: Elements that the selectors of a page may look at.
MAX_WORK = 2_000_000


class TooMuchWorkError(Exception):
    """A page and its selectors are such that finding out which match would take too long."""


@dataclass(slots=True)
class Work:
    """How much may still be done for a page."""

    left: int = MAX_WORK

    def spend(self, amount: int = 1) -> None:
        """Raise `TooMuchWorkError` where nothing is left."""
        self.left -= amount
        if self.left < 0:
            raise TooMuchWorkError


@dataclass(slots=True, frozen=True, eq=False)
class Held:
    """The states that are taken to hold while selectors are matched, and the work that this may take."""

    states: States
    work: Work

    def spending(self, elements: Iterator[Element]) -> Iterator[Element]:
        """The elements, each of which counts as work."""
        for element in elements:
            self.work.spend()
            yield element


Test = Callable[[Element, Held], bool]

#: Pseudo-classes that depend on what a reader does or has done (Selectors 4, sections 9 to 12).
_STATES = frozenset(
    "hover active focus focus-within focus-visible target target-within checked indeterminate open popover-open modal "
    "fullscreen picture-in-picture valid invalid user-valid user-invalid in-range out-of-range autofill "
    "-webkit-autofill playing paused muted seeking stalled buffering volume-locked current past future blank "
    "-webkit-full-screen".split()
)
# States that an attribute brings about from the start.
_BY_ATTRIBUTE = {"checked": ("checked", "selected"), "open": ("open",)}
# Attributes that scripts set in place of states.
_STATE_ATTRIBUTES = {"open": "open"}
# Pseudo-classes that are valid and that no page without scripts can be in, or whose effect is not on fonts.
_NEVER = frozenset("visited local-link host-context xr-overlay defined-not".split())

# Attributes whose values HTML compares without case (HTML, "case-sensitivity of selectors").
_CASELESS = frozenset(
    "accept accept-charset align alink axis bgcolor charset checked clear codetype color compact declare defer dir "
    "direction disabled enctype face frame hreflang http-equiv lang language link media method multiple nohref "
    "noresize noshade nowrap readonly rel rev rules scope scrolling selected shape target text type valign valuetype "
    "vlink".split()
)

_SVG, _MATH = "http://www.w3.org/2000/svg", "http://www.w3.org/1998/Math/MathML"
_NAMESPACES = {"svg": _SVG, "math": _MATH, "": "http://www.w3.org/1999/xhtml"}


class _Outcome(IntEnum):
    """Whether a selector matches and, if not, what need not be tried any more: further siblings, or anything."""

    MATCH = 0
    FAILS_HERE = 1
    FAILS_SIBLINGS = 2
    FAILS = 3


@dataclass(slots=True, frozen=True)
class Compound:
    """Simple selectors without combinator between them. Empty strings are not asked for.

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


@dataclass(slots=True, frozen=True, eq=False)
class Selector:
    """A complex selector. `compounds` go from its subject leftwards; `combinators` stand between them.

    `states` are those that it asks for; `pseudo` its pseudo-element, "" for none. `ancestors` are keys of which each
    must be found above a matching element.
    """

    compounds: tuple[Compound, ...]
    combinators: tuple[str, ...]
    specificity: tuple[int, int, int]
    states: States
    pseudo: str
    text: str
    ancestors: tuple[str, ...]

    def caseless(self) -> Selector:
        """The same for quirks mode, where ids and classes of elements are in lower case."""
        compounds = tuple(
            replace(each, id=each.id.lower(), classes=tuple(map(str.lower, each.classes))) for each in self.compounds
        )
        return replace(self, compounds=compounds, ancestors=tuple(map(str.lower, self.ancestors)))

    @property
    def keys(self) -> tuple[str, ...]:
        """What to find it by: keys of which a subject has one, as `#id`, `.class`, `tag`, `[attribute`; "" is any."""
        subject = self.compounds[0]
        if key := next(subject.keys, ""):
            return (key,)
        if subject.attributes:
            return ("[" + subject.attributes[0],)
        return subject.alternatives or ("",)

    @property
    def is_its_key(self) -> bool:
        """Whether its only key is all that it asks for."""
        subject = self.compounds[0]
        return not self.combinators and not subject.tests and len(list(subject.keys)) == 1

    def matches(self, element: Element, held: Held) -> bool:
        """Whether it matches the element while these states hold."""
        return self._match(0, element, held) is _Outcome.MATCH

    def _match(self, place: int, element: Element, held: Held) -> _Outcome:
        if not self.compounds[place].matches(element, held):
            return _Outcome.FAILS_HERE
        if place == len(self.combinators):
            return _Outcome.MATCH
        combinator = self.combinators[place]
        if combinator == ">":
            if element.parent is None:
                return _Outcome.FAILS
            return self._match(place + 1, element.parent, held)
        if combinator == " ":
            for ancestor in held.spending(element.ancestors()):
                outcome = self._match(place + 1, ancestor, held)
                if outcome in (_Outcome.MATCH, _Outcome.FAILS):
                    return outcome
            return _Outcome.FAILS
        if element.parent is None or not element.index:
            return _Outcome.FAILS_SIBLINGS
        siblings = element.parent.elements
        if combinator == "+":
            return self._match(place + 1, siblings[element.index - 1], held)
        for index in range(element.index - 1, -1, -1):
            held.work.spend()
            outcome = self._match(place + 1, siblings[index], held)
            if outcome is not _Outcome.FAILS_HERE:
                return outcome
        return _Outcome.FAILS_SIBLINGS


def parse_selectors(tokens: Sequence[Token]) -> list[Selector]:
    """The selectors of a list; [] where the list is invalid, as one that browsers do not know makes it."""
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
    if not 0 < len(tokens) <= MAX_TOKENS:
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
    for place, token in enumerate(tokens[:-1]):
        if not (token.type == "literal" and token.value == ":"):
            continue
        after = tokens[place + 1]
        double = after.type == "literal" and after.value == ":"
        if double:
            after = tokens[place + 2] if place + 2 < len(tokens) else token
        elif not (after.type == "ident" and after.lower_value in _OLD_PSEUDO_ELEMENTS):
            continue
        if after.type not in ("ident", "function"):
            return [], None, ()
        name = after.lower_value if after.type == "ident" else after.lower_name
        if name not in _PSEUDO_ELEMENTS and not name.startswith("-webkit-"):
            return [], None, ()
        # What follows the pseudo-element are its states: `::before:hover`.
        rest = tokens[place + (3 if double else 2) :]
        plain = [*tokens[:place], *rest]
        if not meaningful(tokens[:place]) or tokens[place - 1].type == "whitespace" or _ends_open(tokens[:place]):
            plain = [*tokens[:place], *tokens_of("*"), *rest]
        arguments = after.arguments if after.type == "function" else ()
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
            for place, number in enumerate(_specificity(simple)):
                specificity[place] += number
    above: list[str] = []
    for combinator, compound in zip(combinators, compounds[1:], strict=True):
        if combinator in " >":
            above += [key for key in compound.keys if key != "html"]
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
    )


def _specificity(simple: object) -> tuple[int, int, int]:
    """As the library says, but for `:nth-child(… of S)` and `:host(S)`, which it does not know."""
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
            elif isinstance(simple, selector_parser.MatchesAnySelector | selector_parser.SpecificityAdjustmentSelector):
                alternatives = alternatives or _alternatives(simple)
            tests.append(_simple(simple, states))
    # An element that is no element: the top of a shadow tree, which only :host matches.
    if not any(getattr(test, "host", False) for test in tests) and not (local_name or identifier or classes):
        tests.insert(0, _is_element)
    return Compound(local_name, lower_name, identifier, tuple(classes), tuple(tests), tuple(attributes), alternatives)


def _alternatives(simple: object) -> tuple[str, ...]:
    """Keys of which whatever `:is()` matches has one; () where some of it has none."""
    keys = [_inner(each, set()).keys for each in simple.selector_list]  # type: ignore[attr-defined]
    found = tuple(dict.fromkeys(key for each in keys for key in each))
    return () if "" in found else found


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
        return _has(simple, states)
    if isinstance(
        simple,
        (
            selector_parser.NegationSelector,
            selector_parser.MatchesAnySelector,
            selector_parser.SpecificityAdjustmentSelector,
        ),
    ):
        return _any_of(simple, states)
    raise SelectorError(f"unknown selector {simple!r}")


def _inner(selector: selector_parser.Selector, states: set[str]) -> Selector:
    compiled = _compile(selector, "", (), "")
    states |= compiled.states
    return compiled


def _any_of(simple: object, states: set[str]) -> Test:
    inner = [_inner(each, states) for each in simple.selector_list]  # type: ignore[attr-defined]
    if isinstance(simple, selector_parser.NegationSelector):
        return lambda element, held: not any(each.matches(element, held) for each in inner)
    return lambda element, held: any(each.matches(element, held) for each in inner)


def _has(simple: selector_parser.RelationalSelector, states: set[str]) -> Test:
    """`:has()`: relative selectors, to each of which the element itself is put in front."""
    anchors: list[Element] = []
    anchor = Compound("", "", "", (), (lambda element, _: element is anchors[-1],))
    inner = []
    for each in simple.selector_list:
        selector = _inner(each.selector, states)
        inner.append(
            (
                each.combinator,
                replace(
                    selector,
                    compounds=(*selector.compounds, anchor),
                    combinators=(*selector.combinators, each.combinator),
                ),
            )
        )

    def test(element: Element, held: Held) -> bool:
        anchors.append(element)
        try:
            return any(
                selector.matches(each, held)
                for combinator, selector in inner
                for each in held.spending(_looked_at(combinator, element))
            )
        finally:
            anchors.pop()

    return test


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


_FORM = frozenset("button input select textarea option optgroup fieldset".split())


def _is_disabled(element: Element) -> bool:
    if element.tag not in _FORM:
        return False
    return "disabled" in element.attributes or any(
        each.tag in ("fieldset", "optgroup") and "disabled" in each.attributes for each in element.ancestors()
    )


def _is_read_write(element: Element) -> bool:
    if element.tag in ("input", "textarea"):
        return "readonly" not in element.attributes and not _is_disabled(element)
    return element.attributes.get("contenteditable", "false").lower() != "false"


_STRUCTURAL: dict[str, Callable[[Element], bool]] = {
    "root": lambda element: element.parent is None and element.tag == "html",
    "scope": lambda element: element.parent is None and element.tag == "html",
    "empty": lambda element: not element.elements and not element.text,
    "first-child": lambda element: element.index == 0,
    "last-child": lambda element: element.index == len(element.siblings) - 1,
    "only-child": lambda element: len(element.siblings) == 1,
    "first-of-type": lambda element: element.same_tag[0] is element,
    "last-of-type": lambda element: element.same_tag[-1] is element,
    "only-of-type": lambda element: len(element.same_tag) == 1,
    "link": lambda element: element.tag in ("a", "area") and "href" in element.attributes,
    "any-link": lambda element: element.tag in ("a", "area") and "href" in element.attributes,
    "-webkit-any-link": lambda element: element.tag in ("a", "area") and "href" in element.attributes,
    "disabled": _is_disabled,
    "enabled": lambda element: element.tag in _FORM and not _is_disabled(element),
    "required": lambda element: element.tag in _FORM and "required" in element.attributes,
    "optional": lambda element: element.tag in ("input", "select", "textarea") and "required" not in element.attributes,
    "read-only": lambda element: not _is_read_write(element),
    "read-write": _is_read_write,
    "default": lambda element: "checked" in element.attributes or "selected" in element.attributes,
    "placeholder-shown": lambda element: "placeholder" in element.attributes and not element.attributes.get("value"),
    "defined": lambda element: "-" not in element.tag,
}


def _pseudo_class(name: str, states: set[str]) -> Test:
    if name in _STRUCTURAL:
        structural = _STRUCTURAL[name]
        return lambda element, _: structural(element)
    if name in _STATES:
        states.add(name)
        attributes = _BY_ATTRIBUTE.get(name, ())
        return lambda element, held: name in held.states or any(each in element.attributes for each in attributes)
    if name == "host":
        return _host(None)
    if name in _NEVER:
        return lambda element, _: False
    raise SelectorError(f"unknown pseudo-class {name}")


def _host(inner: Sequence[Selector] | None) -> Test:
    def test(element: Element, held: Held) -> bool:
        if element.tag != "#shadow" or element.host is None:
            return False
        return inner is None or any(each.matches(element.host, held) for each in inner)

    test.host = True  # type: ignore[attr-defined]
    return test


def _functional(simple: selector_parser.FunctionalPseudoClassSelector, states: set[str]) -> Test:
    name, arguments = simple.name, simple.arguments
    if name in ("nth-child", "nth-last-child", "nth-of-type", "nth-last-of-type"):
        return _nth(name, arguments, states)
    if name == "lang":
        ranges = [token.value.lower() for token in arguments if token.type in ("ident", "string")]
        return lambda element, _: _is_in_language(element, ranges)
    if name == "dir":
        word = "".join(token.lower_value for token in arguments if token.type == "ident")
        return lambda element, _: _direction(element) == word
    if name in ("-webkit-any", "matches"):
        inner = [_inner(each, states) for each in selector_parser.parse(arguments, forgiving=True)]
        return lambda element, held: any(each.matches(element, held) for each in inner)
    if name in ("host", "host-context"):
        return _host([_inner(each, states) for each in selector_parser.parse(arguments, forgiving=True)])
    if name in ("state", "active-view-transition-type"):
        return lambda element, _: False
    raise SelectorError(f"unknown pseudo-class {name}")


def _nth(name: str, arguments: Sequence[Token], states: set[str]) -> Test:
    """`:nth-child(2n + 1 of S)` and its kin (Selectors 4, section 13.3)."""
    place = next((n for n, token in enumerate(arguments) if token.type == "ident" and token.lower_value == "of"), None)
    step_and_start = nth.parse_nth(list(arguments[:place]))
    if step_and_start is None:
        raise SelectorError(f"bad argument of {name}")
    step, start = step_and_start
    of = [] if place is None else [_inner(each, states) for each in selector_parser.parse(list(arguments[place + 1 :]))]
    by_type, backwards = name.endswith("of-type"), "last" in name

    def test(element: Element, held: Held) -> bool:
        counted = element.siblings
        if by_type:
            counted = element.same_tag
        elif of:
            each = held.spending(iter(counted))
            counted = [sibling for sibling in each if any(one.matches(sibling, held) for one in of)]
        place = bisect_left(counted, element.index, key=lambda sibling: sibling.index)
        if place == len(counted) or counted[place] is not element:
            return False
        return _is_nth(len(counted) - place if backwards else place + 1, step, start)

    return test


def _is_nth(number: int, step: int, start: int) -> bool:
    difference = number - start
    return difference == 0 if step == 0 else difference % step == 0 and difference // step >= 0


def language_of(element: Element) -> str:
    """The language that it is written in by its markup, "" for none (HTML, "the lang and xml:lang attributes")."""
    node: Element | None = element
    while node is not None:
        for name in ("xml:lang", "lang"):
            if name in node.attributes:
                return node.attributes[name].strip()
        node = node.parent
    return ""


def _is_in_language(element: Element, ranges: Sequence[str]) -> bool:
    language = language_of(element).lower()
    return any(
        language == each or (each and language.startswith(each + "-")) or (each == "*" and language)
        for each in (wanted.removeprefix("*-") for wanted in ranges)
    )


def _direction(element: Element) -> str:
    node: Element | None = element
    while node is not None:
        if (given := node.attributes.get("dir", "").lower()) in ("ltr", "rtl"):
            return given
        node = node.parent
    return "ltr"
