"""OpenType tables: one module each, which owns its records, `parse`, `compile` and `subset`.

A new table is a new module, and a line in the registry.
"""

from aksara.tables.base import FontTables, ShapingTable, Table
from aksara.tables.cff import Cff, Cff2
from aksara.tables.cmap import Cmap
from aksara.tables.colour import Cbdt, Cblc, Colr, Cpal, Sbix, Svg
from aksara.tables.device_metrics import Gasp, Hdmx, Ltsh
from aksara.tables.fvar import Fvar
from aksara.tables.glyf import Glyf, Loca
from aksara.tables.head import Head
from aksara.tables.horizontal import Hhea, Hmtx
from aksara.tables.kern import Kern
from aksara.tables.layout.baseline import Base
from aksara.tables.layout.gdef import Gdef
from aksara.tables.layout.gpos import Gpos
from aksara.tables.layout.gsub import Gsub
from aksara.tables.math import Math
from aksara.tables.maxp import Maxp
from aksara.tables.name import Name
from aksara.tables.os2 import OS2
from aksara.tables.post import Post
from aksara.tables.stat import Stat
from aksara.tables.variation.avar import Avar
from aksara.tables.variation.cvar import Cvar
from aksara.tables.variation.glyph_metrics import Hvar, Vvar
from aksara.tables.variation.gvar import Gvar
from aksara.tables.variation.mvar import Mvar
from aksara.tables.vertical import Vhea, Vmtx, Vorg

__all__ = [
    "OS2",
    "Avar",
    "Base",
    "Cbdt",
    "Cblc",
    "Cff",
    "Cff2",
    "Cmap",
    "Colr",
    "Cpal",
    "Cvar",
    "FontTables",
    "Fvar",
    "Gasp",
    "Gdef",
    "Glyf",
    "Gpos",
    "Gsub",
    "Gvar",
    "Hdmx",
    "Head",
    "Hhea",
    "Hmtx",
    "Hvar",
    "Kern",
    "Loca",
    "Ltsh",
    "Math",
    "Maxp",
    "Mvar",
    "Name",
    "Post",
    "Sbix",
    "ShapingTable",
    "Stat",
    "Svg",
    "Table",
    "Vhea",
    "Vmtx",
    "Vorg",
    "Vvar",
]
