"""The layout tables of a font that is cut down: GSUB, GPOS, GDEF, BASE, MATH, and 'kern' beside them."""

from __future__ import annotations

import unicodedata
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from typing import TypeVar

from aksara.errors import FontError
from aksara.font import Font
from aksara.subsetting.closure import with_parts
from aksara.subsetting.features import LeftOut, kept_though_empty
from aksara.tables import Base, Cff, Gdef, Glyf, Gpos, Gsub, Kern, Math
from aksara.tables.base import Table
from aksara.tables.layout.lookups import LayoutTable

T = TypeVar("T", bound=Table)
#: From here on scripts are shaped, and by other rules if a font does not name them.
_FIRST_COMPLEX = 0x0590
_MARK = 3


@dataclass(slots=True)
class Layout:
    """The layout tables of a font, or None where it has none that can be used. `warnings` tells of damaged ones."""

    gsub: Gsub | None = None
    gpos: Gpos | None = None
    gdef: Gdef | None = None
    base: Base | None = None
    math: Math | None = None
    kern: Kern | None = None
    warnings: list[str] = field(default_factory=list)

    @classmethod
    def of(cls, font: Font, dropped: Collection[str]) -> Layout:
        """Those of the font but the dropped ones. What is damaged is told, and left out as browsers do."""
        layout = cls()

        def find(kind: type[T]) -> T | None:
            if kind.TAG in dropped or kind.TAG not in font:
                return None
            try:
                table = font.table(kind)
            except FontError as error:
                layout.warnings.append(
                    f"table '{kind.TAG}' is damaged ({error.problem}) and left out, as browsers do; text may lack what "
                    "it does"
                )
                return None
            layout.warnings += getattr(table, "defects", [])
            return table

        layout.gsub, layout.gpos, layout.gdef = find(Gsub), find(Gpos), find(Gdef)
        layout.base, layout.math, layout.kern = find(Base), find(Math), find(Kern)
        if layout.gpos is not None and "kern" in layout.gpos.tags_everywhere():
            layout.kern = None  # no text is kerned by it
        return layout

    @property
    def tables(self) -> list[LayoutTable]:
        return [table for table in (self.gsub, self.gpos) if table is not None]

    def tags(self) -> set[str]:
        """The features that it has."""
        return {feature.tag for table in self.tables for feature in table.features}

    def subset(self, numbers: Mapping[int, int], characters: Collection[int], features: Collection[str]) -> list[Table]:
        """The tables for the kept glyphs (old number → new), characters and features, as far as they do something."""
        changed: list[Table] = []
        complex_text = any(code >= _FIRST_COMPLEX for code in characters)
        marks = complex_text or any(unicodedata.category(chr(code))[0] == "M" for code in characters)
        # Glyphs that the font calls marks count, whatever their characters.
        classes = self.gdef.classes or {} if self.gdef else {}
        marks = marks or any(value == _MARK and glyph in numbers for glyph, value in classes.items())
        always = kept_though_empty(characters)
        gsub = self.gsub.subset(numbers, features, always=always) if self.gsub else None
        if self.kern is not None and (kern := self.kern.subset(numbers)).subtables:
            changed.append(kern)
            # Shapers turn to it where GPOS has no such feature.
            always |= {"kern"}
        gpos = self.gpos.subset(numbers, features, always=always) if self.gpos else None
        # That a script is named decides how its text is shaped, though nothing may be done in it.
        kept: list[LayoutTable] = []
        if gsub is not None and (gsub.features or complex_text):
            kept.append(gsub)
        if gpos is not None and (gpos.features or marks):
            kept.append(gpos)
        if self.gdef is not None:
            used = sorted(set().union(*(table.mark_sets() for table in kept)))
            there = len(self.gdef.mark_sets or ())
            sets = {old: new for new, old in enumerate(n for n in used if n < there)}
            gdef = self.gdef.subset(numbers, sets)
            # A filter by a set that does not exist stays one.
            beyond = {old: len(sets) for old in used if old >= there}
            kept = [table.with_mark_sets(sets | beyond) for table in kept]
            if kept or marks:
                changed.append(gdef)
        if self.base is not None:
            changed.append(self.base.subset(numbers))
        if self.math is not None:
            changed.append(self.math.subset(numbers))
        return [*changed, *kept]

    def left_out(self, font: Font, shown: set[int], glyphs: set[int], features: frozenset[str]) -> tuple[LeftOut, ...]:
        """The features that could do something to the glyphs that text shows, and are not among `features`.

        `glyphs` are all that are kept, those that others are drawn with among them.
        """
        found, count = [], font.num_glyphs
        for tag in sorted(self.tags() - features - _NEVER_ASKED_FOR):
            more = shown
            if self.gsub is not None and self.gsub.leads_on({tag}):
                more = self.gsub.closure(shown, {tag})
                if more != shown:
                    more = self.gsub.closure(more, features | {tag})
            new = with_parts(font, {glyph for glyph in more - shown if glyph < count}) - glyphs
            kept = {glyph: glyph for glyph in more if glyph < count}
            size = sum(table.size_for(kept, {tag}, features) for table in self.tables)
            if size:
                found.append(LeftOut(tag, len(new), size + _outline_size(font, new)))
        return tuple(found)


#: Lists for a program's menus, and design sizes: nothing that a style sheet could ask for.
_NEVER_ASKED_FOR = frozenset({"aalt", "size"})


def _outline_size(font: Font, glyphs: Collection[int]) -> int:
    """Bytes of the outlines and metrics of these glyphs."""
    if "glyf" in font:
        outlines = font.table(Glyf).glyphs
        return sum(len(outlines[glyph]) + 4 for glyph in glyphs)
    charstrings = font.table(Cff).charstrings
    return sum(len(charstrings[glyph]) + 4 for glyph in glyphs)
