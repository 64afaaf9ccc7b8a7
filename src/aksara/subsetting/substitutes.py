"""Tables that browsers insist on, for fonts that lack them."""

from __future__ import annotations

from pathlib import Path

from aksara.font import Font
from aksara.tables import OS2, Head, Hhea, Hmtx, Name, Post
from aksara.tables.base import Table
from aksara.tables.name import FAMILY, FULL_NAME, POSTSCRIPT_NAME, SUBFAMILY, NameRecord

_WINDOWS, _UNICODE, _US_ENGLISH = 3, 1, 0x0409
_BOLD, _ITALIC = 1, 2  # head.macStyle
_INSTALLABLE = 0


def substitutes(font: Font) -> tuple[list[Table], list[str]]:
    """What 'OS/2', 'name' and 'post' must be made up, from what else the font says, and a warning for each."""
    made: list[Table] = []
    warnings: list[str] = []
    if OS2.TAG not in font:
        made.append(_os2(font))
        warnings.append(
            "it has no table 'OS/2' (weight, width, permission to embed); regular ones are assumed: check your licence"
        )
    if Name.TAG not in font:
        made.append(_name(font))
        warnings.append("it has no table 'name' (family, copyright, licence); it is named after its file")
    if Post.TAG not in font:
        made.append(Post(0x00030000, 0, 0, 0, 0))
    return made, warnings


def _os2(font: Font) -> OS2:
    head, hhea, advances = font.table(Head), font.table(Hhea), font.table(Hmtx).advances
    em = head.units_per_em
    bold, italic = bool(head.mac_style & _BOLD), bool(head.mac_style & _ITALIC)
    # Sizes and places of super- and subscripts and the strike-out, in parts of the em, as is common.
    scripts = (em * 13 // 20, em * 3 // 5, 0, em * 3 // 40, em * 13 // 20, em * 3 // 5, 0, em * 7 // 20)
    selection = (bold << 5) | int(italic) or 1 << 6
    codes = [min(code, 0xFFFF) for code in font.characters] or [0]
    average = int(advances[advances > 0].mean()) if (advances > 0).any() else 0
    vertical = (hhea.ascender, hhea.descender, hhea.line_gap, max(hhea.ascender, 0), max(-hhea.descender, 0))
    return OS2(
        *(3, average, 700 if bold else 400, 5, _INSTALLABLE, *scripts, em // 20, em // 4, 0, bytes(10), 0, 0, 0, 0),
        *(b"    ", selection, min(codes), max(codes), *vertical, 0, 0, 0, 0, 0, 32, 0),
    )


def _name(font: Font) -> Name:
    stem = Path(font.path).stem or "Font"
    plain = "".join(letter for letter in stem if letter.isascii() and letter.isalnum()) or "Font"
    texts = {FAMILY: stem, SUBFAMILY: "Regular", FULL_NAME: stem, POSTSCRIPT_NAME: plain[:63]}
    return Name(
        tuple(
            NameRecord(_WINDOWS, _UNICODE, _US_ENGLISH, n, t.encode("utf-16-be", "replace")) for n, t in texts.items()
        )
    )
