"""What an earlier build wrote and this one does not, wherever it is: its manifest lists all of it.

A manifest may come from anywhere, as the folder that it is in may. So only what still has the hash that it lists, and
lies inside the output folder or the project, is taken for Aksara's own.
"""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence, Set
from contextlib import suppress
from pathlib import Path

from msgspec import Struct

from aksara.errors import InputError
from aksara.pipeline.writing.targets import OutputPlaces, built_in, digest_of, is_own
from aksara.sources import resolved
from aksara.web.built_manifest import BuiltFile, BuiltManifest


class LeftBehind(Struct, frozen=True):
    """Files of an earlier build: those that are as it wrote them and may be removed, and others."""

    unchanged: tuple[Path, ...]
    changed: tuple[Path, ...]


def find_left_behind(
    places: OutputPlaces, wanted: Set[Path], within: Path | None, outputs: Sequence[Path] = ()
) -> LeftBehind:
    """What an earlier build with this manifest wrote, and is not among the files that are wanted; `outputs` are the
    manifests of all outputs of a project: of those that it has no more, all is left behind."""
    built = built_in(places.manifest)
    if built is None:
        return LeftBehind((), ())
    found = [_of_output(built, places, places.manifest, wanted, within)]
    kept = {resolved(path.parent) / path.name for path in outputs}
    for path in (places.manifest.parent / each for each in built.outputs if outputs and within is not None):
        real = resolved(path.parent) / path.name
        gone = built_in(path) if real not in kept and _is_manifest(path) else None
        if gone is not None and within is not None and real.is_relative_to(resolved(within)):
            found.append(_of_output(gone, places, path, wanted, within))
            found.append(LeftBehind((path,), ()))
    return LeftBehind(
        tuple(path for each in found for path in each.unchanged), tuple(path for each in found for path in each.changed)
    )


def _is_manifest(path: Path) -> bool:
    with suppress(InputError):
        return not path.is_symlink() and is_own(path, "manifest")
    return False


def _of_output(
    built: BuiltManifest, places: OutputPlaces, manifest: Path, wanted: Set[Path], within: Path | None
) -> LeftBehind:
    """What the build with a manifest wrote, and is not wanted."""
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
