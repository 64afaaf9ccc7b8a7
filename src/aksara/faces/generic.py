"""The generic family that a font belongs to (CSS Fonts 4, section 2.1.2)."""

from __future__ import annotations

from typing import Literal

from aksara.font import Font
from aksara.tables import OS2, Name, Post
from aksara.tables.name import FAMILY

Generic = Literal["serif", "sans-serif", "monospace", "cursive"]

# PANOSE: family kind 2 is Latin text, 3 is hand-written; serif styles from 11 on are without serifs.
_TEXT, _HAND = 2, 3
_FIRST_SANS, _LAST_SANS, _MONOSPACED = 11, 15, 9
# sFamilyClass, high byte.
_SERIF_CLASSES, _SANS_CLASS, _SCRIPT_CLASS = (1, 2, 3, 4, 5, 7), 8, 10


def generic_family(font: Font) -> Generic:
    """From PANOSE, else the family class, else the name; 'sans-serif' if nothing tells."""
    post, os2 = font.find(Post), font.find(OS2)
    if post is not None and post.is_fixed_pitch:
        return "monospace"
    if os2 is not None:
        kind, serif, proportion = os2.panose[0], os2.panose[1], os2.panose[3]
        if kind == _TEXT and proportion == _MONOSPACED:
            return "monospace"
        if kind == _HAND:
            return "cursive"
        if kind == _TEXT and serif > 1:
            return "sans-serif" if _FIRST_SANS <= serif <= _LAST_SANS else "serif"
        family_class = os2.family_class >> 8
        if family_class in _SERIF_CLASSES:
            return "serif"
        if family_class == _SANS_CLASS:
            return "sans-serif"
        if family_class == _SCRIPT_CLASS:
            return "cursive"
    return _by_name(font)


def _by_name(font: Font) -> Generic:
    table = font.find(Name)
    name = ((table.get(FAMILY) if table else None) or "").lower()
    if "mono" in name:
        return "monospace"
    if "sans" in name:
        return "sans-serif"
    if any(word in name for word in ("serif", "slab", "roman")):
        return "serif"
    return "cursive" if any(word in name for word in ("script", "hand", "brush")) else "sans-serif"
