"""How often letters occur in running text: in a language, or in a text at hand."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Set
from functools import cache, lru_cache
from importlib.resources import files

from aksara.text.languages import Language, covered_languages
from aksara.text.scripts import COMMON, USUAL_SCRIPTS, script_of

#: Letters from which on a text's own frequencies are better than its language's. Fewer are enough of a text in other
#: scripts than the usual ones: the mean over a font's languages is that of Latin ones, which does not fit.
ENOUGH, _ENOUGH_OF_OTHERS = 400, 60

Frequencies = Mapping[int, float]


def text_frequencies(counts: Mapping[int, int]) -> dict[int, float]:
    """The share of each character of a text, from how often it is written; {} for a text too short to tell."""
    total = sum(counts.values())
    others = sum(count for code, count in counts.items() if script_of(code) not in {*USUAL_SCRIPTS, COMMON})
    enough = total >= ENOUGH or (others >= _ENOUGH_OF_OTHERS and others > total / 2)
    return {code: count / total for code, count in counts.items()} if enough else {}


def language_frequencies(languages: Iterable[Language]) -> dict[int, float]:
    """The mean over these languages, of those that are known; {} if none is."""
    return dict(_mean_of(tuple(language.tag for language in languages)))


# Font after font has the same languages.
@lru_cache(maxsize=16)
def _mean_of(tags: tuple[str, ...]) -> Mapping[int, float]:
    known = [table for tag in tags if (table := _table(tag))]
    mean: dict[int, float] = {}
    for table in known:
        for code, share in table.items():
            mean[code] = mean.get(code, 0.0) + share / len(known)
    return mean


def frequencies_for(characters: Set[int]) -> dict[int, float]:
    """The mean over the languages that can be written with these characters; Latin ones alone if there are any.

    Most sites of a font with several scripts are in Latin letters, and a mean over all would be like no text.
    """
    covered = covered_languages(characters)
    latin = [language for language in covered if language.script == "Latn"]
    return language_frequencies(latin) or language_frequencies(covered)


def _table(tag: str) -> dict[int, float]:
    """Character → share. A regional tag has its language's table."""
    data = _data()
    if tag not in data:
        tag = tag.partition("-")[0]
    if tag not in data:
        return {}
    characters, shares = data[tag]
    return {ord(character): share / 10_000 for character, share in zip(characters, shares, strict=True)}


@cache
def _data() -> dict[str, tuple[str, list[int]]]:
    loaded: dict[str, tuple[str, list[int]]] = json.loads(
        files("aksara.data").joinpath("frequencies.json").read_text(encoding="utf-8")
    )
    return loaded
