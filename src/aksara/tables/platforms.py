"""Platforms of the records in 'cmap' and 'name' (OpenType 1.9.1, "Platform IDs")."""

from __future__ import annotations

UNICODE, MACINTOSH, WINDOWS = 0, 1, 3
