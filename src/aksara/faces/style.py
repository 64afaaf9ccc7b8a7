"""Weight, style and width in CSS terms, and their names."""

from __future__ import annotations

from typing import Literal, get_args

Style = Literal["normal", "italic", "oblique"]
STYLES: tuple[Style, ...] = get_args(Style)

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


def range_label(weights: tuple[int, int], style: Style, widths: tuple[float, float]) -> str:
    """The name in words of a face that can be varied: "Variable 300–800 Italic"; a range that is none has its name."""
    low, high = weights
    narrow, wide = widths
    fixed_width = narrow if narrow == wide else 100.0
    span = f" {narrow:g}–{wide:g}%" if narrow < wide else ""
    if low == high:
        return f"{label_of(low, style, fixed_width)}{span or ' variable'}"
    others = label_of(400, style, fixed_width).replace("Regular", "")
    return " ".join(f"Variable {low}–{high} {others}{span}".split())


def label_of(weight: int, style: Style, width: float = 100.0) -> str:
    """A face's name in words, from CSS's own names for weights and widths."""
    weight_name = WEIGHT_NAMES.get(weight, str(weight))
    width_name = WIDTH_NAMES.get(width, f"{width:g}%")
    slant = {"italic": "Italic", "oblique": "Oblique"}.get(style, "")
    if weight_name == "Regular" and (slant or width_name):
        weight_name = ""
    return " ".join(filter(None, (width_name, weight_name, slant)))
