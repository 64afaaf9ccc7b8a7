"""Advances and side bearings of all glyphs: 'hmtx' and 'vmtx' are written alike (OpenType 1.9.1)."""

from __future__ import annotations

from typing import Self

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.records import ComparedByField
from aksara.tables.glyph_map import GlyphMap


class Metrics(ComparedByField, Struct, frozen=True):
    """Advance and bearing on the starting side of every glyph (G each), in font units."""

    advances: NDArray[np.uint16]
    side_bearings: NDArray[np.int16]

    @classmethod
    def read(cls, data: bytes, count: int, glyphs: int) -> Self:
        """`count` is the number of advances in the header table; the last one repeats."""
        if not count:
            raise FontError("its header table says that it holds no advances")
        # Fonts whose table is a few numbers short exist; renderers read zeros there.
        stored = min(count, glyphs)
        there = min(stored, len(data) // 4)
        if not there:
            raise FontError("it holds no advances")
        reader = Reader(data)
        pairs = reader.array(np.uint16, 2 * there, "advances").reshape(-1, 2)
        advances, bearings = np.zeros(glyphs, np.uint16), np.zeros(glyphs, np.int16)
        advances[:there], bearings[:there] = pairs[:, 0], pairs[:, 1].view(np.int16)
        advances[stored:] = advances[stored - 1]
        reader.position = 4 * count
        rest = max(min(glyphs - stored, reader.remaining // 2), 0)
        bearings[stored : stored + rest] = reader.array(np.int16, rest, "side bearings") if rest else 0
        return cls(advances, bearings)

    @property
    def stored_advances(self) -> int:
        """How many advances need storing: glyphs at the end that share the last advance store none."""
        if not len(self.advances):
            return 0
        different = np.flatnonzero(self.advances != self.advances[-1])
        return int(different[-1]) + 2 if len(different) else 1

    def compile(self) -> bytes:
        """Pairs of advance and side bearing, then the side bearings of those that share the last advance."""
        count = self.stored_advances
        pairs = np.column_stack((self.advances[:count].view(np.int16), self.side_bearings[:count]))
        return pairs.astype(">i2").tobytes() + self.side_bearings[count:].astype(">i2").tobytes()

    def of_glyphs(self, glyphs: GlyphMap) -> Self:
        """The metrics of the kept glyphs; 0 for glyphs kept only for their ID."""
        old, kept = glyphs.old_ids(), glyphs.is_kept()
        return type(self)(
            np.where(kept, self.advances[old], 0).astype(np.uint16),
            np.where(kept, self.side_bearings[old], 0).astype(np.int16),
        )
