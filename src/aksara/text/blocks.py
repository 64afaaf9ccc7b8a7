"""Characters sorted into Unicode's blocks."""

from __future__ import annotations

import unicodedata
from bisect import bisect_right
from collections.abc import Iterable

from aksara.data.blocks import BLOCKS

_STARTS = [first for first, _, _ in BLOCKS]
NO_BLOCK = "outside all blocks"


def block_name(code: int) -> str:
    """The block of a code point: "Latin-1 Supplement"."""
    index = bisect_right(_STARTS, code) - 1
    return BLOCKS[index][2] if index >= 0 and code <= BLOCKS[index][1] else NO_BLOCK


def block_size(name: str) -> int:
    """How many characters Unicode has put into the block, controls not counted."""
    first, last = next(((first, last) for first, last, block in BLOCKS if block == name), (0, -1))
    return sum(unicodedata.category(chr(code)) not in ("Cc", "Cn", "Cs", "Co") for code in range(first, last + 1))


def by_block(codes: Iterable[int]) -> dict[str, list[int]]:
    """The code points of each block, blocks and code points in order."""
    blocks: dict[str, list[int]] = {}
    for code in sorted(set(codes)):
        blocks.setdefault(block_name(code), []).append(code)
    return blocks
