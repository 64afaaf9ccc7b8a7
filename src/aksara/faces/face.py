"""`Face`: one member of a family, in the terms of CSS."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from aksara.faces.style import Style, label_of
from aksara.notices import Notice

Aspect = Literal["family", "weight", "style", "width", "optical size", "variant"]


@dataclass(slots=True, frozen=True)
class Evidence:
    """One thing that one source says: e.g. `weight`, "OS/2", "400"; or `style`, "file name", "italic"."""

    aspect: Aspect
    source: str
    says: str


@dataclass(slots=True, frozen=True, kw_only=True)
class Face:
    """`weight` is 1 to 1000, `width` in percent; `findings` are oddities about how it was identified.

    `variant` is what its names say besides (an optical size, "Outline"); `axes` are the ranges of a variable font's
    axes by tag; `evidence` is what the identification rests on.
    """

    path: str
    family: str
    weight: int
    style: Style
    width: float = 100.0
    findings: tuple[Notice, ...] = ()
    variant: str = ""
    axes: tuple[tuple[str, tuple[float, float]], ...] = ()
    evidence: tuple[Evidence, ...] = field(default=(), repr=False)

    @property
    def weight_range(self) -> tuple[int, int]:
        """From the lightest to the boldest that it can be: twice the same, unless it has a weight axis."""
        low, high = dict(self.axes).get("wght", (self.weight, self.weight))
        return round(low), round(high)

    @property
    def is_variable(self) -> bool:
        """Whether it has axes of variation."""
        return bool(self.axes)

    def covers(self, other: Face) -> bool:
        """Whether this is a variable font that has the other, a static face of its family, among its locations."""
        if not self.axes or other.axes or (self.family, self.variant) != (other.family, other.variant):
            return False
        ranges = dict(self.axes)
        widths, slants = ranges.get("wdth", (self.width, self.width)), ranges.get("slnt", (0.0, 0.0))
        leans = min(slants) < 0 or "ital" in ranges  # 'slnt' is negative where glyphs lean to the right
        lightest, boldest = self.weight_range
        return (
            lightest <= other.weight <= boldest
            and widths[0] <= other.width <= widths[1]
            and (other.style == self.style or (self.style == "normal" and leans))
        )

    @property
    def label(self) -> str:
        """E.g. "Bold Italic", for a menu."""
        return label_of(self.weight, self.style, self.width)

    @property
    def sort_key(self) -> tuple[str, float, int, str]:
        """Family by family; widths, weights, then upright before slanted."""
        return (self.family.casefold(), self.width, self.weight, {"normal": "0"}.get(self.style, self.style))
