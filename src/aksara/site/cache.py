"""The cache of pages that were read: one file per site, in the user's cache folder.

A page's entry holds while the page, the style sheets that it uses, and Aksara itself are the same.
"""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Protocol

from msgspec import Struct, field

from aksara.code_stamp import installation_stamp
from aksara.limits import MAX_PAGE_CACHE
from aksara.site.usage import PageUse
from aksara.sources import resolved
from aksara.user_cache import cache_folder, read_entries, write_entries


class SheetDigests(Protocol):
    """Marks that show whether the style sheets of a page have changed."""

    def digest(self, address: str) -> str:
        """The SHA-256 of the sheet at an address, "" where there is none."""

    def is_missing(self, reference: str, base: str) -> bool:
        """Whether a reference leads to no sheet."""


class SheetsUsed(Struct, frozen=True):
    """The style sheets that a page's reading depends on: the SHA-256 of those that were read, by their addresses, and
    those that were missing (reference, base)."""

    digests: dict[str, str] = field(default_factory=dict)
    missing: tuple[tuple[str, str], ...] = ()


class _Entry(Struct, frozen=True):
    page: PageUse
    sheets: SheetsUsed


class PageCache:
    """Entries by the key of their page. Without a path nothing is kept."""

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self._known = read_entries(path, installation_stamp(), MAX_PAGE_CACHE, _Entry) if path is not None else {}
        self._used: dict[str, _Entry] = {}
        self._changed = False

    def get(self, key: str, sheets: SheetDigests) -> PageUse | None:
        """What was found on the page, if its style sheets are still the same."""
        entry = self._known.get(key)
        if entry is None:
            return None
        uses = entry.sheets
        same = all(sheets.digest(address) == digest for address, digest in uses.digests.items())
        if not same or not all(sheets.is_missing(reference, base) for reference, base in uses.missing):
            return None
        self._used[key] = entry
        return entry.page

    def put(self, key: str, page: PageUse, sheets: SheetsUsed) -> None:
        """Store the result, and what it depends on."""
        self._used[key] = _Entry(page, sheets)
        self._changed = True

    def save(self) -> None:
        """Write what this run used; other entries are of pages that have changed or are gone.

        Write errors are ignored: the cache is optional.
        """
        if self._path is None or (not self._changed and len(self._used) == len(self._known)):
            return
        write_entries(self._path, installation_stamp(), self._used)


def cache_of(*paths: Path) -> PageCache:
    """The cache for the site at these paths."""
    names = "\0".join(sorted(str(resolved(path)) for path in paths))
    return PageCache(
        cache_folder() / "pages" / (hashlib.sha256(names.encode(errors="surrogateescape")).hexdigest()[:24] + ".json")
    )
