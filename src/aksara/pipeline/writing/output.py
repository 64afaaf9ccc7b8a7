"""Writing a build: first to a folder beside, then moved in whole.

New fonts have new names, so nothing that works is overwritten before the style sheet that needs it stands; the
manifest is last. What an earlier build wrote and this one does not is removed; nothing else is touched. Whatever
happens meanwhile, the next build finds its way (see `staging`).
"""

from __future__ import annotations

import os
import shutil
import stat
from collections.abc import Iterable, Mapping, Sequence
from contextlib import ExitStack, suppress
from hashlib import sha256
from pathlib import Path

from msgspec import Struct

from aksara.errors import OutputError
from aksara.pipeline.writing.left_behind import find_left_behind
from aksara.pipeline.writing.staging import abandoned, alone_in, is_staged, listed_by, staging_in
from aksara.pipeline.writing.targets import (
    Listed,
    OutputFile,
    OutputPlaces,
    check_targets,
    is_same,
    listed_in,
    places_of,
    stale_files,
)
from aksara.sources import printable, reading_once


class Written(Struct, frozen=True):
    """What became of the folder: files written, left as they were, and removed.

    `left` are files of an earlier build that this one does not write, and that were changed since or lie outside the
    output folder and the project: nobody but the user removes them.
    """

    new: tuple[Path, ...]
    unchanged: tuple[Path, ...]
    removed: tuple[Path, ...]
    left: tuple[Path, ...] = ()

    @property
    def files(self) -> tuple[Path, ...]:
        """All of them."""
        return (*self.new, *self.unchanged, *self.removed)


@reading_once()
def write_output(
    files: Sequence[OutputFile],
    folder: Path,
    within: Path | None = None,
    outputs: Sequence[Path] = (),
    project: Path | None = None,
) -> Written:
    """Put the files in place, in their order, and remove what an earlier build left in `folder`.

    What earlier builds wrote elsewhere is removed inside the folder `within`, if one is given, and so is what they made
    of outputs that are not among `outputs`, the manifests of a `project` file.

    Raises `RequestError` where a file that Aksara did not write stands in the way, `OutputError`
    where writing fails, or another build does not end; then everything is as it was.
    """
    # Before a folder is made for them, and again when nobody else writes.
    places = places_of(files, folder)
    check_targets(files, places, _known([folder], places)[1])
    created: list[Path] = []
    staged: dict[Path, Path] = {}
    try:
        for parent in (folder, *(file.path.parent for file in files)):
            _make_folder(parent, created)
        with ExitStack() as stack:
            roots = sorted({_staging_root(file, folder) for file in files} | {folder})
            for root in roots:
                stack.enter_context(alone_in(root))
            return _write_all(files, places, roots, created, staged, within, outputs, project)
    except OSError as error:
        _remove_created(created)
        where = Path(os.fsdecode(error.filename2 or error.filename or folder))
        if is_staged(where):
            # Nobody knows the folder in which files only wait.
            where = staged.get(where, folder)
        raise OutputError(
            f"{printable(str(where))}: cannot be written ({error.strerror}); check the free space and the permissions. "
            "What was there before is untouched"
        ) from error
    except BaseException:
        _remove_created(created)
        raise


def _staging_root(file: OutputFile, folder: Path) -> Path:
    """The folder that a file waits in: it can be moved only on its own file system."""
    parent = file.path.parent
    return folder if parent.stat().st_dev == folder.stat().st_dev else parent


def _known(roots: Iterable[Path], places: OutputPlaces) -> tuple[list[Path], dict[str, set[str]]]:
    """What killed builds have left, and all files beside the fonts that are known as Aksara's own."""
    leftovers = [left for root in roots for left in abandoned(root)]
    by_killed = (listed_by(left) for left in leftovers if left.parent == places.folder)
    return leftovers, _merged([listed_in(places), *by_killed])


def _merged(lists: Iterable[Listed]) -> dict[str, set[str]]:
    merged: dict[str, set[str]] = {}
    for listed in lists:
        for name, digests in listed.items():
            merged.setdefault(name, set()).update(digests)
    return merged


def _write_all(
    files: Sequence[OutputFile],
    places: OutputPlaces,
    roots: Sequence[Path],
    created: list[Path],
    staged: dict[Path, Path],
    within: Path | None,
    outputs: Sequence[Path],
    project: Path | None,
) -> Written:
    """Write what has changed, then remove what is stale. `created` gains what is new, `staged` what waits, and where it
    goes."""
    leftovers, listed = _known(roots, places)
    check_targets(files, places, listed)
    wanted = {file.path for file in files}
    former = find_left_behind(places, wanted, within, outputs, project)
    stale = list(dict.fromkeys([*stale_files(places, listed, wanted), *former.unchanged]))
    unchanged = [file for file in files if is_same(file)]
    changed = [file for file in files if file not in unchanged]
    removed: list[Path] = []
    if changed or stale:
        own = {f.path.name: {sha256(f.data).hexdigest()} for f in files if f.path.parent == places.fonts}
        with ExitStack() as stack:
            listed = _merged([listed, own])
            stagings = {root: stack.enter_context(staging_in(root, listed)) for root in roots}
            for index, file in enumerate(changed):
                path = stagings[_staging_root(file, places.folder)] / str(index)
                staged[path] = file.path
                _write(path, file.data)
            _move_in(staged, created)
            removed = [path for path in stale if _remove(path)]
    for left in leftovers:
        shutil.rmtree(left, ignore_errors=True)
    return Written(tuple(f.path for f in changed), tuple(f.path for f in unchanged), tuple(removed), former.changed)


def _write(path: Path, data: bytes) -> None:
    with path.open("wb") as out:
        out.write(data)
        out.flush()
        os.fsync(out.fileno())


def _move_in(staged: Mapping[Path, Path], created: list[Path]) -> None:
    """Move staged files to where they belong; on failure put back what was replaced."""
    replaced: list[tuple[Path, Path]] = []
    try:
        for path, target in staged.items():
            if target.exists():
                backup = path.with_name(f"{path.name}.before")
                shutil.copy2(target, backup)
                replaced.append((backup, target))
                path.chmod(stat.S_IMODE(target.stat().st_mode))
            else:
                created.append(target)
            path.replace(target)
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
