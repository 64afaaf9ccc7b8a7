"""Writing a build: first to a folder beside, then moved in whole.

New fonts have new names, so nothing that works is overwritten before the style sheet that needs it stands; the
manifest is last. What an earlier build wrote and this one does not is removed; nothing else is touched. Whatever
happens meanwhile, the next build finds its way (see `staging`).
"""

from __future__ import annotations

import os
import shutil
import stat
from collections.abc import Iterable, Sequence
from contextlib import ExitStack, suppress
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

from aksara.errors import OutputError
from aksara.pipeline.request import FONTS_FOLDER
from aksara.pipeline.staging import Staging, abandoned, is_staged, listed_by
from aksara.pipeline.targets import Listed, OutputFile, check_targets, is_same, listed_in, stale_files
from aksara.sources import printable


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
    leftovers = sorted({left for place in {folder, *(file.path.parent for file in files)} for left in abandoned(place)})
    listed = _merged([listed_in(folder), *(listed_by(left) for left in leftovers if left.parent == folder)])
    check_targets(files, folder, listed)
    stale = stale_files(folder, listed, {file.path for file in files})
    unchanged = [file for file in files if is_same(file)]
    changed = [file for file in files if file not in unchanged]
    if changed or stale:
        own = {f.path.name: {sha256(f.data).hexdigest()} for f in files if f.path.parent == folder / FONTS_FOLDER}
        stale = _replace(changed, stale, folder, _merged([listed, own]))
    for left in leftovers:
        shutil.rmtree(left, ignore_errors=True)
    return Written(tuple(f.path for f in changed), tuple(f.path for f in unchanged), tuple(stale))


def _merged(lists: Iterable[Listed]) -> dict[str, set[str]]:
    merged: dict[str, set[str]] = {}
    for listed in lists:
        for name, digests in listed.items():
            merged.setdefault(name, set()).update(digests)
    return merged


def _replace(changed: Sequence[OutputFile], stale: Sequence[Path], folder: Path, listed: Listed) -> list[Path]:
    """Write the changed files, then remove the stale ones; which of these could be."""
    created: list[Path] = []
    staged: list[Path] = []
    try:
        with ExitStack() as stack:
            _make_folder(folder, created)
            main = stack.enter_context(Staging(folder, listed))
            stagings = {_device(folder): main}
            for number, file in enumerate(changed):
                _make_folder(file.path.parent, created)
                # A file can be moved only on its own file system.
                device = _device(file.path.parent)
                if device not in stagings:
                    stagings[device] = stack.enter_context(Staging(file.path.parent, {}))
                staged.append(stagings[device].path / str(number))
                _write(staged[-1], file.data)
            _move_in(changed, staged, created)
            return [path for path in stale if _remove(path)]
    except OSError as error:
        _remove_created(created)
        where = Path(os.fsdecode(error.filename2 or error.filename or folder))
        if is_staged(where):
            # Nobody knows the folder in which files only wait.
            where = next((file.path for path, file in zip(staged, changed, strict=False) if path == where), folder)
        raise OutputError(
            f"{printable(str(where))}: cannot be written ({error.strerror}); check the free space and the permissions. "
            "What was there before is untouched"
        ) from error
    except BaseException:
        _remove_created(created)
        raise


def _device(folder: Path) -> int:
    return folder.stat().st_dev


def _write(path: Path, data: bytes) -> None:
    with path.open("wb") as out:
        out.write(data)
        out.flush()
        os.fsync(out.fileno())


def _move_in(changed: Sequence[OutputFile], staged: Sequence[Path], created: list[Path]) -> None:
    """Move staged files to where they belong; on failure put back what was replaced."""
    replaced: list[tuple[Path, Path]] = []
    try:
        for file, path in zip(changed, staged, strict=True):
            if file.path.exists():
                backup = path.with_name(f"{path.name}.before")
                shutil.copy2(file.path, backup)
                replaced.append((backup, file.path))
                path.chmod(stat.S_IMODE(file.path.stat().st_mode))
            else:
                created.append(file.path)
            path.replace(file.path)
    except BaseException:
        for backup, place in replaced:
            with suppress(OSError):
                backup.replace(place)
        raise


def _make_folder(folder: Path, created: list[Path]) -> None:
    missing = [path for path in (folder, *folder.parents) if not path.exists()]
    for path in reversed(missing):
        path.mkdir()
        created.append(path)


def _remove_created(created: Sequence[Path]) -> None:
    for path in reversed(created):
        with suppress(OSError):
            path.rmdir() if path.is_dir() else path.unlink()


def _remove(path: Path) -> bool:
    try:
        path.unlink()
    except OSError:
        return False
    return True
