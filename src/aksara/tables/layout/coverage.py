"""Coverage tables: which glyphs a subtable is about (OpenType, "Common table formats")."""

from __future__ import annotations

import numpy as np

from aksara.binary import Reader
from aksara.errors import FontError


def read_coverage(reader: Reader) -> list[int]:
    """The glyphs in order of their coverage index."""
    start, kind, count = reader.position, reader.u16(), reader.u16()
    if kind == 1:
        return [int(glyph) for glyph in reader.array(np.uint16, count, "covered glyphs")]
    if kind != 2:
        raise FontError(f"a coverage table of format {kind}; only 1 and 2 exist", offset=start)
    ranges = reader.array(np.uint16, 3 * count, "ranges of glyphs").astype(np.int64).reshape(-1, 3)
    # The coverage index that each range states is not needed: ranges follow one another.
    sizes = np.maximum(ranges[:, 1] - ranges[:, 0] + 1, 0)
    if sizes.sum() > 2 * 0x10000:
        raise FontError("a coverage table covers glyphs over and over", offset=start)
    step = np.arange(int(sizes.sum())) - np.repeat(np.cumsum(sizes) - sizes, sizes)
    return [int(glyph) for glyph in np.repeat(ranges[:, 0], sizes) + step]
