"""Content that Aksara keeps in users' files, between two marks: comments in the file's own syntax.

Only what is between them ever changes; all other bytes stay, whatever their encoding and line ends. A file is looked at
as Latin-1, in which each byte is a character and which all encodings but UTF-16 share their ASCII with.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from hashlib import sha256
from typing import Literal

from msgspec import Struct

from aksara.errors import AksaraError

BEGIN, END = "aksara: begin", "aksara: end"
# Bytes beyond ASCII are parts of characters, and none is white space or a letter.
_MARK = re.compile(r"aksara:[ \t]*(begin|end)\b", re.ASCII)
_BLANK = " \t\r\n\f"
Syntax = Literal["css", "scss", "html", "jsx"]

_COMMENTS: dict[Syntax, tuple[str, str]] = {
    "css": ("/* ", " */"),
    "scss": ("/* ", " */"),
    "html": ("<!-- ", " -->"),
    "jsx": ("{/* ", " */}"),
}
_SUFFIXES: dict[str, Syntax] = {
    ".css": "css", ".pcss": "css", ".scss": "scss", ".less": "scss", ".jsx": "jsx", ".tsx": "jsx"
}  # fmt: skip
# Comments, and what only looks like one. Unclosed ones extend to the end of the file.
_CSS_STRINGS = r""""(?:\\.|[^"\\\n])*"?|'(?:\\.|[^'\\\n])*'?|url\([^"'\s)][^)\n]*"""
_TOKENS: dict[Syntax, re.Pattern[str]] = {
    "css": re.compile(rf"(?P<comment>/\*.*?(?:\*/|\Z))|{_CSS_STRINGS}", re.DOTALL | re.ASCII),
    "scss": re.compile(rf"(?P<comment>/\*.*?(?:\*/|\Z))|(?P<other>//[^\n]*)|{_CSS_STRINGS}", re.DOTALL | re.ASCII),
    "html": re.compile(
        r"(?P<comment><!--.*?(?:-->|\Z))|(?P<other>(?<!\{)\{#.*?(?:#\}|\Z)|\{%-?\s*comment\b.*?(?:endcomment|\Z)"
        r"|\{\{!--.*?(?:--\}\}|\Z)|\{\{!(?!--).*?(?:\}\}|\Z)|<%.*?(?:%>|\Z)|<\?.*?(?:\?>|\Z)|@\*.*?(?:\*@|\Z)"
        r"|<script\b.*?(?:</script|\Z)|<style\b.*?(?:</style|\Z)|<textarea\b.*?(?:</textarea|\Z))",
        re.DOTALL | re.IGNORECASE | re.ASCII,
    ),
    "jsx": re.compile(r"(?P<comment>/\*.*?(?:\*/|\Z))|(?P<other>(?<![:\w])//[^\n]*)", re.DOTALL | re.ASCII),
}  # fmt: skip
_ENDS = {"css": ("/*", "*/"), "scss": ("/*", "*/"), "html": ("<!--", "-->"), "jsx": ("/*", "*/")}


class MarksError(AksaraError):
    """Unusable marks, or a place where none can be put; `line` counts from 1, 0 for no line."""

    def __init__(self, problem: str, line: int = 0) -> None:
        super().__init__(problem)
        self.line = line


def syntax_of(name: str) -> Syntax:
    """How comments are written in a file of that name."""
    return _SUFFIXES.get(name[name.rfind(".") :].lower() if "." in name else "", "html")


class MarkedFile(Struct, frozen=True):
    """A file of the user's, as one character a byte, or of UTF-16 a character a unit."""

    text: str
    syntax: Syntax
    encoding: str

    @classmethod
    def of(cls, data: bytes, name: str) -> MarkedFile:
        """The file with these bytes and that name. Raises `MarksError` for invalid UTF-16."""
        for mark, encoding in ((b"\xff\xfe", "utf-16-le"), (b"\xfe\xff", "utf-16-be")):
            if data.startswith(mark):
                text = data.decode(encoding, "surrogatepass") if len(data) % 2 == 0 else ""
                if text.encode(encoding, "surrogatepass") != data:
                    raise MarksError("this is not valid UTF-16, so it is left alone; save it as UTF-8")
                return cls(text, syntax_of(name), encoding)
        return cls(data.decode("latin-1"), syntax_of(name), "latin-1")

    @property
    def is_unicode(self) -> bool:
        """Whether other characters than ASCII may be written into it as they are: whether what is around the marks is
        UTF-8."""
        if self.encoding != "latin-1":
            return True
        try:
            self.around.encode("latin-1").decode()
        except UnicodeDecodeError:
            return False
        return True

    @property
    def marked(self) -> tuple[int, int] | None:
        """Where what is between the marks starts and ends; None for a file without. Raises `MarksError` for marks that
        are doubled, in a wrong order, alone or part of another comment."""
        spans: dict[str, list[tuple[int, int]]] = {"begin": [], "end": []}
        for match in _TOKENS[self.syntax].finditer(self.text):
            if match.lastgroup not in ("comment", "other") or not (inside := _MARK.search(match[0])):
                continue
            content = match[0].removeprefix(_ENDS[self.syntax][0]).removesuffix(_ENDS[self.syntax][1]).strip(_BLANK)
            if match.lastgroup == "other" or not (mark := _MARK.match(content)) or _MARK.search(content, mark.end()):
                line = self.line_of(match.start() + inside.start())
                raise MarksError("a mark is inside another comment or code; give it a line of its own", line)
            start, end = match.span()
            if self.syntax == "jsx":
                start, end = self._with_braces(start, end)
            spans[mark[1]].append((start, end))
        begins, ends = spans["begin"], spans["end"]
        if not begins and not ends:
            return None
        for found, words in ((begins, BEGIN), (ends, END)):
            if len(found) > 1:
                raise MarksError(f"the mark '{words}' is here twice; leave one", self.line_of(found[1][0]))
        if not ends or not begins:
            lacking, there = (END, begins) if begins else (BEGIN, ends)
            raise MarksError(f"the mark '{lacking}' is missing; add it, or remove both", self.line_of(there[0][0]))
        if ends[0][0] < begins[0][1]:
            raise MarksError(f"the mark '{END}' comes before '{BEGIN}'; swap them", self.line_of(ends[0][0]))
        return begins[0][1], ends[0][0]

    def _with_braces(self, start: int, end: int) -> tuple[int, int]:
        if self.text[start - 1 : start] != "{" or self.text[end : end + 1] != "}":
            raise MarksError("in JSX a mark has braces around it: {/* aksara: begin */}", self.line_of(start))
        return start - 1, end + 1

    @property
    def comments(self) -> list[tuple[int, int]]:
        """Where its comments start and end."""
        matches = _TOKENS[self.syntax].finditer(self.text)
        return [match.span() for match in matches if match.lastgroup in ("comment", "other")]

    @property
    def around(self) -> str:
        """The file without what is between its marks."""
        start, end = self.marked or (0, 0)
        return self.text[:start] + self.text[end:]

    def line_of(self, position: int) -> int:
        """The line of a place, from 1."""
        return len(re.findall(r"\r\n|\r|\n", self.text[:position])) + 1

    @property
    def line_end(self) -> str:
        """What its lines end with."""
        match = re.search(r"\r\n|\r|\n", self.text)
        return match[0] if match else "\n"

    def content(self) -> str:
        """What is between its marks, with "\\n" at line ends and without indents; "" without marks."""
        span = self.marked
        if span is None:
            return ""
        text = self.meaning_of(self.text[span[0] : span[1]])
        lines = [line.strip() for line in re.split(r"\r\n|\r|\n", text)]
        return "\n".join(lines).strip("\n")

    def meaning_of(self, text: str) -> str:
        """A part of the file, decoded."""
        return text.encode("latin-1").decode(errors="replace") if self.encoding == "latin-1" else text

    @property
    def content_digest(self) -> str:
        """The SHA-256 of what is between its marks, however it is indented."""
        return sha256(self.content().encode()).hexdigest()

    def with_content(self, content: str) -> bytes:
        """The file with that between its marks, which must be there."""
        span = self.marked
        assert span is not None, "marks are looked for first"
        line = re.split(r"\r\n|\r|\n", self.text[: span[0]])[-1]
        return self._put(span[0], span[1], "", content, "", line[: len(line) - len(line.lstrip(" \t"))])

    @property
    def empty_marks(self) -> str:
        """Marks with nothing between them."""
        opening, closing = _COMMENTS[self.syntax]
        return f"{opening}{BEGIN}{closing}{self.line_end}{opening}{END}{closing}"

    def with_marks_at(self, position: int, content: str, indent: str = "") -> bytes:
        """The file with new marks, and that between them, at a place where a line starts, or at its end."""
        opening, closing = _COMMENTS[self.syntax]
        at_line = position == self._start or self.text[position - 1] in "\r\n"
        before = "" if at_line else self.line_end
        if self.syntax in ("css", "scss") and position > self._start:
            before += self.line_end
        before += f"{indent}{opening}{BEGIN}{closing}"
        return self._put(position, position, before, content, f"{opening}{END}{closing}{self.line_end}", indent)

    @property
    def _start(self) -> int:
        """Where the text begins, behind a byte order mark."""
        if self.encoding == "latin-1":
            return 3 if self.text.startswith("\xef\xbb\xbf") else 0
        return 1

    def _put(self, start: int, end: int, before: str, content: str, after: str, indent: str) -> bytes:
        lines = [f"{indent}{line}" if line else "" for line in content.split("\n")] if content else []
        inner = self.line_end.join(["", *lines, indent])
        return (self.text[:start] + before + self._spelt(inner) + after + self.text[end:]).encode(
            self.encoding, "surrogatepass" if self.encoding != "latin-1" else "strict"
        )

    def _spelt(self, text: str) -> str:
        """A text of ours in the characters of this file."""
        if self.encoding != "latin-1":
            return text
        if self.is_unicode:
            return text.encode().decode("latin-1")
        if self.syntax in ("css", "scss"):
            return re.sub(r"[^\x00-\x7f]", lambda match: f"\\{ord(match[0]):x} ", text)
        return re.sub(r"[^\x00-\x7f]", lambda match: f"&#x{ord(match[0]):x};", text)

    # --- places for new marks

    @property
    def place_for_rules(self) -> int:
        """In a style sheet: behind what has to come first (imports, `@use`, the order of layers), or comments there."""
        position = last = self._start
        while match := _LEADING.match(self.text, position):
            position = match.end()
            if match["statement"] or last == self._start:
                last = position
        return _behind_line(self.text, last) if last > self._start else last

    def check_imports(self, content: str) -> None:
        """Raise `MarksError` where rules between the marks would come before imports, which CSS then ignores."""
        span = self.marked
        position = self.place_for_rules if span is None else span[1]
        pattern = _SASS_FIRST if self.syntax == "scss" else _CSS_FIRST
        if match := _outside(self, pattern, position):
            raise MarksError(
                f"{match[0]} comes after the marks, but must precede all rules; move the marks below it",
                self.line_of(match.start()),
            )
        if "@import" in content and (match := _outside(self, _RULE, self._start, span[0] if span else position)):
            raise MarksError(
                "the CSS that the licence demands is an import, and this rule comes before it; move the marks above",
                self.line_of(match.start()),
            )

    @property
    def place_for_links(self) -> tuple[int, str]:
        """In a page or template: before the end of its head, and the indent there. Raises `MarksError` without."""
        end = _outside(self, _HEAD_END, 0)
        if end is None:
            problem = f"no </head> is here; put the marks <!-- {BEGIN} --> and <!-- {END} --> where links belong"
            raise MarksError(problem)
        start = end.start()
        *others, before = re.split(r"\r\n|\r|\n", self.text[:start])
        if before.strip(" \t"):
            return start, ""
        # Indented as what stands before it in the head.
        last = next((line for line in reversed(others) if line.strip(_BLANK)), "")
        indent = last[: len(last) - len(last.lstrip(" \t"))]
        return start - len(before), indent if len(indent) > len(before) else before


class KeptPart(Struct, frozen=True):
    """The SHA-256 of what is between a file's marks, or the problem with them and its line."""

    digest: str = ""
    problem: str = ""
    line: int = 0


def kept_part(data: bytes, name: str) -> KeptPart | None:
    """The part of a file between its marks; None if it has no marks."""
    if b"aksara:" not in data.replace(b"\0", b""):
        return None
    try:
        file = MarkedFile.of(data, name)
        span = file.marked
    except MarksError as error:
        return KeptPart(problem=error.problem, line=error.line)
    return KeptPart(file.content_digest, line=file.line_of(span[0])) if span is not None else None


_LEADING = re.compile(
    r"\s*(?:(?P<statement>@(?:charset|import|use|forward|namespace|layer)\b(?:\"[^\"]*\"|'[^']*'|\([^()]*\)|[^;{}\"'()])*;)"
    r"|/\*.*?\*/|//[^\n]*)",
    re.DOTALL | re.IGNORECASE | re.ASCII,
)
_CSS_FIRST = re.compile(r"@(?:import|charset)\b", re.IGNORECASE)
_SASS_FIRST = re.compile(r"@(?:use|forward)\b", re.IGNORECASE)
_RULE = re.compile(r"\{")
_HEAD_END = re.compile(r"</head\s*>", re.IGNORECASE)


def _behind_line(text: str, position: int) -> int:
    """The position after the line end, if only white space is left in the line."""
    match = re.compile(r"[ \t]*(?:\r\n|\r|\n|\Z)").match(text, position)
    return match.end() if match else position


def _outside(file: MarkedFile, pattern: re.Pattern[str], start: int, end: int | None = None) -> re.Match[str] | None:
    """The first match of a pattern outside of comments and strings."""
    end = len(file.text) if end is None else end
    for low, high in _gaps(file, start, end):
        if found := pattern.search(file.text, low, high):
            return found
    return None


def _gaps(file: MarkedFile, start: int, end: int) -> Iterator[tuple[int, int]]:
    position = start
    for match in _TOKENS[file.syntax].finditer(file.text, start, end):
        yield position, match.start()
        position = match.end()
    yield position, end
