"""Addresses in pages and style sheets: which file of the site they mean."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from pathlib import Path
from urllib.parse import unquote, urljoin, urlsplit

from aksara.errors import InputError
from aksara.limits import MAX_PAGE_SIZE
from aksara.site.access.decoding import decode_style_sheet
from aksara.site.css.stylesheets import StyleSheet, parse_style_sheet
from aksara.site.page.pages import SheetMissingError
from aksara.sources import is_file, read_file, resolved

#: Bytes of a style sheet.


class SheetFiles:
    """The style sheets of a site that lies in a folder; `digests` are the SHA-256 of those that were read, by address.

    Only files inside the site's folder are read. An address from the root of the site (`/css/site.css`) counts from
    that folder or, where there is no such file, from one of those between it and the page. `instead` are the texts of
    sheets that stand in for files.
    """

    def __init__(self, root: Path, instead: Mapping[Path, str] | None = None) -> None:
        self.root = resolved(root)
        self._instead = {resolved(path): text.encode() for path, text in (instead or {}).items()}
        self.digests: dict[str, str] = {}
        self._read: dict[Path, StyleSheet] = {}

    def sheet(self, reference: str, base: str) -> StyleSheet:
        """The sheet that a reference means. Raises `SheetMissingError` where it cannot be had."""
        path = self.resolve(reference, base)
        if path not in self._read:
            data = self._bytes(path)
            self.digests[path.as_uri()] = hashlib.sha256(data).hexdigest()
            self._read[path] = parse_style_sheet(decode_style_sheet(data), path.as_uri())
        return self._read[path]

    def digest(self, address: str) -> str:
        """The SHA-256 of a sheet that was read before; "" where it cannot be read any more."""
        if address not in self.digests:
            try:
                self.digests[address] = hashlib.sha256(self._bytes(self.resolve(address, address))).hexdigest()
            except SheetMissingError:
                self.digests[address] = ""
        return self.digests[address]

    def is_missing(self, reference: str, base: str) -> bool:
        """Whether a reference leads to no sheet that can be read."""
        try:
            self._bytes(self.resolve(reference, base))
        except SheetMissingError:
            return True
        return False

    def resolve(self, reference: str, base: str) -> Path:
        """The file that a reference means. Raises `SheetMissingError` where there is none that may be read."""
        try:
            address = urlsplit(urljoin(base, reference))
        except ValueError as error:
            raise SheetMissingError("is no address") from error
        if address.scheme != "file":
            raise SheetMissingError("is on another host, so it was not read")
        path = unquote(address.path)
        if "\0" in path:
            raise SheetMissingError("is no address")
        candidates = [Path(path)]
        if reference.startswith("/"):
            page = Path(unquote(urlsplit(base).path)).parent
            between = [page, *(each for each in page.parents if each.is_relative_to(self.root))]
            candidates = [folder / path.lstrip("/") for folder in [self.root, *reversed(between)]]
        places = [resolved(each) for each in candidates]
        for each in places:
            if each in self._instead:
                return each
        inside = [each for each in places if each.is_relative_to(self.root)]
        if not inside:
            raise SheetMissingError("is outside of the site's folder, so it was not read")
        found = next((each for each in inside if is_file(each)), None)
        if found is None:
            raise SheetMissingError("is not there")
        return found

    def _bytes(self, path: Path) -> bytes:
        if path in self._instead:
            return self._instead[path]
        try:
            return read_file(path, limit=MAX_PAGE_SIZE)
        except InputError as error:
            raise SheetMissingError("cannot be read") from error
