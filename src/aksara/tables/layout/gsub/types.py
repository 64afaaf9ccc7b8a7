"""The lookup types of GSUB (OpenType 1.9.1, "GSUB lookup types")."""

from __future__ import annotations

SINGLE, MULTIPLE, ALTERNATE, LIGATURE, CONTEXT, CHAINED_CONTEXT, EXTENSION, REVERSE = range(1, 9)
