"""The ways to slice that can be requested."""

from __future__ import annotations

import re
from typing import Literal, cast, get_args

from aksara.errors import RequestError

Way = Literal["none", "auto", "language", "script"]
WAYS: tuple[Way, ...] = get_args(Way)
#: One of these ways, or how many slices.
Slices = Way | int
MOST_SLICES = 1_000


def check_slices(value: Slices) -> None:
    """Raise `RequestError` for a way that does not exist."""
    if isinstance(value, int):
        if not 1 <= value <= MOST_SLICES:
            raise RequestError(f"{value} is not a number of slices; give 1 to {MOST_SLICES:,}")
    elif value not in WAYS:
        raise RequestError(f"there is no '{value}'; choose from {', '.join(WAYS)}, or give a number")


def parse_slices(text: str) -> Slices:
    """A way to cut, or a number, from its text. Raises `RequestError` as `check_slices` does."""
    value: Slices = int(text) if re.fullmatch(r"-?[0-9]{1,9}", text) else cast(Way, text)
    check_slices(value)
    return value
