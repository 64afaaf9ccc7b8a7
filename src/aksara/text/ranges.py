"""Unicode ranges in the notation of CSS ("urange", CSS Syntax 3 section 7)."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Set
from itertools import pairwise

from aksara.errors import RequestError
from aksara.text.blocks import NO_BLOCK, block_name

MAX_CODE = 0x10FFFF
_LONGEST_GAP = 0x1000
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


def bridged(codes: Iterable[int], avoided: Set[int]) -> list[tuple[int, int]]:
    """The intervals of these code points, joined across unassigned ones.

    A gap is bridged if none of its code points is in `avoided`, and if it lies in one Unicode block with both its
    ends or has only controls and unassigned code points: text in another script must not ask for a font that lacks it.
    """
    result: list[tuple[int, int]] = []
    for first, last in intervals(codes):
        if result and _is_bridge(result[-1][1], first, avoided):
            result[-1] = (result[-1][0], last)
        else:
            result.append((first, last))
    return result


def _is_bridge(before: int, after: int, avoided: Set[int]) -> bool:
    gap = range(before + 1, after)
    if len(gap) > _LONGEST_GAP or any(code in avoided for code in gap):
        return False
    same_block = block_name(before) == block_name(after) != NO_BLOCK
    return same_block or all(unicodedata.category(chr(code)) in ("Cc", "Cn", "Cs") for code in gap)


def format_ranges(codes: Iterable[int]) -> str:
    """The value of `unicode-range` for exactly these code points: `U+20-7E, U+A9`."""
    return format_intervals(intervals(codes))


def listed_codes(codes: Iterable[int]) -> str:
    """The code points as people read them, runs of three and more as ranges.

    >>> listed_codes([0xC0, 0xC1, 0xE0, 0xE1, 0xE2])
    'U+C0, U+C1, U+E0-E2'
    """
    words = []
    for first, last in intervals(codes):
        run = [f"U+{code:X}" for code in range(first, last + 1)] if last - first < 2 else [f"U+{first:X}-{last:X}"]
        words += run
    return ", ".join(words)


def format_intervals(runs: Iterable[tuple[int, int]]) -> str:
    """The shortest notation of each: `U+A9`, `U+20-7E`, or `U+4??` for what question marks can say."""
    return ", ".join(_interval(first, last) for first, last in runs)


def _interval(first: int, last: int) -> str:
    if first == last:
        return f"U+{first:X}"
    for digits in range(1, 6):
        if first % 16**digits == 0 and last == first + 16**digits - 1:
            # CSS Syntax 3, section 7: at most six digits and question marks together.
            stem = f"{first >> 4 * digits:X}" if first else ""
            return f"U+{stem}" + "?" * digits
    return f"U+{first:X}-{last:X}"
