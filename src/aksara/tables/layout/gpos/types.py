"""The lookup types of GPOS (OpenType 1.9.1, "GPOS lookup types")."""

from __future__ import annotations

(SINGLE, PAIR, CURSIVE, MARK_TO_BASE, MARK_TO_LIGATURE, MARK_TO_MARK, CONTEXT, CHAINED_CONTEXT, EXTENSION) = range(
    1, 10
)
