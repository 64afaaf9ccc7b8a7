"""How wide characters are in running text, where that is not the advance of the glyph that 'cmap' gives them.

Letters of scripts that join, such as Arabic, have up to four forms, of which the isolated one is the widest. Marks
stand on the letter before them, and in the scripts of India many change it: a consonant without its vowel is a half
form.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Mapping
from functools import cache

from aksara.errors import FontError
from aksara.font import Font
from aksara.tables import Gsub, Head, Hmtx
from aksara.tables.layout.gsub import LigatureSubstitution, MultipleSubstitution, SingleSubstitution
from aksara.text import all_languages, language_frequencies
from aksara.text.scripts import script_of

#: Of the characters of Arabic text, the share that joins the next letter, and the share that joins the one before, by
#: `data/frequencies.json`: so often does a letter stand behind the ones, and before the others.
_JOINED_BEFORE, _JOINED_BEHIND = 0.5, 0.8
_ARABIC = "Arab"
#: A letter that joins on both sides in every Arabic font.
_BEH = 0x628
#: Features by which a letter and a mark become one glyph; shapers apply all of them.
_JOINING_MARKS = frozenset("abvs akhn blwf blws ccmp cjct haln half liga nukt pres pstf psts rphf vatu".split())
_Forms = Mapping[int, tuple[int, ...]]


def widths_in_text(font: Font, widths: Mapping[int, float]) -> dict[int, float]:
    """These advances, in ems by character, as they are on average in running text; kerning is left out.

    A letter that joins is as wide as its forms are, weighed by how often each stands in Arabic text. Without Arabic
    letters where the font draws their forms in a way that is not known here. A mark is as wide as the letters before
    it grow by it, by the mean over the languages of its script: mostly not at all; what halves letters is negative.
    """
    in_text = dict(widths)
    in_text |= {code: 0.0 for code in _but_ideographs(widths) if unicodedata.category(chr(code)) == "Mn"}
    try:
        gsub = font.find(Gsub)
        in_text |= _marks(font, gsub, in_text) if gsub is not None else {}
        factors = _factors(font, gsub) if gsub is not None and _BEH in widths else {}
    except FontError:
        factors = {}
    if _BEH in widths and _BEH not in factors:
        return {code: width for code, width in in_text.items() if not _is_arabic_letter(code)}
    in_text |= {code: in_text[code] * factor for code, factor in factors.items() if code in in_text}
    return in_text


def _but_ideographs(codes: Iterable[int]) -> list[int]:
    """The characters without ideographs and Korean syllables: fonts have tens of thousands, and none is a mark."""
    return [
        code
        for code in codes
        if code < 0x3400 or 0xA000 <= code < 0xAC00 or 0xD7A4 <= code < 0x20000 or code >= 0xE0000
    ]


def _marks(font: Font, gsub: Gsub, widths: Mapping[int, float]) -> dict[int, float]:
    """The marks that make one glyph with a letter: by how much text grows by each."""
    advances, em = font.table(Hmtx).advances, font.table(Head).units_per_em
    characters = font.characters
    marks = {characters[code] for code in _but_ideographs(characters) if unicodedata.category(chr(code))[0] == "M"}
    pairs = [
        (first, rest[0], ligature)
        for lookup_index in sorted(gsub.lookups_of(_JOINING_MARKS))
        if lookup_index < len(gsub.lookups)
        for subtable in gsub.lookups[lookup_index].subtables
        if isinstance(subtable, LigatureSubstitution)
        for first, rest, ligature in subtable.all()
        if len(rest) == 1 and rest[0] in marks
    ]
    # Of several characters with one glyph the first counts.
    codes = {glyph: code for code, glyph in sorted(characters.items(), reverse=True)} if pairs else {}
    growth: dict[int, dict[int, float]] = {}
    for first, second, ligature in pairs:
        letter, mark = codes.get(first, 0), codes[second]
        is_pair = unicodedata.category(chr(mark))[0] == "M" and unicodedata.category(chr(letter)) == "Lo"
        if is_pair and max(first, ligature) < len(advances):
            wider = (int(advances[ligature]) - int(advances[first])) / em
            growth.setdefault(mark, {}).setdefault(letter, wider)
    grown: dict[int, float] = {}
    for mark, by_letter in growth.items():
        letters = _letters_of(script_of(mark))
        total = sum(letters.values())
        if mark in widths and total:
            # Beside a letter that it does not change it is as wide as by itself.
            grown[mark] = sum(share * by_letter.get(letter, widths[mark]) for letter, share in letters.items()) / total
    return grown


@cache
def _letters_of(script: str) -> dict[int, float]:
    """How often the letters of a script are written, by the mean over its languages."""
    languages = [language for language in all_languages() if language.script == script]
    return {
        code: share
        for code, share in language_frequencies(languages).items()
        if unicodedata.category(chr(code)) == "Lo"
    }


def _is_arabic_letter(code: int) -> bool:
    return script_of(code) == _ARABIC and unicodedata.category(chr(code)) == "Lo"


def _factors(font: Font, gsub: Gsub) -> dict[int, float]:
    """By how much each letter that joins is wider in text than by itself."""
    advances, em = font.table(Hmtx).advances.tolist(), font.table(Head).units_per_em
    isolated, initial, medial, final = (_forms(gsub, tag) for tag in ("isol", "init", "medi", "fina"))

    def width(forms: _Forms, glyph: int) -> float:
        return float(sum(advances[part] for part in forms.get(glyph, (glyph,)) if part < len(advances)) / em)

    factors: dict[int, float] = {}
    for code, glyph in font.characters.items():
        if glyph not in final or glyph >= len(advances) or not advances[glyph]:
            continue
        behind = _JOINED_BEHIND if glyph in initial else 0.0
        mean = (
            _JOINED_BEFORE * behind * width(medial, glyph)
            + _JOINED_BEFORE * (1 - behind) * width(final, glyph)
            + (1 - _JOINED_BEFORE) * behind * width(initial, glyph)
            + (1 - _JOINED_BEFORE) * (1 - behind) * width(isolated, glyph)
        )
        factors[code] = mean / (advances[glyph] / em)
    return factors


def _forms(gsub: Gsub, tag: str) -> _Forms:
    """Glyph → the glyphs that the feature draws it with."""
    forms: dict[int, tuple[int, ...]] = {}
    made: dict[int, tuple[int, ...]]
    for lookup_index in sorted(gsub.lookups_of({tag})):
        for subtable in gsub.lookups[lookup_index].subtables if lookup_index < len(gsub.lookups) else ():
            if isinstance(subtable, SingleSubstitution):
                made = {glyph: (form,) for glyph, form in subtable.substitutes.items()}
            elif isinstance(subtable, MultipleSubstitution):
                made = dict(subtable.sequences)
            else:
                continue
            forms = made | forms
    return forms
