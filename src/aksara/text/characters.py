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
    if not any(unicodedata.combining(chr(code)) for code in kept):
        return set()
    reached = set(kept)
    while True:
        parts = {part for code in reached for part in _decomposition(code)}
        found = {
            code for code in _composed() if code in available and all(part in reached for part in _decomposition(code))
        }
        new = (parts & available | found) - reached
        if not new:
            return reached - kept
        reached |= new


def _decomposition(code: int) -> tuple[int, ...]:
    mapping = unicodedata.decomposition(chr(code))
    if not mapping or mapping.startswith("<"):
        return ()
    return tuple(int(part, 16) for part in mapping.split())


@cache
def _composed() -> tuple[int, ...]:
    """All code points with a canonical decomposition."""
    return tuple(code for code in range(0xC0, 0x30000) if _decomposition(code))
