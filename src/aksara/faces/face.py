"""`Face`: one member of a family, in the terms of CSS."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from aksara.faces.style import Style, label_of, range_label
from aksara.notices import Notice

Aspect = Literal["family", "weight", "style", "width", "optical size", "variant"]


class Evidence(Struct, frozen=True):
    """One thing that one source says: e.g. `weight`, "OS/2", "400"; or `style`, "file name", "italic"."""

    aspect: Aspect
    source: str
    says: str


class Face(Struct, frozen=True, kw_only=True):
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
    evidence: tuple[Evidence, ...] = ()
    #: The weights that it is to stand for, where a user says so.
    weights: tuple[int, int] | None = None

    @property
    def weight_range(self) -> tuple[int, int]:
        """From the lightest to the boldest that it can be: twice the same, unless it has a weight axis.

        CSS knows weights from 1 to 1000 only.
        """
        static = self.weights or (self.weight, self.weight)
        low, high = (min(max(round(end), 1), 1000) for end in dict(self.axes).get("wght", static))
        return low, high

    @property
    def width_range(self) -> tuple[float, float]:
        """From the narrowest to the widest that it can be, in percent."""
        return dict(self.axes).get("wdth", (self.width, self.width))

    @property
    def slant_range(self) -> tuple[float, float] | None:
        """How far it can lean, in degrees to the right as in CSS; None if it cannot be slanted."""
        if "slnt" not in (ranges := dict(self.axes)):
            return None
        low, high = ranges["slnt"]
        return -high + 0.0, -low + 0.0  # the axis turns counter-clockwise

    @property
    def styles(self) -> tuple[Style, ...]:
        """The styles that it has: its own, and oblique if it can be slanted."""
        leans = self.slant_range is not None and self.slant_range[1] > 0
        return (self.style, "oblique") if leans and self.style == "normal" else (self.style,)

    @property
    def is_variable(self) -> bool:
        """Whether it has axes of variation."""
        return bool(self.axes)

    def covers(self, other: Face) -> bool:
        """Whether this is a variable font that has the other, a static face of its family, among its locations."""
        if not self.axes or other.axes or (self.family, self.variant) != (other.family, other.variant):
            return False
        # A font that can be slanted has no italics, which are drawn by themselves.
        styles = {*self.styles, *(("italic",) if self.style == "normal" and "ital" in dict(self.axes) else ())}
        lightest, boldest = self.weight_range
        narrowest, widest = self.width_range
        return lightest <= other.weight <= boldest and narrowest <= other.width <= widest and other.style in styles

    @property
    def label(self) -> str:
        """E.g. "Bold Italic", for a menu; "Variable 300–800 Italic" for a variable face."""
        if not self.is_variable:
            return label_of(self.weight, self.style, self.width)
        return range_label(self.weight_range, self.style, self.width_range)

    @property
    def sort_key(self) -> tuple[str, float, int, str]:
        """Family by family; widths, weights, then upright before slanted."""
        return (self.family.casefold(), self.width, self.weight, {"normal": "0"}.get(self.style, self.style))
