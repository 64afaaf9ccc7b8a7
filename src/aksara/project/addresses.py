"""The list of addresses in a project file: a build adds the files that have none yet, the user fills them in."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from aksara.atomic import written_whole
from aksara.errors import RequestError
from aksara.limits import MAX_PROJECT_SIZE
from aksara.sources import printable, read_file

_HEADER = re.compile(rb"^[ \t]*\[output\.addresses\][ \t]*(?:#[^\r\n]*)?(?:\r?\n|\Z)", re.MULTILINE)
_NEXT = re.compile(rb"^[ \t]*\[", re.MULTILINE)


class AddressList(Struct, frozen=True):
    """The files that were added to the list, those without an address yet (the added ones among them), and those that
    have one and are not made any more."""

    added: tuple[str, ...]
    empty: tuple[str, ...]
    useless: tuple[str, ...]


def list_addresses(project: Path, output: int, files: Sequence[str]) -> AddressList:
    """Put the files into the `[output.addresses]` of an output (the first is 0); lines of files that are not made any
    more and have no address go. All other bytes stay. Raises `RequestError` for a list of another form."""
    data = read_file(project, limit=MAX_PROJECT_SIZE)
    headers = list(_HEADER.finditer(data))
    if output >= len(headers):
        raise RequestError(
            f"{printable(str(project))}: write [output.addresses] on a line of its own, so that files can be listed"
        )
    start = headers[output].end()
    end = match.start() if (match := _NEXT.search(data, start)) else len(data)
    known: dict[str, str] = tomllib.loads(data[start:end].decode())
    line_end = b"\r\n" if b"\r\n" in data else b"\n"
    lines = data[start:end].splitlines(keepends=True)
    kept = [line for line in lines if _name(line) is None or _name(line) in files or known.get(_name(line) or "")]
    added = [name for name in files if name not in known]
    while kept and not kept[-1].strip():
        kept.pop()
    if kept and not kept[-1].endswith((b"\n", b"\r")):
        kept[-1] += line_end
    head = data[:start] if data[:start].endswith(b"\n") else data[:start] + line_end
    body = b"".join([*kept, *(f'"{name}" = ""'.encode() + line_end for name in added)])
    new = head + body + (line_end if end < len(data) else b"") + data[end:]
    if added or len(kept) < len([line for line in lines if line.strip()]):
        with written_whole(project) as file:
            file.write(new)
    return AddressList(
        tuple(added),
        tuple(name for name in files if not known.get(name)),
        tuple(name for name, address in known.items() if address and name not in files),
    )


def _name(line: bytes) -> str | None:
    """The file that a line of the list is for."""
    match = re.match(rb"[ \t]*\"([^\"\\]*)\"[ \t]*=", line)
    return match[1].decode() if match else None
