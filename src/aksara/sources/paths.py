"""Paths and patterns of paths; finding the pages of a site. Bounded: a site's folder may hold anything."""

from __future__ import annotations

import itertools
import os
from collections.abc import Collection, Iterable
from pathlib import Path

from msgspec import Struct

from aksara.errors import InputError, RequestError
from aksara.limits import MAX_PAGES
from aksara.notices import Noted, Notice
from aksara.sources.files import is_file, kind_of, missing_words, open_file, printable, resolved
from aksara.sources.finding import collection_member
from aksara.sources.patterns import matching_paths
from aksara.sources.walking import FOREIGN, readable, walk


class PathPattern(Struct, frozen=True):
    """A path, or a pattern of paths (`*` for any name, `**` for any folders), which counts from `base`."""

    pattern: str
    base: Path = Path()

    def __str__(self) -> str:
        return self.pattern

    def paths(self) -> list[Path]:
        """The matching files and folders, in order. Raises `RequestError` if there are none."""
        paths = expand(self.pattern, self.base)
        if not paths and collection_member(self.base / self.pattern)[1] is not None:
            return [self.base / self.pattern]
        if not paths:
            raise RequestError(f"nothing matches '{self}' (counted from {_shown_base(self.base)}); correct the path")
        return paths


#: Characters of a pattern that a message shows.
_SHOWN = 100
#: The file that says how a site's fonts are made.
PROJECT_NAME = "aksara.toml"


def pages_at(where: Path | PathPattern, suffixes: Collection[str]) -> Noted[list[Path]]:
    """The pages at a path: a file, a folder (searched through for these suffixes), or what a pattern means.

    The notices say which files cannot be read. Raises `RequestError` where there are none, `InputError` where the path
    itself cannot be read.
    """
    path = where.base / where.pattern if isinstance(where, PathPattern) else where
    kind = _kind_of_pattern(path) if isinstance(where, PathPattern) else kind_of(path)
    if kind == "folder":
        in_folder = find_pages(path, suffixes)
        if not in_folder.value:
            raise RequestError(f"{printable(str(path))}: no pages here; give the folder that your HTML is in")
        return in_folder
    if isinstance(where, Path):
        if kind == "missing":
            raise RequestError(missing_words(str(path)))
        # One of many pages may be unreadable, and is reported; a page that was named must be readable.
        open_file(path).close()
        return Noted([path])
    paths = expand(where.pattern, where.base, pages=True)
    if not paths:
        raise RequestError(f"no page matches '{where}' (counted from {_shown_base(where.base)}); correct the path")
    return Noted(paths)


def _kind_of_pattern(path: Path) -> str:
    """What stands at the path that a pattern is as it is written; nothing, where it cannot be looked at."""
    try:
        return kind_of(path)
    except InputError:
        return "missing"


def _shown_base(base: Path) -> str:
    return printable(str(resolved(base)))


def find_pages(folder: Path, suffixes: Collection[str]) -> Noted[list[Path]]:
    """All files in a folder with one of these suffixes, without hidden folders, packages, our own output and project
    files. The notices say which cannot be read."""
    pages: list[Path] = []
    notices: list[Notice] = []
    for item in walk(folder):
        if isinstance(item, Path) and (item.suffix.lower() not in suffixes or item.name == PROJECT_NAME):
            continue
        page = readable(item) if isinstance(item, Path) else item
        if isinstance(page, Notice):
            notices.append(page)
            continue
        pages.append(page)
        if len(pages) > MAX_PAGES:
            raise RequestError(f"{printable(str(folder))}: more than {MAX_PAGES:,} pages; name a smaller folder")
    return Noted(pages, tuple(notices))


def expand(pattern: str, base: Path, *, pages: bool = False) -> list[Path]:
    """The files and folders that a path or pattern (`**` for any folders) means, counted from `base`, in order.

    Of `pages`, only files count, and not those that `find_pages` skips. A path that exists as it is written
    is no pattern: font files have brackets in their names.
    """
    try:
        if (base / pattern).exists():
            return [base / pattern] if not (pages and (base / pattern).is_dir()) else []
        passed_over = FOREIGN if pages else ()
        paths = sorted(itertools.islice(matching_paths(pattern, base, passed_over), MAX_PAGES + 1))
    except (OSError, ValueError) as error:
        reason = error.strerror if isinstance(error, OSError) else "no file can have such a name"
        raise RequestError(f"'{_shown(pattern)}' cannot be looked for ({reason}); write a plain path") from error
    if len(paths) > MAX_PAGES:
        raise RequestError(f"'{printable(pattern)}' matches more than {MAX_PAGES:,} files; name a smaller folder")
    return [path for path in paths if is_file(path) and not _is_foreign(path, base)] if pages else paths


def _shown(pattern: str) -> str:
    return printable(pattern if len(pattern) <= _SHOWN else f"{pattern[: _SHOWN - 1]}…")


def _is_foreign(page: Path, base: Path) -> bool:
    inner = page.relative_to(base) if page.is_relative_to(base) else page
    return bool(FOREIGN & set(inner.parts))


def common_folder(pages: Iterable[Path]) -> Path | None:
    """The folder that contains all of them; None if there are none."""
    folders = [page.parent for page in pages]
    return Path(os.path.commonpath(folders)) if folders else None
