"""Two more typefaces of Penyu Ferries to choose from: Selat (strait) is narrow, Ombak (wave) heavy, for posters."""

from __future__ import annotations

from msgspec.structs import replace

from penyu.design import Drawing, Style

NARROW, POSTER = "Penyu Selat", "Penyu Ombak"
#: How wide a letter of the narrow one is, as a part of what it is drawn as.
_NARROWED = 0.74
#: Its pen is as much wider, so that its stems keep their weight.
STYLES = {
    NARROW: Style("Regular", 400, 84 / _NARROWED, 74, 90 / _NARROWED, 80, 66 / _NARROWED),
    POSTER: Style("Regular", 900, 178, 132, 190, 142, 34),
}


def narrowed(name: str, drawing: Drawing) -> Drawing:
    """The drawing, with everything in it narrower."""
    contours = [[(x * _NARROWED, y, on) for x, y, on in contour] for contour in drawing.contours]
    return replace(drawing, contours=contours, width=drawing.width * _NARROWED)


def as_drawn(name: str, drawing: Drawing) -> Drawing:
    """The drawing as it is."""
    return drawing
