"""Facts of font files that were looked at before, kept in the user's cache folder by the hash of their bytes."""

from __future__ import annotations

from contextlib import suppress
from hashlib import sha256
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from aksara.checking.font_facts import FileFacts, facts_of_font
from aksara.code_stamp import installation_stamp
from aksara.errors import RequestError
from aksara.limits import MAX_FACTS, MAX_FACTS_SIZE
from aksara.text import format_ranges
from aksara.text.ranges import parse_ranges
from aksara.user_cache import cache_folder, read_entries, write_entries


class _KeptFacts(Struct, frozen=True):
    """The facts of a file as they are kept: its characters as ranges, which take a hundredth of the room."""

    facts: FileFacts
    characters: str


class FactsCache:
    """Cached facts about font files; without a path nothing is stored."""

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self._known = read_entries(path, installation_stamp(), MAX_FACTS_SIZE, _KeptFacts) if path is not None else {}
        self._changed = False

    @classmethod
    def of_user(cls) -> FactsCache:
        """The one in the user's cache folder."""
        return cls(cache_folder() / "font-facts.json")

    def facts(self, data: bytes, name: str) -> FileFacts:
        """The facts of a file with these bytes."""
        key = sha256(data).hexdigest()
        if (kept := self._known.get(key)) is not None and kept.facts.sha256 == key:
            with suppress(RequestError):
                codes = parse_ranges(kept.characters) if kept.characters else ()
                return replace(kept.facts, characters=frozenset(codes))
        facts = facts_of_font(data, name)
        ranges = format_ranges(facts.characters)
        self._known[key], self._changed = _KeptFacts(replace(facts, characters=frozenset()), ranges), True
        return facts

    def save(self) -> None:
        """Write the cache; the oldest entries are dropped when it is full."""
        if self._path is None or not self._changed:
            return
        write_entries(self._path, installation_stamp(), dict(list(self._known.items())[-MAX_FACTS:]))
