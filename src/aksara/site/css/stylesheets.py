"""Style sheets: parsed once, cut down to the rules that touch fonts or text (CSS Syntax 3, Cascade 5, Nesting 1)."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from functools import lru_cache

import tinycss2
from msgspec import Struct, field
from msgspec.structs import replace
from tinycss2.ast import AtRule, Node, QualifiedRule

from aksara.limits import (
    MAX_KEYFRAMES,
    MAX_RULE_DEPTH,
    MAX_SELECTOR_LENGTH,
    MAX_SELECTOR_TEXT,
    MAX_SHEET_LENGTH,
    MAX_SHEET_RULES,
)
from aksara.site.css.counter_styles import CounterStyle, counter_style
from aksara.site.css.declarations import RELEVANT, parse_declaration
from aksara.site.css.defined_faces import DefinedFace, defined_face
from aksara.site.css.face_rules import parse_face_rule
from aksara.site.css.properties import Declared, Pending
from aksara.site.css.selector_parsing import parse_selectors
from aksara.site.css.selectors import Selector, States
from aksara.site.css.supports import is_supported
from aksara.site.css.values import (
    BlockItem,
    Token,
    block_items,
    meaningful,
    readable,
    split_at_commas,
    tokens_of,
    value_text,
    variable_names,
)

_ANIMATION = ("animation", "animation-name", "-webkit-animation", "-webkit-animation-name")

#: The names of the layers around a rule, outermost first; () is none.
Layer = tuple[str, ...]


class Import(Struct, frozen=True):
    """An `@import`: the address as written, the media it is for, and the layer that its rules go into (None: none)."""

    url: str
    media: tuple[str, ...]
    layer: Layer | None


class StyleRule(Struct, frozen=True, eq=False):
    """A style rule with its `normal` and `important` declarations; custom properties are text.

    It holds under all of `media`, in `states` (container queries count as such: nobody knows the sizes).
    """

    selectors: tuple[Selector, ...]
    normal: Declared
    important: Declared
    media: tuple[str, ...]
    states: States
    layer: Layer
    line: int


class StyleSheet(Struct, eq=False):
    """The parts of a style sheet about fonts and text. `layers` are in the order in which they are first named.

    `used` are the custom properties that other properties refer to; `problem` says what was left out, "" for
    nothing.
    """

    url: str
    imports: list[Import] = field(default_factory=list)
    rules: list[StyleRule] = field(default_factory=list)
    layers: list[Layer] = field(default_factory=list)
    faces: list[DefinedFace] = field(default_factory=list)
    counter_styles: dict[str, CounterStyle] = field(default_factory=dict)
    #: Of `@font-feature-values`: family in lower case → kind → name → numbers.
    feature_values: dict[str, dict[str, dict[str, tuple[int, ...]]]] = field(default_factory=dict)
    used: set[str] = field(default_factory=set)
    problem: str = ""


class _Context(Struct, frozen=True):
    """The context of a rule. `parent` is the selector of the rule it is nested in, `scope` the ends of `@scope`."""

    media: tuple[str, ...] = ()
    states: States = frozenset()
    layer: Layer = ()
    parent: str = ""
    scope: tuple[str, str] | None = None
    depth: int = 0


def parse_style_sheet(text: str, url: str, *, first_line: int = 1) -> StyleSheet:
    """The sheet at that address; `first_line` is the line of its start, for one in a page."""
    sheet = StyleSheet(url)
    if len(text) > MAX_SHEET_LENGTH:
        sheet.problem = f"only its first {MAX_SHEET_LENGTH / 1e6:g} MB are read"
    parser = _Parser(sheet, first_line - 1)
    parser.read(
        tinycss2.parse_stylesheet(readable(text[:MAX_SHEET_LENGTH]), skip_comments=True, skip_whitespace=True),
        _Context(),
    )
    parser.animate()
    return sheet


# Pages repeat their attributes thousands of times.
@lru_cache(maxsize=512)
def parse_attribute(text: str) -> tuple[Declared, Declared]:
    """The declarations of a `style` attribute, and those that are important; not to be changed."""
    return _declarations(block_items(text), set())


def _declarations(nodes: Iterable[BlockItem], used: set[str]) -> tuple[Declared, Declared]:
    """The declarations among the nodes; the variables they refer to are added to `used`."""
    normal: Declared = {}
    important: Declared = {}
    for node in nodes:
        if node.type != "declaration":
            continue
        name = node.name if node.name.startswith("--") else node.lower_name
        target = important if node.important else normal
        if name.startswith("--"):
            # A later declaration takes the place of an earlier one, also in order.
            target.pop(name, None)
            target[name] = value_text(node.value)
        elif name in RELEVANT:
            for longhand, value in parse_declaration(name, value_text(node.value)).items():
                target[longhand] = value
                if isinstance(value, Pending):
                    used |= variable_names(tokens_of(value.text))
    return normal, important


class _Animated(Struct, frozen=True):
    """A rule that names animations, each of whose steps may be seen."""

    selectors: tuple[Selector, ...]
    names: tuple[str, ...]
    context: _Context
    line: int


class _Parser:
    def __init__(self, sheet: StyleSheet, line_offset: int) -> None:
        self.sheet = sheet
        self.animated: list[_Animated] = []
        # Name → what each step says of fonts.
        self.steps: dict[str, list[Declared]] = {}
        self.offset = line_offset
        self.count = 0
        self.selector_text = 0
        self.imports_allowed = True

    def read(self, nodes: Iterable[Node], context: _Context) -> None:
        """The rules of a sheet or of a group of rules."""
        for node in nodes:
            self.count += 1
            if self.count > MAX_SHEET_RULES:
                self.sheet.problem = f"only its first {MAX_SHEET_RULES:,} rules are read"
                return
            if isinstance(node, AtRule):
                self._at_rule(node, context)
            elif isinstance(node, QualifiedRule):
                self.imports_allowed = False
                self._style_rule(node, context)

    def _at_rule(self, node: AtRule, context: _Context) -> None:
        name = node.lower_at_keyword.removeprefix("-webkit-")
        handler = _AT_RULES.get(name)
        if name not in ("import", "charset", "layer"):
            self.imports_allowed = False
        if handler is not None and context.depth < MAX_RULE_DEPTH:
            handler(self, node, replace(context, depth=context.depth + 1))

    def _group(self, node: AtRule, context: _Context) -> None:
        """The rules inside an at-rule; in a nested one there may be declarations, which are for the parent."""
        if node.content is None:
            return
        contents = block_items(node.content)
        if context.parent:
            self._add(context.parent, contents, context, node.source_line)
        self.read(contents, context)

    def _style_rule(self, node: QualifiedRule, context: _Context) -> None:
        if context.depth > MAX_RULE_DEPTH:
            self.sheet.problem = f"rules nested more than {MAX_RULE_DEPTH} deep are left out"
            return
        text = _nested(node.prelude, context)
        if context.parent and len(text) > MAX_SELECTOR_LENGTH:
            return
        contents = block_items(node.content)
        self._add(text, contents, context, node.source_line)
        if any(content.type in ("qualified-rule", "at-rule") for content in contents):
            self.read(contents, replace(context, parent=text, depth=context.depth + 1))

    def _add(self, text: str, contents: Sequence[BlockItem], context: _Context, line: int) -> None:
        normal, important = _declarations(contents, self.sheet.used)
        animations = _animations(contents)
        if not normal and not important and not animations:
            return
        self.selector_text += len(text)
        if self.selector_text > MAX_SELECTOR_TEXT:
            self.sheet.problem = f"only its first {MAX_SELECTOR_TEXT / 1e6:g} MB of selectors are read"
            return
        selectors = parse_selectors(tokens_of(text))
        if selectors and animations:
            self.animated.append(_Animated(tuple(selectors), animations, context, line))
        if selectors and (normal or important):
            self.sheet.rules.append(
                StyleRule(
                    tuple(selectors), normal, important, context.media, context.states, context.layer,
                    line + self.offset,
                )
            )  # fmt: skip

    def keyframes(self, node: AtRule, context: _Context) -> None:
        """`@keyframes`: the steps that say anything of fonts."""
        name = value_text(node.prelude).strip("\"'")
        steps = self.steps[name] = []
        for step in block_items(node.content):
            if step.type == "qualified-rule" and len(steps) < MAX_KEYFRAMES:
                said, _ = _declarations(block_items(step.content), self.sheet.used)
                fonts = {name: value for name, value in said.items() if name.startswith("font-")}
                steps += [fonts] if fonts else []

    def animate(self) -> None:
        """Rules for the steps of animations, which take the place of everything else while they last."""
        for animated in self.animated:
            context = animated.context
            for name in animated.names:
                for index, fonts in enumerate(self.steps.get(name, ())):
                    states = context.states | {f"@keyframes {name} {index}"}
                    self.sheet.rules.append(
                        StyleRule(animated.selectors, {}, fonts, context.media, states, context.layer,
                             animated.line + self.offset)
                    )  # fmt: skip

    def media(self, node: AtRule, context: _Context) -> None:
        """`@media`."""
        self._group(node, replace(context, media=(*context.media, value_text(node.prelude))))

    def supports(self, node: AtRule, context: _Context) -> None:
        """`@supports`: settled here, as today's browsers would."""
        if is_supported(node.prelude):
            self._group(node, context)

    def container(self, node: AtRule, context: _Context) -> None:
        """`@container`: the size of the container is not known, so its rules may or may not apply."""
        state = f"@container {value_text(node.prelude)}"
        self._group(node, replace(context, states=context.states | {state}))

    def scope(self, node: AtRule, context: _Context) -> None:
        """`@scope (root) to (limit)` (CSS Cascade 6, section 2.5)."""
        blocks = [value_text(token.content) for token in node.prelude if token.type == "() block"]
        root, limit = (blocks[0] if blocks else ":root"), (blocks[1] if len(blocks) > 1 else "")
        self._group(node, replace(context, scope=(root, limit), parent=""))

    def layer(self, node: AtRule, context: _Context) -> None:
        """`@layer`, which names layers or holds the rules of one."""
        names = [tuple(part.strip().split(".")) for part in value_text(node.prelude).split(",") if part.strip()]
        if node.content is None:
            self.sheet.layers += [(*context.layer, *name) for name in names]
            return
        self.imports_allowed = False
        layer = (*context.layer, *(names[0] if names else (f"{self.sheet.url} {self.count}",)))
        self.sheet.layers.append(layer)
        self._group(node, replace(context, layer=layer))

    def imports(self, node: AtRule, context: _Context) -> None:
        """`@import`, which must precede all rules."""
        if not self.imports_allowed or context.depth > 1:
            return
        prelude = meaningful(node.prelude)
        if not prelude or not (url := _import_url(prelude[0])):
            return
        rest = prelude[1:]
        layer: Layer | None = None
        if rest and rest[0].type == "ident" and rest[0].lower_value == "layer":
            layer = (f"{self.sheet.url} import {self.count}",)
            del rest[0]
        elif rest and rest[0].type == "function" and rest[0].lower_name == "layer":
            layer = tuple(value_text(rest[0].arguments).split("."))
            del rest[0]
        if rest and rest[0].type == "function" and rest[0].lower_name == "supports":
            if not is_supported(rest[0].arguments):
                return
            del rest[0]
        if layer:
            self.sheet.layers.append(layer)
        text = " ".join(token.serialize() for token in rest)
        self.sheet.imports.append(Import(url, (text,) if text else (), layer))

    def font_face(self, node: AtRule, context: _Context) -> None:
        """`@font-face`."""
        rule = parse_face_rule(node, self.offset)
        if (face := defined_face(rule, self.sheet.url)) is not None:
            self.sheet.faces.append(face)

    def counter_style(self, node: AtRule, context: _Context) -> None:
        """`@counter-style`."""
        if name := value_text(node.prelude):
            self.sheet.counter_styles[name] = counter_style(_described(node))

    def feature_values(self, node: AtRule, context: _Context) -> None:
        """`@font-feature-values` (CSS Fonts 4, section 6.9.1)."""
        families = [name.strip().strip("\"'").lower() for name in value_text(node.prelude).split(",")]
        for block in block_items(node.content):
            if block.type != "at-rule":
                continue
            values = {
                name: tuple(int(number) for number in re.findall(r"\d{1,4}", text))
                for name, text in _described(block).items()
            }
            for family in families:
                kinds = self.sheet.feature_values.setdefault(family, {})
                kinds.setdefault(block.lower_at_keyword, {}).update(values)


_AT_RULES = {
    "media": _Parser.media,
    "supports": _Parser.supports,
    "container": _Parser.container,
    "scope": _Parser.scope,
    "layer": _Parser.layer,
    "import": _Parser.imports,
    "keyframes": _Parser.keyframes,
    "font-face": _Parser.font_face,
    "counter-style": _Parser.counter_style,
    "font-feature-values": _Parser.feature_values,
}


def _animations(nodes: Iterable[BlockItem]) -> tuple[str, ...]:
    """The words of `animation` and `animation-name`, among which are the names of animations."""
    values = [node.value for node in nodes if node.type == "declaration" and node.lower_name in _ANIMATION]
    words = [str(token.value) for value in values for token in value if token.type in ("ident", "string")]
    return tuple(dict.fromkeys(words))


def _described(node: AtRule) -> dict[str, str]:
    """The descriptors of an at-rule."""
    return {item.lower_name: value_text(item.value) for item in block_items(node.content) if item.type == "declaration"}


def _import_url(token: Token) -> str:
    if token.type in ("url", "string"):
        return str(token.value)
    if token.type == "function" and token.lower_name == "url":
        return next((str(argument.value) for argument in token.arguments if argument.type == "string"), "")
    return ""


def _nested(prelude: Sequence[Token], context: _Context) -> str:
    """A rule's selector as it would be written outside its parent rule or scope."""
    if not context.parent and context.scope is None:
        return value_text(prelude)
    if context.parent:
        around, replaced = f":is({context.parent})", "&"
    else:
        around, replaced = f":where({context.scope[0] if context.scope else ''})", ":scope"
    parts = []
    for part in split_at_commas(prelude):
        text = value_text(part)
        inside = text.replace(replaced, around) if replaced in text else f"{around} {text}"
        if context.scope is not None and not context.parent:
            inside = inside.replace("&", around)
            root, limit = context.scope
            # A limit stands inside of its scope; where it is the root of another one, that one begins there.
            end = f":where({root}) :where({limit}):not(:where({root}))"
            inside += f":not({end}, {end} *)" if limit else ""
        parts.append(inside)
    return ", ".join(parts)
