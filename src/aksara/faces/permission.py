"""The embedding permission that a font carries (OS/2 fsType), in plain words."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from aksara.font import Font
from aksara.tables import OS2

_RESTRICTED, _PREVIEW, _EDITABLE, _NO_SUBSETTING, _BITMAPS = 0x0002, 0x0004, 0x0008, 0x0100, 0x0200
_RESERVED = 0xFCF1


Permission = Literal["installable", "editable", "preview and print", "restricted", "unknown"]


class Embedding(Struct, frozen=True):
    """The font's embedding permissions, bit by bit."""

    permission: Permission
    no_subsetting: bool = False
    bitmaps_only: bool = False
    contradictory: bool = False
    reserved_bits: bool = False

    @property
    def forbids_web_fonts(self) -> bool:
        """Whether the font's own flags forbid subsetting or embedding."""
        return self.permission == "restricted" or self.no_subsetting or self.bitmaps_only

    @property
    def short(self) -> str:
        """For a column: "installable", "restricted, no subsetting"."""
        extra = ", no subsetting" * self.no_subsetting + ", bitmaps only" * self.bitmaps_only
        return self.permission + extra

    @property
    def words(self) -> str:
        """A sentence for people; it repeats the font's flags and is not legal advice."""
        text = _WORDS[self.permission]
        if self.no_subsetting:
            text += "; must not be subsetted"
        if self.bitmaps_only:
            text += "; only its bitmaps may be embedded"
        if self.contradictory:
            text += "; it gives several permissions at once, of which the least strict counts"
        if self.reserved_bits:
            text += "; it also has marks that mean nothing yet"
        return text


# Least strict first.
_PERMISSIONS: tuple[tuple[int, Permission], ...] = (
    (_EDITABLE, "editable"),
    (_PREVIEW, "preview and print"),
    (_RESTRICTED, "restricted"),
)
_WORDS: dict[Permission, str] = {
    "installable": "installable: the font itself sets no limits on embedding",
    "editable": "editable: may be embedded in documents that can be edited",
    "preview and print": "preview and print: may be embedded in documents for viewing and printing only",
    "restricted": "restricted: must not be embedded without the maker's permission",
    "unknown": "the font does not say",
}


def embedding(font: Font) -> Embedding:
    """The meaning of fsType. If several exclusive bits are set, the least restrictive counts (OS/2 0 to 2)."""
    os2 = font.find(OS2)
    if os2 is None:
        return Embedding("unknown")
    bits = os2.fs_type
    given = [name for bit, name in _PERMISSIONS if bits & bit]
    return Embedding(
        given[0] if given else "installable",
        no_subsetting=bool(bits & _NO_SUBSETTING),
        bitmaps_only=bool(bits & _BITMAPS),
        contradictory=len(given) > 1,
        reserved_bits=bool(bits & _RESERVED),
    )
