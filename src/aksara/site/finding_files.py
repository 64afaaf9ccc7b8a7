"""Which files a request for a site refers to, and what each is read as."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import RequestError
from aksara.notices import Noted, Notice
from aksara.site.contents import PAGE_SUFFIXES, TEMPLATE_SUFFIXES, SiteContents, contents_of, role_of
from aksara.site.imported_sheets import find_imported_sheets
from aksara.site.template_sheets import TemplateSheets
from aksara.site.text_files import TEXT_SUFFIXES
from aksara.sources import PathPattern, find_pages, is_folder, pages_at, printable, resolved
from aksara.sources.patterns import PathFilter

#: Files of which a folder without pages and templates is text.
_PLAIN_TEXT = TEXT_SUFFIXES - {".css", ".svg", ".js", ".mjs", ".cjs", ".ts", ".xml"}
_ROLES_OF_TEXT = ("page", "template", "text", "script", "other", "tooling", "sheet")


class PageTask(Struct, frozen=True):
    """A page or template to read: its file, what it is called, and the folder of its site. `sheets` are the addresses
    of style sheets that apply to a template whose own links lead to none, `imported` those that modules import."""

    path: Path
    name: str
    root: Path
    template: bool = False
    sheets: tuple[str, ...] = ()
    imported: tuple[str, ...] = ()


class FoundFiles(Struct, frozen=True):
    """The files of a request. `texts` are plain text files, with their names; those of templates are included.

    `contents` are those of the folders that it names.
    """

    tasks: tuple[PageTask, ...]
    texts: tuple[tuple[Path, str], ...]
    contents: tuple[SiteContents, ...] = ()
    #: Names of texts that were not named: templates, and files beside them.
    by_chance: frozenset[str] = frozenset()
    #: About files and folders that cannot be read.
    notices: tuple[Notice, ...] = ()


def find_files(
    pages: Iterable[Path | PathPattern],
    data: Iterable[Path | PathPattern],
    exclude: Iterable[str],
    root: Path | None,
    *,
    sheets_alone: bool = False,
    written: Iterable[Path] = (),
    linking: Iterable[Path] = (),
) -> FoundFiles:
    """The pages to read and the files that are text alone, each once.

    Raises `RequestError` where there is nothing to read at a path; with `sheets_alone` a folder of style sheets is
    something. `written` are style sheets that are about to be, `linking` the pages and templates that
    will load them.
    """
    to_be = tuple(resolved(sheet).as_uri() for sheet in written)
    linked = {resolved(path) for path in linking}
    tasks: dict[Path, PageTask] = {}
    texts: dict[Path, str] = {}
    folders: list[SiteContents] = []
    notices: list[Notice] = []
    by_chance: set[str] = set()
    for where in pages:
        contents = _at(where, tuple(exclude), sheets_alone=sheets_alone)
        folders.append(contents)
        notices += contents.notices
        for task in _tasks(contents, root if root is not None else site_root(where), TemplateSheets(contents, written)):
            real = resolved(task.path)
            if real in linked:
                task = replace(task, imported=task.imported + to_be)  # noqa: PLW2901
            tasks.setdefault(real, task)
        for path in (*contents.templates, *contents.texts):
            texts.setdefault(resolved(path), _name(path))
            if contents.templates:
                by_chance.add(_name(path))
    for where in data:
        named = pages_at(where, TEXT_SUFFIXES)
        notices += named.notices
        for path in named.value:
            if isinstance(where, PathPattern) and role_of(path, site_root(where)) == "own":
                continue
            texts.setdefault(resolved(path), _name(path))
            by_chance.discard(_name(path))
    return FoundFiles(tuple(tasks.values()), tuple(texts.items()), tuple(folders), frozenset(by_chance), tuple(notices))


def _tasks(contents: SiteContents, root: Path, sheets: TemplateSheets) -> Iterator[PageTask]:
    """The pages and templates of a folder."""
    for path in contents.pages:
        yield PageTask(path, _name(path), root, imported=find_imported_sheets(path, root))
    for path in contents.templates:
        yield PageTask(path, _name(path), root, template=True, sheets=sheets.of(path))


def files_of_pages(pages: Iterable[Path | PathPattern], exclude: Iterable[str]) -> list[Path]:
    """The files of the pages asked for, each once. Raises `RequestError` where there are none at a path."""
    contents = (_at(where, tuple(exclude), sheets_alone=False) for where in pages)
    return list(dict.fromkeys(path for files in contents for path in (*files.pages, *files.templates, *files.texts)))


def _at(where: Path | PathPattern, exclude: tuple[str, ...], *, sheets_alone: bool) -> SiteContents:
    """The files to read at a path or a pattern."""
    if isinstance(where, Path) and is_folder(where):
        return _in_folder(where, exclude, sheets_alone=sheets_alone)
    root = site_root(where)
    files: dict[str, list[Path]] = {"page": [], "template": [], "text": [], "sheet": []}
    left_out = PathFilter(exclude)
    named = pages_at(where, TEXT_SUFFIXES)
    for path in named.value:
        is_itself = isinstance(where, Path)
        role = _named_role(path, root, is_itself=is_itself)
        if role in files and (is_itself or not _is_excluded(path, root, left_out)):
            files[role].append(path)
    return SiteContents(
        root=root, pages=tuple(files["page"]), templates=tuple(files["template"]), texts=tuple(files["text"]),
        sheets=tuple(files["sheet"]), notices=named.notices,
    )  # fmt: skip


def _is_excluded(path: Path, root: Path, left_out: PathFilter) -> bool:
    """Whether a file, or a folder that it is in, is left out."""
    real = resolved(path)
    inner = real.relative_to(root).parts if real.is_relative_to(root) else (real.name,)
    return any(left_out.matches("/".join(inner[:depth])) for depth in range(1, len(inner) + 1))


def _named_role(path: Path, root: Path, *, is_itself: bool) -> str:
    """The kind of a file that was named or matches a pattern; Aksara's own files and libraries count if named."""
    role = role_of(path, root)
    suffix = path.suffix.lower()
    if role in ("page", "template"):
        return role
    if not is_itself and role in ("own", "library"):
        return role
    if suffix in PAGE_SUFFIXES:
        return "page"
    if suffix in TEMPLATE_SUFFIXES and is_itself:
        return "template"
    return "text" if role in _ROLES_OF_TEXT and suffix != ".css" else "sheet"


def _in_folder(folder: Path, exclude: tuple[str, ...], *, sheets_alone: bool) -> SiteContents:
    contents = contents_of(folder, exclude)
    if contents.templates and not contents.pages:
        return contents
    if contents.pages:
        # Where there are pages, only they are text.
        return SiteContents(
            root=contents.root, pages=contents.pages, templates=contents.templates, sheets=contents.sheets,
            scripts=contents.scripts, uncompiled=contents.uncompiled, unread=contents.unread,
            skipped=contents.skipped, languages=contents.languages, notices=contents.notices,
        )  # fmt: skip
    texts = Noted[list[Path]]([]) if sheets_alone else find_pages(folder, _PLAIN_TEXT)
    if not texts.value and not (sheets_alone and contents.sheets):
        raise RequestError(
            f"{printable(str(folder))}: no pages or templates here ({contents.summary}); give the folder "
            "that your HTML is in"
        )
    return SiteContents(
        root=contents.root,
        texts=tuple(texts.value),
        sheets=contents.sheets,
        scripts=contents.scripts,
        uncompiled=contents.uncompiled,
        unread=contents.unread,
        skipped=contents.skipped,
        notices=tuple(dict.fromkeys((*contents.notices, *texts.notices))),
    )


def site_root(where: Path | PathPattern) -> Path:
    """The folder of the site: the one that is given, or the one from which paths count."""
    if isinstance(where, PathPattern):
        return resolved(where.base)
    if is_folder(where):
        return resolved(where)
    here = Path.cwd()
    if resolved(where).is_relative_to(here):
        return here
    # A style sheet alone mostly names files beside its folder.
    return resolved(where).parent.parent if where.suffix.lower() == ".css" else resolved(where).parent


def _name(path: Path) -> str:
    return printable(path.as_posix())
