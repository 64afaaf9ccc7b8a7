"""Which characters must be in one slice because the font draws them differently next to each other."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Iterator, Mapping, Sequence, Set

from aksara.slicing.interactions import Interaction, Interactions
from aksara.slicing.kinds import CJK, CORE, HANGUL, kind_of
from aksara.text import find_language, implied_characters
from aksara.text.neighbours import looked_past, pairs_in

_SOFT_HYPHEN = 0xAD
# Marks that stand on certain letters only, which the languages name with them.
_DIACRITICS = frozenset(range(0x300, 0x370))
# The letters that all languages of the Latin script have stay in one piece, though pages may not show all of them yet.
_BASIC_LETTERS = frozenset(b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz")


def language_pairs(tags: Iterable[str], characters: Set[int]) -> frozenset[str]:
    """The pairs of characters that may be adjacent in text of these languages, without ideographs and syllables."""
    pairs: set[str] = set()
    for tag in tags:
        language = find_language(tag)
        letters = [chr(code) for code in sorted(language.letters & characters - _DIACRITICS)]
        letters = [letter for letter in letters if kind_of(ord(letter)) not in (CJK, HANGUL)]
        signs = [chr(code) for code in sorted(language.signs & characters - {_SOFT_HYPHEN}) if kind_of(code) == CORE]
        pairs.update(one + other for one in letters for other in (*letters, *signs))
        # Marks stand on letters, and never begin a word.
        pairs.update(sign + letter for sign in signs for letter in letters if not looked_past(letter))
        pairs.update(pair for text in language.main | language.auxiliary for pair in pairs_in(text))
    return frozenset(pairs)


def interacting(pairs: Iterable[str], fonts: Interactions, characters: Set[int]) -> dict[str, Interaction]:
    """Of these pairs those of kept characters that interact, in order, with the strongest way."""
    interactions: dict[str, Interaction] = {}
    for pair in sorted(pairs):
        if ord(pair[0]) in characters and ord(pair[1]) in characters and (way := fonts.between(pair)) != "none":
            interactions[pair] = way
    return interactions


class Components:
    """Characters in groups that stay together."""

    def __init__(self, characters: Iterable[int]) -> None:
        self._parent = {code: code for code in characters}
        self.join(self._parent.keys() & _BASIC_LETTERS)

    def join(self, codes: Iterable[int]) -> None:
        """Put these characters, and all that are with them, into one group."""
        roots = {self._root(code) for code in codes}
        if roots:
            least = min(roots)
            for root in roots:
                self._parent[root] = least

    def join_pairs(self, pairs: Iterable[str]) -> None:
        """Join the characters of each of these pairs, and what shapers make of both."""
        known = self._parent.keys()
        for pair in pairs:
            codes = set(map(ord, pair))
            self.join(codes)
            composed = unicodedata.normalize("NFC", pair)
            if len(composed) == 1 or any(unicodedata.category(character)[0] == "M" for character in pair):
                self.join(codes | (implied_characters(codes, known) | {ord(composed[0])}) & known - {0x25CC})

    def _root(self, code: int) -> int:
        while self._parent[code] != code:
            self._parent[code] = self._parent[self._parent[code]]
            code = self._parent[code]
        return code

    def groups(self) -> list[frozenset[int]]:
        """The groups, by their first characters."""
        found: dict[int, list[int]] = {}
        for code in sorted(self._parent):
            found.setdefault(self._root(code), []).append(code)
        return [frozenset(group) for group in found.values()]


def parted(pairs: Mapping[str, Interaction], slices: Sequence[Set[int]]) -> Iterator[str]:
    """Of these pairs those whose characters are in different slices."""
    slice_of = {code: index for index, codes in enumerate(slices) for code in codes}
    return (pair for pair in pairs if slice_of.get(ord(pair[0])) != slice_of.get(ord(pair[1])))
