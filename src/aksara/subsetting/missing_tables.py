"""Tables that browsers insist on, for fonts without them."""

from __future__ import annotations

from pathlib import Path

from aksara.font import Font
from aksara.tables import OS2, Head, Hhea, Hmtx, Name, Post, Table
from aksara.tables.head import MAC_BOLD, MAC_ITALIC
from aksara.tables.name import FAMILY, FULL_NAME, POSTSCRIPT_NAME, SUBFAMILY, NameRecord
from aksara.tables.os2 import BOLD, ITALIC, REGULAR
from aksara.tables.platforms import WINDOWS
from aksara.tables.post import VERSION_3_0, PostHeader

_UNICODE_BMP, _US_ENGLISH = 1, 0x0409
_INSTALLABLE = 0


def made_up_tables(font: Font) -> tuple[list[Table], list[str]]:
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
        header = PostHeader(
            version=VERSION_3_0, italic_angle=0, underline_position=0, underline_thickness=0, is_fixed_pitch=0
        )
        made.append(Post(header))
    return made, warnings


def _os2(font: Font) -> OS2:
    head, hhea, advances = font.table(Head), font.table(Hhea), font.table(Hmtx).advances
    em = head.units_per_em
    bold, italic = bool(head.mac_style & MAC_BOLD), bool(head.mac_style & MAC_ITALIC)
    codes = [min(code, 0xFFFF) for code in font.characters] or [0]
    return OS2(
        version=3,
        x_avg_char_width=int(advances[advances > 0].mean()) if (advances > 0).any() else 0,
        weight_class=700 if bold else 400,
        width_class=5,
        fs_type=_INSTALLABLE,
        # Sizes and offsets of super- and subscripts and the strike-out, in parts of the em, as is common.
        y_subscript_x_size=em * 13 // 20,
        y_subscript_y_size=em * 3 // 5,
        y_subscript_x_offset=0,
        y_subscript_y_offset=em * 3 // 40,
        y_superscript_x_size=em * 13 // 20,
        y_superscript_y_size=em * 3 // 5,
        y_superscript_x_offset=0,
        y_superscript_y_offset=em * 7 // 20,
        y_strikeout_size=em // 20,
        y_strikeout_position=em // 4,
        family_class=0,
        panose=bytes(10),
        unicode_range1=0,
        unicode_range2=0,
        unicode_range3=0,
        unicode_range4=0,
        vendor=b"    ",
        fs_selection=BOLD * bold | ITALIC * italic or REGULAR,
        first_char_index=min(codes),
        last_char_index=max(codes),
        typo_ascender=hhea.ascender,
        typo_descender=hhea.descender,
        typo_line_gap=hhea.line_gap,
        win_ascent=max(hhea.ascender, 0),
        win_descent=max(-hhea.descender, 0),
        code_page_range1=0,
        code_page_range2=0,
        x_height=0,
        cap_height=0,
        default_char=0,
        break_char=32,
        max_context=0,
    )


def _name(font: Font) -> Name:
    stem = Path(font.path).stem or "Font"
    plain = "".join(letter for letter in stem if letter.isascii() and letter.isalnum()) or "Font"
    texts = {FAMILY: stem, SUBFAMILY: "Regular", FULL_NAME: stem, POSTSCRIPT_NAME: plain[:63]}
    return Name(
        tuple(
            NameRecord(WINDOWS, _UNICODE_BMP, _US_ENGLISH, name_id, text.encode("utf-16-be", "replace"))
            for name_id, text in texts.items()
        )
    )
