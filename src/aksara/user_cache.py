"""Files in the user's cache folder: entries by key, which hold for one state of the code that made them."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO, Any

import platformdirs


def cache_folder() -> Path:
    """The user's cache folder for Aksara."""
    return Path(platformdirs.user_cache_dir("aksara", appauthor=False))


def read_entries(path: Path, made_by: str, limit: int) -> dict[str, Any]:
    """The entries in a file of at most so many bytes; {} for none, for a damaged one, or for one made by others."""
    try:
        if path.stat().st_size > limit:
            return {}
        data = json.loads(path.read_text(encoding="utf-8", errors="surrogatepass"))
    except (OSError, ValueError, RecursionError):
        return {}
    if not isinstance(data, dict) or data.get("made_by") != made_by:
        return {}
    entries = data.get("entries")
    return entries if isinstance(entries, dict) else {}


def write_entries(path: Path, made_by: str, entries: Mapping[str, Any]) -> None:
    """Write them, all at once. A cache that cannot be written is none: nothing fails for it."""
    text = json.dumps({"made_by": made_by, "entries": dict(entries)}, ensure_ascii=False)
    with suppress(OSError), written_whole(path) as file:
        file.write(text.encode(errors="surrogatepass"))


@contextmanager
def written_whole(path: Path) -> Iterator[IO[bytes]]:
    """A file that takes the place of the one at `path` when all of it is written. Raises `OSError` if it cannot be."""
    import tempfile  # only needed here

    path.parent.mkdir(parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=".new-")
    try:
        with os.fdopen(handle, "wb") as file:
            yield file
        Path(name).replace(path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def thin_out(folder: Path, most_files: int, most_bytes: int | None = None) -> None:
    """Remove the files in a folder of the cache, and in its folders, that were used longest ago, until the rest is
    within the limits. What cannot be removed stays."""
    found = []
    for place, _, names in os.walk(folder):
        for name in names:
            with suppress(OSError):
                path = Path(place) / name
                status = path.stat()
                found.append((status.st_mtime_ns, status.st_size, path))
    found.sort(key=lambda each: each[0], reverse=True)
    size = 0
    for number, (_, bytes_of, path) in enumerate(found):
        size += bytes_of
        if number >= most_files or (most_bytes is not None and size > most_bytes):
            with suppress(OSError):
                path.unlink()
