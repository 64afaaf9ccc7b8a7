"""Accented letters that are composed of two other glyphs ("endchar" with four numbers; Technical Note 5177,
Appendix C)."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from aksara.tables.cff.charsets import standard_names
from aksara.tables.cff.charstrings import Runner, may_be_composed


class Accents:
    """Finds what glyphs of a font that is not CID-keyed are composed of; each is looked at once.

    `charset` has the string that names each glyph, `runner` runs their charstrings.
    """

    def __init__(self, charset: Sequence[int], runner: Runner) -> None:
        self._runner = runner
        self._named = {sid: glyph for glyph, sid in reversed(list(enumerate(charset)))}
        self._parts: dict[int, frozenset[int]] = {}

    def closure(self, glyphs: Collection[int]) -> set[int]:
        """These glyphs and those that they are composed of."""
        parts = self._parts
        for glyph in glyphs:
            if glyph not in parts:
                parts[glyph] = self._parts_of(glyph)
        return set(glyphs).union(*map(parts.__getitem__, glyphs))

    def _parts_of(self, glyph: int) -> frozenset[int]:
        if not may_be_composed(self._runner.charstrings[glyph]):
            return frozenset()
        names = standard_names(self._runner.accent(glyph))
        return frozenset(self._named[sid] for sid in names if sid in self._named)
