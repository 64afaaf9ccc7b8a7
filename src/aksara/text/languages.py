"""Languages: which characters each is written with (Unicode CLDR exemplars), and which of them a font can set."""

from __future__ import annotations

import json
import re
import unicodedata
from collections.abc import Iterable, Mapping, Set
from difflib import get_close_matches
from functools import cache, cached_property, lru_cache
from importlib.resources import files
from typing import Any, Literal

from msgspec import Struct

from aksara.errors import RequestError
from aksara.text.patterns import read_pattern

#: Tags that are remembered; pages may have any number.
_MOST_TAGS = 1_000
_TAG = re.compile(r"[A-Za-z]{2,8}(?:[-_][A-Za-z0-9]{1,8})*")
# Text in every language may hold these, though no exemplar set names all of them:
# space, no-break space, soft hyphen, hyphens.
_ALWAYS = frozenset("\u0020\u00a0\u00ad\u002d\u2010\u2011")
#: A font nearly covers a language if no more than this part of its letters, or this many, are missing.
_NEARLY_PART, _NEARLY_COUNT = 0.06, 4

Verdict = Literal["full", "nearly", "no"]


class Language(Struct, frozen=True, eq=False, dict=True):
    """A CLDR locale: BCP 47 tag, English name, ISO 15924 script, and its exemplar sets.

    The sets hold strings: most are single characters, some are sequences ("ch", a letter and a combining mark). They
    are read out of their `patterns` when first asked for.
    """

    tag: str
    name: str
    script: str
    patterns: Mapping[str, str]

    @cached_property
    def main(self) -> frozenset[str]:
        """The letters of the language, in lower case where there is case."""
        return read_pattern(self.patterns["main"])

    @cached_property
    def auxiliary(self) -> frozenset[str]:
        """What else occurs in names and loan words, in lower case, too."""
        return read_pattern(self.patterns["auxiliary"])

    @cached_property
    def punctuation(self) -> frozenset[str]:
        """Its punctuation."""
        return read_pattern(self.patterns["punctuation"])

    @cached_property
    def numbers(self) -> frozenset[str]:
        """Its digits, and the signs used in numbers."""
        return read_pattern(self.patterns["numbers"])

    @cached_property
    def index(self) -> frozenset[str]:
        """The headings of an alphabetical list."""
        return read_pattern(self.patterns["index"])

    @cached_property
    def letters(self) -> frozenset[int]:
        """Code points of the main set and their case pairs: those that a font needs for the language."""
        return frozenset(_codes(_with_case(self.main)))

    @cached_property
    def characters(self) -> frozenset[int]:
        """Code points of text in the language: all sets, case pairs, spaces and hyphens."""
        return frozenset(_codes(_with_case(self.main | self.auxiliary | self.index))) | self.signs

    @property
    def signs(self) -> frozenset[int]:
        """Code points of the punctuation and numbers, and of the spaces and hyphens that every text may hold."""
        return frozenset(_codes(self.punctuation | self.numbers | _ALWAYS))


class Coverage(Struct, frozen=True):
    """How well a set of characters covers a language's letters; `missing` are the missing ones, in order."""

    language: Language
    missing: tuple[int, ...]

    @property
    def verdict(self) -> Verdict:
        if not self.missing:
            return "full"
        count, total = len(self.missing), len(self.language.letters)
        return "nearly" if count < total and (count <= _NEARLY_COUNT or count <= _NEARLY_PART * total) else "no"


def coverage(language: Language, characters: Set[int]) -> Coverage:
    """Exactly the exemplars: a sequence counts as covered if its composed form, or every part of it, is there."""
    single, sequences = _needed(language)
    missing = set(single - characters)
    for text, composed in sequences:
        if not composed <= characters and not {ord(c) for c in text} <= characters:
            missing |= composed - characters
    return Coverage(language, tuple(sorted(missing)))


def covered_languages(characters: Set[int]) -> list[Language]:
    """The languages that these characters cover in full; faster than asking for each what is missing."""
    # The first letter of its pattern tells of most languages that they are in another script.
    starts = ((one, one.patterns["main"][0]) for one in all_languages())
    likely = (one for one, start in starts if start in "{\\" or ord(start) in characters)
    return [one for one in likely if _needed(one)[0] <= characters and not coverage(one, characters).missing]


@cache
def _needed(language: Language) -> tuple[frozenset[int], tuple[tuple[str, frozenset[int]], ...]]:
    """The main set with its case pairs: single code points, and sequences with their composed code points."""
    # Not its main set, which would be kept as well.
    strings = _with_case(read_pattern(language.patterns["main"]))
    sequences = [text for text in strings if len(text) > 1]
    composed = (frozenset(map(ord, unicodedata.normalize("NFC", text))) for text in sequences)
    single = frozenset(ord(text) for text in strings if len(text) == 1)
    return single, tuple(sorted(zip(sequences, composed, strict=True)))


@cache
def all_languages() -> tuple[Language, ...]:
    """Every language, those that differ only by region left out, by tag."""
    tags = (tag for tag in _data()["languages"] if not re.search(r"-(?:[A-Z]{2}|\d{3})\b", tag))
    return tuple(_language(tag) for tag in sorted(tags))


@lru_cache(_MOST_TAGS)
def find_language(tag: str) -> Language:
    """The locale of a BCP 47 tag, inherited as in CLDR: `vi-VN` is `vi`, `zh-TW` is `zh-Hant`, `iw` is `he`.

    Raises `RequestError` with the nearest tags for one that is not known.
    """
    if not _TAG.fullmatch(tag):
        raise RequestError(f"'{tag}' is not a language tag{_nearest(tag)}; write one like id, pt-BR or zh-Hant")
    language, script, region, rest = _subtags(tag)
    replaced = _data()["replaced"]
    if (other := replaced.get(f"{language}-{region}") or replaced.get(language)) is not None:
        language, script, region = (
            new or old for new, old in zip(_subtags(other), (language, script, region), strict=False)
        )
    known = _data()["languages"]
    script = script or _data()["scripts_of_regions"].get(f"{language}-{region}", "")
    own_script = known[language]["script"] if language in known else ""
    for candidate in (
        "-".join(filter(None, (language, script, region, rest))),
        "-".join(filter(None, (language, script, region))),
        *([f"{language}-{region}"] if region and script in ("", own_script) else []),
        *([f"{language}-{script}"] if script else []),
        *([language] if script in ("", own_script) or own_script in _VARIANTS.get(script, ()) else []),
    ):
        if candidate in known:
            return _language(candidate)
    raise RequestError(f"no language '{tag}' is known{_nearest(tag)}", remedy="languages")


# Scripts that stand for others: Chinese and Japanese and Korean are tagged by how they mix scripts.
_VARIANTS = {"Hans": ("Hans", "Hani"), "Hani": ("Hans", "Hant"), "Jpan": ("Jpan",), "Kore": ("Kore",)}


@lru_cache(_MOST_TAGS)
def _nearest(tag: str) -> str:
    names = {entry["name"].lower(): key for key, entry in _data()["languages"].items()}
    if tag.lower() in names:
        return f" by that tag; {tag} is {names[tag.lower()]}"
    close = [names[name] for name in get_close_matches(tag.lower(), names, 2, 0.75)]
    close += get_close_matches(tag, [key for key in names.values() if key[:1] == tag[:1].lower()], 3, 0.4)
    shown = ", ".join(f"{key} ({_data()['languages'][key]['name']})" for key in dict.fromkeys(close[:3]))
    return f"; the nearest are {shown}" if shown else ""


def _subtags(tag: str) -> tuple[str, str, str, str]:
    """Language, script, region, the rest, in their usual case; '' for what is missing."""
    first, *others = re.split("[-_]", tag)
    script = region = ""
    rest: list[str] = []
    for part in others:
        if len(part) == 4 and part.isalpha() and not (script or region or rest):
            script = part.title()
        elif (len(part) == 2 and part.isalpha()) or (len(part) == 3 and part.isdigit()):
            region = region or part.upper()
        else:
            rest.append(part.lower())
    return first.lower(), script, region, "-".join(rest)


def _with_case(strings: Iterable[str]) -> set[str]:
    """The strings with their capital forms; a capital of several letters ("SS" for "ß") is split into its letters."""
    result = set(strings)
    for text in tuple(result):
        result |= {text.upper(), text.title(), text.lower()}
    # Where there is an i without a dot, the capital of i has one. An i with another dot above looks like any i.
    result |= {"İ"} if "ı" in result else set()
    return {"i" if text == "i\u0307" else text for text in result}


def _codes(strings: Iterable[str]) -> set[int]:
    """Code points of all strings, sequences in their composed form too."""
    codes: set[int] = set()
    for text in strings:
        codes.update(map(ord, text))
        if len(text) > 1:
            codes.update(map(ord, unicodedata.normalize("NFC", text)))
    return codes


@cache
def _language(tag: str) -> Language:
    entry = _data()["languages"][tag]
    return Language(tag, entry["name"], entry["script"], entry)


@cache
def _data() -> dict[str, Any]:
    loaded: dict[str, Any] = json.loads(files("aksara.data").joinpath("languages.json").read_text(encoding="utf-8"))
    return loaded
