"""The registry: what happens to each table of a font, by its tag.

A table that Aksara understands has a class of its own, listed in `CLASSES`. Of the others, `OPAQUE` are kept as their
bytes as far as they are needed, `USELESS` go, each with its reason, and so does what is not known at all.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec import Struct

from aksara.tables.base import Table
from aksara.tables.cff import Cff, Cff2
from aksara.tables.cmap import Cmap
from aksara.tables.colour import Cbdt, Cblc, Colr, Cpal, Sbix, Svg
from aksara.tables.device_metrics import Gasp, Hdmx, Ltsh
from aksara.tables.fvar import Fvar
from aksara.tables.glyf import Glyf, Loca
from aksara.tables.head import Head
from aksara.tables.hinting import ControlValues, FontProgram
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
from aksara.tables.subsetting import SubsetScope
from aksara.tables.variation.avar import Avar
from aksara.tables.variation.cvar import Cvar
from aksara.tables.variation.glyph_metrics import Hvar, Vvar
from aksara.tables.variation.gvar import Gvar
from aksara.tables.variation.mvar import Mvar
from aksara.tables.vertical import Vhea, Vmtx, Vorg

#: Tag → class, of every table that Aksara understands. A new table is added here.
CLASSES: dict[str, type[Table]] = {
    table_class.TAG: table_class
    for table_class in (
        # What layers and paints show is drawn with components in turn.
        *(Colr, Cpal, Svg, Sbix, Cbdt, Cblc),
        *(Head, Hhea, Maxp, OS2, Name, Post, Cmap, Hmtx, Loca, Glyf, Vhea, Vmtx, Vorg, Gasp, Hdmx, Ltsh),
        *(FontProgram, ControlValues),
        *(Fvar, Avar, Gvar, Cvar, Hvar, Vvar, Mvar, Stat),
        *(Gsub, Gpos, Gdef, Base, Math, Kern, Cff, Cff2),
    )
}


class OpaqueTable(Struct, frozen=True):
    """A table that is kept as its bytes, or dropped.

    `superseded_by` is the tag of a table beside which renderers pass this one over; `has_glyph_ids` says that it speaks
    of glyphs by their IDs, so that these must stay.
    """

    is_hinting: bool = False
    superseded_by: str = ""
    has_glyph_ids: bool = False

    def reason_to_drop(self, scope: SubsetScope) -> str | None:
        """As `Table.reason_to_drop`."""
        if self.superseded_by in scope.tags:
            return f"'{self.superseded_by}' does the same"
        return "hints are dropped" if self.is_hinting and not scope.hints else None


OPAQUE: dict[str, OpaqueTable] = {
    **dict.fromkeys(("prep", "VDMX"), OpaqueTable(is_hinting=True)),
    # Apple's layout tables count only where the OpenType ones are missing.
    **dict.fromkeys(("morx", "mort", "feat", "prop"), OpaqueTable(superseded_by="GSUB", has_glyph_ids=True)),
    **dict.fromkeys(
        ("kerx", "opbd", "bsln", "lcar", "trak", "ankr"), OpaqueTable(superseded_by="GPOS", has_glyph_ids=True)
    ),
}

_BITMAPS = "embedded bitmaps, which browsers do not use"
_DESIGN, _HINTING = "a note of the design program", "source of the hinting"
_GRAPHITE = "Graphite, which most browsers do not use"

#: Tag → why a web font does without the table.
USELESS: dict[str, str] = {
    "DSIG": "the signature does not hold for a changed font",
    **dict.fromkeys(("FFTM", "PfEd"), _DESIGN),
    **dict.fromkeys(("EBDT", "EBLC", "EBSC", "bdat", "bloc", "bhed"), _BITMAPS),
    "TTFA": "a note of the hinting program",
    "BDF ": "notes on embedded bitmaps",
    "PCLT": "for printers",
    "JSTF": "no browser justifies with it",
    **dict.fromkeys(("TSI0", "TSI1", "TSI2", "TSI3", "TSI5"), _HINTING),
    "meta": "notes on languages for font menus",
    **dict.fromkeys(("Silf", "Glat", "Gloc", "Feat", "Sill"), _GRAPHITE),
}

UNKNOWN = "no browser uses it"


def reason_to_drop(tag: str, scope: SubsetScope, classes: Mapping[str, type[Table]] = CLASSES) -> str | None:
    """Why a web font of this scope does without the table, in words; None for one that it may need."""
    if tag in USELESS:
        return USELESS[tag]
    rule: Callable[[SubsetScope], str | None] | None = None
    if tag in classes:
        rule = classes[tag].reason_to_drop
    elif tag in OPAQUE:
        rule = OPAQUE[tag].reason_to_drop
    return rule(scope) if rule is not None else UNKNOWN


def hinting_tags() -> frozenset[str]:
    """The tables that belong to the hints of TrueType outlines."""
    known = {tag for tag, table_class in CLASSES.items() if table_class.IS_HINTING}
    return frozenset(known | {tag for tag, table in OPAQUE.items() if table.is_hinting})
