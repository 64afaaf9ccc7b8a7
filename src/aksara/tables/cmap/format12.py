"""Writing 'cmap' formats 12 and 13: groups of consecutive codes, whose glyphs follow one another, or are one and the
same (OpenType, "Segmented coverage", "Many-to-one range mappings")."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

_HEADER = 16


def compile(mapping: Mapping[int, int], language: int = 0) -> bytes:
    """The subtable; `mapping` is code → glyph ID. In format 13 only where that is far smaller: few fonts have it."""
    codes = np.array(sorted(mapping), np.int64)
    glyphs = np.array([mapping[code] for code in codes.tolist()], np.int64)
    starts = [_group_starts(codes, glyphs, step) for step in (1, 0)]
    subtable_format = 13 if len(starts[1]) * 4 < len(starts[0]) else 12
    first = starts[subtable_format - 12]
    last = np.append(first[1:], len(codes)) - 1 if len(first) else first
    groups = np.column_stack((codes[first], codes[last], glyphs[first])).astype(">u4").tobytes()
    numbers = np.array((_HEADER + len(groups), language, len(first)), ">u4").tobytes()
    return bytes((0, subtable_format, 0, 0)) + numbers + groups


def _group_starts(codes: NDArray[np.int64], glyphs: NDArray[np.int64], step: int) -> NDArray[np.intp]:
    """Where groups begin, in which each glyph is by `step` more than the one before."""
    new = np.ones(len(codes), bool)
    new[1:] = (np.diff(codes) != 1) | (np.diff(glyphs) != step)
    return np.flatnonzero(new)
