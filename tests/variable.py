"""Variable fonts for the tests: where they are, places on their axes, and one with CFF2 outlines."""

from __future__ import annotations

import random
import struct
from collections.abc import Iterator, Mapping, Sequence
from functools import cache

import numpy as np

from aksara.font import Font, open_font
from aksara.tables import Cff2, Fvar, Glyf, Gvar, Maxp
from aksara.tables.cff import FontDict
from aksara.tables.cff.commands import HSTEM, RCURVE, RLINE, RMOVE, Command, Operand, Program, write_program
from aksara.tables.variation.item_variation_store import ItemVariationData, ItemVariationStore
from aksara.tables.variation.sparse import GlyphVariations
from fonts import DEMO_FONTS, SYSTEM

PENYU = DEMO_FONTS[0].with_name("PenyuSans[slnt,wght].ttf")
KARLA = SYSTEM / "karla-variable/Karla[wght].ttf"
INTER = SYSTEM / "inter-vf/Inter.var.ttf"

Place = Mapping[str, float]


def places(font: Font, *, randomly: int, seed: int = 1) -> Iterator[Place]:
    """The default, the extremes, the named instances, and some places at random, in the axes' own units."""
    axes, chance = font.table(Fvar).axes, random.Random(seed)
    yield {axis.tag: axis.default_value for axis in axes}
    yield {axis.tag: axis.range[0] for axis in axes}
    yield {axis.tag: axis.range[1] for axis in axes}
    yield from (instance.location(axes) for instance in font.table(Fvar).instances)
    for _ in range(randomly):
        yield {axis.tag: round(chance.uniform(*axis.range), 2) for axis in axes}


def collection(fonts: Sequence[Font]) -> bytes:
    """The fonts in one TTC file."""
    files = [font.write("sfnt") for font in fonts]
    out = bytearray(struct.pack(">4sII", b"ttcf", 0x10000, len(files)) + bytes(4 * len(files)))
    for number, data in enumerate(files):
        start = len(out)
        struct.pack_into(">I", out, 12 + 4 * number, start)
        moved = bytearray(data)
        for entry in range(int.from_bytes(data[4:6], "big")):
            at = 12 + 16 * entry + 8
            struct.pack_into(">I", moved, at, int.from_bytes(data[at : at + 4], "big") + start)
        out += moved
    return bytes(out)


@cache
def with_postscript_outlines() -> Font:
    """Penyu Sans with its outlines as 'CFF2': each curve has the same shape, each number varies by the same regions."""
    font = open_font(PENYU)
    glyf, gvar = font.table(Glyf), font.table(Gvar)
    glyphs = [n for n in range(len(glyf.glyphs)) if not glyf.is_composite(n)]
    found = dict(zip(glyphs, gvar.of_glyphs(glyf, glyphs), strict=True))
    regions = list(dict.fromkeys(each.region for glyph in found.values() for each in glyph.variations))
    programs = [_program(glyf, n, found[n], regions) if n in found else b"" for n in range(len(glyf.glyphs))]
    data = ItemVariationData(tuple(range(len(regions))), np.zeros((0, len(regions)), np.int32))
    private = {6: (-11, 11, 500, 12), 10: (80,)}
    table = Cff2(
        {},
        programs,
        [FontDict({}, private, [])],
        [0] * len(programs),
        [],
        ItemVariationStore(2, tuple(regions), (data,)),
    )
    tables = {tag: font.raw(tag) for tag in font if tag not in ("glyf", "loca", "gvar", "maxp", "gasp")}
    tables |= {"CFF2": table.compile(), "maxp": Maxp(0x5000, len(programs)).compile()}
    return Font(tables, "OTTO", path="penyu-cff2.otf")


def _program(glyf: Glyf, number: int, glyph: GlyphVariations, regions: list[object]) -> bytes:
    points = glyf.simple([number]) if glyf.contours(number) > 0 else None
    if points is None:
        return b""
    moved = np.zeros((len(regions), len(glyph.outline.coordinates), 2))
    for each, deltas in zip(glyph.variations, glyph.all_deltas(), strict=True):
        moved[regions.index(each.region)] = deltas[:-4]
    # Positions at the default, then what each region adds: one row a point, x and y.
    whole = np.concatenate((glyph.outline.coordinates[None].astype(float), moved)).transpose(1, 2, 0)
    commands = [Command(HSTEM, [Operand(-11), Operand(70)])]
    pen, at = np.zeros(whole.shape[1:]), 0
    for count in glyph.outline.contours.tolist():
        contour, on = whole[at : at + count], points.on_curve[at : at + count]
        at += count
        first = -int(on.argmax())  # a charstring begins on the curve
        contour, on = np.roll(contour, first, axis=0), np.roll(on, first)
        commands.append(Command(RMOVE, _operands(contour[:1], pen)))
        pen = _rounded(contour[0])
        for n in range(1, count + 1):
            here, before = contour[n % count], contour[n - 1]
            if on[n % count] and on[n - 1]:
                commands.append(Command(RLINE, _operands(here[None], pen)))
                pen = _rounded(here)
            elif on[n % count]:
                start = contour[n - 2]
                corners = np.array((start / 3 + before * 2 / 3, here / 3 + before * 2 / 3, here))
                commands.append(Command(RCURVE, _operands(corners, pen)))
                pen = _rounded(here)
    return write_program(Program(0, commands), 0)


def _rounded(point: np.ndarray) -> np.ndarray:
    return np.rint(point)


def _operands(points: np.ndarray, pen: np.ndarray) -> list[Operand]:
    """The steps from the pen through the points."""
    steps = np.diff(_rounded(points), axis=0, prepend=pen[None])
    return [Operand(axis[0], tuple(axis[1:].tolist()) if axis[1:].any() else ()) for step in steps for axis in step]
