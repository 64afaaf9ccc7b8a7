"""'CFF ' and 'CFF2': PostScript outlines (Adobe Technical Notes 5176, the format, and 5177, the charstrings; OpenType
1.9.1, 'CFF2')."""

from aksara.tables.cff.cff2 import Cff2
from aksara.tables.cff.font_dicts import FontDict
from aksara.tables.cff.table import Cff

__all__ = ["Cff", "Cff2", "FontDict"]
