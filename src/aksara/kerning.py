"""Kerning as plain pairs, from 'GPOS', or from 'kern' where 'GPOS' has none; and its total in running text."""

from __future__ import annotations

from collections.abc import Mapping, Set

from aksara.errors import FontError
from aksara.font import Font
from aksara.tables import Gpos, Head, Kern
from aksara.tables.layout.gpos import ClassPairs, GlyphPairs
from aksara.tables.layout.lookups import Lookup

_X_ADVANCE = 0x0004
_BEFORE_ADVANCE = 0x0003
_KERN = "kern"
#: Left glyph → right glyph → how far they move apart, in font units; 0 is left out.
KerningPairs = Mapping[int, Mapping[int, int]]


def kerning_of(font: Font, glyphs: Set[int]) -> KerningPairs:
    """The kerning of these glyphs in horizontal text."""
    pairs_by_left: dict[int, dict[int, int]] = {}
    gpos = font.find(Gpos)
    lookups = sorted(gpos.lookups_of({_KERN})) if gpos is not None else []
    if gpos is not None and lookups:
        for lookup_index in lookups:
            if lookup_index < len(gpos.lookups):
                _add_lookup(gpos.lookups[lookup_index], glyphs, pairs_by_left)
    elif (kern := font.find(Kern)) is not None:
        for subtable in kern.subtables:
            for left, right, value in subtable.pairs.tolist():
                if left in glyphs and right in glyphs:
                    row = pairs_by_left.setdefault(left, {})
                    row[right] = row.get(right, 0) + value
    rows = {left: {right: value for right, value in row.items() if value} for left, row in pairs_by_left.items()}
    return {left: row for left, row in rows.items() if row}


def kerning_in_text(font: Font, frequencies: Mapping[int, float]) -> dict[int, float]:
    """By how much each character is wider in running text, in ems, through kerning with the next one.

    Letters are taken to follow one another as often as chance has it, which for real texts comes out right to a tenth
    of a percent of the width. A variable font's kerning is that of its default. {} where the font cannot be read.
    """
    shares: dict[int, float] = {}
    codes: dict[int, list[int]] = {}
    for code, share in frequencies.items():
        glyph = font.characters.get(code)
        if glyph is not None:
            shares[glyph] = shares.get(glyph, 0.0) + share
            codes.setdefault(glyph, []).append(code)
    try:
        pairs, em = kerning_of(font, frozenset(shares)), font.table(Head).units_per_em
    except FontError:
        return {}
    total = sum(shares.values()) or 1.0
    by_glyph = {
        left: sum(shares[right] * value for right, value in row.items()) / total / em for left, row in pairs.items()
    }
    return {code: value for glyph, value in by_glyph.items() for code in codes[glyph]}


def _add_lookup(lookup: Lookup, glyphs: Set[int], pairs_by_left: dict[int, dict[int, int]]) -> None:
    """Add a lookup's values: those of the first subtable that has the pair."""
    for left in sorted(glyphs):
        own: dict[int, int] = {}
        for subtable in lookup.subtables:
            if isinstance(subtable, GlyphPairs) and left in subtable.pairs:
                pairs = subtable.pairs[left]
                for right in pairs.keys() & glyphs:
                    own.setdefault(right, _advance(pairs[right][0], subtable.value_formats[0]))
            elif isinstance(subtable, ClassPairs) and left in subtable.covered:
                values = _class_values(subtable, left)
                for right in glyphs - own.keys():
                    if right_class := values.get(subtable.classes2.get(right, 0), 0):
                        own[right] = right_class
                # It has all pairs that start with the glyph, those of no value too.
                break
        row = pairs_by_left.setdefault(left, {})
        for right, value in own.items():
            row[right] = row.get(right, 0) + value


def _class_values(subtable: ClassPairs, left: int) -> dict[int, int]:
    """By the class of the right glyph how far it moves away; 0 is left out."""
    value_format = subtable.value_formats[0]
    if not value_format & _X_ADVANCE:
        return {}
    column = subtable.values[subtable.classes1.get(left, 0), :, (value_format & _BEFORE_ADVANCE).bit_count()]
    return {lookup_index: value for lookup_index, value in enumerate(column.tolist()) if value}


def _advance(value: tuple[object, ...], value_format: int) -> int:
    advance = value[(value_format & _BEFORE_ADVANCE).bit_count()] if value_format & _X_ADVANCE else 0
    return advance if isinstance(advance, int) else 0
