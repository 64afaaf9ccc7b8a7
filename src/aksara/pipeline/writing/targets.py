"""Where a build may write: which files are Aksara's own, so that no other file is ever replaced or removed.

Each kind of file is known by how it begins, or a ZIP by its comment; files beside the fonts also by the hash that a
manifest has of them. A file's mark counts only at its very start and only for its own kind: anyone may quote it.
"""

from __future__ import annotations

import os
import re
import stat
from collections.abc import Iterable, Mapping, Sequence, Set
from contextlib import suppress
from hashlib import sha256
from pathlib import Path, PurePath
from typing import Literal

from msgspec import Struct

from aksara.container import sniff
from aksara.errors import InputError, OutputError, RequestError
from aksara.limits import MAX_MANIFEST_SIZE
from aksara.pipeline.request import FONTS_FOLDER
from aksara.sources import MANIFEST_MARK, MANIFEST_NAME, is_own_archive, printable, read_file, read_start, resolved
from aksara.web.built_manifest import BuiltManifest, read_built_manifest
from aksara.web.css import MARK

#: What a file that is written is.
OutputKind = Literal["font", "licence", "css", "proof", "zip", "manifest", "template", "kept"]
#: Name in the folder of fonts → the SHA-256 that a file of that name may have to count as Aksara's own.
Listed = Mapping[str, Set[str]]

_PROOF_HEAD = '<!doctype html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n'
PROOF_MARK = f'{_PROOF_HEAD}<meta name="generator" content="Aksara '
_STARTS: Mapping[OutputKind, bytes] = {
    "css": MARK.encode(),
    "proof": PROOF_MARK.encode(),
    "manifest": MANIFEST_MARK,
}
_PLAIN_NAME = re.compile(r"[A-Za-z0-9_-][A-Za-z0-9._-]*")
_OTHER_KINDS = {stat.S_IFIFO: "a named pipe", stat.S_IFSOCK: "a socket"}


class OutputPlaces(Struct, frozen=True):
    """Where a build writes: its folder, that of the font files, and the manifest."""

    folder: Path
    fonts: Path
    manifest: Path


class OutputFile(Struct, frozen=True):
    """A file to write: its path, its bytes and its kind; `parameter` is what chose the path.

    Of a file of the user's in which something is `kept`, `before` are the bytes that it had when it was read.
    """

    path: Path
    data: bytes
    kind: OutputKind
    parameter: str = "BuildRequest.folder"
    before: bytes | None = None


def places_of(files: Iterable[OutputFile], folder: Path) -> OutputPlaces:
    """Where these files are, in the usual places of an output folder unless they say otherwise."""
    fonts, manifest = folder / FONTS_FOLDER, folder / MANIFEST_NAME
    for file in files:
        if file.kind in ("font", "licence"):
            fonts = file.path.parent
        elif file.kind == "manifest":
            manifest = file.path
    return OutputPlaces(folder, fonts, manifest)


def check_targets(files: Sequence[OutputFile], places: OutputPlaces, listed: Listed) -> None:
    """Raise `RequestError` if a file would replace one that is not Aksara's own, or two have the same path;
    `OutputError` where that cannot be found out."""
    check_distinct((file.path, file.parameter) for file in files)
    rendered = _rendered_before(places.manifest) if any(file.kind == "template" for file in files) else {}
    for file in files:
        _check_way(file, places.folder)
        _check_target(file, listed, rendered)


def check_distinct(targets: Iterable[tuple[Path, str]]) -> None:
    """Raise `RequestError` where two of the files to be, given with what chose their paths, would be one."""
    seen: dict[Path, Path] = {}
    for path, parameter in targets:
        real = resolved(path.parent) / path.name
        if real in seen:
            raise RequestError(
                f"{printable(str(path))}: two of the files that are to be written would have this name; "
                "give one of them another",
                parameter=parameter,
            )
        seen[real] = path


def _check_way(file: OutputFile, folder: Path) -> None:
    """Links within the output folder would lead out of it."""
    for parent in file.path.parents:
        if parent == folder or not parent.is_relative_to(folder):
            return
        if parent.is_symlink():
            raise RequestError(
                f"{printable(str(parent))}: this is a link, and nothing is written through links; "
                "remove it, or choose another output folder",
                parameter=file.parameter,
            )


def check_place(path: Path, parameter: str) -> bool:
    """Whether a file exists at an output path.

    Raises `RequestError` where something else is, `OutputError` where that cannot be found out.
    """
    name = printable(str(path))
    try:
        mode = path.lstat().st_mode
    except (FileNotFoundError, NotADirectoryError):
        return False
    except (OSError, ValueError) as error:
        raise OutputError(f"{name}: cannot be written ({_reason(error)}); choose another name") from error
    if not stat.S_ISREG(mode):
        raise RequestError(f"{name}: {_what_is_there(mode)}; choose another name", parameter=parameter)
    return True


def _rendered_before(manifest: Path) -> dict[Path, str]:
    """What an earlier build rendered of templates: paths and hashes, as its manifest has them."""
    built = built_in(manifest)
    found = built.templates if built is not None else ()
    return {resolved(manifest.parent / file.path): file.sha256 for file in found}


def _check_target(file: OutputFile, listed: Listed, rendered: Mapping[Path, str]) -> None:
    path, name = file.path, printable(str(file.path))
    if not check_place(path, file.parameter):
        return
    if file.kind == "kept":
        if not is_same(file) and read_file(path) != file.before:
            raise RequestError(f"{name}: it was changed while fonts were made; build again", parameter=file.parameter)
        return
    try:
        known = is_same(file) or is_own(path, file.kind) or _is_listed(path, listed)
        if file.kind == "template":
            known = is_same(file) or rendered.get(resolved(path)) == digest_of(path)
    except InputError as error:
        raise OutputError(f"{error.problem}; so it is not replaced") from error
    if not known:
        raise RequestError(
            f"{name}: Aksara did not write this file, so it is not replaced; choose another name",
            parameter=file.parameter,
        )


def _what_is_there(mode: int) -> str:
    if stat.S_ISDIR(mode):
        return "this is a folder, but a file of that name must go there"
    if stat.S_ISLNK(mode):
        return "this is a link, and links are not replaced by files"
    return f"this is {_OTHER_KINDS.get(stat.S_IFMT(mode), 'a device')}, not a file that could be replaced"


def is_own(path: Path, kind: OutputKind) -> bool:
    """Whether a file says that it is one of Aksara's of this kind.

    Raises `InputError` if it cannot be read.
    """
    if kind == "zip":
        return is_own_archive(path)
    if kind == "font":
        # Its name contains a hash as only Aksara makes it, even if its bytes have changed.
        return sniff(read_start(path, 4)) is not None
    start = _STARTS.get(kind)
    return start is not None and read_start(path, len(start)) == start


def is_same(file: OutputFile) -> bool:
    """Whether the file already exists with these bytes."""
    try:
        return file.path.stat().st_size == len(file.data) and read_file(file.path) == file.data
    except (OSError, InputError):
        return False


def _is_listed(path: Path, listed: Listed) -> bool:
    return path.name in listed and digest_of(path) in listed[path.name]


def digest_of(path: Path) -> str:
    """The SHA-256 of a file, in hexadecimal. Raises `InputError` if it cannot be read."""
    return sha256(read_file(path)).hexdigest()


def listed_in(places: OutputPlaces) -> dict[str, set[str]]:
    """The files in the folder of fonts, as the manifest of an output has them."""
    if (built := built_in(places.manifest)) is None:
        return {}
    way = os.path.relpath(places.fonts.absolute(), places.manifest.absolute().parent)
    prefix = "" if way == os.curdir else f"{PurePath(way).as_posix()}/"
    files = (*built.fonts, *built.licence.files)
    return digests_by_name(
        (file.path.removeprefix(prefix), file.sha256) for file in files if file.path.startswith(prefix)
    )


def built_in(manifest: Path) -> BuiltManifest | None:
    """The manifest of an earlier build at that path; None if there is none."""
    with suppress(InputError):
        return read_built_manifest(read_file(manifest, limit=MAX_MANIFEST_SIZE))
    return None


def digests_by_name(files: Iterable[tuple[str, str]]) -> dict[str, set[str]]:
    """Names and hashes, by name. They come from a file that anyone may have changed: what is no plain name is left
    out."""
    digests: dict[str, set[str]] = {}
    for name, digest in files:
        if _PLAIN_NAME.fullmatch(name) and digest:
            digests.setdefault(name, set()).add(digest)
    return digests


def stale_files(places: OutputPlaces, listed: Listed, kept: Set[Path]) -> list[Path]:
    """Files beside the fonts that are listed, still are what the list says, and are not wanted any more.

    Only a plain file directly in the folder of fonts is removed.
    """
    fonts = places.fonts
    if fonts.is_symlink():
        return []
    stale = []
    for name, digests in listed.items():
        path = fonts / name
        if path in kept or path.is_symlink() or not path.is_file():
            continue
        with suppress(InputError):
            if digest_of(path) in digests:
                stale.append(path)
    return stale


def _reason(error: Exception) -> str:
    return os.strerror(error.errno) if isinstance(error, OSError) and error.errno else "no file can have such a name"
