"""Colour: glyphs in layers and paints, and the palettes that these take from (OpenType 1.9.1, "Color fonts")."""

from aksara.tables.colour.cbdt import Cbdt, Cblc
from aksara.tables.colour.colr import Colr
from aksara.tables.colour.cpal import Cpal
from aksara.tables.colour.sbix import Sbix
from aksara.tables.colour.svg import Svg

__all__ = ["Cbdt", "Cblc", "Colr", "Cpal", "Sbix", "Svg"]
