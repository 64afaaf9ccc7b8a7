"""The numbers of the typeface: heights, stroke weights and spacing of each style (1000 units per em)."""

from __future__ import annotations

from msgspec import Struct, field

from penyu.pen import Contour, Path, clockwise, stroke

X, CAP, ASCENDER, DESCENDER, OVER = 512, 700, 742, -208, 11
FIGURE = 690


class Style(Struct, frozen=True):
    """One style: `v` and `h` are the weights of upright and level strokes, `cap_v` and `cap_h` those of capitals."""

    name: str
    weight: int
    v: float
    h: float
    cap_v: float
    cap_h: float
    side: float
    slant: float = 0.0

    @property
    def more(self) -> float:
        """How much heavier than regular, for widths that grow along."""
        return self.v - 84

    @property
    def italic(self) -> bool:
        return self.slant != 0


TANGENT = 0.176  # ten degrees
STYLES = (
    Style("Regular", 400, 84, 70, 90, 74, 80),
    Style("Italic", 400, 80, 68, 87, 72, 76, TANGENT),
    Style("Bold", 700, 146, 108, 156, 116, 60),
    Style("Bold Italic", 700, 141, 105, 151, 113, 57, TANGENT),
)


class Drawing(Struct):
    """A glyph in the making: ink from x 0 to `width`, and the space at its sides as parts of a stem's."""

    style: Style
    width: float
    left: float = 1.0
    right: float = 1.0
    contours: list[Contour] = field(default_factory=list)

    def add(self, *contours: Contour) -> Drawing:
        self.contours += contours
        return self

    def pen(self, path: Path, v: float | None = None, h: float | None = None) -> Drawing:
        """Draw along the path, with the style's own pen unless told otherwise."""
        contour = stroke(path, v or self.style.v, h or self.style.h)
        self.contours.append(clockwise(contour))
        return self
