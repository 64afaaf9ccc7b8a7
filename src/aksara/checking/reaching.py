"""How style sheets and fonts are reached: in the folder of a site, or on the server that it runs on."""

from __future__ import annotations

import base64
import binascii
import os
from collections.abc import Iterator, Mapping
from contextlib import suppress
from functools import cached_property
from hashlib import sha256
from pathlib import Path
from typing import Protocol, Self
from urllib.parse import unquote, unquote_to_bytes, urljoin

from msgspec import Struct, field

from aksara.checking.facts_cache import FactsCache
from aksara.checking.font_facts import FileFacts
from aksara.checking.urls import file_name, is_elsewhere, without_query
from aksara.errors import InputError
from aksara.limits import MAX_FILE_SIZE, MAX_KNOWN_NAMES, MAX_LICENCE_SIZE, MAX_MANIFEST_SIZE, MAX_PAGE_SIZE
from aksara.observing import note_folder
from aksara.site.access.decoding import decode_page, decode_style_sheet
from aksara.site.access.exchanges import Exchange
from aksara.site.access.files import SheetFiles
from aksara.site.css.face_rules import (
    BrokenFamily,
    FaceRule,
    broken_families_in,
    face_rules_in,
    font_properties_in,
)
from aksara.site.css.font_classes import classes_in, font_classes_in
from aksara.site.css.values import readable
from aksara.site.page.pages import RootUnknownError, SheetMissingError, SheetOutsideError
from aksara.site.tree import parse_html
from aksara.site.usage import PageUse
from aksara.site.web_addresses import path_of
from aksara.sources import MANIFEST_NAME, is_file, printable, read_file, resolved, texts_beside
from aksara.web.marks import KeptPart, kept_part

_FONT_SUFFIXES = (".woff2", ".woff", ".ttf", ".otf", ".eot", ".ttc")


class ReachedFile(Struct, frozen=True, eq=False):
    """What the address of a source leads to: `shown` is the file as users know it, `missing` why there is none, and
    `facts` are those of its bytes. `unknown`: it depends on a template, or was not looked at. `address` is what other
    links to the same file come to ("" for a font inside of the style sheet), `exchange` what its server answered."""

    shown: str = ""
    facts: FileFacts | None = None
    missing: str = ""
    unknown: bool = False
    address: str = ""
    exchange: Exchange | None = None

    @property
    def works(self) -> bool:
        """Whether a browser could use it, as far as is known."""
        return self.unknown or (self.facts is not None and not self.facts.problem)


class CheckedSheet(Struct, frozen=True, eq=False):
    """A style sheet, or those in a page: its address, what users know it by, the rules in it, and the families that it
    names in a way that browsers ignore. `properties_used` are custom properties that fonts are taken from (with lines),
    `properties` those that it defines. `sha256` is that of its bytes ("" in a page), `exchange` what its server
    answered."""

    address: str
    shown: str
    rules: tuple[FaceRule, ...] = ()
    broken_families: tuple[BrokenFamily, ...] = ()
    properties_used: Mapping[str, int] = field(default_factory=dict)
    properties: frozenset[str] = frozenset()
    sha256: str = ""
    exchange: Exchange | None = None
    #: The classes in its selectors, and the lines of those whose rules name a font.
    classes: frozenset[str] = frozenset()
    font_classes: Mapping[str, int] = field(default_factory=dict)
    #: A template writes it.
    template: bool = False
    #: What builds keep in it, between marks.
    kept: KeptPart | None = None

    @classmethod
    def of(cls, address: str, shown: str, data: bytes, exchange: Exchange | None = None, *, is_page: bool) -> Self:
        """The sheet with these bytes, or the page that has sheets in it."""
        if is_page:
            texts = _sheets_in_page(decode_page(data))
        else:
            texts = [(decode_style_sheet(data), 1)]
        texts = [(readable(text), line) for text, line in texts]
        named = [font_properties_in(text, line) for text, line in texts]
        return cls(
            address,
            printable(shown),
            tuple(rule for text, line in texts for rule in face_rules_in(text, line)),
            tuple(broken for text, line in texts for broken in broken_families_in(text, line)),
            {name: line for used, _ in named for name, line in used.items()},
            frozenset().union(*(defined for _, defined in named)),
            "" if is_page else sha256(data).hexdigest(),
            exchange,
            frozenset().union(*(classes_in(text) for text, _ in texts)),
            {name: place for text, line in texts for name, place in font_classes_in(text, line).items()},
            any(sign in text for text, _ in texts for sign in ("{%", "<?php", "<%")),
            None if is_page else kept_part(data, file_name(address)),
        )


class Reach(Protocol):
    """A site whose files can be had."""

    def sheet(self, page: PageUse, address: str) -> CheckedSheet:
        """A style sheet of a page; a page's own sheets are one."""

    def font(self, url: str, sheet: CheckedSheet) -> ReachedFile:
        """The file a URL in a style sheet leads to."""

    def linked(self, href: str, address: str, page: PageUse) -> str | None:
        """The address of a link in a page, which by itself comes to `address`; None where its root is not known."""

    def is_there(self, address: str) -> bool:
        """Whether the address of a link exists; true if that is unknown."""

    def named(self, name: str) -> list[str]:
        """The addresses of the site's fonts with this name, ignoring case."""

    def manifests(self, font: ReachedFile) -> Iterator[tuple[str, bytes]]:
        """The contents of possible manifests in a font's folder and its parent, with their addresses."""

    def texts_in(self, folder: str) -> Iterator[tuple[str, str]]:
        """The texts in the folder of a font, as far as folders can be listed: what they are called, and themselves."""


def font_inside(url: str, cache: FactsCache) -> ReachedFile:
    """The font in a data: URL."""
    head, _, body = url.partition("#")[0].partition(",")
    body = body.removesuffix("?")  # what old browsers need in front of the "#"
    try:
        data = base64.b64decode(unquote(body)) if head.lower().endswith(";base64") else unquote_to_bytes(body)
    except (binascii.Error, ValueError):
        return ReachedFile("data: URL", missing="is cut short, or is not valid base64")
    return ReachedFile("data: URL", cache.facts(data, "data: URL"))


class FolderReach:
    """A site in a folder."""

    def __init__(self, root: str, cache: FactsCache) -> None:
        """`root` is the folder's address."""
        self.root = path_of(root)
        self._files = SheetFiles(self.root)
        self._cache = cache
        self._known: dict[Path, ReachedFile] = {}

    def sheet(self, page: PageUse, address: str) -> CheckedSheet:
        """See `Reach`. Shown from the folder that users gave."""
        path, inner = path_of(address), path_of(page.address)
        inside = inner.relative_to(self.root).as_posix() if inner.is_relative_to(self.root) else ""
        prefix = page.page.removesuffix(inside) if inside else ""
        shown = prefix + path.relative_to(self.root).as_posix() if path.is_relative_to(self.root) else path.as_posix()
        try:
            data = read_file(path, limit=MAX_PAGE_SIZE)
        except InputError:
            return CheckedSheet(address, printable(shown))
        return CheckedSheet.of(address, shown, data, is_page=address == page.address)

    def loose_sheet(self, address: str) -> CheckedSheet:
        """A style sheet that no page loads."""
        shown = printable(os.path.relpath(path_of(address)))
        try:
            data = read_file(path_of(address), limit=MAX_PAGE_SIZE)
        except InputError:
            return CheckedSheet(address, shown)
        return CheckedSheet.of(address, shown, data, is_page=False)

    def font(self, url: str, sheet: CheckedSheet) -> ReachedFile:
        """See `Reach`."""
        if is_elsewhere(url):
            return ReachedFile(url, unknown=True)
        try:
            path = self._files.resolve(without_query(url), sheet.address)
        except SheetOutsideError as error:
            # What lies outside of the folder is not read; that it is there can be said.
            return ReachedFile(url, unknown=True) if is_file(error.path) else ReachedFile(url, missing="is missing")
        except SheetMissingError as error:
            if (published := self._published(url)) is None:
                return ReachedFile(url, missing=str(error))
            path = published
        if path not in self._known:
            self._known[path] = self._read(path)
        return self._known[path]

    def _published(self, url: str) -> Path | None:
        """The font whose path ends in an address from the root: of several parts of a site each may have its own
        folder that is published."""
        parts = [part for part in unquote(without_query(url)).split("/") if part not in ("", ".", "..")]
        if not url.startswith("/") or len(parts) < 2:
            return None
        named = self._names.get(parts[-1].lower(), ())
        return next((path for path in named if list(path.parts[-len(parts) :]) == parts), None)

    def _read(self, path: Path) -> ReachedFile:
        shown = printable(os.path.relpath(path))
        try:
            data = read_file(path, limit=MAX_FILE_SIZE)
        except InputError as error:
            return ReachedFile(shown, missing=f"cannot be read ({error.problem})")
        return ReachedFile(shown, self._cache.facts(data, shown), address=path.as_uri())

    def linked(self, href: str, address: str, page: PageUse) -> str | None:
        """See `Reach`."""
        if not href.startswith("/") or href.startswith("//"):
            return address
        try:
            return self._files.resolve(without_query(href), page.address).as_uri()
        except (SheetOutsideError, RootUnknownError):
            return None
        except SheetMissingError:
            return address

    def is_there(self, address: str) -> bool:
        """See `Reach`."""
        return is_elsewhere(address) or is_file(resolved(path_of(without_query(address))))

    def named(self, name: str) -> list[str]:
        """See `Reach`."""
        return [path.as_uri() for path in self._names.get(name.lower(), ())]

    @cached_property
    def _names(self) -> Mapping[str, list[Path]]:
        paths: dict[str, list[Path]] = {}
        count = 0
        for folder, folders, files in os.walk(self.root):
            note_folder(Path(folder))
            folders[:] = sorted(name for name in folders if not name.startswith(".") and name != "node_modules")
            for name in sorted(files):
                count += 1
                if name.lower().endswith(_FONT_SUFFIXES) and is_file(Path(folder) / name):
                    paths.setdefault(name.lower(), []).append(Path(folder) / name)
            if count > MAX_KNOWN_NAMES:
                break
        return paths

    def manifests(self, font: ReachedFile) -> Iterator[tuple[str, bytes]]:
        """See `Reach`."""
        for address in where_manifests_are(font):
            path = path_of(address)
            with suppress(InputError):
                if is_file(path):
                    yield address, read_file(path, limit=MAX_MANIFEST_SIZE)

    def texts_in(self, folder: str) -> Iterator[tuple[str, str]]:
        """See `Reach`."""
        for path in texts_beside(path_of(folder)):
            try:
                yield (
                    printable(os.path.relpath(path)),
                    read_file(path, limit=MAX_LICENCE_SIZE).decode("utf-8", "replace"),
                )
            except InputError:
                continue


def where_manifests_are(font: ReachedFile) -> tuple[str, str]:
    """The addresses at which a built font has its manifest, the likelier first."""
    return urljoin(font.address, f"../{MANIFEST_NAME}"), urljoin(font.address, MANIFEST_NAME)


def _sheets_in_page(source: str) -> list[tuple[str, int]]:
    """The texts of a page's own style sheets, each with the line that it starts in."""
    if "<style" not in source.lower():
        return []
    document = parse_html(source)
    styles = (element for element in document.elements if element.tag == "style")
    return [(style.text, max(document.line_of(style), 1)) for style in styles]
