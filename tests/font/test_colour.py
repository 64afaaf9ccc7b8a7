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
from aksara.font import Font
from aksara.instancing import AxisLimit, narrow
from aksara.subsetting import subset
from aksara.tables import Colr, Cpal
from aksara.tables.colour.paints import walk
from conftest import Run, open_page
from fonts import SYSTEM, small_font, words
from painted_fonts import LETTERS, colr_bytes, painted_font, palettes, solid, u24

AMIRI = SYSTEM.parent / "opentype/fonts-hosny-amiri/AmiriQuranColored.ttf"


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


def test_a_layered_colour_font_of_a_maker(aksara: Run, browser: Browser, tmp_path: Path) -> None:
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
        '{ night = { base = 7 } }': "numbered from 0", '{ "a;b" = { base = 0 } }': "not a palette name",
        '{ night = { colours = { 1 = "red;}" } } }': "is not a colour", "{ night = 3 }": "must be as",
    }.items():  # fmt: skip
        (tmp_path / "aksara.toml").write_text(project.format(wrong))
        refused = aksara("build")
        assert refused.returncode == 2 and words_of in refused.stderr, refused.stderr


_DEEP = b"".join(bytes([14]) + u24(8) + words(0, 0) for _ in range(100)) + solid(0)
_CIRCLE = bytes([1, 1]) + struct.pack(">I", 0)


@pytest.mark.parametrize(
    ("paint", "layers", "message"),
    [
        (_CIRCLE, [_CIRCLE], "in a circle"),
        (_DEEP, [_DEEP], "nested more than"),
        (bytes([33]) + bytes(20), [_DEEP[:8]], "a paint of format 33"),
        (bytes([1, 9]) + struct.pack(">I", 5), [solid(0)], "layers that do not exist"),
        (bytes([10]) + bytes(5), [solid(0)], "is incomplete"),
    ],
)
def test_damaged_paints_are_reported_and_left_out(
    paint: bytes, layers: list[bytes], message: str, aksara: Run, tmp_path: Path
) -> None:
    data = small_font(extra={"COLR": colr_bytes({1: paint}, layers), "CPAL": palettes()})
    with pytest.raises(FontError, match=message):
        Font.read(data, "a.ttf").table(Colr).component_closure({1})
    (tmp_path / "a.ttf").write_bytes(data)
    done = aksara("build", "a.ttf")
    assert done.returncode == 0 and message in done.stderr, "browsers draw it in one colour, too"
    assert "color-COLR" not in (tmp_path / "web-fonts/faces.css").read_text()
