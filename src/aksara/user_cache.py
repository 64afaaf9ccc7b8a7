"""Files in the user's cache folder: entries by key, which hold for one state of the code that made them."""

from __future__ import annotations

import os
import stat
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from typing import Generic, TypeVar

import platformdirs
from msgspec import Struct, json

from aksara.atomic import written_whole

T = TypeVar("T")


def cache_folder() -> Path:
    """The user's cache folder for Aksara."""
    return Path(platformdirs.user_cache_dir("aksara", appauthor=False))


class _File(Struct, Generic[T]):
    """The content of a cache file; `made_by` is the stamp of the code."""

    made_by: str
    entries: dict[str, T]


def read_cached(path: Path, limit: int) -> bytes | None:
    """The bytes of a file in the cache; None for anything but a regular file within the limit.

    Anyone may have put anything there: a pipe would wait for ever, a device has no end.
    """
    try:
        descriptor = os.open(path, os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0))
        with os.fdopen(descriptor, "rb") as file:
            status = os.fstat(descriptor)
            return file.read(limit) if stat.S_ISREG(status.st_mode) and status.st_size <= limit else None
    except (OSError, ValueError):
        return None


def read_entries(path: Path, made_by: str, limit: int, kind: type[T]) -> dict[str, T]:
    """The entries in a file of at most `limit` bytes, each of this kind; {} for a file that is missing or damaged, has
    entries of another kind, or was made by other code."""
    data = read_cached(path, limit)
    if data is None:
        return {}
    try:
        stored = json.decode(data, type=_File[kind])  # type: ignore[valid-type]
    except (ValueError, RecursionError):  # other types than these, too
        return {}
    return stored.entries if stored.made_by == made_by else {}


def write_entries(path: Path, made_by: str, entries: Mapping[str, object]) -> None:
    """Write them, all at once. Errors are ignored: the cache is optional."""
    # UnicodeError: a name whose bytes are in no encoding.
    with suppress(OSError, UnicodeError), written_whole(path, private=True) as file:
        file.write(json.encode(_File(made_by, dict(entries))))


def thin_out(folder: Path, most_files: int, most_bytes: int | None = None) -> None:
    """Remove the files in a folder of the cache, and in its folders, that were used longest ago, until the rest is
    within the limits. What cannot be removed stays."""
    entries = []
    for directory, _, names in os.walk(folder):
        for name in names:
            with suppress(OSError):
                path = Path(directory) / name
                status = path.stat()
                entries.append((status.st_mtime_ns, status.st_size, path))
    entries.sort(key=lambda entry: entry[0], reverse=True)
    size = 0
    for index, (_, bytes_of, path) in enumerate(entries):
        size += bytes_of
        if index >= most_files or (most_bytes is not None and size > most_bytes):
            with suppress(OSError):
                path.unlink()
