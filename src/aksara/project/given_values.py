"""Values of a project file as they are given: lists, and what messages say of wrong ones."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from aksara.phrases import nearest_name


def parts_of(value: Any) -> tuple[str, ...]:
    """The values of a list, in each of which commas may stand."""
    return tuple(part.strip() for item in listed_of(value) for part in item.split(",") if part.strip())


def listed_of(value: Any) -> list[str]:
    """The values of a list, or a single value given instead of a list."""
    return [value] if isinstance(value, str) else list(value)


def written_as(value: Any) -> str:
    """A wrong value as it is written in the file, roughly."""
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, dict):
        return "a table"
    text = f'"{value}"' if isinstance(value, str) else str(value)
    return text if len(text) <= 40 else text[:37] + "…"


def nearest_key(name: str, known: Sequence[str]) -> str:
    """The end of a message about an unknown name: the nearest known one, or all of them."""
    near = nearest_name(name, known, 0.5)
    return f"; did you mean '{near}'?" if near else f"; there are {', '.join(known)}" if known else ""
