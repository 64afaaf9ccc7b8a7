"""Parsed tables of the fonts of a build: their one owner, which bounds how much of them stays in memory."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock

from aksara.limits import MAX_PARSED_SIZE

#: Bytes of memory for each byte of a table, measured on text fonts; layout tables become many small objects.
_GROWTH = {"GSUB": 20, "GPOS": 20, "GDEF": 20, "MATH": 20, "morx": 20, "mort": 20, "kerx": 20, "COLR": 8, "kern": 4}
_PLAIN_GROWTH = 3
#: Fonts that are never emptied for others: the one in hand, and the one in whose place it stands, asked in turn.
_IN_HAND = 2


class ParsedTables:
    """The parsed tables of several fonts. Beyond the limit, those of the font used longest ago go first.

    Each font keeps what is parsed of it in a dictionary, which is emptied here; the font parses again what it is
    asked for then. `limit` is in bytes of memory, by estimate; None for no limit.
    """

    def __init__(self, limit: int | None = MAX_PARSED_SIZE) -> None:
        self._limit = limit
        self._sizes: OrderedDict[int, tuple[dict[object, object], int]] = OrderedDict()
        self._total = 0
        self._expected: dict[int, int] = {}
        self._lock = Lock()

    def note(self, kept: dict[object, object], tag: str, size: int) -> None:
        """A table of that tag and of `size` bytes was parsed for the font whose dictionary is `kept`."""
        if self._limit is None:
            return
        with self._lock:
            _, before = self._sizes.pop(id(kept), (kept, 0))
            grown = size * _GROWTH.get(tag, _PLAIN_GROWTH)
            self._sizes[id(kept)] = kept, before + grown
            self._total += grown
            self._shrink(_IN_HAND)

    def expect(self, kept: dict[object, object], times: int) -> None:
        """The font whose dictionary is `kept` will be worked on that many times, each of which ends with `trim`."""
        with self._lock:
            self._expected[id(kept)] = times

    def trim(self, kept: dict[object, object]) -> bool:
        """Work on a font is done: drop what exceeds the limit, this font's tables too if no more work is expected.
        Returns whether it is."""
        with self._lock:
            left = self._expected.pop(id(kept), 0) - 1
            if left > 0:
                self._expected[id(kept)] = left
            self._shrink(int(left > 0))
        return left > 0

    def _shrink(self, fewest: int) -> None:
        while self._limit is not None and self._total > self._limit and len(self._sizes) > fewest:
            _, (kept, size) = self._sizes.popitem(last=False)
            kept.clear()
            self._total -= size
