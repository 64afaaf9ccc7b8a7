"""Files that an earlier build wrote and this one does not, wherever they are: its manifest lists them.

A manifest may come from anywhere, as the folder that it is in may. So only what still has the hash that it lists, and
lies inside the output folder or the project, is taken for Aksara's own.
"""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence, Set
from contextlib import suppress
from itertools import islice
from pathlib import Path

from msgspec import Struct

from aksara.errors import InputError
from aksara.limits import MAX_SEARCHED_FOLDERS
from aksara.pipeline.writing.targets import OutputPlaces, built_in, digest_of, is_own
from aksara.sources import MANIFEST_NAME, resolved
from aksara.sources.walking import FOREIGN
from aksara.web.built_manifest import BuiltFile, BuiltManifest


class LeftBehind(Struct, frozen=True):
    """Files of an earlier build: unchanged ones, which may be removed, and others."""

    unchanged: tuple[Path, ...]
    changed: tuple[Path, ...]


def find_left_behind(
    places: OutputPlaces,
    wanted: Set[Path],
    within: Path | None,
    outputs: Sequence[Path] = (),
    project: Path | None = None,
) -> LeftBehind:
    """What an earlier build with this manifest wrote, and is not among the files that are wanted; `outputs` are the
    manifests of all outputs of a project: of those that it has no more, all is left behind.

    Where there is no such manifest, the output may have had another folder before; then the folder `within` is
    searched for manifests that name the `project`.
    """
    built = built_in(places.manifest)
    kept = {resolved(path.parent) / path.name for path in outputs}
    if built is None and (within is None or project is None or not outputs):
        return LeftBehind((), ())
    if built is not None:
        left_files = [_of_output(built, places, places.manifest, wanted, within)]
        former = [places.manifest.parent / output for output in built.outputs if outputs and within is not None]
    else:
        left_files, former = (
            [],
            list(_manifests_of(project, within)) if project is not None and within is not None else [],
        )
    for path in former:
        real = resolved(path.parent) / path.name
        gone = built_in(path) if real not in kept and _is_manifest(path) else None
        if gone is not None and within is not None and real.is_relative_to(resolved(within)):
            left_files.append(_of_output(gone, places, path, wanted, within))
            left_files.append(LeftBehind((path,), ()))
    return LeftBehind(
        tuple(path for left in left_files for path in left.unchanged),
        tuple(path for left in left_files for path in left.changed),
    )


def _manifests_of(project: Path, within: Path) -> Iterator[Path]:
    """The manifests in a folder that were made for this project file."""
    for here, folders, files in islice(os.walk(within), MAX_SEARCHED_FOLDERS):
        folders[:] = sorted(name for name in folders if not name.startswith(".") and name not in FOREIGN)
        path = Path(here) / MANIFEST_NAME
        built = built_in(path) if MANIFEST_NAME in files and _is_manifest(path) else None
        if built is not None and built.project and resolved(path.parent / built.project) == resolved(project):
            yield path


def _is_manifest(path: Path) -> bool:
    with suppress(InputError):
        return not path.is_symlink() and is_own(path, "manifest")
    return False


def _of_output(
    built: BuiltManifest, places: OutputPlaces, manifest: Path, wanted: Set[Path], within: Path | None
) -> LeftBehind:
    """The files that the build with this manifest wrote and that are no longer wanted."""
    here = manifest.parent
    inside = [resolved(folder) for folder in (within or places.folder, within or here)]
    kept = {resolved(path.parent) / path.name for path in wanted}
    unchanged: list[Path] = []
    changed: list[Path] = []
    for file in _listed(built):
        path = Path(os.path.normpath(here / file.path))
        real = resolved(path.parent) / path.name
        if real in kept or path.is_symlink() or not path.is_file():
            continue
        is_ours = False
        with suppress(InputError):
            is_ours = bool(file.sha256) and digest_of(path) == file.sha256
        may_go = is_ours and any(real.is_relative_to(folder) for folder in inside)
        (unchanged if may_go else changed).append(path)
    return LeftBehind(tuple(unchanged), tuple(changed))


def _listed(built: BuiltManifest) -> Iterator[BuiltFile]:
    yield from built.fonts
    yield from built.licence.files
    yield from built.templates
    if built.css and built.css_sha256 and not built.css_into:
        yield BuiltFile(built.css, built.css_sha256)
    if built.proof.path:
        yield built.proof
