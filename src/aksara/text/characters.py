"""What a set of characters needs besides itself."""

from __future__ import annotations

import unicodedata
from collections.abc import Set
from functools import cache


def canonical_companions(kept: Set[int], available: Set[int]) -> set[int]:
    """Characters that a renderer may use in place of the kept ones, among those available.

    A shaper composes and decomposes text before it looks glyphs up (Unicode
    Standard Annex 15): "e" and a combining acute are drawn with the font's
    "é". So with combining marks among the kept characters, whatever these
    compose to, and come from, must stay as well.
    """
    if kept >= available or not any(unicodedata.combining(chr(code)) for code in kept):
        return set()
    compositions = {code: parts for code, parts in _decompositions().items() if code in available}
    reached = set(kept)
    while True:
        parts = {part for code in reached & compositions.keys() for part in compositions[code]}
        made = {code for code, its_parts in compositions.items() if reached.issuperset(its_parts)}
        new = (parts & available | made) - reached
        if not new:
            return reached - kept
        reached |= new


@cache
def _decompositions() -> dict[int, tuple[int, ...]]:
    """All code points with a canonical decomposition, and what they decompose to in one step."""
    found: dict[int, tuple[int, ...]] = {}
    for code in range(0xC0, 0x30000):
        mapping = unicodedata.decomposition(chr(code))
        if mapping and not mapping.startswith("<"):
            found[code] = tuple(int(part, 16) for part in mapping.split())
    return found
