"""What is known of pages that were read before: kept in one file a site, in the user's cache folder.

A page's entry holds while the page, the style sheets that it uses, and Aksara itself are the same.
"""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any, Protocol

from aksara.code_stamp import installation_stamp
from aksara.sources import resolved
from aksara.user_cache import cache_folder, read_entries, write_entries

_MAX_SIZE = 200_000_000


class SheetDigests(Protocol):
    """What tells whether the style sheets of a page are as they were."""

    def digest(self, address: str) -> str:
        """The SHA-256 of the sheet at an address, "" where there is none."""

    def is_missing(self, reference: str, base: str) -> bool:
        """Whether a reference leads to no sheet."""


class PageCache:
    """Entries by the key of their page. Without a path nothing is kept."""

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self._known = read_entries(path, installation_stamp(), _MAX_SIZE) if path is not None else {}
        self._used: dict[str, Any] = {}
        self._changed = False

    def get(self, key: str, sheets: SheetDigests) -> dict[str, Any] | None:
        """What was found on the page, if its style sheets are still the same."""
        entry = self._known.get(key)
        if not isinstance(entry, dict):
            return None
        try:
            uses = entry["uses"]
            same = all(sheets.digest(address) == digest for address, digest in uses["sheets"].items())
            if not same or not all(sheets.is_missing(reference, base) for reference, base in uses["missing"]):
                return None
        except (KeyError, TypeError, ValueError, AttributeError):
            return None
        self._used[key] = entry
        page: dict[str, Any] = entry["page"]
        return page

    def put(self, key: str, page: dict[str, Any], uses: dict[str, Any]) -> None:
        """Keep what was found; `uses` are the sheets it came from, with their digests, and those that were missing."""
        if uses:
            self._used[key] = {"page": page, "uses": uses}
            self._changed = True

    def save(self) -> None:
        """Write what this run used; other entries are of pages that have changed or are gone.

        A cache that cannot be written is none: nothing fails for it.
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
