"""The size of omitted features."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from msgspec import Struct

from aksara.errors import FontError
from aksara.font import Font, postscript_outlines
from aksara.subsetting.closure import TextClosure, component_closure
from aksara.tables import Glyf, Table
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.layout_table import LayoutTable

#: Lists for a program's menus, and design sizes: nothing that a style sheet could ask for.
_NEVER_ASKED_FOR = frozenset({"aalt", "size"})
#: Bytes of a glyph's advance and side bearing.
_METRICS = 4


class OmittedFeature(Struct, frozen=True):
    """A feature that was left out: how many glyphs it would add, and about how many bytes of tables (uncompressed)."""

    tag: str
    glyphs: int
    size: int


def omitted_features(
    font: Font, tables: Sequence[Table], text: TextClosure, glyphs: set[int], features: frozenset[str]
) -> tuple[OmittedFeature, ...]:
    """The features that could do something to the glyphs that `text` shows with `features`, and are not among these.

    `tables` are those of the font that are kept, `glyphs` all kept glyphs, those that others are drawn with included.
    """
    omitted = []
    layout = [table for table in tables if isinstance(table, LayoutTable)]
    already = [table.lookups_reached(features) for table in layout]
    for tag in sorted(feature_tags(tables) - features - _NEVER_ASKED_FOR):
        more = text.with_feature(tag)
        try:
            new = component_closure(tables, more - text.glyphs, font.num_glyphs) - glyphs
        except FontError:
            continue  # its glyphs are damaged, so it is of no use
        kept = GlyphMap.identity(more)
        sizes = (table.size_of_features(kept, {tag}, known) for table, known in zip(layout, already, strict=True))
        size = sum(sizes)
        if size:
            omitted.append(OmittedFeature(tag, len(new), size + _outline_size(font, new)))
    return tuple(omitted)


def feature_tags(tables: Sequence[Table]) -> set[str]:
    """The tags of the features that these tables have."""
    layout = (table for table in tables if isinstance(table, LayoutTable))
    return {feature.tag for table in layout for feature in table.features}


def _outline_size(font: Font, glyphs: Collection[int]) -> int:
    """Bytes of the outlines and metrics of these glyphs."""
    outlines = font.table(Glyf).glyphs if Glyf.TAG in font else font.table(postscript_outlines(font)).charstrings
    return sum(len(outlines[glyph]) + _METRICS for glyph in glyphs)
