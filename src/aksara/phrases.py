"""Counts, lists and near names in sentences: each said in one way."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from difflib import get_close_matches


def count_of(count: int, noun: str, plural: str = "") -> str:
    """A number with its noun.

    >>> count_of(1, "page"), count_of(1200, "page"), count_of(2, "family", "families")
    ('1 page', '1,200 pages', '2 families')
    """
    return f"{count:,} {noun if count == 1 else plural or noun + 's'}"


def listed(names: Sequence[str], most: int) -> str:
    """The first names, and the number of the others.

    >>> listed(["a", "b", "c"], 2)
    'a, b and 1 more'
    """
    more = f" and {len(names) - most:,} more" if len(names) > most else ""
    return ", ".join(names[:most]) + more


def either(names: Sequence[str]) -> str:
    """All names, one of which it is.

    >>> either(["a"]), either(["a", "b", "c"])
    ('a', 'a, b or c')
    """
    return " or ".join(filter(None, (", ".join(names[:-1]), names[-1])))


def nearest_name(name: str, known: Iterable[str], cutoff: float = 0.6) -> str:
    """The known name that is most like a misspelt one, without regard to case; "" if none is.

    >>> nearest_name("widht", ["weight", "width"])
    'width'
    """
    by_key = {word.casefold(): word for word in known}
    near = get_close_matches(name.casefold(), by_key, 1, cutoff)
    return by_key[near[0]] if near else ""
