"""Writing a build: first to a folder beside, then moved in whole.

New fonts have new names, so nothing that works is overwritten before the
style sheet that needs it stands; the manifest is last. What an earlier build
wrote and this one does not is removed; nothing else is touched.
"""

from __future__ import annotations

import json
import os
import re
import shutil
import tempfile
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

from aksara.errors import OutputError, RequestError
from aksara.sources import MANIFEST_MARK, MANIFEST_NAME, is_own_archive
from aksara.web.css import MARK

_FONT_NAME = re.compile(r"[A-Za-z0-9]+-[A-Za-z0-9]+(?:\.[a-z0-9-]+)?\.([0-9a-f]{8})\.(?:woff2|woff|ttf|otf)")
_PLAIN_NAME = re.compile(r"[A-Za-z0-9_-][A-Za-z0-9._-]*")
_MAX_MANIFEST = 20_000_000
PROOF_MARK = '<meta name="generator" content="Aksara'


@dataclass(slots=True, frozen=True)
class OutputFile:
    """A file to be: its path and its bytes; `parameter` is what chose the path."""

    path: Path
    data: bytes
    parameter: str = "BuildRequest.folder"


@dataclass(slots=True, frozen=True)
class Written:
    """What became of the folder: files written anew, left as they were, and removed."""

    new: tuple[Path, ...]
    unchanged: tuple[Path, ...]
    removed: tuple[Path, ...]


def write_output(files: Sequence[OutputFile], folder: Path) -> Written:
    """Put the files in place, in their order, and remove what an earlier build left in `folder`.

    Raises `RequestError` where a file that Aksara did not write stands in the way, `OutputError`
    where writing fails; then everything is as it was.
    """
    listed = _listed(folder)
    for file in files:
        _check_replaceable(file, listed)
    stale = _stale(folder, listed, {file.path for file in files})
    unchanged = [file for file in files if _same(file)]
    changed = [file for file in files if file not in unchanged]
    created: list[Path] = []
    staging: Path | None = None
    try:
        _make_folder(folder, created)
        staging = Path(tempfile.mkdtemp(prefix=".aksara-", dir=folder))
        for number, file in enumerate(changed):
            with (staging / str(number)).open("wb") as out:
                out.write(file.data)
                out.flush()
                os.fsync(out.fileno())
        _move_in(changed, staging, created)
    except OSError as error:
        _remove_created(staging, created)
        where = error.filename2 or error.filename or folder
        raise OutputError(
            f"{where}: cannot be written ({error.strerror}); check the free space and the permissions. "
            "What was there before is untouched"
        ) from error
    except BaseException:
        _remove_created(staging, created)
        raise
    shutil.rmtree(staging, ignore_errors=True)
    removed = [path for path in stale if _remove(path)]
    return Written(tuple(f.path for f in changed), tuple(f.path for f in unchanged), tuple(removed))


def _move_in(changed: Sequence[OutputFile], staging: Path, created: list[Path]) -> None:
    """Move staged files to where they belong; on failure put back what was replaced."""
    replaced: list[tuple[Path, Path]] = []
    try:
        for number, file in enumerate(changed):
            _make_folder(file.path.parent, created)
            if file.path.exists():
                backup = staging / f"{number}.before"
                shutil.copy2(file.path, backup)
                replaced.append((backup, file.path))
            else:
                created.append(file.path)
            # The style sheet may lie on another file system, where a move is a copy.
            shutil.move(staging / str(number), file.path)
    except BaseException:
        for backup, path in replaced:
            with suppress(OSError):
                shutil.move(backup, path)
        raise


def _make_folder(folder: Path, created: list[Path]) -> None:
    missing = [path for path in (folder, *folder.parents) if not path.exists()]
    for path in reversed(missing):
        path.mkdir()
        created.append(path)


def _remove_created(staging: Path | None, created: Sequence[Path]) -> None:
    if staging is not None:
        shutil.rmtree(staging, ignore_errors=True)
    for path in reversed(created):
        with suppress(OSError):
            path.rmdir() if path.is_dir() else path.unlink()


def _same(file: OutputFile) -> bool:
    try:
        return file.path.stat().st_size == len(file.data) and file.path.read_bytes() == file.data
    except OSError:
        return False


def _check_replaceable(file: OutputFile, listed: Mapping[str, str]) -> None:
    """A file in the way must be one of ours.

    Font names hold their own hash, licence texts are in the manifest with theirs, the others have a mark.
    """
    path = file.path
    if not path.exists() or _FONT_NAME.fullmatch(path.name):
        return
    if path.is_dir():
        raise RequestError(
            f"{path}: this is a folder, but a file of that name must go there; choose another output folder",
            parameter="BuildRequest.folder",
        )
    try:
        with path.open("rb") as opened:
            start = opened.read(600)
        same = _same(file) or _hash(path) == listed.get(path.name, "-")
    except OSError as error:
        raise OutputError(f"{path}: cannot be read ({error.strerror}), so it is not replaced") from error
    marks = (MARK.encode(), MANIFEST_MARK, PROOF_MARK.encode())
    if start and not same and not any(mark in start for mark in marks) and not is_own_archive(path):
        raise RequestError(
            f"{path}: Aksara did not write this file, so it is not replaced; choose another name",
            parameter=file.parameter,
        )


def _listed(folder: Path) -> dict[str, str]:
    """Names and SHA-256 of the files beside the fonts, as the folder's manifest has them.

    The manifest may have been changed by anyone; what is no plain name is left out.
    """
    manifest = folder / MANIFEST_NAME
    try:
        if manifest.stat().st_size > _MAX_MANIFEST:
            return {}
        contents = json.loads(manifest.read_bytes())
        files = [file for family in contents["families"] for face in family["faces"] for file in face["files"]]
        files += [file for file in contents["licence"]["files"] if isinstance(file, dict)]
        found = {file["path"].removeprefix("fonts/"): str(file["sha256"]) for file in files if "sha256" in file}
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        return {}
    return {name: digest for name, digest in found.items() if _PLAIN_NAME.fullmatch(name)}


def _stale(folder: Path, listed: Mapping[str, str], kept: set[Path]) -> list[Path]:
    """Files beside the fonts that are listed, still are what the list says, and are not wanted any more.

    Only a plain file directly in the folder of fonts is ever removed.
    """
    fonts = folder / "fonts"
    if fonts.is_symlink():
        return []
    stale = []
    for name, digest in listed.items():
        path = fonts / name
        if path in kept or path.is_symlink() or not path.is_file():
            continue
        with suppress(OSError):
            if _hash(path) == digest:
                stale.append(path)
    return stale


def _hash(path: Path) -> str:
    return sha256(path.read_bytes()).hexdigest()


def _remove(path: Path) -> bool:
    try:
        path.unlink()
    except OSError:
        return False
    return True
