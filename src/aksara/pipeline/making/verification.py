"""Reading files back after writing, and comparing them with what was meant.

WOFF2 has no checksums: a wrong byte would pass every browser's checks and show as a wrong glyph.
"""

from __future__ import annotations

from aksara.container.woff2 import mark_lossless
from aksara.errors import FontError, OutputError
from aksara.font import Font
from aksara.tables import Glyf, Head, Hmtx, Loca
from aksara.truetype.glyph_data import first_difference

#: Tables whose bytes a container may change though they say the same: checksums, and how outlines are laid out.
_REWRITTEN = (Head.TAG, Glyf.TAG, Loca.TAG)


def verify_file(data: bytes, font: Font, metadata: bytes = b"") -> None:
    """Raise `OutputError` unless the file contains exactly the font's tables and this metadata."""
    back, font = Font.read(data, font.path), font.as_read()
    if (difference := _difference(back, font)) is None and back.metadata == metadata:
        return
    raise OutputError(
        f"{font.path}: the file made from it does not read back the same ({difference or 'its metadata differ'}); "
        "please report this font"
    )


def verify_svg(data: bytes, font: Font) -> None:
    """Raise `OutputError` unless the SVG font has each character of the font, that XML can hold, with its advance."""
    from aksara.svg_fonts import can_stand_in_xml, read_svg_font  # hardly a build makes one

    advances = font.table(Hmtx).advances
    try:
        drawn = read_svg_font(data).glyphs
        held = {chr(code): glyph for code, glyph in font.characters.items() if can_stand_in_xml(chr(code))}
        lost = [text for text, glyph in held.items() if drawn[text][0] != advances[glyph]]
    except (FontError, KeyError, ValueError) as error:
        lost = [str(error)]
    if lost:
        raise OutputError(f"{font.path}: the SVG font made from it is missing {lost[0]!r}; please report this font")


def _difference(back: Font, font: Font) -> str | None:
    """Where the two first differ, in words; None if they are the same."""
    if set(back) != set(font):
        return f"tables {', '.join(sorted(set(back) ^ set(font)))}"
    for tag in font:
        if tag not in _REWRITTEN and back.raw(tag) != font.raw(tag):
            return f"table '{tag}'"
    if _plain_head(back) != _plain_head(font):
        return f"table '{Head.TAG}'"
    if Glyf.TAG not in font or all(back.raw(tag) == font.raw(tag) for tag in (Glyf.TAG, Loca.TAG)):
        return None
    glyph = first_difference(back.table(Glyf).glyphs, font.table(Glyf).glyphs)
    return f"glyph {glyph}" if glyph is not None else None


def _plain_head(font: Font) -> bytes:
    """'head' without what containers set: the adjustment, the flag for lossless transforms, the format of 'loca'."""
    head = mark_lossless(font.raw(Head.TAG))
    return head[:8] + head[12:50] + head[52:]
