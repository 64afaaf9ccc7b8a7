"""Which characters of a font look otherwise beside each other than each by itself.

A browser draws text in runs of one font file. So what kerns, joins or combines has to be in one file, or the text looks
different than with the whole font.
"""

from __future__ import annotations

import unicodedata
from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from typing import Literal

from aksara.errors import BeyondBounds
from aksara.font import Font
from aksara.limits import Work
from aksara.subsetting import FeatureChoice, KeptTables, SubsetOptions, find_kept_tables
from aksara.tables import Gpos, Gsub, Kern
from aksara.tables.kern import is_passed_over
from aksara.tables.layout.glyph_sets import Join
from aksara.text import implied_characters
from aksara.text.shaping import DOTTED_CIRCLE

#: What lies between two characters: nothing, their distance alone, or also what forms they have.
Interaction = Literal["none", "kerning", "shaping"]

#: The work is that of reading a large table (bytes).
_LARGE = 3_000_000
_FRACTION_SLASH = "\u2044"
_FRACTIONS = frozenset({"frac", "numr", "dnom"})
# Marks, and what joins or varies the characters beside it.
_COMBINING = ("Mn", "Mc", "Me", "Cf")
_REGIONAL = range(0x1F1E6, 0x1F200)
_SKIN_TONES = range(0x1F3FB, 0x1F400)


class Interactions:
    """Those of a font with some features, for text of these characters.

    `implied` are characters with those that a shaper draws them with by itself (forms for vertical text, mirrored
    brackets): it looks for these in the same file.
    """

    def __init__(self, font: Font, characters: Collection[int], features: FeatureChoice) -> None:
        """Raises `FontError` or `UnsupportedFont` for a font that cannot be used."""
        kept = find_kept_tables(font, set(characters), SubsetOptions(features=features))
        self._fractions = bool(kept.features & _FRACTIONS)
        self.implied = _implied_groups(kept)
        gpos = next((table for table in kept.tables if isinstance(table, Gpos)), None)
        tables = [table for table in kept.tables if not (isinstance(table, Kern) and is_passed_over(gpos))]
        starts: dict[int, list[int]] = defaultdict(list)
        ends: dict[int, list[int]] = defaultdict(list)
        for table in tables:
            for form in table.forms(kept.features):
                if form.starts:
                    starts[form.glyph].append(form.form)
                if form.ends:
                    ends[form.glyph].append(form.form)
        work = Work(_LARGE)
        try:
            self._starts = _reached(kept.characters, starts, work)
            self._ends = _reached(kept.characters, ends, work)
            self._masks = [
                _Masks(
                    (join for table in tables for join in table.joins(kept.features, kerning=kerning)),
                    self._ends,
                    self._starts,
                    work,
                )
                for kerning in (False, True)
            ]
        except BeyondBounds:
            # Beyond what any real font takes: then whatever stands side by side belongs together.
            self._masks = []

    def between(self, pair: str) -> Interaction:
        """What lies between two characters that stand beside each other, in this order."""
        if _always_together(pair) or (self._fractions and _is_fraction(pair)):
            return "shaping"
        if not self._masks:
            return "shaping"
        first, second = map(ord, pair)
        shaping, kerning = self._masks
        return "shaping" if shaping.meet(first, second) else "kerning" if kerning.meet(first, second) else "none"


def _implied_groups(kept: KeptTables) -> list[frozenset[int]]:
    has_gsub = Gsub.TAG in kept.font
    found = []
    for code in kept.characters.keys() - kept.implied if kept.implied else ():
        implied = implied_characters(
            {code}, kept.implied | {code}, has_gsub=has_gsub, has_vertical_forms="vert" in kept.features
        ) - {DOTTED_CIRCLE}
        if implied:
            found.append(frozenset((code, *implied)))
    return found


class _Masks:
    """For each character the joins that it can be the first of, and those that it can be the second of, as bits."""

    def __init__(
        self,
        joins: Iterable[Join],
        ends: Mapping[int, frozenset[int]],
        starts: Mapping[int, frozenset[int]],
        work: Work,
    ) -> None:
        of_firsts: dict[int, int] = {}
        of_seconds: dict[int, int] = {}
        last, first = (frozenset[int]().union(*reached.values()) for reached in (ends, starts))
        # By identity, which holds only as long as the sets are kept.
        seen: dict[tuple[int, int], Join] = {}
        bit = 1
        for one, other in joins:
            if (key := (id(one), id(other))) in seen:
                continue
            seen[key] = one, other
            firsts, seconds = one.among(last), other.among(first)
            work.spend(1 + (len(firsts) + len(seconds)) // 2)
            if not firsts or not seconds:
                continue
            for glyph in firsts:
                of_firsts[glyph] = of_firsts.get(glyph, 0) | bit
            for glyph in seconds:
                of_seconds[glyph] = of_seconds.get(glyph, 0) | bit
            bit <<= 1
        self.firsts = _of_characters(of_firsts, ends)
        self.seconds = _of_characters(of_seconds, starts)

    def meet(self, first: int, second: int) -> bool:
        """Whether a join has the one in front and the other behind."""
        return bool(self.firsts.get(first, 0) & self.seconds.get(second, 0))


def _of_characters(masks: Mapping[int, int], reached: Mapping[int, frozenset[int]]) -> dict[int, int]:
    found = {}
    for code, glyphs in reached.items():
        mask = 0
        for glyph in glyphs:
            mask |= masks.get(glyph, 0)
        if mask:
            found[code] = mask
    return found


def _reached(
    characters: Mapping[int, int], forms: Mapping[int, Collection[int]], work: Work
) -> dict[int, frozenset[int]]:
    """For each character the glyphs that it may be drawn with, whatever stands around it."""
    known: dict[int, frozenset[int]] = {}
    for glyph in characters.values():
        if glyph in known:
            continue
        found, pending = {glyph}, [glyph]
        while pending:
            new = set(forms.get(pending.pop(), ())) - found
            work.spend(len(new))
            found |= new
            pending += new
        known[glyph] = frozenset(found)
    return {code: known[glyph] for code, glyph in characters.items()}


def _always_together(pair: str) -> bool:
    """Whether shapers treat two characters as one, whatever the font has for them: marks, sequences of emoji."""
    first, second = pair[0], pair[1]
    if unicodedata.category(second) in _COMBINING or unicodedata.category(first) == "Cf":
        return True
    codes = ord(first), ord(second)
    return all(code in _REGIONAL for code in codes) or codes[1] in _SKIN_TONES


def _is_fraction(pair: str) -> bool:
    return _FRACTION_SLASH in pair and any(character.isdigit() for character in pair)
