"""'GPOS': glyph positioning (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Collection, Sequence, Set
from typing import ClassVar, Self

from msgspec.structs import replace

from aksara.compressibility import compressed_size
from aksara.offsets import serialize
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.contexts import parse_chained_context, parse_context
from aksara.tables.layout.gdef import Gdef
from aksara.tables.layout.gpos.attachment import CursiveAttachment, LigatureAttachment, MarkAttachment
from aksara.tables.layout.gpos.class_pairs import ClassPairs
from aksara.tables.layout.gpos.flattening import flattened
from aksara.tables.layout.gpos.glyph_pairs import GlyphPairs
from aksara.tables.layout.gpos.pair_formats import compacted_pairs, parse_pairs
from aksara.tables.layout.gpos.single import SingleAdjustment
from aksara.tables.layout.gpos.types import (
    CHAINED_CONTEXT,
    CONTEXT,
    CURSIVE,
    EXTENSION,
    MARK_TO_BASE,
    MARK_TO_LIGATURE,
    MARK_TO_MARK,
    PAIR,
    SINGLE,
)
from aksara.tables.layout.layout_table import LayoutTable, features_kept_empty, has_complex_text, has_marks
from aksara.tables.layout.lookups import Lookup, LookupFormat, blocks_in_reach
from aksara.tables.subsetting import SubsetContext

__all__ = [
    "CHAINED_CONTEXT",
    "CONTEXT",
    "CURSIVE",
    "EXTENSION",
    "MARK_TO_BASE",
    "MARK_TO_LIGATURE",
    "MARK_TO_MARK",
    "PAIR",
    "SINGLE",
    "ClassPairs",
    "CursiveAttachment",
    "GlyphPairs",
    "Gpos",
    "LigatureAttachment",
    "MarkAttachment",
    "SingleAdjustment",
]

_KERN = "kern"


class Gpos(LayoutTable, frozen=True):
    """Positions: type 9, extension, is only another way to write the others."""

    TAG: ClassVar[str] = "GPOS"
    LOOKUPS: ClassVar = LookupFormat(
        "GPOS",
        EXTENSION,
        {
            SINGLE: SingleAdjustment.parse,
            PAIR: parse_pairs,
            CURSIVE: CursiveAttachment.parse,
            MARK_TO_BASE: MarkAttachment.parse,
            MARK_TO_LIGATURE: LigatureAttachment.parse,
            MARK_TO_MARK: MarkAttachment.parse,
            CONTEXT: parse_context,
            CHAINED_CONTEXT: parse_chained_context,
        },
    )

    def prepared(self, glyphs: Set[int], features: Collection[str]) -> Self:
        """With the pair adjustments of each lookup as one matrix, where that compresses better."""
        listed = sorted(glyphs)
        reached = self.lookups_reached(features)
        return replace(
            self,
            lookups=[
                _flattened(lookup, listed) if index in reached else lookup for index, lookup in enumerate(self.lookups)
            ],
        )

    def only_moves(self, lookup: Lookup) -> bool:
        return lookup.lookup_type in (PAIR, CONTEXT, CHAINED_CONTEXT)

    def compacted(self, lookup: Lookup) -> Lookup:
        pairs = _pairs(lookup)
        return replace(lookup, subtables=compacted_pairs(pairs)) if pairs else lookup

    def cut(self, context: SubsetContext) -> Self | None:
        """It stays for marks even where it has become empty: shapers then do not place them by themselves."""
        always = features_kept_empty(context.characters)
        if context.subset_by_tag(_KERN) is not None:
            # Shapers turn to that table where GPOS has no such feature.
            always |= {_KERN}
        cut = self.cut_down(context.glyphs, context.features, always)
        gdef = context.original(Gdef)
        if gdef is not None:
            marks = gdef.keeps_marks(context)
        else:
            marks = has_complex_text(context.characters) or has_marks(context.characters)
        return cut if cut.features or marks else None


def _pairs(lookup: Lookup) -> list[GlyphPairs | ClassPairs]:
    """The subtables of a lookup that adjusts pairs; none for any other."""
    pair_subtables = [subtable for subtable in lookup.subtables if isinstance(subtable, GlyphPairs | ClassPairs)]
    return pair_subtables if len(pair_subtables) == len(lookup.subtables) else []


def _flattened(lookup: Lookup, glyphs: Sequence[int]) -> Lookup:
    pairs = _pairs(lookup)
    matrix = flattened(pairs, glyphs) if len(pairs) > 1 else None
    if matrix is None:
        return lookup
    kept = (subtable.subset(GlyphMap.identity(glyphs)) for subtable in pairs)
    plain = replace(lookup, subtables=compacted_pairs([subtable for subtable in kept if subtable is not None]))
    return min(replace(lookup, subtables=(matrix,)), plain, key=_compressed_size)


def _compressed_size(lookup: Lookup) -> int:
    return compressed_size(b"".join(map(serialize, blocks_in_reach(lookup))))
