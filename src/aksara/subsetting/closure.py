"""Which glyphs the kept characters need."""

from __future__ import annotations

from collections.abc import Mapping, Set

from aksara.errors import FontError, located
from aksara.font import Font
from aksara.tables import Cmap, Glyf
from aksara.tables.layout import gsub

# Tables by which a glyph that no character leads to may still be shown, and which are not followed here.
_UNFOLLOWED = ("morx", "mort", "MATH", "Silf")


def needed_glyphs(font: Font, characters: Mapping[int, int], dropped: Set[str], warnings: list[str]) -> set[int]:
    """.notdef, the characters' glyphs, those of their variation sequences, what substitution makes of them, and parts.

    Where substitutions cannot be followed, every glyph without a character
    of its own is kept, and all if the table is damaged, so that nothing turns
    blank; that is added to `warnings`.
    """
    count = font.num_glyphs
    glyphs = {0, *characters.values()}
    sequences = font.table(Cmap).variations
    if sequences is not None and (kept := sequences.subset(characters)) is not None:
        glyphs |= kept.glyphs()
    if any(tag in font and tag not in dropped for tag in _UNFOLLOWED):
        glyphs |= set(range(count)) - set(font.characters.values())
    if "GSUB" in font:
        try:
            glyphs = gsub.parse(font.raw("GSUB")).closure(glyphs)
        except FontError as error:
            error.table = "GSUB"
            warnings.append(f"{error}; all glyphs are kept so that nothing turns blank")
            glyphs = set(range(count))
    # Layout tables of real fonts speak of glyphs beyond the last one; renderers ignore these.
    with located(table=Glyf.TAG):
        return font.table(Glyf).with_components({glyph for glyph in glyphs if glyph < count})
