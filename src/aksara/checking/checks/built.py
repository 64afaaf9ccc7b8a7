"""Findings about what a project would make and what is there."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

from aksara.checking.findings import Finding, Level, Place
from aksara.errors import InputError
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
    if served := [each for each in stale if each[0] not in lesser and not _is_alike(each[1], each[2])]:
        effect = "readers see the site with older fonts, or with rules that name fonts that are gone"
        yield _finding(folder, served, "error", effect)
    elif stale:
        yield _finding(folder, stale, "hint", "nothing: fonts are right, and fallback faces as good as right")


def _finding(folder: Path, stale: Sequence[tuple[Path, bytes, bytes | None]], level: Level, effect: str) -> Finding:
    names = [f"{path.name}{' (missing)' if there is None else ''}" for path, _, there in stale]
    more = f" and {len(names) - _NAMED} more" if len(names) > _NAMED else ""
    return Finding(
        kind="build-outdated",
        level=level,
        place=Place(f"{printable(str(folder))}/"),
        problem=f"the project would make other files: {', '.join(names[:_NAMED])}{more}",
        effect=effect,
        advice="run aksara build, and publish what it writes",
    )


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
