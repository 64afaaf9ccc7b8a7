"""'GSUB': glyph substitution, as far as finding every glyph that text can turn into (OpenType 1.9.1).

Contexts and features are not weighed here: a substitution counts as soon as
its own glyphs are there. That may keep a glyph too many, never one too few.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Set
from dataclasses import dataclass, field

import numpy as np

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.tables.layout.coverage import read_coverage

SINGLE, MULTIPLE, ALTERNATE, LIGATURE, CONTEXT, CHAINED, EXTENSION, REVERSE = range(1, 9)
#: Substitutions in one font; the largest real ones have about 100,000.
_MAX_RULES = 4_000_000


@dataclass(slots=True)
class Gsub:
    """`replacements`: glyph → the glyphs that may take its place; `ligatures`: (components, result)."""

    replacements: dict[int, set[int]] = field(default_factory=lambda: defaultdict(set))
    ligatures: list[tuple[frozenset[int], int]] = field(default_factory=list)

    def closure(self, glyphs: Set[int]) -> set[int]:
        """These glyphs and all that substitution can make of them."""
        reached, pending = set(glyphs), list(glyphs)
        waiting = self.ligatures
        while pending:
            while pending:
                for made in self.replacements.get(pending.pop(), ()):
                    if made not in reached:
                        reached.add(made)
                        pending.append(made)
            rest = []
            for components, made in waiting:
                if not components <= reached:
                    rest.append((components, made))
                elif made not in reached:
                    reached.add(made)
                    pending.append(made)
            waiting = rest
        return reached


def parse(data: bytes) -> Gsub:
    """All substitutions of all lookups. Raises `FontError` for damaged data."""
    return _Parser(data).result


class _Parser:
    def __init__(self, data: bytes) -> None:
        self.result = Gsub()
        self._rules = 0
        self._done: set[tuple[int, int]] = set()  # subtables may be shared
        self._readers = {
            SINGLE: self._single,
            MULTIPLE: self._multiple,
            ALTERNATE: self._multiple,  # the same layout: a set of glyphs for each covered one
            LIGATURE: self._ligature,
            REVERSE: self._reverse,
        }
        reader = Reader(data, 8)
        lookups = reader.at(reader.u16())
        if not lookups.position:
            return
        start = lookups.position
        for offset in lookups.array(np.uint16, lookups.u16(), "lookup offsets").tolist():
            self._lookup(reader.at(start + offset))

    def _spend(self, rules: int) -> None:
        self._rules += rules
        if self._rules > _MAX_RULES:
            raise FontError("it holds more substitutions than any real font")

    def _lookup(self, reader: Reader) -> None:
        start, kind = reader.position, reader.u16()
        reader.u16()
        offsets = reader.array(np.uint16, reader.u16(), "subtable offsets").tolist()
        self._spend(len(offsets))
        for offset in offsets:
            self._subtable(kind, reader.at(start + offset))

    def _subtable(self, kind: int, reader: Reader) -> None:
        if kind == EXTENSION:
            start = reader.position
            reader.u16()
            kind, offset = reader.u16(), reader.u32()
            if kind == EXTENSION:
                raise FontError("an extension subtable leads to another", offset=start)
            reader = reader.at(start + offset)
        if kind in self._readers and (kind, reader.position) not in self._done:
            self._done.add((kind, reader.position))
            self._readers[kind](reader)

    def _coverage(self, start: int, reader: Reader) -> list[int]:
        covered = read_coverage(reader.at(start + reader.u16()))
        self._spend(len(covered))
        return covered

    def _single(self, reader: Reader) -> None:
        start, form = reader.position, reader.u16()
        covered = self._coverage(start, reader)
        if form == 1:
            delta = reader.i16()
            made = [glyph + delta & 0xFFFF for glyph in covered]
        else:
            made = reader.array(np.uint16, reader.u16(), "substitutes").tolist()
        for glyph, substitute in zip(covered, made, strict=False):
            self.result.replacements[glyph].add(substitute)

    def _multiple(self, reader: Reader) -> None:
        start = reader.position
        reader.u16()
        covered = self._coverage(start, reader)
        offsets = reader.array(np.uint16, reader.u16(), "offsets").tolist()
        for glyph, offset in zip(covered, offsets, strict=False):
            at = reader.at(start + offset)
            made = at.array(np.uint16, at.u16(), "substitutes").tolist()
            self._spend(len(made))
            self.result.replacements[glyph].update(made)

    def _ligature(self, reader: Reader) -> None:
        start = reader.position
        reader.u16()
        covered = self._coverage(start, reader)
        offsets = reader.array(np.uint16, reader.u16(), "offsets").tolist()
        for first, set_offset in zip(covered, offsets, strict=False):
            set_start = start + set_offset
            at = reader.at(set_start)
            for offset in at.array(np.uint16, at.u16(), "ligature offsets").tolist():
                ligature = reader.at(set_start + offset)
                made, count = ligature.u16(), ligature.u16()
                rest = ligature.array(np.uint16, max(count - 1, 0), "components").tolist()
                self._spend(1 + len(rest))
                self.result.ligatures.append((frozenset((first, *rest)), made))

    def _reverse(self, reader: Reader) -> None:
        start = reader.position
        reader.u16()
        covered = self._coverage(start, reader)
        for _ in range(2):  # backtrack and lookahead coverages
            reader.take(2 * reader.u16(), "coverage offsets")
        made = reader.array(np.uint16, reader.u16(), "substitutes").tolist()
        for glyph, substitute in zip(covered, made, strict=False):
            self.result.replacements[glyph].add(substitute)
