"""Colour fonts: every format of paints, palettes, and what a reader sees of them."""

from __future__ import annotations

import io
import json
import struct
from pathlib import Path

import pytest
from PIL import Image, ImageChops
from playwright.sync_api import Browser

from aksara.errors import FontError
from aksara.font import Font, open_font
from aksara.instancing import AxisLimit, narrow
from aksara.subsetting import subset
from aksara.tables import Colr, Cpal
from aksara.tables.colour.paints import walk
from conftest import Run, open_page
from fonts import SYSTEM, small_font, words
from variable import KARLA

AMIRI = SYSTEM.parent / "opentype/fonts-hosny-amiri/AmiriQuranColored.ttf"
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


def _u24(number: int) -> bytes:
    return number.to_bytes(3, "big")


def _solid(colour: int) -> bytes:
    return bytes([2]) + struct.pack(">Hh", colour, _F)


def _on_glyph(glyph: int, paint: bytes) -> bytes:
    return bytes([10]) + _u24(6) + words(glyph) + paint


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
        source, backdrop = _on_glyph(glyph, _solid(0)), _on_glyph(glyph + 1, _solid(1))
        return bytes([32]) + _u24(8) + bytes([5]) + _u24(8 + len(source)) + source + backdrop
    if kind == 12:
        matrix = struct.pack(">6i", 1 << 16, 1 << 14, -(1 << 13), 1 << 16, 20 << 16, -30 << 16) + _ROW * varies
        return bytes([paint_format]) + _u24(7 + len(matrix)) + _u24(7) + matrix + _on_glyph(glyph, _solid(2))
    if kind == 10:
        return _on_glyph(glyph, _solid(1))
    layout, values = _FIELDS[kind]
    fields = struct.pack(f">{layout}", *values) + _ROW * varies
    if kind == 2:
        return _on_glyph(glyph, bytes([paint_format]) + fields)
    if kind in (4, 6, 8):
        return _on_glyph(glyph, bytes([paint_format]) + _u24(4 + len(fields)) + fields + _line(varies=varies))
    return bytes([paint_format]) + _u24(4 + len(fields)) + fields + _on_glyph(glyph, _solid(2))


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
    clips = bytes([1]) + struct.pack(">I", 1) + words(min(paints), max(paints)) + _u24(12)
    clips += bytes([2]) + words(-200, -400, 900, 1000) + struct.pack(">I", 2)
    parts, head = [glyphs, shared, clips, b"", _store()], 34
    places = []
    for part in parts:
        places.append(head if part else 0)
        head += len(part)
    return words(1, 0) + struct.pack(">IIH5I", 0, 0, 0, *places) + b"".join(parts)


def _palettes() -> bytes:
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
    layers = [_on_glyph(glyph, _solid(n % 3)) for n, glyph in enumerate(glyphs) if n < 3]
    paints = {glyph: paint_bytes(number, glyph) for glyph, number in sorted(glyphs.items())}
    # A paint that shows another glyph shows one that is painted itself.
    other = font.characters[ord("B")]
    paints = {
        glyph: paint.replace(bytes([11]) + words(1), bytes([11]) + words(other)) for glyph, paint in paints.items()
    }
    return font.with_data({"COLR": colr_bytes(paints, layers), "CPAL": _palettes()})


@pytest.fixture(scope="module")
def painted() -> Font:
    """The font with all paints."""
    return painted_font()


def test_every_format_is_read_and_written_alike(painted: Font) -> None:
    table = painted.table(Colr)
    kinds = {paint.kind + any(paint.rows) for paint in walk(list(table.paints.values()))}
    gradients = {5, 7, 9} & {
        p.kind + 1 for p in walk(list(table.paints.values())) if p.line and any(p.line.stops[0].rows)
    }
    assert kinds | gradients == set(range(1, 33))
    again = Colr.parse(table.compile(), painted)
    assert again == table and len(again.compile()) == len(table.compile())
    palettes = painted.table(Cpal)
    assert Cpal.parse(palettes.compile(), painted) == palettes
    assert [palette.for_dark for palette in palettes.palettes] == [False, True]
    assert palettes.palettes[1].name_id == 1


def test_only_what_kept_glyphs_are_painted_with_stays(painted: Font) -> None:
    kept = subset(painted, {ord("C")}).font
    table, palettes = kept.table(Colr), kept.table(Cpal)
    assert len(table.paints) == 1 and table.colours_of(table.paints) == {1}
    assert palettes.entry_count == 2 and palettes.palettes[0].colours[0].alpha == 0, "entries keep their numbers"
    assert palettes.palettes[1].colours[1].css == "#601090"
    assert len(kept.raw("COLR")) < 160 and "COLR" not in subset(painted, {ord("z")}).font
    assert "CPAL" not in subset(painted, {ord("z")}).font
    everything = subset(painted).font.table(Colr)
    assert len(everything.paints) == 32 and everything.store is not None


def _picture(browser: Browser, folder: Path, font: str, *, weight: int, palette: int) -> Image.Image:
    page = folder / "page.html"
    page.write_text(
        f"<style>@font-face {{ font-family: X; src: url({font}); font-weight: 200 800 }}"
        f"@font-palette-values --p {{ font-family: X; base-palette: {palette} }}"
        f"body {{ font: {weight} 40px/1.6 X; font-palette: --p; color: #333; width: 700px }}"
        f"small {{ font-size: 17px }}</style>{LETTERS} <small>{LETTERS}</small>"
    )
    with open_page(browser, viewport={"width": 760, "height": 420}) as view:
        view.goto(f"file://{page}")
        assert view.evaluate("document.fonts.ready.then(() => [...document.fonts].every(f => f.status == 'loaded'))")
        return Image.open(io.BytesIO(view.screenshot())).convert("RGB")


@pytest.mark.parametrize("weight", [400, 800])
@pytest.mark.parametrize("palette", [0, 1])
def test_readers_see_the_same_colours(
    weight: int, palette: int, painted: Font, browser: Browser, tmp_path: Path
) -> None:
    (tmp_path / "source.ttf").write_bytes(painted.write("sfnt"))
    (tmp_path / "made.woff2").write_bytes(subset(painted, set(map(ord, LETTERS))).font.write("woff2"))
    static = narrow(painted, {"wght": AxisLimit(weight, weight)})
    assert static.table(Colr).store is None
    (tmp_path / "static.woff2").write_bytes(subset(static, set(map(ord, LETTERS))).font.write("woff2"))
    seen = _picture(browser, tmp_path, "source.ttf", weight=weight, palette=palette)
    assert len(set(seen.get_flattened_data())) > 500, "it is in colour"
    assert (
        ImageChops.difference(seen, _picture(browser, tmp_path, "made.woff2", weight=weight, palette=palette)).getbbox()
        is None
    )
    # Outlines of static fonts are rounded to units.
    near = ImageChops.difference(seen, _picture(browser, tmp_path, "static.woff2", weight=weight, palette=palette))
    assert sum(max(pixel) > 40 for pixel in near.get_flattened_data()) < 100


def test_a_font_in_layers_from_a_maker(aksara: Run, browser: Browser, tmp_path: Path) -> None:
    text = "بِسْمِ ٱللَّهِ ٱلرَّحْمَـٰنِ ۝"
    done = aksara("build", AMIRI, "--for-text", text, "--format", "woff2", "--to", "out", "--family", "Mine")
    assert done.returncode == 0, done.stderr
    sheet = (tmp_path / "out/faces.css").read_text()
    assert 'format("woff2") tech(color-COLRv0)' in sheet and "@font-palette-values" not in sheet
    (made,) = (tmp_path / "out/fonts").glob("*.woff2")
    pictures = []
    for font in (AMIRI, made):
        (tmp_path / "page.html").write_text(
            f"<style>@font-face {{ font-family: X; src: url(file://{font}) }} body {{ font: 60px X }}</style>"
            f"<p dir=rtl>{text}"
        )
        with open_page(browser, viewport={"width": 700, "height": 300}) as view:
            view.goto(f"file://{tmp_path}/page.html")
            view.evaluate("document.fonts.ready")
            pictures.append(Image.open(io.BytesIO(view.screenshot())).convert("RGB"))
    assert len(set(pictures[0].get_flattened_data())) > 100
    assert ImageChops.difference(*pictures).getbbox() is None


def test_palettes_can_be_chosen_from_style_sheets(painted: Font, aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "karla.ttf").write_bytes(painted.write("sfnt"))
    project = '[[family]]\nname = "Penyu Signals"\nfonts = ["karla.ttf"]\npalettes = {}\n'
    night = '{ night = { base = 1, colours = { 2 = "#0b4f6c" } } }'
    (tmp_path / "aksara.toml").write_text(project.format(night))
    done = aksara("build", "--json")
    assert done.returncode == 0, done.stderr
    (family,) = json.loads(done.stdout)["families"]
    assert [palette["css_name"] for palette in family["palettes"]] == [
        "--penyu-signals-light", "--penyu-signals-karla", "--penyu-signals-night",
    ]  # fmt: skip
    sheet = (tmp_path / "web-fonts/faces.css").read_text()
    assert (
        '@font-palette-values --penyu-signals-night {\n  font-family: "Penyu Signals";\n  base-palette: 1;\n' in sheet
    )
    assert "override-colors: 2 #0b4f6c;" in sheet and "tech(color-COLRv1)" in sheet
    for wrong, words_of in {
        '{ night = { base = 7 } }': "numbered from 0", '{ "a;b" = { base = 0 } }': "no name of a palette",
        '{ night = { colours = { 1 = "red;}" } } }': "is no colour", "{ night = 3 }": "must be as",
    }.items():  # fmt: skip
        (tmp_path / "aksara.toml").write_text(project.format(wrong))
        refused = aksara("build")
        assert refused.returncode == 2 and words_of in refused.stderr, refused.stderr


_DEEP = b"".join(bytes([14]) + _u24(8) + words(0, 0) for _ in range(100)) + _solid(0)
_CIRCLE = bytes([1, 1]) + struct.pack(">I", 0)


@pytest.mark.parametrize(
    ("paint", "layers", "message"),
    [
        (_CIRCLE, [_CIRCLE], "in a circle"),
        (_DEEP, [_DEEP], "nested more than"),
        (bytes([33]) + bytes(20), [_DEEP[:8]], "a paint of format 33"),
        (bytes([1, 9]) + struct.pack(">I", 5), [_solid(0)], "layers that are not there"),
        (bytes([10]) + bytes(5), [_solid(0)], "lacks a part"),
    ],
)
def test_damaged_paints_are_told_and_left_out(
    paint: bytes, layers: list[bytes], message: str, aksara: Run, tmp_path: Path
) -> None:
    data = small_font(extra={"COLR": colr_bytes({1: paint}, layers), "CPAL": _palettes()})
    with pytest.raises(FontError, match=message):
        Font.read(data, "a.ttf").table(Colr).component_closure({1})
    (tmp_path / "a.ttf").write_bytes(data)
    done = aksara("build", "a.ttf")
    assert done.returncode == 0 and message in done.stderr, "browsers draw it in one colour, too"
    assert "color-COLR" not in (tmp_path / "web-fonts/faces.css").read_text()
