"""Finding where a page asks for a face: the element, and the rule that sets its weight or style."""

from __future__ import annotations

from collections.abc import Iterator

from aksara.site.css.properties import Declared
from aksara.site.css.selectors import Held, MatchingWork
from aksara.site.css.style_sets import Match, StyleSet, keys_of
from aksara.site.tree import Element

# The inherited properties that make a face another one of the same family.
_DECIDING = ("font-weight", "font-style", "font-stretch")


def deciding_rule(element: Element, style_set: StyleSet) -> tuple[str, str, int]:
    """The selector, sheet and line that give an element its weight or style.

    That is the strongest rule for it on the element or the nearest ancestor that has one; of the browser's own rules
    the element's name stands for the selector.
    """
    work = MatchingWork()
    for ancestor in [element, *element.ancestors()]:
        deciding = max(_deciding(ancestor, style_set, work), key=lambda entry: entry[0], default=None)
        if "font" in ancestor.attributes.get("style", ""):
            return f"{ancestor.tag}, by its style attribute", "", 0
        if deciding is not None:
            match = deciding[1]
            if not match.sheet.url:
                return ancestor.tag, "", 0
            return match.selector.text, match.sheet.url, match.rule.line
    return "", "", 0


def _deciding(element: Element, style_set: StyleSet, work: MatchingWork) -> Iterator[tuple[tuple[object, ...], Match]]:
    above: dict[str, int] = {}
    for ancestor in element.ancestors():
        for key in keys_of(ancestor):
            above[key] = 1
    plain = Held(frozenset(), work)
    certain, stateful = style_set.matches(element, "", above, plain)
    changing = [match for match in stateful if match.selector.matches(element, Held(match.states, work))]
    for match in (*certain, *changing):
        for block in match.blocks:
            if _says_something(block.declared):
                yield block.priority, match


def _says_something(declared: Declared) -> bool:
    return any(name in declared and declared[name] not in (400.0, "normal", 100.0) for name in _DECIDING)
