"""Colour: glyphs in layers and paints, and the palettes that these take from (OpenType 1.9.1, "Color fonts")."""

from aksara.tables.colour.colr import Colr
from aksara.tables.colour.cpal import Cpal

__all__ = ["Colr", "Cpal"]
