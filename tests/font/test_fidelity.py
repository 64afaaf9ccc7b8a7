"""What a reader sees: source and web font give the same pictures, in FreeType, in HarfBuzz and in Chromium."""

from __future__ import annotations

import io
import random
from base64 import b64encode
from pathlib import Path

import pytest
from msgspec.structs import replace
from PIL import Image, ImageChops, ImageDraw, ImageFont
from playwright.sync_api import Browser

from aksara.font import Font, open_font
from aksara.subsetting import FeatureChoice, SubsetOptions, draws_any, subset
from aksara.tables import Cmap, Glyf
from aksara.tables.cmap import unicode_subtables
from aksara.text import covered_languages, named_characters
from comparison import Comparison
from conftest import watched_page
from fonts import DEJAVU, DEMO_FONTS, DEMO_SLABS, LIBERATION, SYSTEM, box, corpus, small_font

LATIN = frozenset((*range(0x20, 0x7F), *range(0xA0, 0x180), 0x2018, 0x2019, 0x201C, 0x201D, 0x2026, 0x20AC))
GREEK_AND_CYRILLIC = frozenset((*range(0x20, 0x7F), *range(0x370, 0x500)))

TEXTS = (
    "AVATAR Tomorrow, Wave; LTd. “Yes” P.F.",
    "office affluent fjord fi fl ffi ffl Th ck st",
    "Ångström Čapek œuvre İstanbul ğışçö ĳ ŉ",
    "0123456789 (1/2) 50% €£$ & @ # [a] {b}",
)

# Fonts in which every structure is met that the corpus has; the other faces of their families are built alike.
REPRESENTATIVES = (
    *("DejaVuSans.ttf", "DejaVuSerif-BoldItalic.ttf", "DejaVuSansMono.ttf", "DejaVuMathTeXGyre.ttf"),
    *("LiberationSans-Regular.ttf", "LiberationSerif-Italic.ttf", "LiberationMono-Bold.ttf", "Karla-Regular.otf"),
    *("Karla-BoldItalic.otf", "KarlaTamilUpright-Regular.ttf", "KarlaTamilInclined-Bold.ttf", "Padauk-Regular.woff2"),
    *(
        "Padauk-Bold.ttf",
        "PadaukBook-Regular.woff",
        "Mingzat-Regular.ttf",
        "Lohit-Kannada.ttf",
        "OldStandard-Regular.ttf",
    ),
    *("OldStandard-Italic.ttf", "OpenSans-Regular.ttf", "OpenSans-CondBold.ttf", "TSCu_Comic.ttf", "TSCu_paranari.ttf"),
    *("Amiri-Regular.ttf", "Amiri-BoldSlanted.ttf", "AmiriQuran.ttf", "Asana-Math.otf", "Sora-Regular.otf"),
    *("Sora-Thin.otf", "unifont_csur.otf", "tahoma.ttf", "symbol.ttf", "webdings.ttf", "marlett.ttf"),
)
FONTS = [*DEMO_FONTS[:2], *DEMO_SLABS[:1], *(path for path in corpus() if path.name in REPRESENTATIVES)]


def _requests(font: Font) -> list[tuple[frozenset[int] | None, SubsetOptions]]:
    """Basic Latin; a random third of the characters; everything, with all features; a language that it can set."""
    characters = sorted(font.characters)
    third = frozenset(random.Random(7).sample(characters, max(1, len(characters) // 3)))
    other = [language for language in covered_languages(frozenset(characters)) if language.tag not in ("en", "id")]
    everything = SubsetOptions(features=FeatureChoice(everything=True))
    requests = [(LATIN, SubsetOptions()), (third, SubsetOptions()), (None, everything)]
    if other:
        requests.append((named_characters(languages=[random.Random(5).choice(other).tag]), SubsetOptions()))
    return requests


def test_every_kind_of_font_is_in_the_corpus() -> None:
    assert len({path.name for path in FONTS}) == len(REPRESENTATIVES) + 3


@pytest.mark.parametrize("path", FONTS, ids=lambda path: path.name)
def test_every_renderer_draws_the_same(path: Path) -> None:
    font = open_font(path)
    for characters, options in _requests(font):
        if draws_any(font, characters):
            cut = subset(font, characters, options)
            features = tuple(sorted(cut.features)) if options.features.everything else ()
            assert Comparison(font, cut, features).run() == []
            for variant in cut.variants[1:]:
                assert Comparison(font, cut).run_variant(variant) == []


def test_a_collection_is_taken_apart() -> None:
    first, second = Font.read_all((SYSTEM / "wqy/wqy-microhei.ttc").read_bytes(), "wqy.ttc")
    assert (first.path, second.path) == ("wqy.ttc#1", "wqy.ttc#2")
    characters = frozenset((*range(0x20, 0x7F), *range(0x4E00, 0x4E80), 0x3001, 0x300C, 0xFF01))
    for font in (first, second):
        assert Comparison(font, subset(font, characters)).run() == []
    assert subset(first, {0x69}).font.raw("hmtx") != subset(second, {0x69}).font.raw("hmtx")


def test_the_comparison_sees_what_is_missing() -> None:
    """Each of its parts fails when it should: an outline, a character, a ligature, a pair."""
    font = open_font(next(path for path in DEJAVU if path.name == "DejaVuSans.ttf"))
    cut = subset(font, LATIN)
    glyphs = font.table(Glyf).glyphs
    wrong = Glyf(list(cut.font.table(Glyf).glyphs))
    wrong.glyphs[cut.font.characters[0x41]] = glyphs[font.characters[0x42]]
    spoilt = {
        "outline": cut.font.with_tables([wrong, wrong.loca()]),
        "another glyph": cut.font.with_tables([Cmap(unicode_subtables({0x41: 5}))]),
        "shaped text": cut.font.with_tables([], ["GSUB"]),
        "shaped text ": cut.font.with_tables([], ["GPOS"]),
    }
    for what, bad in spoilt.items():
        found = Comparison(font, replace(cut, font=bad)).run()
        assert any(what.strip() in difference.what for difference in found), what


HEIGHT = 1000
PAGE = """<!doctype html><meta charset="utf-8"><link rel="icon" href="data:,"><style>
{faces}
@font-face {{ font-family: Boxes; src: url("{boxes}"); }}
body {{ margin: 0; background: #fff; }}
div {{ height: {height}px; width: 1180px; overflow: hidden; font-size: 26px; line-height: 1.5; font-kerning: normal; }}
</style>{sections}"""


def _page_text(characters: frozenset[int]) -> str:
    shown = "".join(chr(code) for code in sorted(characters) if code > 0x20 and code not in map(ord, "<>&"))
    words = [shown[k : k + 12] for k in range(0, len(shown), 12)]
    lines = [text.replace("&", "&amp;") for text in TEXTS if all(ord(c) in characters for c in text)]
    return f"<p>{' '.join(words)}</p>" + "".join(f"<p>{line}</p>" for line in lines)


def _pictures(browser: Browser, fonts: list[bytes], boxes: str, text: str) -> list[Image.Image]:
    """The text in each font, once they are there, all on one page; any message on the console fails."""
    faces = "".join(
        f'@font-face {{ font-family: Test{number}; src: url("{_url(data)}"); }}' for number, data in enumerate(fonts)
    )
    sections = "".join(f'<div style="font-family: Test{n}, Boxes">{text}</div>' for n in range(len(fonts)))
    with watched_page(browser, viewport={"width": 1240, "height": HEIGHT * len(fonts)}) as (page, problems):
        page.set_content(PAGE.format(faces=faces, boxes=boxes, height=HEIGHT, sections=sections))
        loaded, heights = page.evaluate(
            "async () => { const text = document.body.textContent, sections = [...document.querySelectorAll('div')];"
            " for (const face of document.fonts) await document.fonts.load(`26px ${face.family}`, text);"
            " await document.fonts.ready; return [[...document.fonts].map(face => face.status),"
            " sections.map(section => section.scrollHeight)]; }"
        )
        picture = page.screenshot()
    assert problems == []
    assert set(loaded) == {"loaded"}
    assert set(heights) == {HEIGHT}, "nothing is cut off"
    image = Image.open(io.BytesIO(picture)).convert("RGB")
    return [image.crop((0, HEIGHT * n, image.width, HEIGHT * (n + 1))) for n in range(len(fonts))]


def _different(first: Image.Image, second: Image.Image) -> bool:
    return ImageChops.difference(first, second).getbbox() is not None


def _url(data: bytes) -> str:
    return "data:font/sfnt;base64," + b64encode(data).decode()


@pytest.fixture(scope="module")
def boxes() -> str:
    """A fallback in which every character is a wide box, so that a missing glyph cannot pass unseen."""
    codes = sorted(LATIN | GREEK_AND_CYRILLIC)
    return _url(small_font(dict.fromkeys(codes, 1), [b"", box(1400)[0]]))


@pytest.mark.parametrize(
    "path",
    [*DEMO_FONTS, *(path for path in (*DEJAVU, *LIBERATION) if path.name in REPRESENTATIVES)],
    ids=lambda path: path.name,
)
def test_chromium_shows_the_same_page(path: Path, browser: Browser, boxes: str) -> None:
    cut = subset(open_font(path), LATIN)
    fonts = [path.read_bytes(), cut.font.write("woff2", effort="fast"), cut.font.write("woff", effort="fast")]
    source, *results = _pictures(browser, fonts, boxes, _page_text(frozenset(cut.characters)))
    assert [_different(source, result) for result in results] == [False, False]


def test_chromium_would_show_a_missing_character(browser: Browser, boxes: str) -> None:
    path = DEMO_FONTS[0]
    cut = subset(open_font(path), LATIN - {ord("e")})
    text = _page_text(LATIN & open_font(path).characters.keys())
    assert _different(*_pictures(browser, [path.read_bytes(), cut.font.write("woff2")], boxes, text))


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("lohit-kannada/Lohit-Kannada.ttf", "ಕನ್ನಡ ಕ್ಷೇತ್ರ ಸ್ತ್ರೀ ಾ ೊ"),
        ("padauk/Padauk-Regular.ttf", "မြန်မာ က္ကျွန်ုပ် ပြည်ထောင်စု"),
        ("fonts-oldstandard/OldStandard-Regular.ttf", "Ѿ ἀρχὴ fi ffl Съѣшь"),
        ("../opentype/fonts-hosny-amiri/Amiri-Regular.ttf", "السَّلامُ عَلَيْكُمْ لله ٢٠٢٦"),
    ],
)
def test_fonts_of_other_scripts_look_the_same_cut_and_whole(name: str, text: str, browser: Browser, boxes: str) -> None:
    font = open_font(SYSTEM / name)
    made = [subset(font, request).font.write("woff2", effort="fast") for request in (frozenset(map(ord, text)), None)]
    source, *results = _pictures(browser, [(SYSTEM / name).read_bytes(), *made], boxes, text)
    assert [_different(source, result) for result in results] == [False, False]


def test_pillow_is_the_renderer_that_these_tests_think_it_is() -> None:
    image = Image.new("L", (60, 60))
    ImageDraw.Draw(image).text((5, 5), "A", font=ImageFont.truetype(str(DEMO_FONTS[0]), 40), fill=255)
    assert image.getbbox()
