"""The families behind the web font, for as long as it has not come and for what it lacks."""

from __future__ import annotations

from aksara.errors import RequestError
from aksara.faces.generic import Generic
from aksara.web.syntax import GENERIC_FAMILIES

# One family that nearly every reader has, or has a metric-compatible stand-in for.
_DEFAULTS: dict[Generic, tuple[str, ...]] = {
    "sans-serif": ("Arial", "sans-serif"),
    "serif": ("Times New Roman", "serif"),
    "monospace": ("Courier New", "monospace"),
    "cursive": ("cursive",),
}


def default_stack(generic: Generic) -> tuple[str, ...]:
    """For a font of that class."""
    return _DEFAULTS[generic]


def parse_stack(text: str) -> tuple[str, ...]:
    """The families of a list as typed by a user: `"Segoe UI", Arial, sans-serif`, quotes optional."""
    families = [" ".join(part.split()).strip("\"' ") for part in text.split(",")]
    if not all(families):
        raise RequestError(f"'{text}' has an empty family; write a list like \"Arial, sans-serif\"")
    return tuple(families)


def complete_stack(families: tuple[str, ...], generic: Generic) -> tuple[str, ...]:
    """The stack with a generic family at its end, which every stack needs."""
    if families and families[-1] in GENERIC_FAMILIES:
        return families
    return (*families, generic)
