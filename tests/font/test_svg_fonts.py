"""SVG fonts: read back field by field, with the outlines, kerning and ligatures of their source."""

from __future__ import annotations

import re
from base64 import b64encode
from io import BytesIO
from itertools import product
from pathlib import Path

import freetype
import pytest
from PIL import Image, ImageFont
from playwright.sync_api import Browser

from aksara.errors import FontError
from aksara.font import Font, open_font
from aksara.glyph_outlines import outline_steps
from aksara.kerning import kerning_of
from aksara.subsetting import subset
from aksara.svg_fonts import read_svg_font, svg_font
from aksara.svg_fonts.paths import paths_of
from aksara.tables import OS2, Head, Hhea, Name
from aksara.truetype.components import (
    ARGS_ARE_WORDS,
    ARGS_ARE_XY,
    HAS_SCALE,
    HAS_TWO_BY_TWO,
    HAS_XY_SCALE,
    SCALED_COMPONENT_OFFSET,
    Component,
    Composite,
)
from conftest import Run, open_page, watched_page
from fonts import DEMO_FONTS, box, corpus, small_font

_TOKEN = re.compile(r"[MLQCZ]|-?[\d.]+")
#: FreeType's outlines, as letters of path data.
_TEXT = "AVATAR To. Wäffin’s “ŵ” fj & 1234, áéîõü"


def _steps(path: str) -> list[tuple[str, tuple[float, ...]]]:
    found: list[tuple[str, tuple[float, ...]]] = []
    for token in _TOKEN.findall(path):
        if token in "MLQCZ":
            found.append((token, ()))
        else:
            letter, numbers = found[-1]
            found[-1] = letter, (*numbers, float(token))
    return found


def _drawn(face: freetype.Face, glyph: int) -> list[tuple[str, tuple[float, ...]]]:
    """What FreeType draws, contours closed by a letter of their own."""
    face.load_glyph(glyph, freetype.FT_LOAD_NO_SCALE | freetype.FT_LOAD_NO_HINTING)
    found: list[tuple[str, tuple[float, ...]]] = []

    def add(letter: str) -> object:
        def step(*points: object) -> None:
            if letter == "M" and found:
                found.append(("Z", ()))
            numbers = [number for point in points[:-1] for number in (point.x, point.y)]  # type: ignore[attr-defined]
            found.append((letter, tuple(map(float, numbers))))

        return step

    face.glyph.outline.decompose(move_to=add("M"), line_to=add("L"), conic_to=add("Q"), cubic_to=add("C"))
    return [*found, ("Z", ())] if found else []


def _without_closing_lines(steps: list[tuple[str, tuple[float, ...]]]) -> list[tuple[str, tuple[float, ...]]]:
    """Without lines that go nowhere or back to the start, which close a contour anyway."""
    found: list[tuple[str, tuple[float, ...]]] = []
    start: tuple[float, ...] = ()
    for letter, numbers in steps:
        if letter == "M":
            start = numbers
        if letter == "Z" and found and found[-1][0] == "L" and found[-1][1] == start:
            found.pop()
        if letter == "L" and found and found[-1][1][-2:] == numbers:
            continue
        found.append((letter, numbers))
    return found


def _one_of_each_kind() -> list[Path]:
    """Fonts of the corpus: with TrueType outlines, of PostScript ones one by name and one by CIDs."""
    kinds: dict[tuple[bool, bool], Path] = {}
    for path in corpus():
        font = open_font(path)
        if not font.is_variable and "CBDT" not in font and font.num_glyphs > 200:
            kinds.setdefault(("glyf" in font, "CFF " in font and b"Identity" in font.raw("CFF ")[:4000]), path)
    return list(kinds.values())


@pytest.mark.parametrize("path", [DEMO_FONTS[0], *_one_of_each_kind()], ids=lambda path: path.name)
def test_outlines_are_those_that_freetype_draws(path: Path) -> None:
    font = open_font(path)
    glyphs = sorted({0, *list(font.characters.values())[:: max(len(font.characters) // 200, 1)]})
    face = freetype.Face(str(path))
    for glyph, made in zip(glyphs, paths_of(font, glyphs), strict=True):
        theirs = [(letter, numbers) for letter, numbers in _without_closing_lines(_drawn(face, glyph))]
        ours = _without_closing_lines(_steps(made))
        assert [letter for letter, _ in ours] == [letter for letter, _ in theirs], glyph
        # FreeType rounds what it makes of components and between points.
        for (_, one), (_, other) in zip(ours, theirs, strict=True):
            assert max((abs(a - b) for a, b in zip(one, other, strict=True)), default=0) <= 1, glyph


@pytest.mark.parametrize("path", [DEMO_FONTS[0], *_one_of_each_kind()], ids=lambda path: path.name)
def test_kerning_is_that_of_shaped_text(path: Path) -> None:
    font = open_font(path)
    letters = [each for each in "AVTLPWaeoy.,rf'" if ord(each) in font.characters]
    pairs = kerning_of(font, {font.characters[ord(each)] for each in letters})
    em = font.table(Head).units_per_em
    shaped = ImageFont.truetype(str(path), em, layout_engine=ImageFont.Layout.RAQM)
    for one, other in product(letters, letters):
        features = ["-liga", "-clig", "-calt", "-ccmp", "-locl"]
        both = shaped.getlength(one + other, features=features)
        alone = shaped.getlength(one, features=features) + shaped.getlength(other, features=features)
        kerned = pairs.get(font.characters[ord(one)], {}).get(font.characters[ord(other)], 0)
        assert both - alone == pytest.approx(kerned, abs=1.1), one + other


def test_the_document_says_what_the_font_says() -> None:
    font = subset(open_font(DEMO_FONTS[0]), set(map(ord, _TEXT))).font
    back = read_svg_font(svg_font(font))
    os2, hhea, head = font.table(OS2), font.table(Hhea), font.table(Head)
    assert back.face["units-per-em"] == str(head.units_per_em) and back.face["font-weight"] == str(os2.weight_class)
    assert (back.face["ascent"], back.face["descent"]) == (str(hhea.ascender), str(hhea.descender))
    assert back.face["font-family"] == "Penyu Sans" and back.face["panose-1"] == " ".join(map(str, os2.panose))
    assert {chr(code) for code in font.characters} <= back.glyphs.keys()
    joined = [text for text in back.glyphs if len(text) > 1]
    assert "ffi" in joined and "fi" in joined
    # Browsers take the first that fits.
    assert list(back.glyphs)[: len(joined)] == sorted(joined, key=lambda text: (-len(text), text))
    assert back.kerning["A", "V"] > 0, "they stand closer"


def test_a_build_makes_old_formats_on_request(aksara: Run, browser: Browser, tmp_path: Path) -> None:
    done = aksara("build", DEMO_FONTS[0], "--format", "svg", "--format", "woff2", "--for-text", "Ferry", "--to", "out")
    assert done.returncode == 0 and "iPhones" in done.stderr
    (made,) = (tmp_path / "out/fonts").glob("*.svg")
    assert read_svg_font(made.read_bytes()).glyphs.keys() == set("Fery ")
    sheet = (tmp_path / "out/faces.css").read_text()
    assert sheet.index("woff2") < sheet.index('.svg#font") format("svg")')
    (tmp_path / "page.html").write_text(
        "<link rel=stylesheet href=out/faces.css><b style='font-family: var(--penyu-sans)'>Ferry</b>"
    )
    with open_page(browser) as view:
        fetched: list[str] = []
        view.on("request", lambda request: fetched.append(request.url))
        view.goto(f"file://{tmp_path}/page.html")
        view.evaluate("document.fonts.ready")
    assert any(url.endswith(".woff2") for url in fetched) and not any(".svg" in url for url in fetched)
    assert aksara("check", "page.html").returncode == 0


@pytest.mark.parametrize(
    "name", ["<script>alert(1)</script>", '"><x y="', "a]]>b", "line\nbreak & <b>", "\x01control\ufffe"]
)
def test_names_cannot_break_out(name: str) -> None:
    font = Font.read(small_font({0x26: 1, 0x3C: 2, 0x22: 1, 0x0A: 2, 0x41: 1}, names={0: name, 1: name, 2: "Regular"}))
    back = read_svg_font(svg_font(font))
    assert set(back.glyphs) >= {"&", "<", '"', "A"} and back.face["font-family"].strip()
    assert font.table(Name).get(1)


@pytest.mark.parametrize("data", [b"", b"<svg", b"<svg xmlns='http://www.w3.org/2000/svg'/>",
                                  b"<!DOCTYPE x [<!ENTITY a 'b'>]><svg>&a;</svg>", b"\xff\xfe"])  # fmt: skip
def test_what_is_no_svg_font_is_refused(data: bytes) -> None:
    with pytest.raises(FontError):
        read_svg_font(data)


def test_variable_fonts_are_drawn_at_their_default(aksara: Run, tmp_path: Path) -> None:
    variable = next(path for path in DEMO_FONTS[0].parent.glob("*.ttf") if open_font(path).is_variable)
    done = aksara("build", variable, "--format", "svg", "--for-text", "Ferry")
    assert done.returncode == 0 and "cannot vary" in done.stderr
    (made,) = (tmp_path / "web-fonts/fonts").glob("*.svg")
    font = open_font(variable)
    glyph = font.characters[ord("F")]
    assert read_svg_font(made.read_bytes()).glyphs["F"][1] == paths_of(font, [glyph])[0]


@pytest.mark.parametrize("scale", [(16384, 0, 8192, 16384), (16384, 4096, 0, 16384), (11585, 11585, -11585, 11585)])
def test_components_that_are_skewed_stand_where_chromium_puts_them(scale: tuple[int, ...], browser: Browser) -> None:
    flags = ARGS_ARE_XY | ARGS_ARE_WORDS | HAS_TWO_BY_TWO | SCALED_COMPONENT_OFFSET
    part = Component(1, flags, (400, 300), scale)
    glyphs = [box(500)[0], box(100, 100)[0], Composite((0, 0, 900, 900), (part,)).compile()]
    font = small_font({0x41: 1, 0x42: 2}, glyphs)
    steps = outline_steps(Font.read(font, "a.ttf"), [2])
    (points,) = ([point for _, places in outline for point in places] for outline in steps)
    with watched_page(browser, viewport={"width": 1_600, "height": 1_300}) as (page, _):
        page.set_content(
            "<style>@font-face { font-family: X; src: url(data:font/ttf;base64,"
            f"{b64encode(font).decode()}) }} body {{ font: 1000px/1 X }} p {{ position: absolute; margin: 0; top: 0 }}"
            '</style><p style="left: 200px">B<p style="left: 1000px">A'
        )
        page.evaluate("document.fonts.ready")
        shown = Image.open(BytesIO(page.screenshot())).convert("L").point(lambda value: 255 * (value < 128))
    left, top, right, bottom = shown.crop((0, 0, 1_000, 1_300)).getbbox() or (0, 0, 0, 0)
    baseline = (shown.crop((1_000, 0, 1_600, 1_300)).getbbox() or (0, 0, 0, 0))[3]
    xs, ys = [x for x, _ in points], [y for _, y in points]
    assert (left - 200, right - 200) == pytest.approx((min(xs), max(xs)), abs=1.5)
    assert (baseline - bottom, baseline - top) == pytest.approx((min(ys), max(ys)), abs=1.5)


@pytest.mark.parametrize("flags", [0, SCALED_COMPONENT_OFFSET])
@pytest.mark.parametrize(
    ("form", "scale"),
    [(0, ()), (HAS_SCALE, (8192,)), (HAS_XY_SCALE, (8192, 24576)), (HAS_TWO_BY_TWO, (0, 16384, -16384, 0))],
)
def test_components_are_turned_as_freetype_turns_them(flags: int, form: int, scale: tuple[int, ...]) -> None:
    part = Component(1, ARGS_ARE_XY | flags | form, (50, 70), scale)
    font = small_font({0x41: 1, 0x42: 2}, [box(500)[0], box(300)[0], Composite((0, 0, 0, 0), (part,)).compile()])
    (path,) = paths_of(Font.read(font, "a.ttf"), [2])
    drawn = [point for _, point in _drawn(freetype.Face(BytesIO(font)), 2) if point]
    left = min(x for x, _ in drawn)
    ours = [point for _, point in _steps(path) if point]
    moved = min(x for x, _ in ours) - left
    assert {(x - moved, y) for x, y in ours} == set(drawn)
