"""Contextual subtables in their three formats: rules that say where other lookups apply."""

from __future__ import annotations

from aksara.errors import FontError
from aksara.offsets import OffsetReader
from aksara.tables.layout.contexts.class_context import ClassContext
from aksara.tables.layout.contexts.context import Actions, Context, Pattern
from aksara.tables.layout.contexts.coverage_context import CoverageContext
from aksara.tables.layout.contexts.glyph_context import GlyphContext
from aksara.tables.layout.contexts.rules import ContextRule

__all__ = [
    "Actions",
    "ClassContext",
    "Context",
    "ContextRule",
    "CoverageContext",
    "GlyphContext",
    "Pattern",
    "parse_chained_context",
    "parse_context",
]

_FORMATS = {1: GlyphContext.parse, 2: ClassContext.parse, 3: CoverageContext.parse}


def parse_context(reader: OffsetReader) -> Context:
    """A contextual subtable (GSUB type 5, GPOS type 7)."""
    return _parse(reader, chained=False)


def parse_chained_context(reader: OffsetReader) -> Context:
    """A chained contextual subtable (GSUB type 6, GPOS type 8)."""
    return _parse(reader, chained=True)


def _parse(reader: OffsetReader, *, chained: bool) -> Context:
    subtable_format = reader.u16()
    if subtable_format not in _FORMATS:
        raise FontError(f"a contextual subtable of format {subtable_format}; only 1 to 3 exist", offset=reader.origin)
    return _FORMATS[subtable_format](reader, chained=chained)
