"""Keeping only the ligatures of requested sequences: emoji and icon names.

All other ligatures stay. What a sequence turns into is found by substituting, so that a font that joins it step by step
keeps each step, and one that joins it at once does not keep the steps of another one.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence, Set
from contextlib import suppress
from itertools import islice, product

from msgspec.structs import replace

from aksara.errors import BeyondBounds, FontError
from aksara.font import Font
from aksara.limits import Work
from aksara.subsetting.features import FeatureChoice
from aksara.subsetting.icons import icon_ligatures
from aksara.subsetting.substituting import Ligature, NotFollowed, Placed, TextSubstitution, ligatures_made
from aksara.tables import Cmap, Gsub
from aksara.tables.layout.gsub import LigatureSubstitution, SingleSubstitution
from aksara.tables.layout.subtable import Subtable
from aksara.text.emoji import (
    PRESENTATION_SELECTORS,
    ZWJ,
    is_joiner,
    is_of_emoji,
    may_be_of_emoji,
    qualified,
    without_selectors,
)
from aksara.text.sequences import Sequences

#: Ways in which a row of glyphs can be spelled that are followed, the characters of one, and ligatures of ligatures.
_MOST_SPELLINGS, _LONGEST_SPELLING, _MOST_STEPS = 4, 40, 4
#: The work is that of reading a large table (bytes).
_LARGE = 1_000_000


def with_sequences_only(font: Font, sequences: Sequences, features: FeatureChoice) -> Font:
    """The font without ligatures of unrequested emoji, and of unrequested icons if any icon is requested."""
    if Gsub.TAG not in font:
        return font
    with suppress(FontError):
        gsub = font.table(Gsub)
        emoji = _emoji_ligatures(font, gsub)
        unwanted = {sequence for sequence, spelled in emoji.items() if not any(map(sequences.has_free, spelled))}
        if unwanted:
            unwanted -= _wanted(font, gsub, sequences, features)
        icons = icon_ligatures(font)
        if sequences.icons_alone or not sequences.asked.isdisjoint(icons.values()):
            unwanted |= {ligature for ligature, name in icons.items() if name not in sequences.asked}
        if unwanted:
            return font.replaced([without_ligatures(gsub, unwanted)])
    return font


def without_ligatures(gsub: Gsub, unwanted: Set[Ligature]) -> Gsub:
    """The table without these."""
    lookups = []
    for lookup_index, lookup in enumerate(gsub.lookups):
        subtables: list[Subtable] = []
        for index, subtable in enumerate(lookup.subtables):
            if isinstance(subtable, LigatureSubstitution):
                left = {
                    first: tuple(
                        ligature
                        for ligature in ligatures
                        if Ligature(lookup_index, index, first, ligature[0]) not in unwanted
                    )
                    for first, ligatures in subtable.ligatures.items()
                }
                left = {first: ligatures for first, ligatures in left.items() if ligatures}
                subtables.append(replace(subtable, ligatures=left))
            else:
                subtables.append(subtable)
        lookups.append(replace(lookup, subtables=tuple(subtables)))
    return replace(gsub, lookups=lookups)


def drawn_as_one(font: Font, sequences: Iterable[str]) -> dict[str, bool]:
    """Those of these sequences of emoji that the font has the characters of, in order: whether it draws each as one
    picture, and not as its parts."""
    texts = {
        sequence: _placed(font, sequence) for sequence in sorted(sequences) if is_of_emoji(without_selectors(sequence))
    }
    is_one = {sequence: False for sequence, text in texts.items() if text is not None}
    if not is_one or Gsub.TAG not in font:
        return is_one
    with suppress(FontError):
        gsub = font.table(Gsub)
        substitution = TextSubstitution(gsub, gsub.lookups_applied(None))
        work = Work(_LARGE)
        return {sequence: _is_one(substitution, texts[sequence] or (), work) for sequence in is_one}
    return is_one


def _is_one(substitution: TextSubstitution, text: Sequence[Placed], work: Work) -> bool:
    try:
        return sum(not placed.ignorable for placed in substitution.apply(text, work)) == 1
    except (NotFollowed, FontError, BeyondBounds):
        # Unknown, or beyond the limits; then it is not reported as missing.
        return True


def _placed(font: Font, text: str) -> list[Placed] | None:
    """The glyphs of a text before substitution; None if the font lacks one that is not just a joiner."""
    characters, variations = font.characters, font.table(Cmap).variations
    placed: list[Placed] = []
    for index, character in enumerate(text):
        code = ord(character)
        ignorable = character == ZWJ or character in PRESENTATION_SELECTORS
        if code not in characters and not ignorable:
            return None
        bases = variations.sequences.get(code, {}) if variations is not None else {}
        if index and (base := ord(text[index - 1])) in bases:
            placed[-1] = Placed(bases[base] or placed[-1].glyph)
            continue
        placed.append(Placed(characters.get(code, 0), ignorable))
    return placed


def _wanted(font: Font, gsub: Gsub, sequences: Sequences, features: FeatureChoice) -> set[Ligature]:
    """The ligatures of requested sequences, written with or without variation selectors."""
    asked = {sequence for sequence in sequences.asked if is_of_emoji(without_selectors(sequence))}
    forms = {form for sequence in asked for form in (sequence, without_selectors(sequence), qualified(sequence))}
    texts = [text for form in sorted(forms) if (text := _placed(font, form)) is not None]
    present = {feature.tag for feature in gsub.features}
    tags = features.kept(present, font.characters.keys(), formulas=False)
    return ligatures_made(gsub, gsub.lookups_applied(tags), texts)


def _emoji_ligatures(font: Font, gsub: Gsub) -> dict[Ligature, Set[str]]:
    """The ligatures that spell emoji sequences or parts of them, with the text they spell."""
    spelled: dict[int, set[str]] = {}
    for code, glyph in font.characters.items():
        character = chr(code)
        if character in PRESENTATION_SELECTORS:
            spelled.setdefault(glyph, set()).add("")
        elif may_be_of_emoji(character):
            spelled.setdefault(glyph, set()).add(character)
    if not any(map(is_joiner, (text for texts in spelled.values() for text in texts))):
        return {}
    found: dict[Ligature, Set[str]] = {}
    work = Work(_LARGE)
    # What one ligature makes may be a part of another one.
    for _ in range(_MOST_STEPS):
        before = len(spelled)
        for lookup_index, lookup in enumerate(gsub.lookups):
            for index, subtable in enumerate(lookup.subtables):
                if isinstance(subtable, LigatureSubstitution):
                    for first, rest, made in subtable.all():
                        work.spend(1)
                        texts = _spellings((first, *rest), spelled)
                        if texts and any(map(is_of_emoji, texts)):
                            found[Ligature(lookup_index, index, first, rest)] = texts
                            spelled.setdefault(made, set()).update(texts)
                elif isinstance(subtable, SingleSubstitution):
                    for glyph, made in subtable.substitutes.items():
                        if glyph in spelled:
                            spelled.setdefault(made, set()).update(spelled[glyph])
        if len(spelled) == before:
            break
    return found


def _spellings(glyphs: Sequence[int], spelled: Mapping[int, Set[str]]) -> Set[str]:
    """The spellings of a row of glyphs; none if one of them is not an emoji."""
    if not all(glyph in spelled for glyph in glyphs):
        return frozenset()
    ways = islice(product(*(sorted(spelled[glyph]) for glyph in glyphs)), _MOST_SPELLINGS)
    return {text for way in ways if len(text := "".join(way)) <= _LONGEST_SPELLING}
