"""Which style sheets apply to a template: those that its own links lead to, or those of the layouts around it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import cached_property
from pathlib import Path
from urllib.parse import unquote, urlsplit

from aksara.errors import InputError
from aksara.limits import MAX_PAGE_SIZE, MAX_TEMPLATE_SHEETS
from aksara.site.access.decoding import decode_page
from aksara.site.contents import SiteContents
from aksara.site.page.templates import template_markup
from aksara.sources import read_file, resolved

_LINK = re.compile(r"<link\b[^<>]*>", re.IGNORECASE)
_STYLESHEET = re.compile(r"\brel=[\"']?[^\"'>]*stylesheet", re.IGNORECASE)
_HREF = re.compile(r"\bhref=(?:\"([^\"]*)\"|'([^']*)'|([^\s>]+))", re.IGNORECASE)
_NAMED_SHEET = re.compile(r"[\"']([^\"'\s{}<>]{1,300}\.css)[\"']")
#: A style sheet whose name says that it is for something else than pages that readers see.
_ASIDE = re.compile(r"(?:^|[-_.])(?:admin|editor|print|rtl|ie\d*|login|customizer|block-editor|wysiwyg)(?:[-_.]|$)")


class TemplateSheets:
    """The style sheets of a folder's templates; `written` are those that are about to be written."""

    def __init__(self, contents: SiteContents, written: Iterable[Path] = ()) -> None:
        self._contents = contents
        self._written = [resolved(sheet) for sheet in written]
        self._known_folders: dict[Path, tuple[Path, ...]] = {}

    def of(self, template: Path) -> tuple[str, ...]:
        """The addresses of those that apply to a template."""
        own = self._linked.get(template) or self._shared or self._nearest(template)
        return tuple(path.as_uri() for path in own[:MAX_TEMPLATE_SHEETS])

    @cached_property
    def _linked(self) -> dict[Path, tuple[Path, ...]]:
        """The style sheets of the folder that each template's links mean, by their names where paths are made up."""
        known = list(dict.fromkeys([*(resolved(sheet) for sheet in self._contents.sheets), *self._written]))
        linked = {}
        for template in self._contents.templates if known else ():
            meant = (_meant(href, known) for href in _references(template))
            if sheets := tuple(dict.fromkeys(sheet for sheet in meant if sheet is not None)):
                linked[template] = sheets
        return linked

    @cached_property
    def _shared(self) -> tuple[Path, ...]:
        """Those of all layouts."""
        return tuple(dict.fromkeys(sheet for sheets in self._linked.values() for sheet in sheets))

    def _nearest(self, template: Path) -> tuple[Path, ...]:
        """Where no link leads to any, those of the nearest folder above the template that holds some."""
        root = resolved(self._contents.root)
        for folder in resolved(template).parents:
            if sheets := self._in_folder(folder):
                return sheets
            if folder == root:
                break
        return ()

    def _in_folder(self, folder: Path) -> tuple[Path, ...]:
        if folder not in self._known_folders:
            self._known_folders[folder] = tuple(sheet for sheet in self._own if sheet.is_relative_to(folder))
        return self._known_folders[folder]

    @cached_property
    def _own(self) -> list[Path]:
        """The folder's style sheets, each once, without those for editors and the like."""
        sheets = [resolved(sheet) for sheet in self._contents.sheets]
        plain = {sheet for sheet in sheets if ".min." not in sheet.name}
        return [
            sheet
            for sheet in sheets
            if sheet.with_name(sheet.name.replace(".min.", ".")) not in plain - {sheet}
            and not _ASIDE.search(sheet.stem.lower())
        ]


def _references(template: Path) -> Iterator[str]:
    """The addresses of style sheets that a template links."""
    try:
        source = decode_page(read_file(template, limit=MAX_PAGE_SIZE))
    except InputError:
        return
    for match in _LINK.finditer(template_markup(source, template.suffix)):
        href = _HREF.search(match[0])
        if href is not None and _STYLESHEET.search(match[0]):
            yield href[1] or href[2] or href[3] or ""
    # In expressions, too: {{ 'theme.css' | asset_url | stylesheet_tag }}.
    yield from _NAMED_SHEET.findall(source)


def _meant(href: str, known: list[Path]) -> Path | None:
    """The style sheet whose path has the most parts in common with a link."""
    try:
        parts = [part for part in unquote(urlsplit(href.strip()).path).split("/") if part not in ("", ".", "..")]
    except ValueError:
        return None
    best, most = None, 0
    for path in known:
        same = 0
        for one, other in zip(reversed(parts), reversed(path.parts), strict=False):
            if one != other:
                break
            same += 1
        if same > most:
            best, most = path, same
    return best
