"""The size of a web font's hints."""

from __future__ import annotations

from collections.abc import Iterable

from aksara.compressibility import compressed_size
from aksara.font import Font
from aksara.tables import Cff, Cff2, Glyf, Table
from aksara.tables.registry import hinting_tags


def hint_size(font: Font, cut: Iterable[Table]) -> int:
    """About how many bytes the hints take in a WOFF2; 0 where there are none.

    `font` was made of the tables in `cut`, among others.
    """
    size = sum(font.compressed_size(tag) for tag in sorted(hinting_tags()) if tag in font)
    for table in cut:
        if isinstance(table, Glyf):
            size += compressed_size(programs) if (programs := b"".join(table.programs())) else 0
        elif isinstance(table, Cff | Cff2) and table.hint_bytes:
            # They are spread over the charstrings, and compress as these do.
            size += table.hint_bytes * font.compressed_size(table.TAG) // len(font.raw(table.TAG))
    return size
