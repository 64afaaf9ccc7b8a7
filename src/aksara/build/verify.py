"""What was written is read again and compared before it counts as written.

WOFF2 has no checksums: a wrong byte would pass every browser's checks and show as a wrong glyph.
"""

from __future__ import annotations

from aksara.container.woff2 import mark_lossless
from aksara.container.woff2.glyf import transform
from aksara.errors import OutputError
from aksara.font import Font

# 'head' differs by its checksum adjustment; 'glyf' and 'loca' may be packed anew.
_REPACKED = ("head", "glyf", "loca")


def verify(data: bytes, font: Font) -> None:
    """Raise `OutputError` unless the file holds just what the font does."""
    back = Font.read(data, font.path)
    same = set(back) == set(font) and all(back.raw(tag) == font.raw(tag) for tag in font if tag not in _REPACKED)
    if same and "glyf" in font:
        if back.container == "woff2":
            same = _outlines(back) == _outlines(font)
        else:
            same = all(back.raw(tag) == font.raw(tag) for tag in ("glyf", "loca"))
    if not (same and _plain_head(back) == _plain_head(font)):
        raise OutputError(f"{font.path}: the file made of it does not read back the same; please report this font")


def _outlines(font: Font) -> bytes:
    """The outlines in WOFF2's transformed form, in which each has just one, but for the format of 'loca' in it."""
    data, _ = transform({tag: font.raw(tag) for tag in ("glyf", "loca", "head", "maxp")})
    return data[:6] + data[8:]


def _plain_head(font: Font) -> bytes:
    """'head' without what containers set: the adjustment, the flag for lossless transforms, the format of 'loca'."""
    head = mark_lossless(font.raw("head"))
    return head[:8] + head[12:50] + head[52:]
