"""Finding fonts, and licence texts beside them, in what the user gives."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from aksara.errors import InputError, RequestError
from aksara.sources.archive import is_archive, is_own_archive, members
from aksara.sources.source import SourceFile, printable

FONT_SUFFIXES = frozenset({".ttf", ".otf", ".ttc", ".otc", ".woff", ".woff2"})
#: The manifest that Aksara leaves in its output folder, by which the folder is known and passed over.
MANIFEST_NAME = "faces.json"
MANIFEST_MARK = b'"made_by": "Aksara'
MAX_FILES = 5_000
_MAC_RESOURCES = "__MACOSX"
#: Folders of other people's code and fonts, which nobody means.
FOREIGN = frozenset({"node_modules", "bower_components", "__pycache__"})
# What licence texts are called, and in which forms they come.
_LICENCE_NAME = re.compile(
    r"licen[cs]e|lizenz|licencia|\beula\b|\bofl\b|copying|copyright|terms|agreement", re.IGNORECASE
)
_LICENCE_SUFFIXES = frozenset({"", ".txt", ".md", ".html", ".htm", ".rtf", ".pdf", ".doc", ".docx"})


@dataclass(slots=True, frozen=True)
class Sources:
    """The font files that were given, and the licence texts found beside them; both in a stable order."""

    fonts: tuple[SourceFile, ...]
    licences: tuple[SourceFile, ...]


def find_sources(paths: Iterable[Path], *, ignore: Path | None = None) -> Sources:
    """Everything of interest at these paths, each file once.

    Folders are searched through; so are ZIPs, but for other ZIPs in them. `ignore` is a folder to pass over, as are
    folders that Aksara has written. Raises `RequestError` for a path that does not exist, `InputError` if there are
    no fonts.
    """
    fonts: dict[tuple[Path, str | None], SourceFile] = {}
    licences: dict[tuple[Path, str | None], SourceFile] = {}
    given = list(paths)
    for path in given:
        if not _exists(path):
            raise RequestError(f"{printable(str(path))}: there is no such file or folder; check the path")
        for file, is_font in _within(path, ignore.resolve() if ignore else None):
            kept = fonts if is_font else licences
            kept.setdefault((file.path.resolve(), file.member), file)
            if len(kept) > MAX_FILES:
                raise RequestError(f"{printable(str(path))}: more than {MAX_FILES} font files; give a smaller folder")
    if not fonts:
        named = ", ".join(printable(str(path)) for path in given)
        raise InputError(f"{named}: no fonts here; give a folder or ZIP with TTF, OTF, WOFF or WOFF2 files, or a font")
    return Sources(tuple(fonts.values()), tuple(licences.values()))


def find_fonts(paths: Iterable[Path], *, ignore: Path | None = None) -> tuple[SourceFile, ...]:
    """The fonts of `find_sources`."""
    return find_sources(paths, ignore=ignore).fonts


def _exists(path: Path) -> bool:
    try:
        return path.exists()
    except OSError as error:
        raise InputError(f"{printable(str(path))}: cannot be read ({error.strerror}); check its permissions") from error


def _within(path: Path, ignore: Path | None) -> Iterator[tuple[SourceFile, bool]]:
    """The files at one path, and whether each is a font."""
    if path.is_dir():
        yield from _in_folder(path, ignore)
    elif is_archive(path):
        yield from _in_archive(path)
    else:
        # Whatever its name: the user says that it is a font.
        yield SourceFile(path, printable(str(path))), True
        with suppress(OSError):  # the folder may be closed to us though its font is not
            beside = sorted(other for other in path.parent.iterdir() if _is_licence(other.name) and other.is_file())
            yield from [(SourceFile(other, printable(str(other))), False) for other in beside]


def _in_folder(folder: Path, ignore: Path | None) -> Iterator[tuple[SourceFile, bool]]:
    for folder_path, folders, files in os.walk(folder):
        here = Path(folder_path)
        folders[:] = sorted(
            name
            for name in folders
            if not name.startswith(".")
            and name != _MAC_RESOURCES
            and name not in FOREIGN
            and (here / name).resolve() != ignore
            and not is_own_output(here / name)
        )
        for name in sorted(files):
            path = here / name
            if name.startswith("."):  # "._name" is the Mac's note about a file, not the file
                continue
            if path.suffix.lower() in FONT_SUFFIXES or _is_licence(name):
                yield SourceFile(path, printable(str(path))), path.suffix.lower() in FONT_SUFFIXES
            elif path.suffix.lower() == ".zip" and is_archive(path) and not is_own_archive(path):
                yield from _in_archive(path)


def _in_archive(path: Path) -> Iterator[tuple[SourceFile, bool]]:
    for file in members(path):
        inner = PurePosixPath((file.member or "").replace("\\", "/"))
        if any(part.startswith(".") or part == _MAC_RESOURCES for part in inner.parts):
            continue
        if inner.suffix.lower() in FONT_SUFFIXES:
            yield file, True
        elif _is_licence(inner.name):
            yield file, False


def _is_licence(name: str) -> bool:
    return Path(name).suffix.lower() in _LICENCE_SUFFIXES and bool(_LICENCE_NAME.search(name))


def is_own_output(folder: Path) -> bool:
    """Whether Aksara wrote this folder: web fonts made from fonts that are here too must not be made again."""
    try:
        with (folder / MANIFEST_NAME).open("rb") as file:
            return MANIFEST_MARK in file.read(400)
    except OSError:
        return False
