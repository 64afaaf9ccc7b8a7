"""Which characters of a font are drawn differently next to each other than on their own.

A browser draws text in runs of one font file. So what kerns, joins or combines has to be in one file, or the text looks
different than with the whole font.
"""

from __future__ import annotations

import unicodedata
from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from functools import cache
from typing import Literal, Self

from msgspec import Struct

from aksara.errors import BeyondBounds
from aksara.font import Font
from aksara.limits import Work
from aksara.subsetting import FeatureChoice, KeptTables, SubsetOptions, find_kept_tables
from aksara.tables import Gpos, Gsub, Kern, ShapingTable
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
#: Features by which punctuation is set closer, and what is set so: brackets, quotation marks, stops and middle dots.
_OF_TRIMMING = frozenset({"halt", "vhal", "chws", "vchw"})
_BRACKETS = ("Ps", "Pe", "Pi", "Pf")
_STOPS = frozenset(map(ord, "\u00b7\u2027\u3000\u3001\u3002\u30fb\uff0c\uff0e\uff1a\uff1b"))
# Marks, and what joins or varies the characters beside it.
_COMBINING = ("Mn", "Mc", "Me", "Cf")
_REGIONAL = range(0x1F1E6, 0x1F200)
_SKIN_TONES = range(0x1F3FB, 0x1F400)


class Interactions(Struct, frozen=True):
    """Those of fonts with some features, for text of these characters.

    `implied` are characters with those that a shaper draws them with by itself (forms for vertical text, mirrored
    brackets): it looks for these in the same file; so are marks of punctuation that browsers set closer side by side.
    `shaping` and `kerning` are None where everything interacts.
    """

    implied: tuple[frozenset[int], ...]
    has_fractions: bool
    shaping: _Masks | None
    kerning: _Masks | None

    @classmethod
    def of(cls, font: Font, characters: Collection[int], features: FeatureChoice) -> Self:
        """Those of one font. Raises `FontError` or `UnsupportedFont` for one that cannot be used."""
        kept = find_kept_tables(font, set(characters), SubsetOptions(features=features))
        gpos = next((table for table in kept.tables if isinstance(table, Gpos)), None)
        shaping_tables = (table for table in kept.tables if isinstance(table, ShapingTable))
        tables = [table for table in shaping_tables if not (isinstance(table, Kern) and is_passed_over(gpos))]
        starts: dict[int, list[int]] = defaultdict(list)
        ends: dict[int, list[int]] = defaultdict(list)
        for table in tables:
            for form in table.forms(kept.features):
                if form.starts:
                    starts[form.glyph].append(form.form)
                if form.ends:
                    ends[form.glyph].append(form.form)
        work = Work(_LARGE)
        shaping: _Masks | None
        kerning: _Masks | None
        try:
            first = _reached(kept.characters, starts, work)
            last = _reached(kept.characters, ends, work)
            shaping, kerning = (
                _masks(
                    (join for table in tables for join in table.joins(kept.features, kerning=kind)), last, first, work
                )
                for kind in (False, True)
            )
        except BeyondBounds:
            # More than any real font needs: then all adjacent characters belong together.
            shaping = kerning = None
        groups = [*_implied_groups(kept), *_trimmed_groups(kept)]
        return cls(tuple(groups), bool(kept.features & _FRACTIONS), shaping, kerning)

    @classmethod
    def of_all(cls, several: Sequence[Self]) -> Self:
        """What interacts in any of several fonts."""
        return cls(
            tuple(dict.fromkeys(group for fonts in several for group in fonts.implied)),
            any(fonts.has_fractions for fonts in several),
            _joined([fonts.shaping for fonts in several]),
            _joined([fonts.kerning for fonts in several]),
        )

    def between(self, pair: str) -> Interaction:
        """How two adjacent characters interact, in this order."""
        shaping, kerning = self.shaping, self.kerning
        if shaping is None or kerning is None or _always_together(pair) or (self.has_fractions and _is_fraction(pair)):
            return "shaping"
        first, second = ord(pair[0]), ord(pair[1])
        if shaping.firsts.get(first, 0) & shaping.seconds.get(second, 0):
            return "shaping"
        return "kerning" if kerning.firsts.get(first, 0) & kerning.seconds.get(second, 0) else "none"


def _implied_groups(kept: KeptTables) -> list[frozenset[int]]:
    has_gsub = Gsub.TAG in kept.font
    groups = []
    for code in kept.characters.keys() - kept.implied if kept.implied else ():
        implied = implied_characters(
            {code}, kept.implied | {code}, has_gsub=has_gsub, has_vertical_forms="vert" in kept.features
        ) - {DOTTED_CIRCLE}
        if implied:
            groups.append(frozenset((code, *implied)))
    return groups


def _trimmed_groups(kept: KeptTables) -> list[frozenset[int]]:
    """Punctuation as wide as an ideograph, which browsers set half as wide beside other punctuation if the font has
    forms for that (CSS Text 4, "text-spacing-trim"): all that may stand on either side."""
    if not kept.features & _OF_TRIMMING:
        return []
    marks = frozenset(
        code for code in kept.characters if code in _STOPS or unicodedata.category(chr(code)) in _BRACKETS
    )
    return [marks] if marks else []


class _Masks(Struct, frozen=True):
    """For each character the joins that it can be the first of, and those that it can be the second of, as bits.

    Two characters meet where the one's `firsts` and the other's `seconds` have a bit in common; `count` is how many
    bits there are.
    """

    firsts: Mapping[int, int]
    seconds: Mapping[int, int]
    count: int


def _masks(
    joins: Iterable[Join], ends: Mapping[int, frozenset[int]], starts: Mapping[int, frozenset[int]], work: Work
) -> _Masks:
    of_firsts: dict[int, int] = {}
    of_seconds: dict[int, int] = {}
    last, first = (frozenset[int]().union(*reached.values()) for reached in (ends, starts))
    # By identity, which holds only as long as the sets are kept.
    seen: dict[tuple[int, int], Join] = {}
    count = 0
    for one, other in joins:
        if (key := (id(one), id(other))) in seen:
            continue
        seen[key] = one, other
        firsts, seconds = one.among(last), other.among(first)
        work.spend(1 + (len(firsts) + len(seconds)) // 2)
        if not firsts or not seconds:
            continue
        for glyphs, masks in ((firsts, of_firsts), (seconds, of_seconds)):
            for glyph in glyphs:
                masks[glyph] = masks.get(glyph, 0) | 1 << count
        count += 1
    return _Masks(_of_characters(of_firsts, ends), _of_characters(of_seconds, starts), count)


def _joined(several: Sequence[_Masks | None]) -> _Masks | None:
    """The masks of several fonts side by side, so that one look at two characters tells of all of them."""
    firsts: dict[int, int] = {}
    seconds: dict[int, int] = {}
    count = 0
    for fonts in several:
        if fonts is None:
            return None
        for own, masks in ((fonts.firsts, firsts), (fonts.seconds, seconds)):
            for code, mask in own.items():
                masks[code] = masks.get(code, 0) | mask << count
        count += fonts.count
    return _Masks(firsts, seconds, count)


def _of_characters(masks: Mapping[int, int], reached: Mapping[int, frozenset[int]]) -> dict[int, int]:
    by_character = {}
    for code, glyphs in reached.items():
        mask = 0
        for glyph in glyphs:
            mask |= masks.get(glyph, 0)
        if mask:
            by_character[code] = mask
    return by_character


def _reached(
    characters: Mapping[int, int], forms: Mapping[int, Collection[int]], work: Work
) -> dict[int, frozenset[int]]:
    """For each character, the glyphs that may draw it in any context."""
    known: dict[int, frozenset[int]] = {}
    for glyph in characters.values():
        if glyph in known:
            continue
        reached, pending = {glyph}, [glyph]
        while pending:
            new = set(forms.get(pending.pop(), ())) - reached
            work.spend(len(new))
            reached |= new
            pending += new
        known[glyph] = frozenset(reached)
    return {code: known[glyph] for code, glyph in characters.items()}


def _always_together(pair: str) -> bool:
    """Whether shapers treat two characters as one, whatever the font has for them: marks, sequences of emoji."""
    return _goes_before(pair[0]) or _goes_behind(pair[1]) or (ord(pair[0]) in _REGIONAL and ord(pair[1]) in _REGIONAL)


@cache
def _goes_before(character: str) -> bool:
    """Whether it always belongs to the next character."""
    return unicodedata.category(character) == "Cf"


@cache
def _goes_behind(character: str) -> bool:
    """Whether it always belongs to the character before it."""
    return unicodedata.category(character) in _COMBINING or ord(character) in _SKIN_TONES


def _is_fraction(pair: str) -> bool:
    return _FRACTION_SLASH in pair and any(character.isdigit() for character in pair)
