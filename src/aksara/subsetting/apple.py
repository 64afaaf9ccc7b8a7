"""Fonts shaped by Apple's own tables, which are kept unchanged: the glyphs they need, and notices about them."""

from __future__ import annotations

from collections.abc import Collection

from aksara.errors import BeyondBounds, FontError
from aksara.font import Font
from aksara.tables.morphing import EXTENDED, OLD, Morphing
from aksara.tables.registry import OPAQUE


def kept_apple_tables(font: Font, dropped: Collection[str]) -> list[str]:
    """The tags of the kept tables, which refer to glyphs by ID."""
    return sorted(tag for tag in font if tag in OPAQUE and OPAQUE[tag].has_glyph_ids and tag not in dropped)


def warning_about_apple(tags: Collection[str]) -> list[str]:
    """What to say of these tables."""
    if not tags:
        return []
    named = ", ".join(f"'{tag}'" for tag in tags)
    what = "tables" if len(tags) > 1 else "table"
    return [f"it has Apple's {what} {named} and no OpenType ones for that; kept whole, but only Safari uses them"]


class AppleMorphing:
    """The glyphs that Apple's substitutions produce: if they cannot be followed, all glyphs without a character."""

    def __init__(self, font: Font, tag: str) -> None:
        self._font, self._tag = font, tag

    def substitution_closure(self, glyphs: set[int], features: Collection[str] | None = None) -> set[int]:
        """These glyphs and all that text of them can turn into."""
        try:
            table = Morphing.parse(self._font.raw(self._tag), self._tag, self._font.num_glyphs)
            return table.substitution_closure(glyphs, features)
        except (FontError, BeyondBounds):
            return glyphs | (set(range(self._font.num_glyphs)) - set(self._font.characters.values()))


def morphing_tables(font: Font, dropped: Collection[str]) -> list[AppleMorphing]:
    """The kept substitution table, if any; the newer one if there are both."""
    tags = (tag for tag in (EXTENDED, OLD) if tag in font and tag not in dropped)
    return [AppleMorphing(font, tag) for tag in tags][:1]
