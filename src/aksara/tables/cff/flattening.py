"""Charstrings of one font without calls, each worked out once: a family may be cut into a hundred files."""

from __future__ import annotations

from collections.abc import Sequence
from threading import Lock
from typing import NamedTuple

from aksara.errors import BeyondBounds
from aksara.tables.cff.charstrings import Runner


class FlatGlyph(NamedTuple):
    """A charstring without calls, the codes of base and accent if it is composed of these, and how many of its bytes
    are stems and masks."""

    charstring: bytes
    accent: tuple[int, int] | None
    hint_bytes: int


class Flattened(NamedTuple):
    """The charstrings of some glyphs, in their order, None for an empty one; `runner` has noted their calls."""

    glyphs: list[FlatGlyph | None]
    runner: Runner

    @property
    def hint_bytes(self) -> int:
        """How many bytes of the charstrings are stems and masks."""
        return sum(glyph.hint_bytes for glyph in self.glyphs if glyph is not None)


class Flattener:
    """Runs the charstrings of a font and keeps what they come to, as long as its table stays parsed.

    `runner` is one for the font's charstrings, `font_dict_of` has the index of each glyph's font dictionary. What comes
    of some glyphs does not depend on what others were run before. May be used by several threads.
    """

    def __init__(self, runner: Runner, font_dict_of: Sequence[int]) -> None:
        self._runner = runner
        self._font_dict_of = font_dict_of
        #: By whether hints stay: what is known, and the runner that has found it out.
        self._known: dict[bool, tuple[dict[int, FlatGlyph], Runner]] = {}
        self._lock = Lock()

    def flatten(self, order: Sequence[int | None], *, hints: bool) -> Flattened:
        """The charstrings of these glyphs, without stems and masks if `hints` do not stay. Raises `FontError` for
        damaged ones."""
        with self._lock:
            known, runner = self._known.setdefault(hints, ({}, self._runner.fresh()))
            try:
                glyphs = self._glyphs(order, known, runner, hints=hints)
                # Bodies that some callers read differently are not kept: which came first would matter.
                if not runner.ambiguous:
                    return Flattened(glyphs, runner)
            except BeyondBounds:
                pass  # perhaps through glyphs that were asked for before
        runner = self._runner.fresh()
        return Flattened(self._glyphs(order, {}, runner, hints=hints), runner)

    def _glyphs(
        self, order: Sequence[int | None], known: dict[int, FlatGlyph], runner: Runner, *, hints: bool
    ) -> list[FlatGlyph | None]:
        glyphs: list[FlatGlyph | None] = []
        for glyph in order:
            flat = None
            if glyph is not None:
                flat = known.get(glyph)
                if flat is None:
                    before = runner.hint_bytes
                    charstring, accent = runner.run(glyph, self._font_dict_of[glyph], hints=hints)
                    flat = known[glyph] = FlatGlyph(charstring, accent, runner.hint_bytes - before)
            glyphs.append(flat)
        return glyphs
