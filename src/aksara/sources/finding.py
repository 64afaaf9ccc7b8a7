"""Finding fonts, and licence texts beside them, in what the user gives."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path, PurePosixPath

from aksara.errors import InputError, RequestError
from aksara.limits import MAX_FONT_FILES
from aksara.notices import Notice
from aksara.observing import note_folder
from aksara.sources.archive import is_archive, is_own_archive, members
from aksara.sources.files import is_file, kind_of, printable, resolved
from aksara.sources.source import SourceFile
from aksara.sources.walking import MAC_RESOURCES, is_readable, walk

FONT_SUFFIXES = frozenset({".ttf", ".otf", ".ttc", ".otc", ".woff", ".woff2"})
# What licence texts are called, and in which forms they come.
_LICENCE_NAME = re.compile(
    r"licen[cs]e|lizenz|licencia|\beula\b|\bofl\b|copying|copyright|terms|agreement", re.IGNORECASE
)
_LICENCE_SUFFIXES = frozenset({"", ".txt", ".md", ".html", ".htm", ".rtf", ".pdf", ".doc", ".docx"})
#: A path to one font of a collection: "fonts.ttc#2".
_COLLECTION_MEMBER = re.compile(r"(.+)#([0-9]{1,4})", re.DOTALL)


@dataclass(slots=True, frozen=True)
class Sources:
    """The font files that were given, and the licence texts found beside them; both in a stable order.

    `notices` tell of files and folders that were passed over since they cannot be read.
    """

    fonts: tuple[SourceFile, ...]
    licences: tuple[SourceFile, ...]
    notices: tuple[Notice, ...] = ()


def find_sources(paths: Iterable[Path], *, ignore: Path | None = None) -> Sources:
    """Everything of interest at these paths, each file once.

    Folders are searched through; so are ZIPs, but for other ZIPs in them. A path such as `fonts.ttc#2` means one font
    of a collection. `ignore` is a folder to pass over, as are folders that Aksara has written. Raises `RequestError`
    for a path that does not exist, `InputError` for one that cannot be read, or if there are no fonts.
    """
    fonts: dict[tuple[Path, str | None, int | None], SourceFile] = {}
    licences: dict[tuple[Path, str | None, int | None], SourceFile] = {}
    notices: list[Notice] = []
    given = list(paths)
    for path in given:
        for file, is_font in _at(path, resolved(ignore) if ignore else None, notices):
            kept = fonts if is_font else licences
            kept.setdefault((resolved(file.path), file.member, file.number), file)
            if len(kept) > MAX_FONT_FILES:
                raise RequestError(
                    f"{printable(str(path))}: more than {MAX_FONT_FILES} font files; give a smaller folder"
                )
    if not fonts:
        named = ", ".join(printable(str(path)) for path in given)
        passed = "".join(f" ({notice.where}: {notice.text})" for notice in notices[:1])
        raise InputError(
            f"{named}: no fonts here{passed}; give a folder or ZIP with TTF, OTF, WOFF or WOFF2 files, or a font"
        )
    return Sources(tuple(fonts.values()), tuple(licences.values()), tuple(notices))


def find_fonts(paths: Iterable[Path], *, ignore: Path | None = None) -> tuple[SourceFile, ...]:
    """The fonts of `find_sources`."""
    return find_sources(paths, ignore=ignore).fonts


def collection_member(path: Path) -> tuple[Path, int | None]:
    """The file that a path means, and the number in it (from 1) of the only font that is meant, or None.

    A file that exists as the path is written is no collection's member: any name may end so.
    """
    parts = _COLLECTION_MEMBER.fullmatch(str(path))
    if parts is None or is_file(path) or not is_file(Path(parts[1])):
        return path, None
    return Path(parts[1]), int(parts[2])


def _at(given: Path, ignore: Path | None, notices: list[Notice]) -> Iterator[tuple[SourceFile, bool]]:
    """The files at one path, and whether each is a font."""
    path, number = collection_member(given)
    kind = kind_of(path)
    if kind == "missing" and (inside := list(_archive_member(given))):
        yield from inside
    elif kind == "missing":
        raise RequestError(f"{printable(str(path))}: there is no such file or folder; check the path")
    elif kind == "folder":
        yield from _in_folder(path, ignore, notices)
    elif number is None and is_archive(path):
        yield from _in_archive(path)
    else:
        # Whatever its name: the user says that it is a font.
        yield SourceFile(path, printable(str(path)), None, number), True
        note_folder(path.parent)
        with suppress(OSError):  # the folder may be closed to us though its font is not
            beside = sorted(other for other in path.parent.iterdir() if _is_licence(other.name) and is_file(other))
            yield from [(SourceFile(other, printable(str(other))), False) for other in beside]


def _in_folder(folder: Path, ignore: Path | None, notices: list[Notice]) -> Iterator[tuple[SourceFile, bool]]:
    for path in walk(folder, notices, ignore):
        is_font = path.suffix.lower() in FONT_SUFFIXES
        is_zip = path.suffix.lower() == ".zip"
        if not (is_font or is_zip or _is_licence(path.name)) or not is_readable(path, notices):
            continue
        if not is_zip:
            yield SourceFile(path, printable(str(path))), is_font
        elif is_archive(path) and not is_own_archive(path):
            yield from _in_archive(path)


def _in_archive(path: Path) -> Iterator[tuple[SourceFile, bool]]:
    for file in members(path, lambda name: _is_font_inside(name) or _is_licence_inside(name)):
        yield file, _is_font_inside(file.member or "")


def _archive_member(given: Path) -> Iterator[tuple[SourceFile, bool]]:
    """The font that a path into a ZIP means, as `inspect` names it: "order.zip/fonts/Bold.otf", perhaps with "#2"."""
    archive = next((parent for parent in given.parents if is_file(parent) and is_archive(parent)), None)
    if archive is None:
        return
    inner = given.relative_to(archive).as_posix()
    parts = _COLLECTION_MEMBER.fullmatch(inner)
    for name, number in ((inner, None), *([(parts[1], int(parts[2]))] if parts else [])):
        for file in members(archive, lambda member, wanted=name: member.replace("\\", "/") == wanted):  # type: ignore[misc]
            yield replace(file, number=number), True
            return


def _is_font_inside(name: str) -> bool:
    """Whether a member of a ZIP is a font by its name."""
    inner = _inner(name)
    return inner is not None and inner.suffix.lower() in FONT_SUFFIXES


def _is_licence_inside(name: str) -> bool:
    inner = _inner(name)
    return inner is not None and _is_licence(inner.name)


def _inner(name: str) -> PurePosixPath | None:
    """The path within a ZIP; None for hidden files and notes of Macs."""
    inner = PurePosixPath(name.replace("\\", "/"))
    return None if any(part.startswith(".") or part == MAC_RESOURCES for part in inner.parts) else inner


def _is_licence(name: str) -> bool:
    return Path(name).suffix.lower() in _LICENCE_SUFFIXES and bool(_LICENCE_NAME.search(name))
