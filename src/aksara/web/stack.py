"""The families that follow the web font, used while it loads and for characters it does not have."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from aksara.errors import RequestError
from aksara.faces import FaceMetrics, Generic
from aksara.web.fallback import fit
from aksara.web.syntax import GENERIC_FAMILIES
from aksara.web.system_families import PLATFORMS, SystemFamily, all_system_families

# Where letters could not be compared, families of that kind by name: they follow without matched metrics.
_BY_NAME: dict[Generic, tuple[str, ...]] = {
    "sans-serif": ("Arial",),
    "serif": ("Times New Roman",),
    "monospace": ("Courier New",),
    "cursive": ("Segoe Script", "Snell Roundhand"),
    "math": ("Cambria Math", "STIX Two Math"),
    "emoji": ("Apple Color Emoji", "Segoe UI Emoji", "Noto Color Emoji"),
}
#: A family that only some platforms have is taken if it is closer by this much; a long stack helps nobody.
_CLEARLY_CLOSER = 0.6
# The eye sees a difference in the height of small letters sooner than one in the width of some letter.
_HEIGHT_COUNTS = 1.5


def close_stack(
    generic: Generic,
    metrics: FaceMetrics,
    frequencies: Mapping[int, float],
    measured: Sequence[SystemFamily] = (),
) -> tuple[str, ...]:
    """For each platform the closest family of the same class that it has, then the generic family.

    Close is what needs the least change: after scaling to the same average width, letters are as wide and small
    letters as high. Families on many platforms come last, so that each platform finds its own first.
    """
    distances: dict[SystemFamily, float] = {}
    for family in all_system_families(measured):
        if family.generic == generic and (found := distance(metrics, family, frequencies)) is not None:
            distances[family] = found
    chosen: list[SystemFamily] = []
    for platform in PLATFORMS:
        there = [family for family in distances if platform in family.platforms]
        if not there:
            continue
        closest = min(there, key=lambda family: (distances[family], family.name))
        shared = [family for family in there if len(family.platforms) > 1]
        wide = min(shared, key=lambda family: (-len(family.platforms), distances[family]), default=closest)
        best = closest if distances[closest] < _CLEARLY_CLOSER * distances[wide] else wide
        if best not in chosen:
            chosen.append(best)
    chosen.sort(key=lambda family: len(family.platforms))
    names = tuple(family.name for family in chosen) or _BY_NAME[generic]
    return (*names, generic)


def distance(metrics: FaceMetrics, family: SystemFamily, frequencies: Mapping[int, float]) -> float | None:
    """How far the family's upright is from a face, in ems; None if they cannot be compared."""
    widths = family.face(bold=False, italic=False).widths
    ratio = fit(metrics, widths, frequencies)
    if ratio is None:
        return None
    common = metrics.widths.keys() & widths.keys() & frequencies.keys()
    total = sum(frequencies[code] for code in common)
    squares = sum(frequencies[code] * (metrics.widths[code] - ratio * widths[code]) ** 2 for code in common)
    height = abs(metrics.x_height - ratio * family.x_height) if metrics.x_height else 0.0
    return float((squares / total) ** 0.5 + _HEIGHT_COUNTS * height)


def parse_stack(text: str) -> tuple[str, ...]:
    """The families of a list as typed by a user: `"Segoe UI", Arial, sans-serif`, quotes optional."""
    families = [" ".join(part.split()).strip("\"' ") for part in text.split(",")]
    if not all(families):
        raise RequestError(
            f"'{text}' has an empty family; write a list like \"Arial, sans-serif\"", parameter="FamilyRequest.stack"
        )
    return tuple(families)


def complete_stack(families: tuple[str, ...], generic: Generic) -> tuple[str, ...]:
    """The stack with a generic family at its end, which every stack needs."""
    if families and families[-1] in GENERIC_FAMILIES:
        return families
    return (*families, generic)
