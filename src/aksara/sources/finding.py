"""Finding fonts, and licence texts and style sheets beside them, in what the user gives."""

from __future__ import annotations

import itertools
import re
from collections.abc import Collection, Iterable, Iterator
from contextlib import suppress
from pathlib import Path, PurePosixPath
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import InputError, RequestError
from aksara.limits import MAX_FONT_FILES, MAX_LISTED, MAX_SHEETS_BESIDE, MAX_TEXTS_BESIDE
from aksara.notices import Notice
from aksara.observing import note_folder
from aksara.sources.archive import is_archive, is_own_archive, members
from aksara.sources.files import is_file, kind_of, missing_words, printable, resolved
from aksara.sources.source import SourceFile
from aksara.sources.walking import MAC_RESOURCES, readable, walk

FONT_SUFFIXES = frozenset({".ttf", ".otf", ".ttc", ".otc", ".woff", ".woff2"})
# What licence texts are called, and in which forms they come.
_LICENCE_NAME = re.compile(
    r"licen[cs]e|lizenz|licencia|\beula\b|\bofl\b|copying|copyright|terms|agreement", re.IGNORECASE
)
# What texts beside fonts are called that say what one may do with them, without being the licence.
_TEXT_NAME = re.compile(r"read.?me|info|note|important|legal|usage|faq|^about|^font|personal|commercial", re.IGNORECASE)
_TEXT_SUFFIXES = frozenset({".txt", ".md", ".rtf", ".nfo"})
_LICENCE_SUFFIXES = frozenset({"", ".txt", ".md", ".html", ".htm", ".rtf", ".pdf", ".doc", ".docx"})
#: What a file is found as.
FoundKind = Literal["font", "licence", "sheet", "text"]
FoundFile = tuple[SourceFile, FoundKind]
#: A path to one font of a collection: "fonts.ttc#2".
_COLLECTION_MEMBER = re.compile(r"(.+)#([0-9]{1,4})", re.DOTALL)


class Sources(Struct, frozen=True):
    """The font files that were given, the licence texts and the style sheets found beside them; in a stable order.

    `notices` tell of files and folders that are skipped since they cannot be read.
    """

    fonts: tuple[SourceFile, ...]
    licences: tuple[SourceFile, ...]
    notices: tuple[Notice, ...] = ()
    sheets: tuple[SourceFile, ...] = ()
    #: Other texts beside the fonts, such as a "read me".
    texts: tuple[SourceFile, ...] = ()


def find_sources(paths: Iterable[Path], *, ignore: Iterable[Path] = (), texts: Iterable[Path] | None = None) -> Sources:
    """Everything of interest at these paths, each file once.

    Folders are searched through; so are ZIPs, but for other ZIPs in them. A path such as `fonts.ttc#2` means one font
    of a collection. The folders of `ignore` are skipped, as are folders that Aksara has written. With `texts` these
    files go with the fonts, and no others are looked for beside those that are named. Raises `RequestError`
    for a path that does not exist, `InputError` for one that cannot be read, or if there are no fonts.
    """
    files_by_kind: dict[FoundKind, dict[tuple[Path, str | None, int | None], SourceFile]] = {
        "font": {},
        "licence": {},
        "sheet": {},
        "text": {},
    }
    notices: list[Notice] = []
    given = list(paths)
    skipped = frozenset(map(resolved, ignore))
    for path in (*given, *(texts or ())):
        for item in _at(path, skipped, alone=texts is not None):
            if isinstance(item, Notice):
                notices.append(item)
                continue
            file, kind = item
            kept = files_by_kind[kind]
            if len(kept) >= {"sheet": MAX_SHEETS_BESIDE, "text": MAX_TEXTS_BESIDE}.get(kind, len(kept) + 1):
                continue
            kept.setdefault((resolved(file.path), file.member, file.number), file)
            if len(kept) > MAX_FONT_FILES:
                raise RequestError(
                    f"{printable(str(path))}: more than {MAX_FONT_FILES} font files; give a smaller folder"
                )
    if not files_by_kind["font"]:
        named = ", ".join(printable(str(path)) for path in given)
        passed = "".join(f" ({notice.where}: {notice.text})" for notice in notices[:1])
        raise InputError(
            f"{named}: no fonts here{passed}; give a folder or ZIP with TTF, OTF, WOFF or WOFF2 files, or a font"
        )
    fonts, licences, sheets, others = (tuple(by_path.values()) for by_path in files_by_kind.values())
    return Sources(fonts, licences, tuple(notices), sheets, others)


def texts_beside(folder: Path) -> list[Path]:
    """Licence texts, "read me" and the like in a folder, in order."""
    try:
        paths = sorted(itertools.islice(folder.iterdir(), MAX_LISTED))
    except OSError:
        return []
    return [path for path in paths if _beside(path.name) in ("licence", "text") and is_file(path)]


def find_fonts(paths: Iterable[Path]) -> tuple[SourceFile, ...]:
    """The fonts of `find_sources`."""
    return find_sources(paths).fonts


def collection_member(path: Path) -> tuple[Path, int | None]:
    """The file that a path means, and the number in it (from 1) of the only font that is meant, or None.

    A file that exists as the path is written is no collection's member: any name may end so.
    """
    parts = _COLLECTION_MEMBER.fullmatch(str(path))
    if parts is None or is_file(path) or not is_file(Path(parts[1])):
        return path, None
    return Path(parts[1]), int(parts[2])


def collection_of(path: str) -> str:
    """The collection that a font is from, by the font's path; "" for one that has a file of its own.

    >>> collection_of("fonts/all.ttc#2"), collection_of("fonts/one.ttf")
    ('fonts/all.ttc', '')
    """
    parts = _COLLECTION_MEMBER.fullmatch(path)
    return parts[1] if parts is not None else ""


def _at(given: Path, ignore: Collection[Path], *, alone: bool) -> Iterator[FoundFile | Notice]:
    """The files at one path and their kinds, of a file also those beside it, unless it counts `alone`; a notice for
    each one that cannot be read."""
    path, member = collection_member(given)
    kind = kind_of(path)
    if kind == "missing" and (inside := list(_archive_member(given))):
        yield from inside
    elif kind == "missing":
        raise RequestError(missing_words(str(path)))
    elif kind == "folder":
        yield from _in_folder(path, ignore)
    elif member is None and is_archive(path):
        yield from _in_archive(path)
    else:
        # Whatever its name: the user says that it is a font.
        file = SourceFile(path, printable(str(path)), None, member)
        yield file, "font" if not alone else _beside(path.name) or "font"
        if alone:
            return
        note_folder(path.parent)
        with suppress(OSError):  # the folder may be closed to us though its font is not
            beside = [(other, found) for other in sorted(path.parent.iterdir()) if (found := _beside(other.name))]
            yield from [(SourceFile(other, printable(str(other))), found) for other, found in beside if is_file(other)]


def _in_folder(folder: Path, ignore: Collection[Path]) -> Iterator[FoundFile | Notice]:
    for item in walk(folder, ignore):
        if isinstance(item, Notice):
            yield item
            continue
        kind = _kind(item.name)
        is_zip = item.suffix.lower() == ".zip"
        if not (kind or is_zip):
            continue
        path = readable(item)
        if isinstance(path, Notice):
            yield path
        elif kind is not None and not is_zip:
            yield SourceFile(path, printable(str(path))), kind
        elif is_archive(path) and not is_own_archive(path):
            yield from _in_archive(path)


def _in_archive(path: Path) -> Iterator[FoundFile]:
    for file in members(path, lambda name: _kind_inside(name) is not None):
        if kind := _kind_inside(file.member or ""):
            yield file, kind


def _archive_member(given: Path) -> Iterator[FoundFile]:
    """The file that a path into a ZIP means, as `inspect` names it: "order.zip/fonts/Bold.otf", perhaps with "#2"."""
    archive = next((parent for parent in given.parents if is_file(parent) and is_archive(parent)), None)
    if archive is None:
        return
    inner = given.relative_to(archive).as_posix()
    parts = _COLLECTION_MEMBER.fullmatch(inner)
    for name, number in ((inner, None), *([(parts[1], int(parts[2]))] if parts else [])):
        for file in members(archive, lambda member, wanted=name: member.replace("\\", "/") == wanted):  # type: ignore[misc]
            yield replace(file, number=number), _kind_inside(name) or "font"
            return


def _kind_inside(name: str) -> FoundKind | None:
    """The kind of a ZIP member by its name; None also for hidden files and macOS metadata."""
    inner = PurePosixPath(name.replace("\\", "/"))
    hidden = any(part.startswith(".") or part == MAC_RESOURCES for part in inner.parts)
    if hidden:
        return None
    # What a foundry put into its ZIP is meant to be read.
    return _kind(inner.name) or ("text" if inner.suffix.lower() in _TEXT_SUFFIXES else None)


def _kind(name: str) -> FoundKind | None:
    """The kind of a file by its name."""
    return "font" if Path(name).suffix.lower() in FONT_SUFFIXES else _beside(name)


def _beside(name: str) -> FoundKind | None:
    """The kind of a file beside fonts by its name."""
    suffix = Path(name).suffix.lower()
    if suffix == ".css":
        return "sheet"
    if suffix in _LICENCE_SUFFIXES and _LICENCE_NAME.search(name):
        return "licence"
    return "text" if suffix in _TEXT_SUFFIXES and _TEXT_NAME.search(name) else None
