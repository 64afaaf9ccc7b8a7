"""Whether glyphs draw anything: spaces do not, nor do the letters in many fonts of icons."""

from __future__ import annotations

from collections.abc import Set
from contextlib import suppress

from aksara.errors import FontError
from aksara.font import Font, postscript_outlines
from aksara.tables import Cbdt, Colr, Glyf, Sbix, Svg


def draws_glyphs(font: Font, glyphs: Set[int]) -> bool:
    """Whether any of these glyphs has an outline, or is painted with one."""
    if Colr.TAG in font:
        with suppress(FontError):
            glyphs = font.table(Colr).component_closure(set(glyphs))
    for table_class in (Svg, Sbix, Cbdt):
        with suppress(FontError):
            drawings = font.find(table_class)
            if isinstance(drawings, Svg | Sbix | Cbdt) and any(map(drawings.draws, glyphs)):
                return True
    outlines = font.table(Glyf) if Glyf.TAG in font else font.table(postscript_outlines(font))
    return any(outlines.draws(glyph) for glyph in glyphs)
