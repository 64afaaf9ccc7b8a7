"""Which characters text may be drawn with in addition to those it contains.

A shaper changes text before it looks glyphs up: it composes and decomposes (Unicode Standard Annex 15), splits vowels
that stand on both sides of a letter, mirrors brackets in right-to-left text, and puts marks that have no letter on a
dotted circle. A font cut down to the characters asked for must still have what these changes lead to, or text looks
different than with the whole font.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Set
from functools import cache

DOTTED_CIRCLE = 0x25CC
# Vowels that shapers take apart though Unicode has no canonical decomposition for them: the parts.
_SPLIT_VOWELS = {
    0x0E33: (0x0E4D, 0x0E32),  # Thai sara am
    0x0EB3: (0x0ECD, 0x0EB2),  # Lao am
    **dict.fromkeys((6078, 6079, 6080, 6084, 6085), (6081,)),  # Khmer; the rest is the vowel itself
}
# Where a font has no substitutions, shapers draw joined Arabic with presentation forms, and place Thai marks by
# private characters that Windows and Mac fonts used to have.
_ARABIC_FORMS = (range(0xFB50, 0xFE00), range(0xFE70, 0xFEFD))
_THAI_PRIVATE = (range(0xF700, 0xF71B), range(0xF884, 0xF89F))
_THAI = range(0x0E00, 0x0E80)


def implied_characters(
    kept: Set[int], available: Set[int], *, has_gsub: bool = True, has_vertical_forms: bool = True
) -> set[int]:
    """The characters among `available` that text of the `kept` ones may lead a shaper to, and that are not kept.

    `has_gsub`: whether the font has substitutions of its own; `has_vertical_forms`: whether forms for vertical text
    (the feature 'vert') are among them.
    """
    if kept >= available:
        return set()
    reached = set(kept)
    if any(unicodedata.bidirectional(chr(code)) in ("R", "AL") for code in kept):
        reached |= {_mirrored(code) for code in kept} & available
    if not has_gsub:
        reached |= _forms_without_substitutions(kept) & available
    if not has_vertical_forms:
        reached |= {form for form, upright in _vertical_forms().items() if upright in kept} & available
    reached |= {part for code in kept for part in _SPLIT_VOWELS.get(code, ())} & available
    # Marks of all kinds; vowel signs are marks that take up room, and have no combining class.
    if any(unicodedata.category(chr(code))[0] == "M" for code in reached):
        reached |= {DOTTED_CIRCLE} & available
        reached = _canonically_closed(reached, available)
    return reached - kept


@cache
def _vertical_forms() -> dict[int, int]:
    """Presentation forms of vertical text, and the characters for which shapers take them if a font has no others."""
    found = {}
    for form in (*range(0xFE10, 0xFE1A), *range(0xFE30, 0xFE49)):
        kind, *code = unicodedata.decomposition(chr(form)).split() or ("",)
        if kind == "<vertical>":
            upright = int(code[0], 16)
            # Those of ASCII stand for the full-width ones.
            found[form] = upright + 0xFEE0 if upright < 0x7F else upright
    return found


def _canonically_closed(kept: Set[int], available: Set[int]) -> set[int]:
    """The kept characters, their decompositions, and the compositions of these."""
    taken_apart, put_together = _decompositions(), _compositions()
    reached, new = set(kept), set(kept)
    while new:
        parts = {part for code in new & taken_apart.keys() & available for part in _parts(taken_apart[code], available)}
        may_be_made = {made for code in new & put_together.keys() for made in put_together[code]} & available
        made = {code for code in may_be_made if reached.issuperset(taken_apart[code])}
        new = (parts & available | made) - reached
        reached |= new
    return reached


def _parts(parts: tuple[int, ...], available: Set[int]) -> set[int]:
    """The parts, those that the font does not have taken apart again."""
    found: set[int] = set()
    for part in parts:
        further = () if part in available else _decompositions().get(part, ())
        found |= _parts(further, available) if further else {part}
    return found


@cache
def _decompositions() -> dict[int, tuple[int, ...]]:
    """All code points with a canonical decomposition, and what they decompose to in one step."""
    decompositions: dict[int, tuple[int, ...]] = {}
    for code in range(0xC0, 0x30000):
        mapping = unicodedata.decomposition(chr(code))
        if mapping and not mapping.startswith("<"):
            decompositions[code] = tuple(int(part, 16) for part in mapping.split())
    return decompositions


@cache
def _compositions() -> dict[int, list[int]]:
    """Code point → those that decompose to it and others."""
    compositions: dict[int, list[int]] = {}
    for code, parts in _decompositions().items():
        for part in parts:
            compositions.setdefault(part, []).append(code)
    return compositions


_MIRRORED_WORDS = (("LEFT", "RIGHT"), ("RIGHT", "LEFT"), ("LESS-THAN", "GREATER-THAN"), ("GREATER-THAN", "LESS-THAN"))


def _mirrored(code: int) -> int:
    """The character that stands for this one in right-to-left text: ")" for "("; itself if there is none."""
    character = chr(code)
    if unicodedata.mirrored(character):
        name = unicodedata.name(character, "")
        for word, other in _MIRRORED_WORDS:
            if word in name:
                try:
                    return ord(unicodedata.lookup(name.replace(word, other)))
                except KeyError:
                    break
    return code


def _forms_without_substitutions(kept: Set[int]) -> set[int]:
    """Presentation forms of the kept Arabic letters; the private forms of Thai marks if any Thai is kept."""
    found: set[int] = set()
    for code in (code for span in _ARABIC_FORMS for code in span):
        form, _, letters = unicodedata.decomposition(chr(code)).partition(" ")
        if form.startswith("<") and letters and {int(letter, 16) for letter in letters.split()} <= kept:
            found.add(code)
    if any(code in _THAI for code in kept):
        found.update(code for span in _THAI_PRIVATE for code in span)
    return found
