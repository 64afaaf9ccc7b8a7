"""Which glyphs the kept characters need."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from aksara.errors import located
from aksara.font import Font
from aksara.tables import Cff, Cmap, Glyf, Gsub, Math


def encoded_glyphs(font: Font, characters: Mapping[int, int]) -> set[int]:
    """.notdef, the characters' glyphs, and those of their variation sequences."""
    glyphs = {0, *characters.values()}
    sequences = font.table(Cmap).variations
    if sequences is not None and (kept := sequences.subset(characters)) is not None:
        glyphs |= kept.glyphs()
    return glyphs


def closed(font: Font, glyphs: set[int], gsub: Gsub | None, math: Math | None, features: Collection[str]) -> set[int]:
    """These glyphs, what substitution makes of them with these features, and their larger forms: all that text shows.

    What they are drawn with comes on top (`with_parts`).
    """
    count = font.num_glyphs
    size = -1
    while size != len(glyphs):
        size = len(glyphs)
        if gsub is not None:
            glyphs = gsub.closure(glyphs, features)
        if math is not None:
            glyphs = math.closure(glyphs)
        # Tables of real fonts speak of glyphs beyond the last one; renderers ignore these.
        glyphs = {glyph for glyph in glyphs if glyph < count}
    return glyphs


def with_parts(font: Font, glyphs: set[int]) -> set[int]:
    """These glyphs and those that they are drawn with."""
    if "glyf" in font:
        with located(table=Glyf.TAG):
            return font.table(Glyf).with_components(glyphs)
    with located(table=Cff.TAG):
        return font.table(Cff).closure(glyphs)
