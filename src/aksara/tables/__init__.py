"""OpenType tables: one module each, which owns its records, `parse`, `compile` and subsetting.

A new table is a new module, registered here by its class.
"""

from __future__ import annotations

from aksara.tables.base import Table
from aksara.tables.cff import Cff
from aksara.tables.cmap import Cmap
from aksara.tables.devices import Gasp, Hdmx, Ltsh
from aksara.tables.fvar import Fvar
from aksara.tables.glyf import Glyf
from aksara.tables.head import Head
from aksara.tables.hhea import Hhea
from aksara.tables.hmtx import Hmtx
from aksara.tables.kern import Kern
from aksara.tables.layout.baseline import Base
from aksara.tables.layout.gdef import Gdef
from aksara.tables.layout.gpos import Gpos
from aksara.tables.layout.gsub import Gsub
from aksara.tables.loca import Loca
from aksara.tables.math import Math
from aksara.tables.maxp import Maxp
from aksara.tables.name import Name
from aksara.tables.os2 import OS2
from aksara.tables.post import Post
from aksara.tables.stat import Stat
from aksara.tables.vertical import Vhea, Vmtx, Vorg

_KINDS: tuple[type[Table], ...] = (
    *(Head, Hhea, Maxp, OS2, Name, Post, Cmap, Hmtx, Loca, Glyf, Kern, Fvar, Stat),
    *(Vhea, Vmtx, Vorg, Gasp, Hdmx, Ltsh, Gsub, Gpos, Gdef, Base, Math, Cff),
)

#: Tag → class of every table that Aksara understands. Others pass through as bytes.
REGISTRY: dict[str, type[Table]] = {kind.TAG: kind for kind in _KINDS}

__all__ = [
    "OS2",
    "REGISTRY",
    "Base",
    "Cff",
    "Cmap",
    "Fvar",
    "Gasp",
    "Gdef",
    "Glyf",
    "Gpos",
    "Gsub",
    "Hdmx",
    "Head",
    "Hhea",
    "Hmtx",
    "Kern",
    "Loca",
    "Ltsh",
    "Math",
    "Maxp",
    "Name",
    "Post",
    "Stat",
    "Table",
    "Vhea",
    "Vmtx",
    "Vorg",
]
