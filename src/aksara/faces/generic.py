"""The generic family that a font belongs to (CSS Fonts 4, section 2.1.2)."""

from __future__ import annotations

import string
from typing import Literal

from aksara.faces.letter_shapes import letter_shape
from aksara.font import Font
from aksara.tables import OS2, Head, Hmtx, Name, Post
from aksara.tables.head import MAC_ITALIC
from aksara.tables.name import FAMILY, FULL_NAME, TYPOGRAPHIC_FAMILY
from aksara.tables.os2 import ITALIC, OBLIQUE

Generic = Literal["serif", "sans-serif", "monospace", "cursive", "math", "emoji"]

# PANOSE: family kind 2 is Latin text, 3 is hand-written; serif styles from 11 on are without serifs.
_TEXT, _HAND = 2, 3
_FIRST_SANS, _LAST_SANS, _MONOSPACED = 11, 15, 9
# sFamilyClass, high byte.
_SERIF_CLASSES, _SANS_CLASS, _SCRIPT_CLASS = (1, 2, 3, 4, 5, 7), 8, 10
_LETTERS = [ord(character) for character in string.ascii_letters + string.digits]
#: The number of letters needed to decide whether all are equally wide.
_ENOUGH_LETTERS = 20
_PICTURES = range(0x1F300, 0x1FB00)
#: Degrees from which letters that are not called italic look written by hand.
_HAND_ANGLE = 8.0


def generic_family(font: Font) -> Generic:
    """From what it holds, its widths, PANOSE, the family class, the name, the angle, the shapes of its letters;
    'sans-serif' if nothing tells."""
    if sum(code in _PICTURES for code in font.characters) > len(font.characters) // 2:
        return "emoji"
    if "MATH" in font and "math" in _names(font):
        return "math"
    equal = _equally_wide(font)
    post, os2 = font.find(Post), font.find(OS2)
    if equal or (equal is None and post is not None and post.is_fixed_pitch):
        return "monospace"
    if os2 is not None:
        kind, serif, proportion = os2.panose[0], os2.panose[1], os2.panose[3]
        if kind == _TEXT and proportion == _MONOSPACED and equal is None:
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
    return _by_name(font) or ("cursive" if _leans_unasked(font) else letter_shape(font) or "sans-serif")


def _equally_wide(font: Font) -> bool | None:
    """Whether Latin letters and digits all take the same room; None if there are too few to tell."""
    advances = font.table(Hmtx).advances
    glyphs = [font.characters[code] for code in _LETTERS if code in font.characters]
    widths = {int(advances[glyph]) for glyph in glyphs if glyph < len(advances)}
    return len(widths) == 1 if len(glyphs) >= _ENOUGH_LETTERS else None


def _names(font: Font) -> str:
    table = font.find(Name)
    if table is None:
        return ""
    return " ".join(table.get(name_id) or "" for name_id in (FAMILY, TYPOGRAPHIC_FAMILY, FULL_NAME)).lower()


def _by_name(font: Font) -> Generic | None:
    name = _names(font)
    if "sans" in name:
        return "sans-serif"
    if any(word in name for word in ("serif", "slab", "roman")):
        return "serif"
    return "cursive" if any(word in name for word in ("script", "hand", "brush", "comic", "chancery")) else None


def _leans_unasked(font: Font) -> bool:
    """Whether letters lean though the font is not marked as the italic of another."""
    post, os2 = font.find(Post), font.find(OS2)
    marked = bool(font.table(Head).mac_style & MAC_ITALIC or (os2 and os2.fs_selection & (ITALIC | OBLIQUE)))
    return post is not None and abs(post.italic_degrees) >= _HAND_ANGLE and not marked
