"""'CFF ': PostScript outlines (Adobe Technical Notes 5176, the format, and 5177, the charstrings)."""

from aksara.tables.cff.font_dicts import FontDict
from aksara.tables.cff.table import Cff

__all__ = ["Cff", "FontDict"]
