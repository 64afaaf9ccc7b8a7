"""Which glyphs the kept characters need."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Protocol

from aksara.errors import FontError, located
from aksara.font import Font
from aksara.tables import Cmap, Gsub, Table
from aksara.tables.registry import CLASSES


def kept_tables(font: Font, dropped: Collection[str]) -> list[Table]:
    """The tables of the font that Aksara understands, but for the dropped ones."""
    return [font.table(table_class) for tag, table_class in CLASSES.items() if tag in font and tag not in dropped]


def encoded_glyphs(cmap: Cmap, characters: Mapping[int, int]) -> set[int]:
    """.notdef, the characters' glyphs, and those of their variation sequences."""
    glyphs = {0, *characters.values()}
    sequences = cmap.variations
    if sequences is not None and (kept := sequences.subset(characters)) is not None:
        glyphs |= kept.glyphs()
    return glyphs


class Substitutes(Protocol):
    """What may put other glyphs in the place of those of a text."""

    def substitution_closure(self, glyphs: set[int], features: Collection[str]) -> set[int]:
        """These glyphs and all that text of them can turn into with these features."""
        ...


class TextClosure:
    """These glyphs, what these features substitute for them, and their larger forms: all glyphs that text shows.

    What they are drawn with comes on top (`component_closure`).
    """

    def __init__(self, font: Font, tables: Sequence[Substitutes], glyphs: set[int], features: Collection[str]) -> None:
        self._count = font.num_glyphs
        self._gsub = next((table for table in tables if isinstance(table, Gsub)), None)
        self._substitutions = self._gsub.closure(glyphs, features) if self._gsub is not None else None
        drawn_glyphs = self._substitutions.glyphs if self._substitutions is not None else set(glyphs)
        others = [table for table in tables if table is not self._gsub]
        size = -1
        while size != len(drawn_glyphs):
            size = len(drawn_glyphs)
            for table in others:
                drawn_glyphs = table.substitution_closure(drawn_glyphs, features)
            if self._substitutions is not None:
                self._substitutions.add(drawn_glyphs)
                drawn_glyphs = self._substitutions.glyphs
        self.glyphs = self._existing(drawn_glyphs)

    def with_feature(self, tag: str) -> set[int]:
        """The glyphs that text shows if it has this feature, too."""
        lookups = self._gsub.lookups_of({tag}) if self._gsub is not None else ()
        if self._substitutions is None or not lookups:
            return self.glyphs
        return self._existing(self._substitutions.with_lookups(sorted(lookups)).glyphs)

    def _existing(self, glyphs: set[int]) -> set[int]:
        """Drop glyph IDs beyond the last one, which occur in real fonts; renderers ignore them."""
        return glyphs if max(glyphs, default=0) < self._count else {glyph for glyph in glyphs if glyph < self._count}


def component_closure(tables: Sequence[Table], glyphs: set[int], count: int) -> set[int]:
    """These glyphs and their components, in a font of `count` glyphs.

    Raises `FontError` for a table that is damaged there, or that speaks of glyphs which do not exist.
    """
    for table in tables:
        with located(table=table.TAG):
            glyphs = table.component_closure(glyphs)
            if (last := max(glyphs, default=0)) >= count:
                raise FontError(f"it draws with glyph {last}, but there are only {count}")
    return glyphs
