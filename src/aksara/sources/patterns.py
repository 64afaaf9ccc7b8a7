"""Patterns of paths: `*`, `?` and `[…]` for names, `**` for any folders.

A pattern comes from a project file, which may come from anywhere, and each `**` in it multiplies what there is to look
at. So all parts of a pattern are followed at once, each folder is listed once, and what is looked at is bounded.
"""

from __future__ import annotations

import fnmatch
import os
import re
from collections.abc import Collection, Iterable, Iterator, Sequence
from pathlib import Path

from msgspec import Struct

from aksara.errors import RequestError
from aksara.limits import MAX_LOOKED_AT, MAX_PATTERN_PARTS
from aksara.observing import note_file, note_folder
from aksara.sources.files import printable

_ANY_FOLDERS = "**"
_MAGIC = re.compile(r"[*?[]")


class LookedAt:
    """Counts names seen in folders. Raises `RequestError` beyond `MAX_LOOKED_AT`."""

    def __init__(self, what: str) -> None:
        """`what` is the path or pattern, for the message."""
        self._what = what
        self._left = MAX_LOOKED_AT

    def count(self, number: int) -> None:
        """Count names that were seen."""
        self._left -= number
        if self._left < 0:
            raise RequestError(
                f"'{printable(self._what)}': more than {MAX_LOOKED_AT:,} files to look through; name a smaller folder"
            )


class _Part(Struct, frozen=True):
    """A part of a pattern between slashes; `matcher` is None for a plain name and for `**`."""

    text: str
    matcher: re.Pattern[str] | None

    def fits(self, name: str) -> bool:
        """Whether a name in a folder fits; hidden ones fit only what begins with a dot."""
        if self.matcher is None:
            return False
        return bool(self.matcher.match(name)) and (self.text.startswith(".") or not name.startswith("."))


class PathFilter:
    """Patterns of paths in a folder that are left out: "vendor" (a name anywhere), "docs/old/**", "*.draft.html"."""

    def __init__(self, patterns: Iterable[str]) -> None:
        """Raises `RequestError` for a pattern that takes too much."""
        self._names: list[re.Pattern[str]] = []
        self._paths: list[re.Pattern[str]] = []
        for pattern in patterns:
            if len(pattern) > 4 * MAX_PATTERN_PARTS * MAX_PATTERN_PARTS or pattern.count("/") > MAX_PATTERN_PARTS:
                raise RequestError(f"'{printable(pattern[:80])}…': this pattern is too long; write a plain path")
            parts = [part for part in pattern.replace(os.sep, "/").split("/") if part not in ("", ".")]
            if len(parts) == 1 and parts[0] != _ANY_FOLDERS:
                self._names.append(re.compile(fnmatch.translate(parts[0])))
            elif parts:
                self._paths.append(re.compile(_path_expression(parts)))

    def matches(self, path: str) -> bool:
        """Whether a path, which counts from the folder and has "/" between its parts, is left out."""
        name = path.rpartition("/")[2]
        return any(pattern.match(name) for pattern in self._names) or any(
            pattern.fullmatch(path) for pattern in self._paths
        )


def _path_expression(parts: Sequence[str]) -> str:
    """A regular expression of a pattern with slashes; `**` at its end means the folder with all that it holds."""
    whole = ""
    for index, part in enumerate(parts):
        last = index == len(parts) - 1
        if part != _ANY_FOLDERS:
            translated = fnmatch.translate(part).removeprefix("(?s:").removesuffix(r")\Z").replace(".*", "[^/]*")
            whole += translated + ("" if last or (index == len(parts) - 2 and parts[-1] == _ANY_FOLDERS) else "/")
        else:
            whole += "(?:/.*)?" if last else "(?:[^/]+/)*"
    return whole


def has_magic(pattern: str) -> bool:
    """Whether it is a pattern, and not a plain path."""
    return bool(_MAGIC.search(pattern))


def matching_paths(pattern: str, base: Path, passed_over: Collection[str] = ()) -> Iterator[Path]:
    """The files and folders that a pattern means, counted from `base`, in no particular order, each once.

    Folders with a name in `passed_over` are not searched by `**`. Raises `RequestError` for a pattern that takes too
    much, `OSError` or `ValueError` for one that cannot be looked for.
    """
    if len(pattern) > 4 * MAX_PATTERN_PARTS * MAX_PATTERN_PARTS or pattern.count("/") > MAX_PATTERN_PARTS:
        raise RequestError(f"'{printable(pattern[:80])}…': this pattern is too long; write a plain path")
    drive, rest = os.path.splitdrive(pattern.replace(os.sep, "/"))
    start = Path(drive + "/") if rest.startswith("/") else base / drive
    parts: list[_Part] = []
    for text in filter(None, rest.split("/")):
        if text == _ANY_FOLDERS and parts and parts[-1].text == _ANY_FOLDERS:
            continue  # any folders, and then any folders, are any folders
        flags = re.IGNORECASE if os.name == "nt" else 0
        plain = text == _ANY_FOLDERS or not has_magic(text)
        parts.append(_Part(text, None if plain else re.compile(fnmatch.translate(text), flags)))
    seen: set[Path] = set()
    for path in _walk(start, frozenset((0,)), parts, LookedAt(pattern), passed_over):
        if path not in seen:
            seen.add(path)
            yield path


def _walk(
    start: Path, first: frozenset[int], parts: list[_Part], looked_at: LookedAt, passed_over: Collection[str]
) -> Iterator[Path]:
    """Go through folders with the set of places in the pattern that may follow in each."""
    waiting = [(start, first)]
    visited: set[tuple[int, int, frozenset[int]]] = set()
    while waiting:
        folder, indices = waiting.pop()
        indices = _with_skipped(indices, parts)
        if len(parts) in indices and folder != start:
            yield folder
        # A circle of links comes back to a folder with the same places.
        try:
            status = folder.stat()
        except OSError:
            note_file(folder)
            continue
        if (mark := (status.st_dev, status.st_ino, indices)) in visited:
            continue
        visited.add(mark)
        looked_at.count(1)
        for index in sorted(indices - {len(parts)}):
            part = parts[index]
            if part.matcher is None and part.text != _ANY_FOLDERS:
                if (folder / part.text).exists():
                    waiting.append((folder / part.text, frozenset((index + 1,))))
                else:
                    note_file(folder / part.text)
        searched = [index for index in indices if index < len(parts) and _needs_names(parts[index])]
        if not searched or not folder.is_dir():
            continue
        note_folder(folder)
        for entry in _entries(folder, looked_at):
            following = {index + 1 for index in searched if parts[index].fits(entry.name)}
            goes_on = not entry.name.startswith(".") and entry.name not in passed_over
            if goes_on:
                following |= {index for index in searched if parts[index].text == _ANY_FOLDERS}
            if following and _is_folder(entry):
                waiting.append((folder / entry.name, frozenset(following)))
            elif len(parts) in _with_skipped(frozenset(following), parts):
                yield folder / entry.name


def _with_skipped(indices: frozenset[int], parts: list[_Part]) -> frozenset[int]:
    """The places, and those behind a `**`, which may stand for no folder at all."""
    reached = set(indices)
    for index in range(len(parts)):
        if index in reached and parts[index].text == _ANY_FOLDERS:
            reached.add(index + 1)
    return frozenset(reached)


def _needs_names(part: _Part) -> bool:
    return part.matcher is not None or part.text == _ANY_FOLDERS


def _entries(folder: Path, looked_at: LookedAt) -> Iterator[os.DirEntry[str]]:
    try:
        with os.scandir(folder) as entries:
            for entry in entries:
                looked_at.count(1)
                yield entry
    except OSError:  # a folder that may not be read holds nothing for us
        return


def _is_folder(entry: os.DirEntry[str]) -> bool:
    try:
        return entry.is_dir()
    except OSError:
        return False
