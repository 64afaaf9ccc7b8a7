"""Small fonts with paints (COLR version 1)."""

from __future__ import annotations

import struct

from aksara.font import Font, open_font
from fonts import words
from variable import KARLA

#: Paint formats, each with the layout of what follows its paint or colour line, and values: by the specification alone.
_F = 1 << 14


_FIELDS: dict[int, tuple[str, tuple[int, ...]]] = {
    2: ("Hh", (1, _F // 2)),
    4: ("hhhhhh", (0, 0, 600, 600, 0, 300)),
    6: ("hhHhhH", (200, 300, 10, 260, 300, 400)),
    8: ("hhhh", (300, 300, 0, _F)),
    14: ("hh", (60, -40)),
    16: ("hh", (_F // 2, _F * 3 // 4)),
    18: ("hhhh", (_F // 2, _F // 3, 200, 300)),
    20: ("h", (_F // 2,)),
    22: ("hhh", (_F // 2, 200, 300)),
    24: ("h", (_F // 12,)),
    26: ("hhh", (_F // 8, 200, 300)),
    28: ("hh", (_F // 10, 0)),
    30: ("hhhh", (_F // 10, _F // 20, 200, 300)),
}


_ROW = struct.pack(">I", 0)


def u24(number: int) -> bytes:
    return number.to_bytes(3, "big")


def solid(colour: int) -> bytes:
    return bytes([2]) + struct.pack(">Hh", colour, _F)


def _on_glyph(glyph: int, paint: bytes) -> bytes:
    return bytes([10]) + u24(6) + words(glyph) + paint


def _line(*, varies: bool) -> bytes:
    stops = b"".join(struct.pack(">hHh", place, colour, _F) + _ROW * varies for place, colour in ((0, 0), (_F, 2)))
    return bytes([1]) + words(2) + stops


def paint_bytes(paint_format: int, glyph: int) -> bytes:
    """A paint of that format that shows something of the glyph."""
    varies = paint_format % 2 == 1 and paint_format not in (1, 11)
    kind = paint_format - varies
    if kind == 1:
        return bytes([1, 2]) + struct.pack(">I", 1)
    if kind == 11:
        return bytes([11]) + words(1)
    if kind == 32:
        source, backdrop = _on_glyph(glyph, solid(0)), _on_glyph(glyph + 1, solid(1))
        return bytes([32]) + u24(8) + bytes([5]) + u24(8 + len(source)) + source + backdrop
    if kind == 12:
        matrix = struct.pack(">6i", 1 << 16, 1 << 14, -(1 << 13), 1 << 16, 20 << 16, -30 << 16) + _ROW * varies
        return bytes([paint_format]) + u24(7 + len(matrix)) + u24(7) + matrix + _on_glyph(glyph, solid(2))
    if kind == 10:
        return _on_glyph(glyph, solid(1))
    layout, values = _FIELDS[kind]
    fields = struct.pack(f">{layout}", *values) + _ROW * varies
    if kind == 2:
        return _on_glyph(glyph, bytes([paint_format]) + fields)
    if kind in (4, 6, 8):
        return _on_glyph(glyph, bytes([paint_format]) + u24(4 + len(fields)) + fields + _line(varies=varies))
    return bytes([paint_format]) + u24(4 + len(fields)) + fields + _on_glyph(glyph, solid(2))


def _store() -> bytes:
    """One region, the whole upper half of the first axis, and six rows."""
    regions = words(1, 1, 0, _F, _F)
    data = words(6, 1, 1, 0) + words(2000, 40, 60, 80, 100, 120)
    return words(1) + struct.pack(">I", 12) + words(1) + struct.pack(">I", 12 + len(regions)) + regions + data


def colr_bytes(paints: dict[int, bytes], layers: list[bytes]) -> bytes:
    """Version 1 with these paints and shared layers, and a clip box for all of them."""
    glyphs, at = struct.pack(">I", len(paints)), 4 + 6 * len(paints)
    for glyph, paint in paints.items():
        glyphs += struct.pack(">HI", glyph, at)
        at += len(paint)
    glyphs += b"".join(paints.values())
    shared, at = struct.pack(">I", len(layers)), 4 + 4 * len(layers)
    for layer in layers:
        shared += struct.pack(">I", at)
        at += len(layer)
    shared += b"".join(layers)
    clips = bytes([1]) + struct.pack(">I", 1) + words(min(paints), max(paints)) + u24(12)
    clips += bytes([2]) + words(-200, -400, 900, 1000) + struct.pack(">I", 2)
    parts, head = [glyphs, shared, clips, b"", _store()], 34
    places = []
    for part in parts:
        places.append(head if part else 0)
        head += len(part)
    return words(1, 0) + struct.pack(">IIH5I", 0, 0, 0, *places) + b"".join(parts)


def palettes() -> bytes:
    colours = [(0x20, 0x30, 0xC0), (0xE0, 0x80, 0x10), (0x10, 0x90, 0x60), (9, 9, 9)]
    other = [(0xF0, 0xF0, 0x60), (0x60, 0x10, 0x90), (0x10, 0xC0, 0xF0), (8, 8, 8)]
    stored = b"".join(bytes((blue, green, red, 255)) for red, green, blue in (*colours, *other))
    offsets = struct.pack(">III", 28 + 32, 28 + 40, 0)
    return (
        words(1, 4, 2, 8)
        + struct.pack(">I", 28)
        + words(0, 4)
        + offsets
        + stored
        + struct.pack(">II", 1, 2)
        + words(0xFFFF, 1)
    )


LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdef"


def painted_font() -> Font:
    """Karla with a letter for each format of paints, all of which vary that can."""
    font = open_font(KARLA)
    glyphs = {font.characters[ord(letter)]: number for number, letter in enumerate(LETTERS, 1)}
    layers = [_on_glyph(glyph, solid(n % 3)) for n, glyph in enumerate(glyphs) if n < 3]
    paints = {glyph: paint_bytes(number, glyph) for glyph, number in sorted(glyphs.items())}
    # A paint that shows another glyph shows one that is painted itself.
    other = font.characters[ord("B")]
    paints = {
        glyph: paint.replace(bytes([11]) + words(1), bytes([11]) + words(other)) for glyph, paint in paints.items()
    }
    return font.with_data({"COLR": colr_bytes(paints, layers), "CPAL": palettes()})
