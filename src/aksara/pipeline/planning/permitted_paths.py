"""Which paths a build may write, and which files it may publish as they are.

A project file may have come from anywhere. It writes, and publishes texts, inside its own folder only, unless the user
allows more. Pages, data and fonts may lie elsewhere: of them only characters and outlines are used.
"""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from aksara.errors import InputError, RequestError
from aksara.pipeline.request import BuildRequest
from aksara.pipeline.writing.targets import check_distinct, check_place
from aksara.sources import is_folder, kind_of, printable, resolved

#: Folders of version control, whose files are run or obeyed (`.git/hooks`); compared without regard to case.
_VERSION_CONTROL = frozenset({".git", ".hg", ".svn", ".bzr", ".jj", "_darcs"})


def check_output_paths(request: BuildRequest) -> None:
    """Raise `RequestError` if an output path is impossible or not allowed."""
    shown = printable(str(request.folder))
    try:
        kind = kind_of(request.folder)
    except InputError as error:
        raise RequestError(f"{error.problem}; choose another name", parameter="BuildRequest.folder") from error
    if kind not in ("folder", "missing"):
        raise RequestError(f"{shown} is a file, not a folder; give another name", parameter="BuildRequest.folder")
    targets = [(request.css_file, request.css_parameter), (request.manifest_file, "BuildRequest.manifest")]
    targets += [(request.proof_file, "BuildRequest.proof")] if request.proof_file is not None else []
    targets += [(request.archive, "BuildRequest.archive")] if request.archive is not None else []
    targets += [(template.target, "BuildRequest.templates") for template in request.templates]
    for path, parameter in targets:
        if is_folder(path):
            raise RequestError(f"{printable(str(path))} is a folder, not a file; add a file name", parameter=parameter)
        check_place(path, parameter)
        if path.name.startswith("."):
            raise RequestError(
                f"{printable(str(path))} is a hidden file, which programs read as their settings; "
                "choose a name without a leading dot",
                parameter=parameter,
            )
    check_distinct(request.places)
    real_paths = [(path, resolved(path.parent) / path.name, parameter) for path, parameter in targets]
    # The folder may be a link; what counts is where it leads.
    real_paths.append((request.folder, resolved(request.folder), "BuildRequest.folder"))
    real_paths.append((request.fonts_folder, resolved(request.fonts_folder), "BuildRequest.fonts"))
    _check_version_control(real_paths)
    _check_within(request, real_paths, "write inside it")


def check_not_output(paths: Iterable[Path], folder: Path) -> None:
    """Raise `RequestError` for fonts in the output folder itself."""
    for path in paths:
        if kind_of(path) == "folder" and resolved(path) == resolved(folder):
            raise RequestError(
                f"{path}: the fonts are in this folder, so the output must go elsewhere; "
                f"give another, as {path / 'web-fonts'}",
                parameter="BuildRequest.folder",
            )


def check_kept_paths(request: BuildRequest, paths: Iterable[Path], parameter: str) -> None:
    """Raise `RequestError` for a file of the user's that the build may not change: outside the project's folder, or of
    version control."""
    targets = [(path, resolved(path), parameter) for path in paths]
    _check_version_control(targets)
    _check_within(request, targets, "change files inside it only")


def _check_version_control(targets: Iterable[tuple[Path, Path, str]]) -> None:
    for path, real, parameter in targets:
        if not _VERSION_CONTROL.isdisjoint(map(str.casefold, real.parts)):
            raise RequestError(
                f"{printable(str(path))} is inside a folder of version control; choose another place",
                parameter=parameter,
            )


def check_quoted_files(request: BuildRequest) -> None:
    """Raise `RequestError` for a licence text or template outside the project's folder that its file names.

    Their contents are published as they are; nobody's private files may come into a web folder this way.
    """
    quoted = [(path, "BuildRequest.published_licences") for path in request.published_licences]
    quoted += [(template.source, "BuildRequest.templates") for template in request.templates]
    _check_within(
        request, [(path, resolved(path), parameter) for path, parameter in quoted], "publish files inside it only"
    )


def quotes_pages(request: BuildRequest) -> bool:
    """Whether a project file names the pages: then only those inside its folder are quoted in the proof."""
    return request.within is not None and _is_said_in_file(request, "CharacterRequest.pages")


def _is_said_in_file(request: BuildRequest, parameter: str) -> bool:
    return (parameter, None) in request.locations


def _check_within(request: BuildRequest, paths: Iterable[tuple[Path, Path, str]], advice: str) -> None:
    """Raise `RequestError` where a project file names a path that lies outside its folder; each path is given as it
    is written, where it really is, and with its parameter."""
    if request.within is None:
        return
    within = resolved(request.within)
    for path, real, parameter in paths:
        if _is_said_in_file(request, parameter) and not real.is_relative_to(within):
            raise RequestError(
                f"{printable(str(path))} is outside the project's folder, {printable(str(within))}; "
                f"{advice}, or confirm that this is meant",
                parameter=parameter,
                remedy="BuildRequest.within",
            )
