"""Which of several ways to draw in colour a font keeps: one, so that readers fetch no other."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, get_args

from aksara.font import Font
from aksara.notices import Noted, Notice
from aksara.sizes import format_size

ColourFormat = Literal["auto", "colr", "svg", "sbix", "cbdt"]
COLOUR_FORMATS: tuple[ColourFormat, ...] = get_args(ColourFormat)
#: The tables of each way; the first says that a font has it.
_TABLES: Mapping[ColourFormat, tuple[str, ...]] = {
    "colr": ("COLR", "CPAL"), "svg": ("SVG ",), "sbix": ("sbix",), "cbdt": ("CBDT", "CBLC"),
}  # fmt: skip
#: Who draws it.
_DRAWN_BY: Mapping[ColourFormat, str] = {
    "colr": "Chromium and Firefox", "svg": "Firefox and Safari", "sbix": "Safari and Chromium",
    "cbdt": "Chromium, and Firefox on some systems",
}  # fmt: skip


def with_one_format(font: Font, choice: ColourFormat) -> Noted[Font]:
    """The font with one of its ways to draw in colour, if it has several: the one that was chosen, else COLR, else the
    smallest. The notices say what each takes."""
    notices: list[Notice] = []
    sizes: dict[ColourFormat, int] = {
        name: sum(len(font.raw(tag)) for tag in tags if tag in font)
        for name, tags in _TABLES.items()
        if tags[0] in font
    }
    if choice != "auto" and sizes and choice not in sizes:
        there = " and ".join(name.upper() for name in sizes)
        notices.append(Notice(font.path, f"it has no {choice.upper()}; it draws in colour by {there}, which stays"))
        choice = "auto"
    if len(sizes) < 2:
        return Noted(font, tuple(notices))
    kept: ColourFormat = choice
    if kept == "auto":
        kept = "colr" if "colr" in sizes else min(sizes, key=lambda name: (sizes[name], name))
    listed = ", ".join(f"{name.upper()} ({format_size(size)}, for {_DRAWN_BY[name]})" for name, size in sizes.items())
    text = f"it draws in colour by {listed}; {kept.upper()} is kept"
    notices.append(Notice(font.path, text, "FamilyRequest.colour_format"))
    # Drawings may take their colours from palettes, too.
    stays = {*_TABLES[kept], *(("CPAL",) if kept == "svg" else ())}
    gone = [tag for tags in _TABLES.values() for tag in tags if tag in font and tag not in stays]
    return Noted(font.replaced(dropped=gone), tuple(notices))
