"""What the typefaces say about themselves: names, licence, metrics of the whole."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aksara.tables import OS2, Name
from aksara.tables.name import NameRecord
from penyu.design import CAP, Style, X

VERSION = "1.000"
COPYRIGHT = "Copyright 2026 Penyu Ferries. Made up, like the ferry line itself, to show what Aksara does."
LICENCE = (
    "This typeface may be used, changed, embedded, subsetted and passed on by anyone, on the web and elsewhere, "
    "free of charge, as long as this notice stays with it."
)
LICENCE_URL = "https://penyu.example/type/licence"
ASCENT, DESCENT = 990, 270


def os2_table(
    style: Style, characters: dict[int, int], advances: NDArray[np.uint16], y0: int, y1: int, *, serifs: bool
) -> OS2:
    bold, italic = style.weight >= 700, style.italic
    selection = 1 << 7 | (bold << 5) | int(italic) | ((not bold and not italic) << 6)
    panose = bytes((2, 6 if serifs else 11, 8 if bold else 5, 3, 3, 4, 2, 2, 2, 4))
    average = round(float(advances[advances > 0].mean()))
    ranges = sum(1 << bit for bit in (0, 1, 2, 29, 31)), sum(1 << (bit - 32) for bit in (33, 37, 38))
    return OS2(
        version=4, x_avg_char_width=average, weight_class=style.weight, width_class=5, fs_type=0,
        y_subscript_x_size=650, y_subscript_y_size=600, y_subscript_x_offset=0, y_subscript_y_offset=75,
        y_superscript_x_size=650, y_superscript_y_size=600, y_superscript_x_offset=0, y_superscript_y_offset=350,
        y_strikeout_size=round(style.h), y_strikeout_position=300, family_class=0x0500 if serifs else 0x0802,
        panose=panose, unicode_range1=ranges[0], unicode_range2=ranges[1], unicode_range3=0, unicode_range4=0,
        vendor=b"PNYU", fs_selection=selection, first_char_index=min(characters), last_char_index=max(characters),
        typo_ascender=ASCENT, typo_descender=-DESCENT, typo_line_gap=0, win_ascent=max(ASCENT, y1),
        win_descent=max(DESCENT, -y0), code_page_range1=1 << 0 | 1 << 1 | 1 << 4 | 1 << 8, code_page_range2=0,
        x_height=X, cap_height=CAP, default_char=0, break_char=32, max_context=2,
    )  # fmt: skip


def name_table(style: Style, family: str) -> Name:
    full = family if style.name == "Regular" else f"{family} {style.name}"
    postscript = f"{family}-{style.name}".replace(" ", "")
    texts = {
        0: COPYRIGHT, 1: family, 2: style.name, 3: f"{VERSION};PNYU;{postscript}", 4: full, 5: f"Version {VERSION}",
        6: postscript, 8: "Penyu Ferries", 9: "A script of Aksara's", 13: LICENCE, 14: LICENCE_URL,
    }  # fmt: skip
    return Name(tuple(NameRecord(3, 1, 0x409, number, text.encode("utf-16-be")) for number, text in texts.items()))
