"""Writing 'cmap' format 12: groups of consecutive codes and glyphs (OpenType, "Segmented coverage")."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

_HEADER = 16


def compile(mapping: Mapping[int, int], language: int = 0) -> bytes:
    """The subtable; `mapping` is code → glyph ID."""
    codes = np.array(sorted(mapping), np.int64)
    glyphs = np.array([mapping[code] for code in codes.tolist()], np.int64)
    new = np.ones(len(codes), bool)
    new[1:] = (np.diff(codes) != 1) | (np.diff(glyphs) != 1)
    first = np.flatnonzero(new)
    last = np.append(first[1:], len(codes)) - 1 if len(first) else first
    groups = np.column_stack((codes[first], codes[last], glyphs[first])).astype(">u4").tobytes()
    numbers = np.array((_HEADER + len(groups), language, len(first)), ">u4").tobytes()
    return b"\0\x0c\0\0" + numbers + groups
