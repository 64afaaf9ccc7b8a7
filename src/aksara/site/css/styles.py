"""Computed styles, from the winning declarations and the parent's style (CSS Cascade 5, sections 4 and 7)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Literal, overload

from msgspec import Struct

from aksara.limits import MAX_COMPUTED_STYLES
from aksara.site.css.declarations import parse_pending
from aksara.site.css.properties import LONGHANDS, Content, Declared, Pending, Value, Wide
from aksara.site.css.values import resolve_custom, substitute

_PLACES = {name: place for place, name in enumerate(LONGHANDS)}
_INHERITED = [longhand.inherited for longhand in LONGHANDS.values()]
_INITIAL = tuple(longhand.initial for longhand in LONGHANDS.values())
_WEIGHT, _DISPLAY = _PLACES["font-weight"], _PLACES["display"]

#: Where a block of declarations stands in the cascade; greater ones win (CSS Cascade 5, section 6.1). Importance and
#: origin, tree (two a step outwards) and whether it is a `style` attribute, layer, specificity, order.
Priority = tuple[int, int, int, tuple[int, int, int], int]
#: Origins, as they rank among normal declarations.
BROWSER, HINTS, AUTHOR = 0, 1, 2
AUTHOR_IMPORTANT, BROWSER_IMPORTANT = 3, 4


class DeclarationBlock(Struct, frozen=True, eq=False):
    """Declarations of one rule, all normal or all important."""

    priority: Priority
    declared: Declared


class FaceKey(Struct, frozen=True):
    """The face that CSS asks for: families in order, weight, style and width (in percent)."""

    families: tuple[str, ...]
    weight: float
    style: str
    width: float


class Style(Struct, eq=False, dict=True):
    """A computed style. Equal ones are one object (see `Styles`). `hidden`: here or above `display` is `none`."""

    values: tuple[Value, ...]
    custom: Mapping[str, str]
    hidden: bool

    @overload
    def __getitem__(self, name: Literal["font-weight", "font-stretch"]) -> float: ...
    @overload
    def __getitem__(self, name: Literal["font-style", "text-overflow", "-webkit-text-security", "display"]) -> str: ...
    @overload
    def __getitem__(self, name: Literal["font-variant-caps", "font-variant-position"]) -> str: ...
    @overload
    def __getitem__(self, name: Literal["font-family", "text-transform"]) -> tuple[str, ...]: ...
    @overload
    def __getitem__(
        self, name: Literal["font-variant-ligatures", "font-variant-numeric", "font-variant-east-asian"]
    ) -> tuple[str, ...]: ...
    @overload
    def __getitem__(self, name: Literal["font-variant-alternates"]) -> tuple[tuple[str, tuple[str, ...]], ...]: ...
    @overload
    def __getitem__(self, name: Literal["font-feature-settings"]) -> tuple[tuple[str, int], ...]: ...
    @overload
    def __getitem__(self, name: Literal["font-variation-settings"]) -> tuple[tuple[str, float], ...]: ...
    @overload
    def __getitem__(
        self, name: Literal["counter-reset", "counter-increment", "counter-set"]
    ) -> tuple[tuple[str, int], ...]: ...
    @overload
    def __getitem__(self, name: Literal["quotes"]) -> Literal["auto"] | tuple[tuple[str, str], ...]: ...
    @overload
    def __getitem__(self, name: Literal["content"]) -> Content: ...
    @overload
    def __getitem__(self, name: Literal["list-style-type"]) -> str | tuple[str]: ...
    @overload
    def __getitem__(self, name: str) -> Value: ...
    def __getitem__(self, name: str) -> Value:
        return self.values[_PLACES[name]]

    @cached_property
    def face(self) -> FaceKey:
        """The face that the style asks for."""
        style = self["font-style"]
        return FaceKey(self["font-family"], self["font-weight"], style, self["font-stretch"])

    @cached_property
    def transforms(self) -> tuple[str, ...]:
        """The keywords of `text-transform`."""
        return self["text-transform"]

    @cached_property
    def is_plain(self) -> bool:
        """Whether text is drawn as it is written, and nothing is added."""
        return (
            not self.transforms
            and self["-webkit-text-security"] == "none"
            and self["font-variant-caps"] in ("normal", "titling-caps")
            and self["hyphens"] != "auto"
        )

    @cached_property
    def display(self) -> str:
        """`display`, for short."""
        return str(self["display"])

    @cached_property
    def overflow_mark(self) -> str:
        """What a box with the style writes where its text is cut; "" for nothing."""
        if self.is_inline:
            return ""
        return self["text-overflow"] or ("…" if self["-webkit-line-clamp"] else "")

    @cached_property
    def is_list_item(self) -> bool:
        """Whether it has a marker."""
        return "list-item" in self.display

    @cached_property
    def collapses(self) -> bool:
        """Whether white space in it becomes one space."""
        return bool(self["white-space"] == "collapse")

    @cached_property
    def is_inline(self) -> bool:
        """Whether it is inline, as far as that is known without layout."""
        return self.display.startswith(("inline", "contents", "ruby"))


class Styles:
    """Computes styles, each once."""

    def __init__(self) -> None:
        self._known: dict[tuple[object, ...], Style] = {}
        self._custom: dict[tuple[tuple[str, str], ...], Mapping[str, str]] = {(): {}}
        self._computed: dict[tuple[object, ...], Style] = {}
        self.initial = self._intern(_INITIAL, {}, hidden=False)

    def trim(self) -> None:
        """Forget everything if it has become much. To be called between pages: no style may be in use."""
        if len(self._computed) > MAX_COMPUTED_STYLES:
            self._known.clear()
            self._custom = {(): {}}
            self._computed.clear()
            self.initial = self._intern(_INITIAL, {}, hidden=False)

    def known(self, parent: Style, key: tuple[object, ...]) -> Style | None:
        """The style that was computed for that parent and key, if one was."""
        return self._computed.get((id(parent), key))

    def compute(self, parent: Style, blocks: Sequence[DeclarationBlock], key: tuple[object, ...]) -> Style:
        """The style that the blocks make, in any order; `key` stands for them, and must differ where they do."""
        known = self.known(parent, key)
        if known is None:
            known = self._compute(parent, sorted(blocks, key=lambda block: block.priority))
            self._computed[id(parent), key] = known
        return known

    def _compute(self, parent: Style, blocks: Sequence[DeclarationBlock]) -> Style:
        declared: Declared = {}
        for block in blocks:
            declared.update(block.declared)
        if any(value in (Wide.REVERT, Wide.REVERT_LAYER) for value in declared.values() if isinstance(value, Wide)):
            declared = {name: _rolled_back(name, blocks) for name in declared}
        variables = {
            name: value for name, value in declared.items() if name.startswith("--") and isinstance(value, str)
        }
        custom = resolve_custom(variables, parent.custom) if variables else parent.custom
        values: list[Value] = [
            above if inherited else initial
            for above, inherited, initial in zip(parent.values, _INHERITED, _INITIAL, strict=True)
        ]
        for name, value in declared.items():
            if (index := _PLACES.get(name)) is not None:
                values[index] = _specified(name, value, custom, parent.values[index])
        values[_WEIGHT] = _relative_weight(values[_WEIGHT], parent["font-weight"])
        hidden = parent.hidden or values[_DISPLAY] == "none"
        return self._intern(tuple(values), custom, hidden=hidden)

    def _intern(self, values: tuple[Value, ...], custom: Mapping[str, str], *, hidden: bool) -> Style:
        listed = tuple(sorted(custom.items()))
        custom = self._custom.setdefault(listed, custom)
        key = (values, id(custom), hidden)
        known = self._known.get(key)
        if known is None:
            known = self._known[key] = Style(values, custom, hidden)
        return known


def _specified(name: str, value: Value, custom: Mapping[str, str], inherited: Value) -> Value:
    """A declared value with its variables in place and CSS-wide keywords resolved."""
    if isinstance(value, Pending):
        text = substitute(value.text, custom)
        parsed = None if text is None else parse_pending(value, name, text)
        # What turns out to be no value, or still has a `var()`, counts as `unset` (CSS Variables 1, section 3.1).
        value = Wide.UNSET if parsed is None or isinstance(parsed, Pending) else parsed
    if not isinstance(value, Wide):
        return value
    longhand = LONGHANDS[name]
    inherits = value is Wide.INHERIT or (value is not Wide.INITIAL and longhand.inherited)
    return inherited if inherits else longhand.initial


def _rolled_back(name: str, blocks: Sequence[DeclarationBlock]) -> Value:
    """The value of a property for which `revert` or `revert-layer` may have won (CSS Cascade 5, section 7.3)."""
    said = [(block.priority, block.declared[name]) for block in blocks if name in block.declared]
    while said:
        priority, value = said.pop()
        if value is Wide.REVERT:
            while said and _origin(said[-1][0]) == _origin(priority):
                said.pop()
        elif value is Wide.REVERT_LAYER:
            # All of the layer goes: what is normal in it, too, where something important is rolled back.
            layer = _layer(priority)
            said = [entry for entry in said if _layer(entry[0]) != layer]
        else:
            return value
    return Wide.UNSET


def _layer(priority: Priority) -> tuple[bool, int, int]:
    """Origin, attribute and layer. The layers of important declarations rank the other way round."""
    important = priority[0] in (AUTHOR_IMPORTANT, BROWSER_IMPORTANT)
    return _origin(priority), priority[1], -priority[2] if important else priority[2]


def _origin(priority: Priority) -> bool:
    return priority[0] in (BROWSER, BROWSER_IMPORTANT)


def _relative_weight(weight: Value, inherited: float) -> float:
    """The weights that `bolder` and `lighter` compute to (CSS Fonts 4, section 2.2)."""
    if weight == "bolder":
        return 400.0 if inherited < 350 else 700.0 if inherited < 550 else max(900.0, inherited)
    if weight == "lighter":
        return min(inherited, 100.0) if inherited < 550 else 400.0 if inherited < 750 else 700.0
    assert isinstance(weight, int | float)
    return float(weight)
