"""The user's own files in which a build keeps something between marks: a style sheet, pages, templates, fragments.

They are read when the build is planned, so that marks which cannot be used end it before any font is made.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from msgspec import Struct

from aksara.errors import InputError, RequestError
from aksara.limits import MAX_PAGE_SIZE
from aksara.notices import Notice
from aksara.phrases import listed
from aksara.pipeline.planning.permitted_paths import check_kept_paths
from aksara.pipeline.request import BuildRequest
from aksara.pipeline.writing.targets import is_own
from aksara.sources import PathPattern, expand, kind_of, printable, read_file
from aksara.sources.patterns import has_magic
from aksara.web.marks import MarkedFile, MarksError
from aksara.web.urls import sheet_url

_PAGES = (".html", ".htm", ".xhtml")
_EXPRESSION = re.compile(r"\{\{|\{%|<%|<\?(?!xml)")
#: The indented syntax of Sass has no braces, so rules cannot stand in it.
_INDENTED = (".sass", ".styl", ".stylus")


class KeptFile(Struct, frozen=True):
    """A file as it was read, and with its marks parsed; `data` is None for a new file."""

    path: Path
    data: bytes | None
    marked: MarkedFile

    @property
    def is_template(self) -> bool:
        """Whether it is a template, whose pages may be elsewhere."""
        return self.path.suffix.lower() not in _PAGES or bool(_EXPRESSION.search(self.marked.text))


class KeptFiles(Struct, frozen=True):
    """The style sheet that the rules go into, and the files that links are kept in."""

    sheet: KeptFile | None = None
    links: tuple[KeptFile, ...] = ()


def read_kept_files(request: BuildRequest) -> KeptFiles:
    """All of them. Raises `RequestError` for a missing one or one whose marks cannot be used, `InputError` for one
    that cannot be read."""
    sheet = _read_sheet(request) if request.css_into is not None or request.rules is not None else None
    paths = list(dict.fromkeys(path for link in request.links for path in _expanded(link)))
    check_kept_paths(request, paths, "BuildRequest.links")
    return KeptFiles(sheet, tuple(_read_page(path) for path in paths))


def _read_sheet(request: BuildRequest) -> KeptFile:
    path = request.css_file
    name = printable(str(path))
    if path.suffix.lower() in _INDENTED:
        raise RequestError(
            f"{name}: rules with braces cannot stand in the indented syntax; have them written into a style sheet of "
            "their own, and load that one with @use or @import",
            parameter=request.css_parameter,
        )
    if kind_of(path) != "file":
        raise RequestError(
            f"{name}: no such style sheet; check the path, or make an empty file",
            parameter=request.css_parameter,
        )
    check_kept_paths(request, [path], request.css_parameter)
    with _told(path, request.css_parameter):
        kept = _read(path)
        kept.marked.check_imports(request.licence.css)
        return kept


def _read_page(path: Path) -> KeptFile:
    with _told(path, "BuildRequest.links"):
        if kind_of(path) == "missing":
            return KeptFile(path, None, MarkedFile.of(b"", path.name))
        kept = _read(path)
        if kept.marked.marked is None and kept.data:
            _ = kept.marked.place_for_links
        return kept


def _read(path: Path) -> KeptFile:
    data = read_file(path, limit=MAX_PAGE_SIZE)
    kept = KeptFile(path, data, MarkedFile.of(data, path.name))
    _ = kept.marked.marked
    return kept


def links_from_templates(request: BuildRequest, kept: KeptFiles) -> list[Notice]:
    """Links in a template count from where it lies, unless the request says where a server has the files."""
    templates = [printable(str(link.path)) for link in kept.links if link.is_template]
    if not templates or sheet_url(request.url, request.css_file, request.fonts_folder) is not None:
        return []
    text = "a template; its links count from here. If its pages are elsewhere, say where a server has the fonts"
    return [Notice(listed(templates, 3), text, "BuildRequest.links")]


@contextmanager
def _told(path: Path, parameter: str) -> Iterator[None]:
    """Turn errors about marks into errors of the request that names the file."""
    try:
        yield
    except MarksError as error:
        line = f":{error.line}" if error.line else ""
        raise RequestError(f"{printable(str(path))}{line}: {error.problem}", parameter=parameter) from error


def _expanded(path: Path | PathPattern) -> list[Path]:
    """The files that a pattern means; one without wildcards may not be there yet: a fragment to be made."""
    pattern, base = (path.pattern, path.base) if isinstance(path, PathPattern) else (str(path), Path())
    try:
        paths = [path for path in expand(pattern, base) if kind_of(path) == "file"]
        if has_magic(pattern):
            # A proof is a page, too, and lies where pages are; but none of the user's.
            paths = [path for path in paths if not is_own(path, "proof")]
    except InputError as error:
        raise RequestError(error.problem, parameter="BuildRequest.links") from error
    if paths:
        return paths
    if has_magic(pattern):
        raise RequestError(f"'{printable(pattern)}' matches no file; check the pattern", parameter="BuildRequest.links")
    return [base / pattern]
