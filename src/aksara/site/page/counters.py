"""The state of counters and quotation marks at a position in a page (CSS Lists 3, section 4)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from aksara.data.quotes import QUOTES
from aksara.limits import MAX_NESTED_COUNTERS
from aksara.site.css.counter_styles import CounterStyle, write_number
from aksara.site.css.styles import Style
from aksara.site.tree import Element


class Counters:
    """The counters that are in scope. Elements are visited in the order of the page, and left again."""

    def __init__(self) -> None:
        # Name → its counters, outermost first: the element whose children see it, and its value.
        self._values: dict[str, list[tuple[Element | None, int]]] = {}
        self._owned: dict[int, list[str]] = {}

    def apply(self, style: Style, scope: Element | None) -> None:
        """What an element does to counters; `scope` is its parent, within which new ones are seen."""
        for name, value in style["counter-reset"]:
            self._create(name, value, scope)
        for name, step in style["counter-increment"]:
            self._set(name, self.value(name) + step, scope)
        for name, value in style["counter-set"]:
            self._set(name, value, scope)

    def _create(self, name: str, value: int, scope: Element | None) -> None:
        stack = self._values.setdefault(name, [])
        if stack and (stack[-1][0] is scope or len(stack) >= MAX_NESTED_COUNTERS):
            stack[-1] = (stack[-1][0], value)
            return
        stack.append((scope, value))
        self._owned.setdefault(id(scope), []).append(name)

    def _set(self, name: str, value: int, scope: Element | None) -> None:
        stack = self._values.get(name)
        if not stack:
            self._create(name, value, scope)
        else:
            stack[-1] = (stack[-1][0], value)

    def leave(self, element: Element) -> None:
        """The element ends: counters that its children made are out of scope."""
        for name in self._owned.pop(id(element), ()):
            stack = self._values[name]
            if stack and stack[-1][0] is element:
                stack.pop()

    def value(self, name: str) -> int:
        """Where the innermost counter is."""
        stack = self._values.get(name)
        return stack[-1][1] if stack else 0

    def values(self, name: str) -> list[int]:
        """All that are in scope, outermost first."""
        return [value for _, value in self._values.get(name, ())] or [0]


def counter_text(counters: Counters, part: Sequence[str], styles: Mapping[str, CounterStyle]) -> str:
    """What `counter(name, style)` writes."""
    return write_number(counters.value(part[0]), part[1], styles)


def counters_text(counters: Counters, part: Sequence[str], styles: Mapping[str, CounterStyle]) -> str:
    """What `counters(name, separator, style)` writes."""
    return part[1].join(write_number(value, part[2], styles) for value in counters.values(part[0]))


def quotation_marks(style: Style, language: str) -> Sequence[tuple[str, str]]:
    """Pairs of marks, outermost first."""
    marks = style["quotes"]
    if isinstance(marks, tuple):
        return marks
    tag = language or "en"
    while tag and tag not in QUOTES:
        tag = tag.rpartition("-")[0]
    outer_open, outer_close, inner_open, inner_close = QUOTES[tag or "en"]
    return (outer_open, outer_close), (inner_open, inner_close)
