"""Colour fonts that draw by pictures and by drawings: 'CBDT', 'sbix', 'SVG '."""

from __future__ import annotations

import gzip
import io
import struct
from hashlib import sha256
from pathlib import Path

import pytest
from PIL import Image, ImageChops
from playwright.sync_api import Browser

from aksara.errors import FontError
from aksara.font import Font
from aksara.subsetting import subset
from aksara.tables import Cbdt, Sbix, Svg
from conftest import Run, open_page
from fonts import small_font, words
from picture_fonts import PNGS, SMALL, drawings, graphics, pictures

_SVG_HEAD = b'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">'


def _shown(browser: Browser, folder: Path, font: bytes, text: str) -> Image.Image:
    # A name of its own, so that the browser cannot know it.
    name = sha256(font).hexdigest()
    (folder / name).write_bytes(font)
    page = folder / "page.html"
    page.write_text(f"<style>@font-face {{ font-family: X; src: url({name}) }} body {{ font: 60px X }}</style>{text}")
    with open_page(browser, viewport={"width": 400, "height": 160}) as view:
        view.goto(f"file://{page}")
        assert view.evaluate("document.fonts.ready.then(() => [...document.fonts].every(f => f.status == 'loaded'))")
        return Image.open(io.BytesIO(view.screenshot())).convert("RGB")


@pytest.mark.parametrize(
    ("index_format", "image_format"), [(1, 17), (1, 18), (2, 19), (3, 17), (3, 18), (4, 17), (4, 18), (5, 19), (2, 18)]
)
def test_pictures_of_every_format(index_format: int, image_format: int, browser: Browser, tmp_path: Path) -> None:
    data = small_font(extra=pictures(index_format, image_format), without=("glyf", "loca"))
    font = Font.read(data, "a.ttf")
    table = font.table(Cbdt)
    index, images = table.written()
    assert font.with_data({"CBLC": index, "CBDT": images}).table(Cbdt) == table
    kept = subset(font, {ord("A"), ord("B")}).font
    assert "glyf" not in kept and len(kept.table(Cbdt).strikes[0].pictures) == 2
    seen = [_shown(browser, tmp_path, each, "ABA") for each in (data, kept.write("woff2"))]
    assert len(set(seen[0].get_flattened_data())) > 3 and ImageChops.difference(*seen).getbbox() is None
    seen = [_shown(browser, tmp_path, each, "ABC") for each in (data, subset(font).font.write("woff2"))]
    assert ImageChops.difference(*seen).getbbox() is None


def test_a_picture_that_chromium_does_not_find_is_drawn(browser: Browser, tmp_path: Path) -> None:
    """What stands behind the last glyph of index format 4 has no meaning but its offset; FreeType finds the glyph, and
    Chromium, which bisects the list, only where the number is higher. The web font has all three pictures."""
    fonts = [small_font(extra=pictures(4, 17, last=last), without=("glyf", "loca")) for last in (0, 0xFFFF)]
    unfound, found = (_shown(browser, tmp_path, each, "ABC") for each in fonts)
    assert ImageChops.difference(unfound, found).getbbox() is not None, "Chromium has changed; the source is right then"
    for data in fonts:
        made = _shown(browser, tmp_path, subset(Font.read(data)).font.write("woff2"), "ABC")
        assert ImageChops.difference(made, found).getbbox() is None


def test_equal_pictures_are_written_once() -> None:
    same = small_font(extra=pictures(2, 19), without=("glyf", "loca"))
    kept = subset(Font.read(same, "a.ttf")).font
    assert kept.raw("CBDT").count(b"\x89PNG") == 1
    shared = small_font(extra={"sbix": graphics(None, b"png " + PNGS[0], b"png " + PNGS[0], b"dupe" + words(1))})
    font = Font.read(shared, "a.ttf")
    assert Sbix.parse(font.table(Sbix).compile(), font) == font.table(Sbix)
    kept = subset(font, {ord("B"), ord("C")}).font
    (strike,) = kept.table(Sbix).strikes
    assert [graphic.data for graphic in strike.graphics.values()] == [PNGS[0]] * 2
    assert kept.raw("sbix").count(b"\x89PNG") == 1 and b"dupe" in kept.raw("sbix")


_SHARED = _SVG_HEAD + (
    b'<defs><linearGradient id="g"><stop stop-color="red"/></linearGradient><path id="p" d="M0 0h9v9z"/>'
    b'<clipPath id="lost"><path d="M0 0"/></clipPath></defs>'
    b'<g id="glyph1"><path fill="url(#g)" d="M0 0h5v5z" onclick="x()"/></g>'
    b'<g id="glyph2"><use xlink:href="#p"/><script>x()</script><image href="http://x.example/a.png"/></g>'
    b'<g id="glyph3"><use xlink:href="#glyph1"/><path style="fill:url(http://x.example/#g)"/></g></svg>'
)


def test_drawings_are_cut_to_kept_glyphs_and_what_these_refer_to() -> None:
    font = Font.read(small_font(extra={"SVG ": drawings((1, 3, gzip.compress(_SHARED, mtime=0)))}), "a.ttf")
    table = font.table(Svg)
    assert Svg.parse(table.compile(), font) == table and set(table.documents) == {1, 2, 3}
    one = subset(font, {ord("B")}).font.table(Svg)
    (document,) = one.documents.values()
    assert set(one.documents) == {1}
    assert b'id="glyph1"' in document and b'id="p"' in document and b"#p" in document
    assert not any(word in document for word in (b"glyph2", b'id="g"', b"lost", b"script", b"image", b"example"))
    two = subset(font, {ord("C")}).font.table(Svg)
    (document,) = two.documents.values()
    assert b'id="of-glyph1"' in document and b"#of-glyph1" in document, "what is only referred to is no glyph"
    assert b"url(#g)" in document and b"onclick" not in document and b"example" not in document


_BOMB = b'<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>' + _SVG_HEAD + b"<g>&b;</g></svg>"


@pytest.mark.parametrize(
    ("extra", "message"),
    [
        ({"SVG ": drawings((1, 1, gzip.compress(bytes(40_000_000))))}, "too large"),
        ({"SVG ": drawings((1, 1, _BOMB))}, "not safe XML"),
        ({"SVG ": drawings((1, 1, b"<svg"))}, "not safe XML"),
        ({"SVG ": drawings((1, 1, _SVG_HEAD + b"<g>" * 300 + b"</g>" * 300 + b"</svg>"))}, "nested more than"),
        ({"SVG ": drawings((3, 1, _SHARED))}, "end before they start"),
        ({"sbix": graphics(None, b"dupe" + words(2), b"dupe" + words(1), None)}, "in a circle"),
        ({"CBDT": bytes(8), "CBLC": pictures(1, 17)["CBLC"]}, "cut short, or is not a PNG"),
        ({"CBDT": pictures(1, 17)["CBDT"], "CBLC": pictures(1, 17)["CBLC"][:70]}, "before the end"),
    ],
)
def test_damaged_pictures_are_reported(extra: dict[str, bytes], message: str, aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font(extra=extra))
    font = Font.read((tmp_path / "a.ttf").read_bytes(), "a.ttf")
    with pytest.raises(FontError, match=message):
        [font.table(each).component_closure({1, 2, 3}) for each in (Svg, Sbix, Cbdt) if each.TAG in font]
    done = aksara("build", "a.ttf")
    assert done.returncode in (0, 3) and message in done.stderr and "Traceback" not in done.stderr


def test_a_damaged_drawing_is_left_out_and_the_others_stay(browser: Browser, tmp_path: Path) -> None:
    """As in Chromium, which draws the glyph's outline instead."""
    fine = _SVG_HEAD + b'<path id="glyph2" fill="red" d="M0 0h400v-900z"/></svg>'
    data = small_font(extra={"SVG ": drawings((1, 1, b"<svg"), (2, 2, fine))})
    cut = subset(Font.read(data, "a.ttf"))
    assert set(cut.font.table(Svg).documents) == {2}
    assert any("the drawing of glyph 1 is damaged" in warning and "colours" in warning for warning in cut.warnings)
    shown = [_shown(browser, tmp_path, font, "AB") for font in (data, cut.font.write("woff2"))]
    assert ImageChops.difference(*shown).getbbox() is None


def test_thousands_of_damaged_drawings_are_summarised() -> None:
    fine = _SVG_HEAD + b'<path id="glyph1" d="M0 0h400v-900z"/></svg>'
    many = [(100 + number, 100 + number, b"<svg") for number in range(2_000)]
    said = Font.read(small_font(extra={"SVG ": drawings((1, 1, fine), *many)}), "a.ttf").table(Svg).defects_found()
    assert len(said) == 4 and said[-1].startswith("1,997 more drawings")


def test_pictures_and_drawings_that_mean_harm_are_bounded() -> None:
    whole = pictures(1, 17)
    size = 8 + 4 * 50_001
    spans = struct.pack(">50001I", *(n % 2 * 900_000 + n for n in range(50_001)))
    index = whole["CBLC"][:12] + struct.pack(">I", 8 + size) + whole["CBLC"][16:56] + words(1, 50_000)
    index += struct.pack(">IHHI", 8, 1, 17, 4) + spans
    image = SMALL + struct.pack(">I", 899_000) + PNGS[0]
    harm = Font.read(small_font(extra={"CBDT": bytes(4) + image + bytes(1_000_000), "CBLC": index}), "a.ttf")
    with pytest.raises(FontError, match=r"lie over one another|cut short"):
        harm.table(Cbdt)
    sheet = _SVG_HEAD + b'<style>@import "http://x.example/a.css";</style><path id="glyph1" d="M0 0h5v5z"/></svg>'
    font = Font.read(small_font(extra={"SVG ": drawings((1, 1, sheet))}), "a.ttf")
    (document,) = subset(font, {ord("A")}).font.table(Svg).documents.values()
    assert b"example" not in document and b'id="glyph1"' in document


def test_of_several_ways_one_is_kept_and_the_others_are_reported(aksara: Run, tmp_path: Path) -> None:
    document = _SVG_HEAD + b'<path id="glyph1" d="M0 0h500v500z"/></svg>'
    several = {"SVG ": drawings((1, 1, document)), "sbix": graphics(None, b"png " + PNGS[0], None, None)}
    (tmp_path / "a.ttf").write_bytes(small_font(extra=several))

    def tables(*options: str) -> tuple[set[str], str, str]:
        done = aksara("build", "a.ttf", "--format", "woff2", "--to", "out", *options)
        assert done.returncode == 0, done.stderr
        (made,) = (tmp_path / "out/fonts").glob("*.woff2")
        kept = set(Font.read(made.read_bytes(), "made")) & {"SVG ", "sbix"}
        return kept, done.stderr, (tmp_path / "out/faces.css").read_text()

    kept, told, sheet = tables()
    assert kept == {"SVG "} and "SVG (" in told and "SBIX (" in told and "--colour-format" in told
    assert "tech(color-SVG)" in sheet
    kept, _, sheet = tables("--colour-format", "sbix")
    assert kept == {"sbix"} and "tech(color-sbix)" in sheet
    kept, told, _ = tables("--colour-format", "cbdt")
    assert kept == {"SVG "} and "it has no CBDT" in told
