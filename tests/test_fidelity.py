"""What a reader sees: source and web font give the same pictures, in FreeType, in HarfBuzz and in Chromium."""

from __future__ import annotations

import io
import random
from base64 import b64encode
from pathlib import Path

import freetype
import pytest
from PIL import Image, ImageChops, ImageDraw, ImageFont, features
from playwright.sync_api import Browser

from aksara.font import Font, open_font
from aksara.subsetting import subset
from fonts import DEJAVU, DEMO_FONTS, LIBERATION, SYSTEM, box, small_font, truetype

LATIN = frozenset((*range(0x20, 0x7F), *range(0xA0, 0x180), 0x2018, 0x2019, 0x201C, 0x201D, 0x2026, 0x20AC))
GREEK_AND_CYRILLIC = frozenset((*range(0x20, 0x7F), *range(0x370, 0x500)))

# Pairs that kern, letters that join, accents that compose: all of them in Basic Latin and a few accents.
TEXTS = (
    "AVATAR Tomorrow, Wave; LTd. “Yes” P.F.",
    "office affluent fjord fi fl ffi ffl Th ck st",
    "Ångström Čapek œuvre İstanbul ğışçö ĳ ŉ",
    "0123456789 (1/2) 50% €£$ & @ # [a] {b}",
)


def _requests(font: Font) -> list[frozenset[int] | None]:
    """Basic Latin and neighbours; another script; a random third; everything."""
    characters = sorted(font.characters)
    third = frozenset(random.Random(7).sample(characters, max(1, len(characters) // 3)))
    return [LATIN, GREEK_AND_CYRILLIC, third, None]


# The FreeType that freetype-py brings reads no WOFF2; Pillow's does, below.
@pytest.mark.parametrize("path", [p for p in truetype() if p.suffix != ".woff2"], ids=lambda path: path.name)
def test_freetype_sees_the_same_outlines_and_advances(path: Path) -> None:
    source = freetype.Face(str(path))
    font = open_font(path)
    for request in _requests(font):
        cut = subset(font, request)
        if not cut.characters:
            continue
        result = freetype.Face(io.BytesIO(cut.font.write("sfnt")))
        for face in (source, result):
            encodings = {charmap.encoding for charmap in face.charmaps}
            symbol = freetype.FT_ENCODING_MS_SYMBOL
            face.select_charmap(symbol if symbol in encodings else freetype.FT_ENCODING_UNICODE)
        codes = sorted(cut.characters)
        for code in random.Random(3).sample(codes, min(len(codes), 1200)):
            assert _outline(source, code) == _outline(result, code), f"U+{code:04X}"
        assert (source.ascender, source.descender, source.height) == (result.ascender, result.descender, result.height)


def _outline(face: freetype.Face, code: int) -> tuple[object, ...]:
    """Unscaled points, what kind each is, contours and advance. .notdef, the glyph of nothing, counts as a failure."""
    # A symbol font's characters lie at U+F000 and answer to ASCII.
    number = face.get_char_index(code) or face.get_char_index(0xF000 | code & 0xFF)
    assert number != 0, f"U+{code:04X} has no glyph"
    face.load_glyph(number, freetype.FT_LOAD_NO_SCALE)
    outline = face.glyph.outline
    return outline.points, [tag & 3 for tag in outline.tags], outline.contours, face.glyph.advance.x


def _hinted(path: Path) -> bool:
    """Whether FreeType uses the font's own hints; it makes its own, of all letters, for a font without."""
    return "fpgm" in open_font(path)


@pytest.mark.parametrize("path", [p for p in (*DEJAVU, *LIBERATION) if _hinted(p)], ids=lambda path: path.name)
def test_harfbuzz_sets_the_same_text_from_the_woff2(path: Path) -> None:
    assert features.check("raqm"), "Pillow needs libfribidi0"
    web = io.BytesIO(subset(open_font(path), LATIN).font.write("woff2"))
    size = 40
    source = ImageFont.truetype(str(path), size, layout_engine=ImageFont.Layout.RAQM)
    result = ImageFont.truetype(web, size, layout_engine=ImageFont.Layout.RAQM)
    for text in (*TEXTS, "e\u0301a\u0308o\u0302"):
        for wanted in (None, ["-kern"], ["-liga"], ["dlig", "smcp"]):
            assert source.getlength(text, features=wanted) == result.getlength(text, features=wanted), text
            first, second = source.getmask(text, features=wanted), result.getmask(text, features=wanted)
            assert (first.size, bytes(first)) == (second.size, bytes(second)), (text, wanted)


def test_the_comparison_would_see_a_lost_ligature_or_kern() -> None:
    """The sets of features really change the picture, so equal pictures say something."""
    font = ImageFont.truetype(str(DEJAVU[0].parent / "DejaVuSans.ttf"), 40, layout_engine=ImageFont.Layout.RAQM)
    assert font.getlength("AVATAR") != font.getlength("AVATAR", features=["-kern"])
    assert bytes(font.getmask("ffi")) != bytes(font.getmask("ffi", features=["-liga"]))


PAGE = """<!doctype html><meta charset="utf-8"><link rel="icon" href="data:,"><style>
@font-face {{ font-family: Test; src: url("{font}"); }}
@font-face {{ font-family: Boxes; src: url("{boxes}"); }}
body {{ margin: 8px; font: 26px/1.5 Test, Boxes; width: 1180px; background: #fff; font-kerning: normal; }}
</style>{text}"""


def _page_text(characters: frozenset[int]) -> str:
    shown = "".join(chr(code) for code in sorted(characters) if code > 0x20 and code not in map(ord, "<>&"))
    words = [shown[k : k + 12] for k in range(0, len(shown), 12)]
    lines = [text.replace("&", "&amp;") for text in TEXTS if all(ord(c) in characters for c in text)]
    return f"<p>{' '.join(words)}</p>" + "".join(f"<p>{line}</p>" for line in lines)


def _shot(browser: Browser, html: str) -> Image.Image:
    """The page once its fonts are there; any message on the console fails."""
    page = browser.new_page(viewport={"width": 1240, "height": 900})
    messages: list[str] = []
    page.on("console", lambda message: messages.append(message.text))
    page.on("pageerror", lambda error: messages.append(str(error)))
    try:
        page.set_content(html)
        loaded = page.evaluate(
            "async () => { const text = document.body.textContent;"
            " await document.fonts.load('26px Test', text); await document.fonts.load('26px Boxes', text);"
            " await document.fonts.ready; return [...document.fonts].map(face => face.family + ' ' + face.status); }"
        )
        picture = page.screenshot(full_page=True)
    finally:
        page.close()
    assert messages == []
    assert loaded == ["Test loaded", "Boxes loaded"]
    return Image.open(io.BytesIO(picture)).convert("RGB")


def _url(data: bytes) -> str:
    return "data:font/sfnt;base64," + b64encode(data).decode()


@pytest.fixture(scope="module")
def boxes() -> str:
    """A fallback in which every character is a wide box, so that a missing glyph cannot pass unseen."""
    codes = sorted(LATIN | GREEK_AND_CYRILLIC)
    return _url(small_font(dict.fromkeys(codes, 1), [b"", box(1400)[0]]))


@pytest.mark.parametrize("path", [*DEMO_FONTS, *DEJAVU, *LIBERATION], ids=lambda path: path.name)
def test_chromium_shows_the_same_page(path: Path, browser: Browser, boxes: str) -> None:
    font = open_font(path)
    cut = subset(font, LATIN)
    text = _page_text(frozenset(cut.characters))
    source = _shot(browser, PAGE.format(font=_url(path.read_bytes()), boxes=boxes, text=text))
    for form in ("woff2", "woff"):
        result = _shot(browser, PAGE.format(font=_url(cut.font.write(form)), boxes=boxes, text=text))
        assert result.size == source.size
        assert ImageChops.difference(source, result).getbbox() is None, form


def test_chromium_would_show_a_missing_character(browser: Browser, boxes: str) -> None:
    path = DEMO_FONTS[0]
    cut = subset(open_font(path), LATIN - {ord("e")})
    text = _page_text(LATIN & open_font(path).characters.keys())
    source = _shot(browser, PAGE.format(font=_url(path.read_bytes()), boxes=boxes, text=text))
    result = _shot(browser, PAGE.format(font=_url(cut.font.write("woff2")), boxes=boxes, text=text))
    assert source.size != result.size or ImageChops.difference(source, result).getbbox() is not None


def test_whole_fonts_of_other_scripts_are_accepted_and_look_the_same(browser: Browser, boxes: str) -> None:
    samples = {
        "lohit-kannada/Lohit-Kannada.ttf": "ಕನ್ನಡ ಕ್ಷೇತ್ರ ಸ್ತ್ರೀ ಾ ೊ",
        "padauk/Padauk-Regular.ttf": "မြန်မာ က္ကျွန်ုပ် ပြည်ထောင်စု",
        "fonts-oldstandard/OldStandard-Regular.ttf": "Ѿ ἀρχὴ fi ffl Съѣшь",
        "../opentype/fonts-hosny-amiri/Amiri-Regular.ttf": "السَّلامُ عَلَيْكُمْ لله ٢٠٢٦",
    }
    for name, text in samples.items():
        path = SYSTEM / name
        codes = frozenset(map(ord, text))
        source = _shot(browser, PAGE.format(font=_url(path.read_bytes()), boxes=boxes, text=text))
        for request in (codes, None):
            web = subset(open_font(path), request).font.write("woff2")
            result = _shot(browser, PAGE.format(font=_url(web), boxes=boxes, text=text))
            assert ImageChops.difference(source, result).getbbox() is None, (name, request)


def test_pillow_is_the_renderer_that_these_tests_think_it_is() -> None:
    image = Image.new("L", (60, 60))
    ImageDraw.Draw(image).text((5, 5), "A", font=ImageFont.truetype(str(DEMO_FONTS[0]), 40), fill=255)
    assert image.getbbox()
