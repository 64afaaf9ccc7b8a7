"""Finding the lines of keys in a TOML file: `tomllib` gives values only, and messages must name the line."""

from __future__ import annotations

import re
import tomllib

from aksara.errors import RequestError
from aksara.limits import MAX_KEY_PARTS, MAX_PROJECT_OUTPUTS, MAX_PROJECT_TABLES, MAX_PROJECT_VALUES

KeyPath = tuple[str | int, ...]

# Strings first, so that nothing in them counts; then what opens and closes, and comments.
_TOKEN = re.compile(
    r'"""(?:\\.|[^\\])*?"""|\'\'\'.*?\'\'\'|"(?:\\.|[^"\\\n])*"|\'[^\'\n]*\'|#[^\n]*|[\[\]{}]|\n|[^\[\]{}"\'#\n]+',
    re.DOTALL,
)
_PART = re.compile(r'"(?:\\.|[^"\\])*"|\'[^\']*\'|[A-Za-z0-9_-]+')


def find_lines(text: str) -> dict[KeyPath, int]:
    """The line of each table and key, by its path: `("family", 0, "name")`. The text must be sound TOML."""
    lines: dict[KeyPath, int] = {}
    tables: dict[KeyPath, int] = {}
    table: KeyPath = ()
    for number, statement in _statements(text):
        header = re.fullmatch(r"(\[\[?)(.*?)(\]\]?)", statement, re.DOTALL)
        if header:
            path = _resolved(_dotted(header[2]), tables)
            if header[1] == "[[":
                tables[path] = tables.get(path, -1) + 1
                path = (*path, tables[path])
            table = path
            lines.setdefault(path, number)
        else:
            key = re.match(rf"\s*(?:{_PART.pattern})(?:\s*\.\s*(?:{_PART.pattern}))*", statement)
            lines.setdefault((*table, *_dotted(key[0] if key else "")), number)
    return lines


def check_bounds(text: str) -> None:
    """Raise `RequestError` for a file with more tables, values or parts of a key than any project has.

    Looked at before it is parsed, for parsing takes a multiple of all these.
    """
    plain = _TOKEN.sub(lambda match: "x" if match[0][0] in "\"'" else "" if match[0][0] == "#" else match[0], text)
    headers = re.findall(r"^[ \t]*\[\[?[ \t]*([^\]\n]{0,80})", plain, re.MULTILINE)
    outputs = sum(name.strip() == "output" for name in headers)
    values = plain.count("=") + plain.count(",")
    parts = max((piece.count(".") + 1 for piece in re.split(r"[^\w\-. \t]", plain)), default=0)
    for count, most, what in (
        (len(headers), MAX_PROJECT_TABLES, "tables"),
        (outputs, MAX_PROJECT_OUTPUTS, "[[output]] tables"),
        (values, MAX_PROJECT_VALUES, "values"),
        (parts, MAX_KEY_PARTS, "parts in one key"),
    ):
        if count > most:
            raise RequestError(f"it has more than {most:,} {what}; split it into several project files")


def _statements(text: str) -> list[tuple[int, str]]:
    """Headers and keys with their values, each with its line; comments and line ends within a value are gone."""
    statements: list[tuple[int, str]] = []
    number, depth, start = 1, 0, 1
    parts: list[str] = []
    is_blank = True
    for match in _TOKEN.finditer(text.replace("\r\n", "\n") + "\n"):
        token = match[0]
        if token == "\n" and depth == 0:
            if statement := "".join(parts).strip():
                statements.append((start, statement))
            parts, is_blank = [], True
        elif not token.startswith("#"):
            if is_blank:
                start = number
            is_blank = is_blank and not token.strip()
            parts.append(token)
            depth += (token in "[{") - (token in "]}")
        number += token.count("\n")
    return statements


def _dotted(text: str) -> KeyPath:
    return tuple(str(tomllib.loads(f"x = {p}")["x"]) if p[0] in "\"'" else p for p in _PART.findall(text))


def _resolved(parts: KeyPath, tables: dict[KeyPath, int]) -> KeyPath:
    """The path of a header; tables below a repeated table belong to its latest entry."""
    path: KeyPath = ()
    for index, part in enumerate(parts):
        path = (*path, part)
        if index < len(parts) - 1 and path in tables:
            path = (*path, tables[path])
    return path


def line_of(lines: dict[KeyPath, int], path: KeyPath) -> int:
    """The line of a path, or of the table that contains it."""
    while path and path not in lines:
        path = path[:-1]
    return lines.get(path, 1)
