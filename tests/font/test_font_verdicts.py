"""What `check` says of a font file holds against what Chromium does with it."""

from __future__ import annotations

import struct
from base64 import b64encode

from msgspec.structs import replace
from playwright.sync_api import Browser

from aksara.checking.font_facts import facts_of_font
from aksara.container import sfnt
from aksara.font import Font
from aksara.tables import Cff
from aksara.tables.cff.dicts import write_dict
from aksara.tables.cff.operators import CID_COUNT, ROS
from conftest import watched_page
from fonts import DEMO_FONTS, DEMO_SLABS, small_font

_SANS, _SLAB = (
    next(path for path in fonts if path.name.endswith(name))
    for fonts, name in ((DEMO_FONTS, "Sans-Regular.ttf"), (DEMO_SLABS, ".otf"))
)
_LOAD = """
data => {
  const bytes = Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0));
  return new FontFace('x', bytes.buffer).load().then(() => true, () => false);
}
"""
#: Table, where in it, and the bytes that come to stand there.
_CHANGED = {
    "head 2.0": ("head", 0, b"\0\2"),
    "head 1.1": ("head", 2, b"\0\1"),
    "format of glyph data": ("head", 52, b"\0\1"),
    "box reversed": ("head", 36, struct.pack(">hhhh", -500, 500, 500, 100)),
    "hhea 2.0": ("hhea", 0, b"\0\2"),
    "hhea 1.1": ("hhea", 2, b"\0\1"),
    "format of metrics": ("hhea", 32, b"\0\1"),
    "no zones": ("maxp", 14, b"\0\0"),
    "three zones": ("maxp", 14, b"\0\3"),
    "maxp 2.0": ("maxp", 0, b"\0\2\0\0"),
    "OS/2 9": ("OS/2", 0, b"\0\x09"),
}
_WHOLE = {
    "maxp 0.5": ("maxp", b"\0\0\x50\0\0\4"),
    "cvt of an odd length": ("cvt ", b"\0\1\0"),
    "empty fpgm": ("fpgm", b""),
    "empty DSIG": ("DSIG", b""),
}


def _padded(data: bytes) -> bytes:
    """A WOFF2 whose compressed length counts four bytes of padding in."""
    length, size = struct.unpack(">I", data[8:12])[0], struct.unpack(">I", data[20:24])[0]
    whole = data[:8] + struct.pack(">I", length + 4) + data[12:20] + struct.pack(">I", size + 4) + data[24:]
    return whole + bytes(4)


def _keyed(font: Font) -> tuple[bytes, bytes]:
    """The outlines of a font known by CIDs; and with the bounds of its glyphs in front of that."""
    cff = font.table(Cff)
    keyed, bounds = {ROS: (391, 392, 0)}, {5: (0, -200, 1000, 900)}
    glyphs = list(range(len(cff.charstrings)))
    top = {**keyed, **bounds, CID_COUNT: (len(glyphs),)}
    table = replace(cff, top=top, strings=[b"Adobe", b"Identity"], charset=glyphs).compile()
    one, other = write_dict(keyed), write_dict(bounds)
    assert one + other in table
    return table, table.replace(one + other, other + one)


def _fonts() -> dict[str, bytes]:
    sans, slab = Font.read(_SANS.read_bytes()), Font.read(_SLAB.read_bytes())
    tables = {tag: sans.raw(tag) for tag in sans}
    made = {"as it is": _SANS.read_bytes(), "PostScript outlines": _SLAB.read_bytes()}
    for name, (tag, at, data) in _CHANGED.items():
        made[name] = sfnt.write({**tables, tag: tables[tag][:at] + data + tables[tag][at + len(data) :]}, "\0\1\0\0")
    for name, (tag, data) in _WHOLE.items():
        made[name] = sfnt.write({**tables, tag: data}, "\0\1\0\0")
    outlines = {tag: slab.raw(tag) for tag in slab}
    count = outlines["maxp"][4:6]
    made["maxp 5.1 of PostScript outlines"] = sfnt.write({**outlines, "maxp": b"\0\0\x51\0" + count}, "OTTO")
    made["maxp 2.0 of PostScript outlines"] = sfnt.write({**outlines, "maxp": b"\0\2\0\0" + count}, "OTTO")
    for name, table in zip(("CID-keyed", "CID-keyed, with bounds before that"), _keyed(slab), strict=True):
        made[name] = sfnt.write({**outlines, "CFF ": table}, "OTTO")
    made["no outlines"] = small_font(glyphs=[b""] * 4)
    made["padding in the compressed data"] = _padded(sans.write("woff2"))
    made["compressed data cut short"] = sans.write("woff2")[:-9]
    return made


def test_chromium_loads_exactly_the_fonts_called_whole(browser: Browser) -> None:
    fonts = _fonts()
    said = {name: not facts_of_font(data, "font").problem for name, data in fonts.items()}
    with watched_page(browser) as (page, _):
        taken = {name: page.evaluate(_LOAD, b64encode(data).decode()) for name, data in fonts.items()}
    assert said == taken
    assert 8 <= sum(taken.values()) <= len(taken) - 8
