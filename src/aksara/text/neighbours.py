"""Pairs of adjacent characters in a text, which a font may draw differently together."""

from __future__ import annotations

import re
import unicodedata
from functools import cache
from itertools import pairwise

#: Spaces at which lines break.
_WHITE_SPACE = re.compile(r"[^\S\u00a0\u202f]")


def pairs_in(text: str) -> frozenset[str]:
    """Every pair of adjacent characters, in order.

    All white space counts as a space. Characters count as neighbours, too, where only marks or format characters (soft
    hyphens, joiners) stand between them, which fonts look past.
    """
    characters = _WHITE_SPACE.sub(" ", text)
    pairs = set(map("".join, pairwise(characters)))
    if any(map(looked_past, set(characters))):
        before = ""
        for character in characters:
            if not looked_past(character):
                if before:
                    pairs.add(before + character)
                before = character
    return frozenset(pairs)


@cache
def looked_past(character: str) -> bool:
    """Whether fonts may look past the character: a mark, or one that only says how others are set."""
    return unicodedata.category(character) in ("Mn", "Me", "Mc", "Cf")
