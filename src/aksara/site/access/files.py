"""Addresses in pages and style sheets: which file of the site they mean."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from pathlib import Path
from urllib.parse import unquote, urljoin, urlsplit

from aksara.errors import InputError
from aksara.limits import MAX_PAGE_SIZE, MAX_PATH_PREFIXES
from aksara.site.access.decoding import decode_style_sheet
from aksara.site.css.stylesheets import StyleSheet, parse_style_sheet
from aksara.site.page.pages import RootUnknownError, SheetMissingError, SheetOutsideError
from aksara.sources import is_file, read_file, resolved


class SheetFiles:
    """The style sheets of a site that lies in a folder; `digests` are the SHA-256 of those that were read, by address.

    Only files inside the site's folder are read. An address from the root of the site (`/css/site.css`) counts from
    that folder or, where there is no such file and users did not set the root, from one of those between it and the
    page; or the site is published below a path that the address starts with. `instead` are the texts of
    sheets that stand in for files.
    """

    def __init__(self, root: Path, instead: Mapping[Path, str] | None = None, *, root_is_set: bool = False) -> None:
        self.root = resolved(root)
        self._root_is_set = root_is_set
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
        """The file that a reference points to. Raises `SheetMissingError` if there is no readable one."""
        try:
            address = urlsplit(urljoin(base, reference))
        except ValueError as error:
            raise SheetMissingError("is no address") from error
        # "//host/site.css" has no scheme of its own, and in a folder none that would lead there.
        if address.scheme != "file" or address.netloc:
            raise SheetMissingError("is on another host, so it was not read")
        path = unquote(address.path)
        if "\0" in path:
            raise SheetMissingError("is no address")
        candidates = [Path(path)]
        if reference.startswith("/") and self._root_is_set:
            candidates = [self.root / path.lstrip("/")]
        elif reference.startswith("/"):
            page = Path(unquote(urlsplit(base).path)).parent
            between = [page, *(parent for parent in page.parents if parent.is_relative_to(self.root))]
            candidates = [folder / path.lstrip("/") for folder in [self.root, *reversed(between)]]
        reals = [resolved(candidate) for candidate in candidates]
        for real in reals:
            if real in self._instead:
                return real
        inside = [real for real in reals if real.is_relative_to(self.root)]
        if not inside:
            raise SheetOutsideError(reals[0])
        path_there = next((candidate for candidate in inside if is_file(candidate)), None)
        if path_there is None and reference.startswith("/") and not self._root_is_set:
            path_there = self._below_prefix(reference, candidates)
            if path_there is None and not self._has_top(reference, candidates):
                raise RootUnknownError
        if path_there is None:
            raise SheetMissingError("is missing")
        return path_there

    def _has_top(self, reference: str, candidates: Sequence[Path]) -> bool:
        """Whether the first folder of an address is in one of the folders from which it may count."""
        parts = _parts(reference)
        return len(parts) < 2 or any((folder / parts[0]).is_dir() for folder in _bases(parts, candidates))

    def _below_prefix(self, reference: str, candidates: Sequence[Path]) -> Path | None:
        """The file of an address from the root of a server on which the site is published below a path."""
        parts = _parts(reference)
        folders = _bases(parts, candidates)
        for start in range(1, min(len(parts) - 1, MAX_PATH_PREFIXES) + 1):
            for folder in sorted(folders):
                path = resolved(folder.joinpath(*parts[start:]))
                if path.is_relative_to(self.root) and is_file(path):
                    return path
        return None

    def _bytes(self, path: Path) -> bytes:
        if path in self._instead:
            return self._instead[path]
        try:
            return read_file(path, limit=MAX_PAGE_SIZE)
        except InputError as error:
            raise SheetMissingError("cannot be read") from error


def _parts(reference: str) -> list[str]:
    return [part for part in unquote(urlsplit(reference).path).split("/") if part not in ("", ".", "..")]


def _bases(parts: Sequence[str], candidates: Sequence[Path]) -> set[Path]:
    """The folders from which candidates for an address count."""
    depth = len(parts) - 1
    return {candidate.parents[depth] for candidate in candidates if 0 <= depth < len(candidate.parents)}
