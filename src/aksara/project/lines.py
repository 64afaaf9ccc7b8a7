"""Where in a TOML file its keys stand. `tomllib` gives values only, and a message must name the line."""

from __future__ import annotations

import re
import tomllib

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


def _statements(text: str) -> list[tuple[int, str]]:
    """Headers and keys with their values, each with its line; comments and line ends within a value are gone."""
    found: list[tuple[int, str]] = []
    number, depth, start = 1, 0, 1
    parts: list[str] = []
    for match in _TOKEN.finditer(text.replace("\r\n", "\n") + "\n"):
        token = match[0]
        if token == "\n" and depth == 0:
            if statement := "".join(parts).strip():
                found.append((start, statement))
            parts = []
        elif not token.startswith("#"):
            if not "".join(parts).strip():
                start = number
            parts.append(token)
            depth += (token in "[{") - (token in "]}")
        number += token.count("\n")
    return found


def _dotted(text: str) -> KeyPath:
    return tuple(str(tomllib.loads(f"x = {p}")["x"]) if p[0] in "\"'" else p for p in _PART.findall(text))


def _resolved(parts: KeyPath, tables: dict[KeyPath, int]) -> KeyPath:
    """The path of a header: what stands below a repeated table belongs to its latest."""
    path: KeyPath = ()
    for index, part in enumerate(parts):
        path = (*path, part)
        if index < len(parts) - 1 and path in tables:
            path = (*path, tables[path])
    return path


def line_of(lines: dict[KeyPath, int], path: KeyPath) -> int:
    """The line of a path, or of what holds it."""
    while path and path not in lines:
        path = path[:-1]
    return lines.get(path, 1)
