"""Page views: which characters a page shows, or is likely to show."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aksara.text import find_language
from aksara.text.frequencies import language_frequencies
from aksara.text.ideographs import ideograph_shares

#: Characters of a page of which nothing but its language is known.
_PAGE_LENGTH = 2_000
#: The share of text that letters have which no count knows, and signs.
_RARE = 1e-5
#: The logarithm of the chance that a character which a page shows is not on it.
_CERTAIN = -40.0

Floats = NDArray[np.float64]


class View(Struct, frozen=True, kw_only=True):
    """One view: `chances` of the characters to be on the page, 1 for those that it shows; `weight` is its share of all
    views. `name` is the page, or the language that it stands for; `exact`: it is a page that was read."""

    name: str
    weight: float
    chances: Mapping[int, float]
    exact: bool = True


def page_views(pages: Sequence[tuple[str, frozenset[int]]], weight: float = 1.0) -> list[View]:
    """Views of pages, all as often as each other; `weight` is that of all together."""
    return [View(name=name, weight=weight / len(pages), chances=dict.fromkeys(shown, 1.0)) for name, shown in pages]


def language_views(tags: Sequence[str], weight: float = 1.0) -> list[View]:
    """A view for each of these languages, of a page about which nothing else is known."""
    return [View(name=tag, weight=weight / len(tags), chances=_chances(tag), exact=False) for tag in tags]


def _chances(tag: str) -> dict[int, float]:
    language = find_language(tag)
    ideographs = ideograph_shares(language.tag)
    shares = dict.fromkeys(language.characters, min(ideographs.values(), default=_RARE))
    shares |= language_frequencies([language])
    shares |= ideographs
    return {code: float(-np.expm1(_PAGE_LENGTH * np.log1p(-share))) for code, share in shares.items() if share < 1}


def chance_logarithms(views: Iterable[View], part_of: Mapping[int, int], count: int) -> Floats:
    """For each view and each of `count` parts the logarithm of the chance that nothing of the part is on the page.

    `part_of`: code point → number of its part.
    """
    listed = list(views)
    found = np.zeros((len(listed), count))
    for row, view in zip(found, listed, strict=True):
        codes = [code for code in view.chances if code in part_of]
        if codes:
            chances = np.array([view.chances[code] for code in codes])
            with np.errstate(divide="ignore"):
                logarithms = np.maximum(np.log1p(-chances), _CERTAIN)
            np.add.at(row, [part_of[code] for code in codes], logarithms)
    return np.maximum(found, _CERTAIN)
