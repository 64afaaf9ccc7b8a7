"""Findings from comparing what a project would build with the files that exist."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

from aksara.checking.findings import Finding, Place, finding
from aksara.errors import InputError
from aksara.phrases import listed
from aksara.sizes import format_size
from aksara.sources import printable, read_file

#: Files that are named one by one.
_NAMED = 4
#: What fits a fallback face, and by how many percent it may differ.
_FITTED = re.compile(rb"(?:size-adjust|ascent-override|descent-override|line-gap-override): ([0-9.]+)%")
_LITTLE = 2.0


def built_findings(folder: Path, files: Iterable[tuple[Path, bytes]], also: Iterable[Path]) -> Iterator[Finding]:
    """Whether the files that a build would write are in its output folder, byte for byte.

    Those in `also`, which no reader fetches, matter less: they change with every text.
    """
    lesser = set(also)
    stale = [(path, data, _read(path)) for path, data in files]
    stale = [(path, data, there) for path, data, there in stale if there != data]
    if served := [file for file in stale if file[0] not in lesser and not _is_alike(file[1], file[2])]:
        yield _outdated(folder, served, "")
    elif stale:
        yield _outdated(folder, stale, "alike")


def _outdated(folder: Path, stale: Sequence[tuple[Path, bytes, bytes | None]], case: str) -> Finding:
    names = [f"{path.name}{' (missing)' if there is None else ''}" for path, _, there in stale]
    return finding("build-outdated", Place(f"{printable(str(folder))}/"), case, listed=listed(names, _NAMED))


def budget_findings(folder: Path, budgets: Iterable[tuple[str, int, int]]) -> Iterator[Finding]:
    """First views that fetch more than they may: what fetches, its bytes, and the limit."""
    for what, size, limit in budgets:
        if size > limit:
            problem = f"{what} fetches {format_size(size)}, and the budget is {format_size(limit)}"
            yield finding("budget-missed", Place(f"{printable(str(folder))}/"), problem=problem)


def _read(path: Path) -> bytes | None:
    try:
        return read_file(path)
    except InputError:
        return None


def _is_alike(made: bytes, there: bytes | None) -> bool:
    """Whether two style sheets differ only in how fallback faces are fitted, and in that by little: it follows the
    letters of the site's text."""
    if there is None or _FITTED.sub(b"", made) != _FITTED.sub(b"", there):
        return False
    pairs = zip(_FITTED.findall(made), _FITTED.findall(there), strict=True)
    return all(abs(float(one) - float(other)) <= _LITTLE for one, other in pairs)
