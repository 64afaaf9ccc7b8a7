"""Pug templates as HTML: tags by indentation, with the words in them, and lines where they were.

What the template is rendered to is not known: loops are gone through once, all branches of a condition are there, and
of code and expressions stay the words that they write.
"""

from __future__ import annotations

import html
import re
from collections.abc import Callable, Iterator

from msgspec import Struct

from aksara.limits import MAX_ELEMENT_DEPTH, MAX_PUG_LINES

#: Lines that say how a template is put together; what is below them is markup.
_CONTROL = re.compile(
    r"(?:if|else|unless|case|each|for|while|block|append|prepend|extends|include|mixin|import|yield)(?![\w-])"
)
#: A branch with markup behind it: `when "a": p Ferry`.
_BRANCH = re.compile(r"(?:when\b[^:]*|default\s*)(?::\s*(.*))?$")
_TAG = re.compile(r"([A-Za-z][\w:-]*(?<!:))?((?:[#.][\w-]+)*)")
_SHORTHANDS = re.compile(r"(?:[#.][\w-]+)+")
_SHORTHAND = re.compile(r"([#.])([\w-]+)")
_STRING = re.compile(r"\"((?:[^\"\\]|\\.)*)\"|'((?:[^'\\]|\\.)*)'|`((?:[^`\\]|\\.)*)`")
#: Brackets outside of strings, and what else may end a value.
_BRACKETS = re.compile(rf"{_STRING.pattern}|[()\[\]{{}}]")
_ENDS = re.compile(rf"{_STRING.pattern}|[()\[\]{{}},\n ]")
_ATTRIBUTE = re.compile(r"([^\s=,!\"'()]+)\s*(?:!?=\s*)?")
#: Expressions in text, which write what is not known, and tags in it: `#[strong Ferry]`.
_EXPRESSION = re.compile(r"[#!]\{[^{}]*\}|#\[!?=[^\[\]]*\]")
_INLINE = re.compile(r"#\[([A-Za-z][\w-]*)((?:[#.][\w-]+)*)(?:\(([^()]*)\))?\s?([^\[\]]*)\]")
_VOID = frozenset("area base br col embed hr img input link meta param source track wbr".split())
_RAW = frozenset(("script", "style"))
_OPENED, _CLOSED = frozenset("([{"), frozenset(")]}")
#: How often each character may be looked at in search of closing brackets, and elements in each other in one line.
_LOOKS, _IN_A_LINE = 4, 40
#: That another attribute follows a value, with nothing but a blank between.
_NEXT = re.compile(r"\s+[A-Za-z@:_*#.][^\s=,!\"'()?+|&]*\s*(?:!?=|\s|$)")
#: Parts of attributes' values that are not known.
_UNKNOWN = re.compile(r"[$#]\{[^{}]*\}")


class _Open(Struct, frozen=True):
    """An element that is open, and how far it is indented."""

    indent: int
    tag: str


def pug_markup(source: str, words_in: Callable[[str], str]) -> str:
    """A Pug template as HTML; `words_in` tells which words an expression writes."""
    return _Reader(source, words_in).markup()


class _Reader:
    def __init__(self, source: str, words_in: Callable[[str], str]) -> None:
        self._lines = source.expandtabs(4).split("\n")
        self._words_in = words_in
        self._looks = _LOOKS * (len(source) + 1)
        self._at = 0
        self._open: list[_Open] = []
        self._out: list[str] = []

    def markup(self) -> str:
        """All lines, each where it was."""
        while self._at < min(len(self._lines), MAX_PUG_LINES):
            line = self._lines[self._at]
            self._out.append("\n" if self._at else "")
            self._at += 1
            text = line.strip()
            if text:
                self._close(_indent(line))
                self._line(text, _indent(line))
        self._close(0)
        return "".join(self._out)

    def _close(self, indent: int) -> None:
        """Close what is indented as far or farther."""
        while self._open and self._open[-1].indent >= indent:
            self._out.append(f"</{self._open.pop().tag}>")

    def _line(self, text: str, indent: int) -> None:
        if text.startswith("//"):
            self._skip_below(indent)
        elif text.startswith("|"):
            self._out.append(self._text(text[1:].removeprefix(" ")) + " ")
        elif text.startswith("<"):
            self._out.append(self._text(text))
        elif text.startswith("doctype"):
            self._out.append("<!doctype html>")
        elif text.startswith(":"):
            self._out += self._below(indent)
        elif text.startswith("-"):
            if text == "-":
                self._skip_below(indent)
        elif text.startswith(("=", "!=")):
            self._out.append(self._written(text))
        elif text.startswith("+"):
            # What a mixin is given may be anything that it shows.
            self._out.append(html.escape(" ".join(_texts_in(text))) + " ")
        elif branch := _BRANCH.match(text):
            self._elements(branch[1] or "", indent)
        elif not _CONTROL.match(text):
            self._elements(text, indent)

    # --- blocks

    def _below(self, indent: int) -> Iterator[str]:
        """The lines that are indented farther, as they stand."""
        while self._at < len(self._lines):
            line = self._lines[self._at]
            if line.strip() and _indent(line) <= indent:
                return
            self._at += 1
            yield "\n" + line.strip()

    def _skip_below(self, indent: int) -> None:
        self._out += ("\n" for _ in self._below(indent))

    # --- elements

    def _elements(self, text: str, indent: int) -> None:
        """The elements of a line, which stand in each other: `li: a(href="/") Ferry`."""
        for _ in range(_IN_A_LINE):
            if text:
                text = self._element(text, indent)

    def _element(self, text: str, indent: int) -> str:
        """Open the first element; the ones in it are returned."""
        match = _TAG.match(text)
        if match is None or not match[0]:
            self._out.append(self._text(text))
            return ""
        tag, shorthands, rest = match[1] or "div", match[2], text[match.end() :]
        attributes, rest = self._attributes(rest)
        if more := _SHORTHANDS.match(rest):
            shorthands, rest = shorthands + more[0], rest[more.end() :]
        self._out.append(_opened(tag, shorthands, attributes) + "\n" * attributes.count("\n"))
        if tag in _VOID:
            return ""
        if rest.startswith("&attributes"):
            rest = rest.partition(")")[2]
        if len(self._open) < MAX_ELEMENT_DEPTH:
            self._open.append(_Open(indent, tag))
        if rest == ".":
            raw = list(self._below(indent))
            self._out += raw if tag in _RAW else map(self._text, raw)
        elif rest.startswith(":"):
            return rest[1:].strip()
        elif rest.startswith(("=", "!=")):
            self._out.append(self._written(rest))
        elif rest not in ("", "/"):
            self._out.append(self._text(rest.removeprefix(" ")))
        return ""

    def _attributes(self, rest: str) -> tuple[str, str]:
        """What stands in brackets behind a tag, which may go over several lines, and what is behind it."""
        if not rest.startswith("("):
            return "", rest
        start, line, size = self._at, rest, len(rest)
        while (end := _end_of_brackets(rest)) < 0 and self._at < len(self._lines) and self._looks > 0:
            # Twice as much each time, so that all is looked at a few times only.
            more = 0
            while self._at < len(self._lines) and more <= size:
                more += len(self._lines[self._at]) + 1
                self._at += 1
            size += more
            self._looks -= size
            rest = "\n".join((line, *self._lines[start : self._at]))
        if end < 0:
            # Brackets that nothing closes hold the line only.
            self._at = start
            return line[1:], ""
        # What is behind the line in which they close is read next.
        closing = rest.count("\n", 0, end)
        self._at = start + closing
        return rest[1:end], rest[end + 1 :].partition("\n")[0]

    def _written(self, code: str) -> str:
        """What a line of code writes, as far as it says so itself; `!=` writes markup."""
        words = " ".join(dict.fromkeys(filter(None, (self._words_in(code), *_texts_in(code)))))
        return words if code.startswith("!") else html.escape(words)

    def _text(self, text: str) -> str:
        text = _EXPRESSION.sub(lambda match: html.escape(self._words_in(match[0])) or " ", text)
        return _INLINE.sub(lambda match: _opened(match[1], match[2], match[3] or "") + f"{match[4]}</{match[1]}>", text)


def _indent(line: str) -> int:
    return len(line) - len(line.lstrip())


def _texts_in(expression: str) -> list[str]:
    """The strings in an expression that may be text: not names of files, classes or keys."""
    found = (_UNKNOWN.sub(" ", next(filter(None, match.groups()), "")) for match in _STRING.finditer(expression))
    return [text for text in found if " " in text.strip() or not text.isascii()]


def _end_of_brackets(text: str) -> int:
    """Where the bracket closes with which the text begins; -1 if it does not."""
    depth = 0
    for match in _BRACKETS.finditer(text):
        depth += (match[0] in _OPENED) - (match[0] in _CLOSED)
        if not depth:
            return match.start()
    return -1


def _opened(tag: str, shorthands: str, attributes: str) -> str:
    """The tag with its id, classes and those attributes whose values are written out."""
    found: dict[str, str] = {}
    classes: list[str] = []
    for sign, name in _SHORTHAND.findall(shorthands):
        if sign == "#":
            found["id"] = name
        else:
            classes.append(name)
    for name, value in _values(attributes):
        if name == "class":
            classes += value.split()
        else:
            found.setdefault(name, value)
    if classes:
        found["class"] = " ".join(classes)
    written = "".join(f' {name}="{html.escape(value, quote=True)}"' for name, value in found.items())
    return f"<{tag}{written}>"


def _values(attributes: str) -> Iterator[tuple[str, str]]:
    """The names and values of attributes. Of an expression its strings are the value."""
    at = 0
    while at < len(attributes):
        match = _ATTRIBUTE.match(attributes, at)
        if match is None:
            at += 1
            continue
        at = match.end()
        if "=" not in match[0][len(match[1]) :]:
            yield match[1], ""
            continue
        end = _end_of_value(attributes, at)
        texts = [next(filter(None, string.groups()), "") for string in _STRING.finditer(attributes, at, end)]
        yield match[1], " ".join(_UNKNOWN.sub("", text) for text in texts)
        at = end


def _end_of_value(attributes: str, at: int) -> int:
    """Where the expression of an attribute ends: at a comma, a line's end, or a blank before another attribute."""
    depth = 0
    for match in _ENDS.finditer(attributes, at):
        depth += (match[0] in _OPENED) - (match[0] in _CLOSED)
        if not depth and (match[0] in ",\n" or (match[0] == " " and _NEXT.match(attributes, match.start()))):
            return match.start()
    return len(attributes)
