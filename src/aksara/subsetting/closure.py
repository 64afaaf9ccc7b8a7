"""Which glyphs the kept characters need."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from aksara.errors import located
from aksara.font import Font
from aksara.tables import Cmap, Table
from aksara.tables.registry import CLASSES


def kept_tables(font: Font, dropped: Collection[str]) -> list[Table]:
    """The tables of the font that Aksara understands, but for the dropped ones."""
    return [font.table(table_class) for tag, table_class in CLASSES.items() if tag in font and tag not in dropped]


def encoded_glyphs(font: Font, characters: Mapping[int, int]) -> set[int]:
    """.notdef, the characters' glyphs, and those of their variation sequences."""
    glyphs = {0, *characters.values()}
    sequences = font.table(Cmap).variations
    if sequences is not None and (kept := sequences.subset(characters)) is not None:
        glyphs |= kept.glyphs()
    return glyphs


def text_closure(font: Font, tables: Sequence[Table], glyphs: set[int], features: Collection[str]) -> set[int]:
    """These glyphs, what substitution makes of them with these features, and their larger forms: all that text shows.

    What they are drawn with comes on top (`component_closure`).
    """
    count = font.num_glyphs
    size = -1
    while size != len(glyphs):
        size = len(glyphs)
        for table in tables:
            glyphs = table.substitution_closure(glyphs, features)
        # Tables of real fonts speak of glyphs beyond the last one; renderers ignore these.
        glyphs = {glyph for glyph in glyphs if glyph < count}
    return glyphs


def component_closure(tables: Sequence[Table], glyphs: set[int]) -> set[int]:
    """These glyphs and those that they are drawn with."""
    for table in tables:
        with located(table=table.TAG):
            glyphs = table.component_closure(glyphs)
    return glyphs
