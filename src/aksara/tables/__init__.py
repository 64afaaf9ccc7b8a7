"""OpenType tables: one module each, which owns its records, `parse`, `compile` and subsetting.

A new table is a new module, registered here by its class.
"""

from __future__ import annotations

from aksara.tables.base import Table
from aksara.tables.cmap import Cmap
from aksara.tables.fvar import Fvar
from aksara.tables.glyf import Glyf
from aksara.tables.head import Head
from aksara.tables.hhea import Hhea
from aksara.tables.hmtx import Hmtx
from aksara.tables.kern import Kern
from aksara.tables.loca import Loca
from aksara.tables.maxp import Maxp
from aksara.tables.name import Name
from aksara.tables.os2 import OS2
from aksara.tables.post import Post
from aksara.tables.stat import Stat

#: Tag → class of every table that Aksara understands. Others pass through as bytes.
REGISTRY: dict[str, type[Table]] = {
    kind.TAG: kind for kind in (Head, Hhea, Maxp, OS2, Name, Post, Cmap, Hmtx, Loca, Glyf, Kern, Fvar, Stat)
}

__all__ = [
    "OS2",
    "REGISTRY",
    "Cmap",
    "Fvar",
    "Glyf",
    "Head",
    "Hhea",
    "Hmtx",
    "Kern",
    "Loca",
    "Maxp",
    "Name",
    "Post",
    "Stat",
    "Table",
]
