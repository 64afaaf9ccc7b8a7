"""Sizes of files in words: one kilobyte is 1,000 bytes."""

from __future__ import annotations

import re

from aksara.errors import RequestError

#: Fewer bytes than any font has: a number without a unit that is smaller was meant otherwise.
_FEW = 1000


def format_size(count: int) -> str:
    """`824 B`, `6.1 KB`, `24 KB`, `1,280 KB`, `12.4 MB`: one decimal where the number is under ten."""
    if count < 1000:
        return f"{count} B"
    thousands = count / 1000
    if thousands < 9.95:
        return f"{thousands:.1f} KB"
    if thousands < 9999.5:
        return f"{thousands:,.0f} KB"
    return f"{thousands / 1000:.1f} MB"


def format_saving(before: int, after: int) -> str:
    """`94%`: how much less it is now. Nothing saved reads as `0%`, more as `+3%`."""
    if before <= 0:
        return "0%"
    saved = 100 * (before - after) / before
    return f"+{-saved:.0f}%" if saved < -0.5 else f"{max(saved, 0):.0f}%"


def parse_size(value: str | int) -> int:
    """Bytes of `120 KB`, `1.5 MB`, `800 B` or a bare number. Raises `RequestError` for anything else."""
    match = re.fullmatch(r"\s*(\d{1,9}(?:\.\d{1,3})?)\s*(|B|KB|MB)\s*", str(value), re.IGNORECASE)
    if match and not match[2] and 1 <= float(match[1]) < _FEW:
        raise RequestError(f'{match[1]} bytes? Write "{match[1]} KB", or "{match[1]} B" if bytes are meant')
    count = round(float(match[1]) * {"KB": 1000, "MB": 1_000_000}.get(match[2].upper(), 1)) if match else 0
    if count < 1:
        raise RequestError(f"'{value}' is not a size; write one like \"120 KB\"")
    return count
