"""Whether one name is a misspelling of another, and not another name of the same kind."""

from __future__ import annotations

import re

#: Letters by which a misspelt name differs at most, and the length from which on two may.
_MOST_CHANGES, _LONG = 2, 8


def is_typing_error(written: str, meant: str) -> bool:
    """Whether two names of classes differ by one letter too many or too few, or by two that are swapped.

    One letter in place of another makes another word as often ("icon-bar", "icon-ban").

    >>> is_typing_error("hedline", "headline"), is_typing_error("icon-bar", "icon-ban")
    (True, False)
    """
    if not is_misspelling(written, meant) or ("-" in written + meant and written.count("-") != meant.count("-")):
        return False
    return sorted(written) == sorted(meant) or abs(len(written) - len(meant)) == 1


def is_misspelling(written: str, meant: str) -> bool:
    """Whether someone who wrote one name probably meant the other.

    Numbers and added words make other names ("Inter Display", "Source Sans 3", "Penyu 2"); blanks, hyphens and capitals
    do not.

    >>> is_misspelling("OpenSans", "Open Sans"), is_misspelling("Penyu Sens", "Penyu Sans")
    (True, True)
    >>> is_misspelling("Penyu Sans 2", "Penyu Sans"), is_misspelling("Penyu Slab", "Penyu Sans")
    (False, False)
    """
    one, other = _plain(written), _plain(meant)
    if written.casefold() == meant.casefold() or re.sub(r"\D", "", one) != re.sub(r"\D", "", other):
        return False
    if one == other:
        return True
    if min(len(one), len(other)) < 4 or one.startswith(other) or other.startswith(one):
        return False
    allowed = _MOST_CHANGES if min(len(one), len(other)) >= _LONG else 1
    # Ends are what styles and scripts of one family differ by.
    return one[0] == other[0] and _changes(one, other, allowed) <= allowed


def _plain(name: str) -> str:
    return re.sub(r"[\s_\"'-]+", "", name.casefold())


def _changes(one: str, other: str, most: int) -> int:
    """Letters that are put in, left out, changed, or swapped with the next one; `most + 1` for more than `most`."""
    if abs(len(one) - len(other)) > most or max(len(one), len(other)) > 200:
        return most + 1
    before: list[int] = []
    row = list(range(len(other) + 1))
    for index, letter in enumerate(one, 1):
        above, last, row = before, row, [index]
        before = last
        for column, target in enumerate(other, 1):
            cost = min(last[column] + 1, row[-1] + 1, last[column - 1] + (letter != target))
            if index > 1 and column > 1 and letter == other[column - 2] and one[index - 2] == target:
                cost = min(cost, above[column - 2] + 1)
            row.append(cost)
        if min(row) > most:
            return most + 1
    return row[-1]
