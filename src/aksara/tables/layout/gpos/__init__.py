"""'GPOS': glyph positioning (OpenType 1.9.1)."""

from __future__ import annotations

from typing import Any, ClassVar

from aksara.tables.layout.contexts import read_chained, read_context
from aksara.tables.layout.gpos.attachment import Cursive, LigatureAttachment, MarkAttachment
from aksara.tables.layout.gpos.pairs import ClassPairs, GlyphPairs, read_pairs, tidy_pairs
from aksara.tables.layout.gpos.single import Single
from aksara.tables.layout.lookups import LayoutTable

SINGLE, PAIR, CURSIVE, MARK_TO_BASE, MARK_TO_LIGATURE, MARK_TO_MARK, CONTEXT, CHAINED, EXTENSION = range(1, 10)


class Gpos(LayoutTable):
    """Positions: type 9, extension, is only another way to write the others."""

    TAG: ClassVar[str] = "GPOS"
    EXTENSION = EXTENSION
    READERS: ClassVar = {
        SINGLE: Single.parse,
        PAIR: read_pairs,
        CURSIVE: Cursive.parse,
        MARK_TO_BASE: MarkAttachment.parse,
        MARK_TO_LIGATURE: LigatureAttachment.parse,
        MARK_TO_MARK: MarkAttachment.parse,
        CONTEXT: read_context,
        CHAINED: read_chained,
    }

    def _tidied(self, subtables: list[Any]) -> tuple[Any, ...]:
        if all(isinstance(subtable, GlyphPairs | ClassPairs) for subtable in subtables):
            return tidy_pairs(subtables)
        return tuple(subtables)
