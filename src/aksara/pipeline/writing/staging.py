"""Staging folders: a build is complete before it moves in, and an interrupted one leaves a list of its files.

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
from collections.abc import Iterator, Mapping, Set
from contextlib import contextmanager, suppress
from pathlib import Path

from msgspec import Struct
from msgspec.json import decode

from aksara.errors import InputError, OutputError
from aksara.limits import MAX_MANIFEST_SIZE
from aksara.locking import StillLockedError, locked
from aksara.pipeline.writing.targets import Listed, digests_by_name
from aksara.sources import printable, read_file

_PREFIX = ".aksara-"
_LIST = "files.json"
_OWN_NAME = re.compile(r"\d+(\.before)?|files\.json")
#: Seconds that a build waits for another one to write, which takes moments.
_PATIENCE = 30


class _FileList(Struct, frozen=True):
    """Files beside the fonts that were there or were to come: name → SHA-256s."""

    files: dict[str, list[str]]


@contextmanager
def alone_in(folder: Path) -> Iterator[None]:
    """Lock the folder, which must exist, against other builds until the block ends.

    So whatever staging folder is there was left by one that was killed; its lock went with it. Raises `OutputError`
    where another build does not end.
    """
    try:
        with locked(folder, _PATIENCE):
            yield
    except StillLockedError as error:
        name = printable(str(folder))
        raise OutputError(f"{name}: another build is writing here; wait until it has ended") from error


@contextmanager
def staging_in(folder: Path, listed: Listed) -> Iterator[Path]:
    """A staging folder, which goes in the end; `listed` are the build's own files beside the fonts, old and new."""
    path = Path(tempfile.mkdtemp(prefix=_PREFIX, dir=folder))
    try:
        with (path / _LIST).open("w") as file:
            json.dump({"files": {name: sorted(digests) for name, digests in sorted(listed.items())}}, file)
            file.flush()
            os.fsync(file.fileno())
        yield path
    finally:
        shutil.rmtree(path, ignore_errors=True)


def abandoned(folder: Path) -> list[Path]:
    """The staging folders in a folder, of builds that were killed."""
    try:
        return [path for path in sorted(folder.glob(f"{_PREFIX}*")) if _is_staging(path)]
    except OSError:
        return []


def is_staged(path: Path) -> bool:
    """Whether a path is that of a staging folder, or of a file in one."""
    return any(part.startswith(_PREFIX) for part in path.parts)


def listed_by(staging: Path) -> Mapping[str, Set[str]]:
    """The files beside the fonts that a killed build knew as its own."""
    try:
        kept = decode(read_file(staging / _LIST, limit=MAX_MANIFEST_SIZE), type=_FileList)
    except (InputError, ValueError, RecursionError):  # damaged: nothing is known
        return {}
    return digests_by_name((name, digest) for name, digests in kept.files.items() for digest in digests)


def _is_staging(path: Path) -> bool:
    if path.is_symlink() or not path.is_dir():
        return False
    with suppress(OSError):
        return all(_OWN_NAME.fullmatch(inside.name) and not inside.is_dir() for inside in path.iterdir())
    return False
