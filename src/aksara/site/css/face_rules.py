"""`@font-face` rules as they are written, and which of it a browser ignores (CSS Fonts 4, section 4)."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence

import tinycss2
from msgspec import Struct, field
from tinycss2.ast import AtRule

from aksara.limits import MAX_FACE_RULES
from aksara.site.css.properties import LONGHANDS
from aksara.site.css.values import Token, block_items, meaningful, value_text

# Comments and strings, in which nothing is a rule, and what opens one.
_BRACES = re.compile(r"""/\*.*?(?:\*/|\Z)|"(?:\\.|[^"\\\n])*"|'(?:\\.|[^'\\\n])*'|[{}]""", re.DOTALL)
_PIECES = re.compile(
    r"""/\*.*?(?:\*/|\Z)|"(?:\\.|[^"\\\n])*"|'(?:\\.|[^'\\\n])*'|@font-face\b""", re.DOTALL | re.IGNORECASE
)
# Comments and strings, and the value of a `font-family`.
_FAMILIES = re.compile(
    r"""/\*.*?(?:\*/|\Z)|(?<![\w-])font-family\s*:((?:"(?:\\.|[^"\\\n])*"|'(?:\\.|[^'\\\n])*'|[^;{}"'])*)"""
    r"""|"(?:\\.|[^"\\\n])*"|'(?:\\.|[^'\\\n])*'""",
    re.DOTALL | re.IGNORECASE,
)
# Comments, and the values that name fonts; the custom properties in these, and those that are defined.
_FONT_VALUES = re.compile(r"/\*.*?(?:\*/|\Z)|(?<![\w-])font(?:-family)?\s*:([^;{}]*)", re.DOTALL | re.IGNORECASE)
_VARIABLE = re.compile(r"var\(\s*(--[\w-]+)", re.IGNORECASE)
_DEFINED = re.compile(r"/\*.*?(?:\*/|\Z)|(?<![\w(-])(--[\w-]+)\s*:|@property\s+(--[\w-]+)", re.DOTALL)
#: Values that all properties have (CSS Cascade 5, section 7.3).
_FOR_ALL = ("inherit", "initial", "unset", "revert", "revert-layer", "")


class Source(Struct, frozen=True):
    """One of the sources of a face: its `url`, or the name of an installed font (`local`); what `format()` and `tech()`
    say, "" for nothing. `quoted`: the address is in quotes."""

    url: str = ""
    local: str = ""
    format: str = ""
    technologies: tuple[str, ...] = ()
    quoted: bool = True


class Descriptor(Struct, frozen=True):
    """A descriptor of a rule, as it is written last."""

    name: str
    value: tuple[Token, ...]
    line: int

    @property
    def text(self) -> str:
        """The value as text."""
        return value_text(self.value)


class BrokenFamily(Struct, frozen=True):
    """A `font-family` outside of `@font-face` that browsers ignore: its line, and the value as it is written."""

    line: int
    text: str


class FaceRule(Struct, frozen=True):
    """A rule: the line where it starts, its descriptors by name, its sources in order, and what is no declaration in
    it (line, and what the parser says)."""

    line: int
    descriptors: dict[str, Descriptor] = field(default_factory=dict)
    sources: tuple[Source, ...] = ()
    errors: tuple[tuple[int, str], ...] = ()

    @property
    def family(self) -> str:
        """The family, "" if it names none."""
        said = self.descriptors.get("font-family")
        words = meaningful(said.value) if said is not None else []
        if len(words) == 1 and words[0].type == "string":
            return str(words[0].value)
        names = [word.value for word in words if word.type == "ident"]
        return " ".join(names) if len(names) == len(words) else ""


def parse_face_rule(node: AtRule, offset: int) -> FaceRule:
    """An `@font-face` rule as tinycss2 parses it; `offset` is added to its line numbers."""
    descriptors: dict[str, Descriptor] = {}
    errors: list[tuple[int, str]] = []
    for part in block_items(node.content):
        line = part.source_line + offset
        if part.type == "declaration":
            descriptors[part.lower_name] = Descriptor(part.lower_name, tuple(part.value), line)
        else:
            errors.append((line, getattr(part, "message", "no declaration")))
    said = descriptors.get("src")
    sources = tuple(_sources(said.value)) if said is not None else ()
    return FaceRule(node.source_line + offset, descriptors, sources, tuple(errors))


def face_rules_in(sheet: str, first_line: int = 1) -> Iterator[FaceRule]:
    """The `@font-face` rules of a style sheet's text, inside other rules, too; `first_line` is that of its start."""
    for start, end in _spans(sheet):
        node = tinycss2.parse_one_rule(sheet[start:end], skip_comments=True)
        if node.type == "at-rule" and node.content is not None:
            yield parse_face_rule(node, first_line - 1 + sheet.count("\n", 0, start))


class LocatedRule(Struct, frozen=True):
    """A rule, the offsets of its start and end in the text, and the number of other rules that it is nested in."""

    rule: FaceRule
    start: int
    end: int
    depth: int


def located_face_rules(sheet: str, meaning_of: Callable[[str], str] = str) -> Iterator[LocatedRule]:
    """The `@font-face` rules of a style sheet's text, with their offsets. `meaning_of` decodes a part of a text that
    was read byte by byte."""
    depth = line = last = 0
    for start, end in _spans(sheet):
        # From rule to rule, so that the text is read once.
        for match in _BRACES.finditer(sheet, last, start):
            depth += (match[0] == "{") - (match[0] == "}")
        line += sheet.count("\n", last, start)
        last = start
        node = tinycss2.parse_one_rule(meaning_of(sheet[start:end]), skip_comments=True)
        if node.type == "at-rule" and node.content is not None:
            yield LocatedRule(parse_face_rule(node, line), start, end, depth)


def _spans(sheet: str) -> Iterator[tuple[int, int]]:
    """The start and end of each rule, without rules inside rules, so that no text is read twice."""
    count = last = 0
    for match in _PIECES.finditer(sheet):
        if match[0][0] != "@" or match.start() < last:
            continue
        if count == MAX_FACE_RULES:
            return
        count, last = count + 1, _end(sheet, match.end())
        yield match.start(), last


def broken_families_in(sheet: str, first_line: int = 1) -> Iterator[BrokenFamily]:
    """The lists of families in a style sheet's text that are none, such as names with digits and no quotes."""
    spans = list(_spans(sheet))
    for match in _FAMILIES.finditer(sheet):
        value = match[1]
        if value is not None and any(start < match.start() < end for start, end in spans):
            continue
        if value is None or "var(" in value.lower() or any(sign in value for sign in "{$#@<"):
            continue
        tokens = meaningful(tinycss2.parse_component_value_list(value.partition("!")[0], skip_comments=True))
        if LONGHANDS["font-family"].parse(tokens) is None and value.strip().lower() not in _FOR_ALL:
            yield BrokenFamily(first_line + sheet.count("\n", 0, match.start(1)), value.strip())


def font_properties_in(sheet: str, first_line: int = 1) -> tuple[dict[str, int], frozenset[str]]:
    """The custom properties that a style sheet's text takes fonts from, each with the line of its first use, and those
    that it defines."""
    used: dict[str, int] = {}
    for match in _FONT_VALUES.finditer(sheet):
        for name in _VARIABLE.findall(match[1] or ""):
            used.setdefault(name, first_line + sheet.count("\n", 0, match.start(1)))
    return used, frozenset(match[1] for match in _DEFINED.finditer(sheet) if match[1])


def _end(sheet: str, start: int) -> int:
    """Where the block that opens behind `start` ends."""
    depth = 0
    for match in re.compile(r"""/\*.*?(?:\*/|\Z)|"(?:\\.|[^"\\\n])*"|'(?:\\.|[^'\\\n])*'|[{};]""", re.DOTALL).finditer(
        sheet, start
    ):
        if match[0] == "{":
            depth += 1
        elif match[0] == "}":
            depth -= 1
            if depth <= 0:
                return match.end()
        elif match[0] == ";" and not depth:
            return match.end()
    return len(sheet)


def _sources(value: Sequence[Token]) -> Iterator[Source]:
    """The sources of a `src`, without those that browsers skip."""
    parts: list[list[Token]] = [[]]
    for token in value:
        if token.type == "literal" and token.value == ",":
            parts.append([])
        else:
            parts[-1].append(token)
    for part in parts:
        if source := _source(meaningful(part)):
            yield source


def _source(tokens: Sequence[Token]) -> Source | None:
    if not tokens:
        return None
    first = tokens[0]
    said: dict[str, tuple[str, ...]] = {}
    for token in tokens[1:]:
        if token.type != "function":
            return None
        said[token.lower_name] = tuple(
            str(argument.value) for argument in token.arguments if argument.type in ("string", "ident")
        )
    font_format, technologies = "".join(said.get("format", ())[:1]), said.get("tech", ())
    if first.type == "url":
        return Source(first.value, "", font_format, technologies, quoted=False)
    if first.type == "function" and first.lower_name in ("url", "src"):
        words = meaningful(first.arguments)
        return (
            Source(str(words[0].value), "", font_format, technologies) if words and words[0].type == "string" else None
        )
    if first.type == "function" and first.lower_name == "local":
        return Source("", value_text(first.arguments).strip("\"'"), font_format, technologies)
    return None
