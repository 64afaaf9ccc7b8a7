"""SVG 1.1 fonts ("Fonts", chapter 20): outlines, advances, kerning and ligatures of a font as XML.

For upload forms that still have a place for them, and for iPhones of before 2011. They cannot vary, nor be hinted.
"""

from aksara.svg_fonts.document import can_stand_in_xml, svg_font
from aksara.svg_fonts.reading import read_svg_font

__all__ = ["can_stand_in_xml", "read_svg_font", "svg_font"]
