"""Staging folders: where a build stands until it is whole, and what tells the next one of a build that never was.

A process can be killed at any moment. Then its staging folder stays, and perhaps some of its files are in place
already. The list in the folder says which files beside the fonts were there before and which were to come, so that the
next build knows all of them as Aksara's own; it removes those that it does not want, and the folder.
"""

from __future__ import annotations

import json
import os
import re
import shutil
import tempfile
import time
from collections.abc import Mapping, Set
from contextlib import suppress
from pathlib import Path
from types import TracebackType
from typing import Any, BinaryIO, Self

from aksara.pipeline.targets import Listed, files_listed

try:
    import fcntl
except ImportError:  # Windows
    fcntl = None  # type: ignore[assignment]

_PREFIX = ".aksara-"
_LIST = "files.json"
_OWN_NAME = re.compile(r"\d+(\.before)?|files\.json")
#: Seconds after which a folder is taken for abandoned where files cannot be locked.
_LONG = 3_600


class Staging:
    """A staging folder in `folder`; it is locked while its build runs, and goes with it."""

    def __init__(self, folder: Path, listed: Listed) -> None:
        """`listed` are the files beside the fonts that are the build's own, before and after."""
        self.path = Path(tempfile.mkdtemp(prefix=_PREFIX, dir=folder))
        self._list: BinaryIO | None = None
        try:
            self._list = (self.path / _LIST).open("wb")
            if fcntl is not None:
                fcntl.flock(self._list, fcntl.LOCK_EX | fcntl.LOCK_NB)
            text = json.dumps({"files": {name: sorted(digests) for name, digests in sorted(listed.items())}})
            self._list.write(text.encode())
            self._list.flush()
            os.fsync(self._list.fileno())
        except BaseException:
            self.remove()
            raise

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        self.remove()

    def remove(self) -> None:
        """Remove the folder and what is in it."""
        if self._list is not None:
            self._list.close()
        shutil.rmtree(self.path, ignore_errors=True)


def abandoned(folder: Path) -> list[Path]:
    """The staging folders of builds that were killed."""
    try:
        found = sorted(folder.glob(f"{_PREFIX}*"))
    except OSError:
        return []
    return [path for path in found if _is_staging(path) and not _is_in_use(path)]


def is_staged(path: Path) -> bool:
    """Whether a path is that of a staging folder, or of a file in one."""
    return any(part.startswith(_PREFIX) for part in path.parts)


def listed_by(staging: Path) -> Mapping[str, Set[str]]:
    """The files beside the fonts that a killed build knew as its own."""
    return files_listed(staging / _LIST, _of_list)


def _of_list(contents: Any) -> list[tuple[str, str]]:
    return [(name, digest) for name, digests in contents["files"].items() for digest in digests]


def _is_staging(path: Path) -> bool:
    if path.is_symlink() or not path.is_dir():
        return False
    with suppress(OSError):
        return all(_OWN_NAME.fullmatch(inside.name) and not inside.is_dir() for inside in path.iterdir())
    return False


def _is_in_use(staging: Path) -> bool:
    """Whether a build is still at work in it."""
    try:
        if fcntl is None:
            return time.time() - staging.stat().st_mtime < _LONG
        with (staging / _LIST).open("rb") as file:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except FileNotFoundError:
        return False
    except OSError:
        return True
    return False
