"""`Face`: one member of a family, in the terms of CSS."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from aksara.faces.evidence import Evidence

Style = Literal["normal", "italic", "oblique"]

# CSS Fonts 4, section 2.2.1, "Common weight name mapping".
WEIGHT_NAMES = {
    100: "Thin",
    200: "Extra Light",
    300: "Light",
    400: "Regular",
    500: "Medium",
    600: "Semi Bold",
    700: "Bold",
    800: "Extra Bold",
    900: "Black",
}
# CSS Fonts 4, section 2.4, and OS/2 usWidthClass 1 to 9.
WIDTH_NAMES = {
    50.0: "Ultra Condensed",
    62.5: "Extra Condensed",
    75.0: "Condensed",
    87.5: "Semi Condensed",
    100.0: "",
    112.5: "Semi Expanded",
    125.0: "Expanded",
    150.0: "Extra Expanded",
    200.0: "Ultra Expanded",
}


@dataclass(slots=True, frozen=True)
class Face:
    """`weight` is 1 to 1000, `width` in percent; `findings` are oddities, in words, about how it was identified.

    `variant` is what its names say besides (an optical size, "Outline"); `axes` are the ranges of a variable font's
    axes by tag; `evidence` is what the identification rests on.
    """

    path: str
    family: str
    weight: int
    style: Style
    width: float = 100.0
    findings: tuple[str, ...] = ()
    variant: str = ""
    axes: tuple[tuple[str, tuple[float, float]], ...] = ()
    evidence: tuple[Evidence, ...] = field(default=(), repr=False)

    @property
    def weight_range(self) -> tuple[int, int]:
        """From the lightest to the boldest that it can be: twice the same, unless it has a weight axis."""
        low, high = dict(self.axes).get("wght", (self.weight, self.weight))
        return round(low), round(high)

    @property
    def label(self) -> str:
        """E.g. "Bold Italic", for a menu."""
        return label_of(self.weight, self.style, self.width)

    @property
    def sort_key(self) -> tuple[str, float, int, str]:
        """Family by family; widths, weights, then upright before slanted."""
        return (self.family.casefold(), self.width, self.weight, {"normal": "0"}.get(self.style, self.style))


def label_of(weight: int, style: Style, width: float = 100.0) -> str:
    """A face's name in words, from CSS's own names for weights and widths."""
    weight_name = WEIGHT_NAMES.get(weight, str(weight))
    width_name = WIDTH_NAMES.get(width, f"{width:g}%")
    slant = {"italic": "Italic", "oblique": "Oblique"}.get(style, "")
    if weight_name == "Regular" and (slant or width_name):
        weight_name = ""
    return " ".join(filter(None, (width_name, weight_name, slant)))
