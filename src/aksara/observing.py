"""Recording what a task reads on disk: files read or looked for, and folders listed.

So it can be told later whether the same work would still see the same (`receipts`), and what to watch meanwhile. All
reading of what users give goes through `sources`, which tells of it here.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path

from msgspec import Struct, field

#: What tells whether a file is as it was: its kind, size, times of change and place on disk; None: nothing is there.
FileMark = tuple[int, int, int, int, int] | None


class Observed(Struct, frozen=True):
    """The marks of files, and the names in folders, as they were when they were first looked at; by absolute path."""

    files: dict[Path, FileMark] = field(default_factory=dict)
    folders: dict[Path, frozenset[str]] = field(default_factory=dict)


#: Those who want to know, of the work that is being done here: two builds in one program do not mix.
_observers: ContextVar[tuple[Observed, ...]] = ContextVar("observers", default=())


@contextmanager
def observe() -> Iterator[Observed]:
    """Record what is read inside the block, also by `in_threads`, but not by other processes."""
    observed = Observed()
    token = _observers.set((*_observers.get(), observed))
    try:
        yield observed
    finally:
        _observers.reset(token)


def is_observed() -> bool:
    """Whether anything is being recorded."""
    return bool(_observers.get())


def note_file(path: Path) -> None:
    """A file is about to be looked at."""
    for observer in _observers.get():
        absolute = path.absolute()
        if absolute not in observer.files:
            observer.files[absolute] = mark_of(absolute)


def note_folder(path: Path) -> None:
    """The names in a folder are about to be listed."""
    for observer in _observers.get():
        absolute = path.absolute()
        if absolute not in observer.folders:
            observer.folders[absolute] = names_in(absolute)


def mark_of(path: Path) -> FileMark:
    """The mark of the file or folder at a path, links followed."""
    try:
        status = path.stat()
    except (OSError, ValueError):
        return None
    return status.st_mode, status.st_size, status.st_mtime_ns, status.st_ctime_ns, status.st_ino


def names_in(path: Path) -> frozenset[str]:
    """The names in a folder, without hidden ones, which editors make at any time; none where it cannot be listed."""
    try:
        return frozenset(name for name in os.listdir(path) if not name.startswith("."))  # noqa: PTH208  # names alone
    except (OSError, ValueError):
        return frozenset()
