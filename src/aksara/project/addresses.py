"""The addresses that a host gave to font files: a build lists the files in the project, the user fills them in."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from aksara.atomic import written_whole
from aksara.limits import MAX_PROJECT_SIZE
from aksara.sources import read_file, resolved

_HEADER = re.compile(r"^[ \t]*\[output\.addresses\][ \t]*(?:#[^\r\n]*)?(?:\r?\n|\Z)", re.MULTILINE)
_NEXT_TABLE = re.compile(r"^[ \t]*\[", re.MULTILINE)
_KEY = re.compile(r"[ \t]*\"([^\"\\]*)\"[ \t]*=")


class AddressList(Struct, frozen=True):
    """The files that were added to the list, and those without an address yet, the added ones among them."""

    added: tuple[str, ...]
    empty: tuple[str, ...]


def count_address_tables(text: str) -> int:
    """The number of tables in a project file that a build can add lines to."""
    return len(_HEADER.findall(text))


def list_addresses(project: Path, table: int, files: Sequence[str]) -> AddressList:
    """Add the files to an `[output.addresses]` (the first is 0), and remove the lines of files that the build no longer
    makes and that have no address. All other bytes stay."""
    text = read_file(project, limit=MAX_PROJECT_SIZE).decode()
    header = list(_HEADER.finditer(text))[table]
    start = header.end()
    match = _NEXT_TABLE.search(text, start)
    end = match.start() if match else len(text)
    section = text[start:end]
    known: dict[str, str] = tomllib.loads(section)
    line_end = "\r\n" if "\r\n" in text else "\n"
    lines = section.splitlines(keepends=True)
    blank = len(lines) - next((n for n, line in enumerate(reversed(lines)) if line.strip()), len(lines))
    kept = [line for line in lines[:blank] if _is_kept(line, known, files)]
    added = [name for name in files if name not in known]
    pieces = [text[:start], *kept]
    if added and not pieces[-1].endswith("\n"):
        # The file ends without a line end.
        pieces[-1] += line_end
    pieces += [f'"{name}" = ""{line_end}' for name in added]
    new = "".join([*pieces, *lines[blank:], text[end:]])
    if new != text:
        with written_whole(resolved(project)) as file:
            file.write(new.encode())
    return AddressList(tuple(added), tuple(name for name in files if not known.get(name)))


def _is_kept(line: str, known: dict[str, str], files: Sequence[str]) -> bool:
    match = _KEY.match(line)
    return match is None or match[1] in files or bool(known.get(match[1]))
