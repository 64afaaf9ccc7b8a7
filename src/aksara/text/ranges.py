"""Unicode ranges in the notation of CSS ("urange", CSS Syntax 3 section 7)."""

from __future__ import annotations

import re
from collections.abc import Iterable
from itertools import pairwise

from aksara.errors import RequestError

MAX_CODE = 0x10FFFF
# The "U+" may be left out, as in a list typed by hand.
_RANGE = re.compile(r"(?:U\+)?(?:([0-9A-F]{1,6})(?:-(?:U\+)?([0-9A-F]{1,6}))?|([0-9A-F]{0,5})(\?{1,6}))", re.IGNORECASE)


def parse_ranges(text: str) -> set[int]:
    """Code points of e.g. `U+41-5A, U+E9, U+4??`. Raises `RequestError` for anything else."""
    codes: set[int] = set()
    for part in filter(None, (piece.strip() for piece in text.split(","))):
        match = _RANGE.fullmatch(part)
        if not match:
            raise RequestError(f"'{part}' is not a Unicode range; write one like U+41-5A or U+E9")
        first, last, stem, wild = match.groups()
        low = int(stem + "0" * len(wild) if wild else first, 16)
        high = int(stem + "F" * len(wild) if wild else last or first, 16)
        if low > high:
            raise RequestError(f"'{part}' ends before it starts; write the smaller number first")
        if high > MAX_CODE:
            raise RequestError(f"'{part}' goes beyond U+10FFFF, the last code point of Unicode")
        codes.update(range(low, high + 1))
    return codes


def intervals(codes: Iterable[int]) -> list[tuple[int, int]]:
    """First and last of each run of consecutive code points, in order."""
    ordered = sorted(set(codes))
    if not ordered:
        return []
    breaks = [(a, b) for a, b in pairwise(ordered) if b != a + 1]
    firsts, lasts = [ordered[0], *(b for _, b in breaks)], [*(a for a, _ in breaks), ordered[-1]]
    return list(zip(firsts, lasts, strict=True))


def format_ranges(codes: Iterable[int]) -> str:
    """The value of `unicode-range` for exactly these code points: `U+20-7E, U+A9`."""
    return ", ".join(f"U+{first:X}" if first == last else f"U+{first:X}-{last:X}" for first, last in intervals(codes))
