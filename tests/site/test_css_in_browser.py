"""The style sheet as a browser reads it: every rule and descriptor kept, every face loading, ranges that hold."""

from __future__ import annotations

import re
from itertools import groupby
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page

from aksara import BuildRequest, CharacterRequest, FamilyRequest, make_plan, run, write_output
from aksara.errors import InputError
from aksara.faces import WebLicence, identify
from aksara.font import open_font
from aksara.pipeline.making.font_files import technology_of
from aksara.text import parse_ranges
from aksara.web.css import rule
from aksara.web.model import WebFace, WebFamily, WebFile, WebSlice
from conftest import Run, open_page, watched_page
from fonts import DEJAVU, DEMO_FONTS, DEMO_SLABS, corpus, small_font
from variable import PENYU

# Enough of every script of the corpus that each face has something to serve, little enough to be quick.
_RANGES = "U+20-7E,U+A0-FF,U+370-3CF,U+621-64A,U+B85-BB9,U+C85-CB9,U+1000-1021,U+1C00-1C23,U+21-2F,U+F020-F07F"
_DESCRIPTORS = (
    *("font-family", "font-style", "font-weight", "font-stretch", "font-display", "src", "unicode-range"),
    *("size-adjust", "ascent-override", "descent-override", "line-gap-override"),
)
_READ_BACK = """names => [...document.styleSheets[0].cssRules].filter(rule => rule instanceof CSSFontFaceRule)
    .map(rule => Object.fromEntries(names.map(name => [name, rule.style.getPropertyValue(name)]).filter(p => p[1])))"""
_CHECK = """async ({font, inside, outside}) => {
    const before = document.fonts.check(font, inside), beyond = document.fonts.check(font, outside);
    await document.fonts.load(font, inside);
    return [before, beyond, document.fonts.check(font, inside)];
}"""


#: Faces of a package; the others are built alike.
_MOST_FACES = 4


def _folders() -> list[tuple[str, list[Path]]]:
    """The corpus package by package, as a customer would have it."""
    fonts = (*corpus(), *sorted(Path("/usr/share/fonts/truetype/wqy").glob("*.ttc")))
    return [
        ("-".join(folder.parts[-2:]), list(paths)[:_MOST_FACES])
        for folder, paths in groupby(fonts, key=lambda path: path.parent)
    ]


# A font of bitmaps whose outlines are empty, and one that claims the place of another: both are asked about.
_ASKED_ABOUT = ("unifont_sample.ttf", "fixedsys_jp.ttf", "small_fonts_jp.ttf")


def _is_usable(path: Path) -> bool:
    """Whether web fonts can be made of it."""
    if path.name in _ASKED_ABOUT:
        return False
    try:
        open_font(path).require_supported()
    except InputError:
        return False
    return True


def _written(css: str) -> list[dict[str, str]]:
    """The descriptors of each rule as they stand in the text."""
    found = []
    for block, line in re.findall(r"^@font-face \{(?:\n(.*?)^| (.*?) )\}", css, re.DOTALL | re.MULTILINE):
        pairs = re.findall(r"^  ([a-z-]+): (.*?);$", block, re.DOTALL | re.MULTILINE)
        # Rules of fallback faces take a line each.
        pairs += re.findall(r"([a-z-]+): (.*?)(?:; (?=[a-z-]+: )|$)", line)
        found.append({name: " ".join(value.split()) for name, value in pairs})
    return found


def _plain(name: str, value: str) -> str | frozenset[int]:
    """A value without the freedom that CSSOM has in writing it."""
    if name == "unicode-range":
        return frozenset(parse_ranges(value))
    if name == "font-family":
        return value.strip('"')
    if name == "src":
        return value.replace("color-COLR", "color-colr")
    words = {"font-stretch": {"normal": "100%"}, "font-weight": {"normal": "400", "bold": "700"}}.get(name, {})
    return words.get(value, value)


def _assert_kept(page: Page, css: str) -> list[dict[str, str]]:
    """Every rule is there with every descriptor as written; the rules."""
    written, kept = _written(css), page.evaluate(_READ_BACK, list(_DESCRIPTORS))
    assert len(kept) == len(written) == css.count("@font-face {")
    for ours, theirs in zip(written, kept, strict=True):
        assert {name: _plain(name, value) for name, value in theirs.items()} == {
            name: _plain(name, value) for name, value in ours.items()
        }
    return kept


@pytest.mark.parametrize(
    ("name", "fonts"), [pytest.param(n, f, id=n) for n, f in [("demo", [*DEMO_FONTS, *DEMO_SLABS]), *_folders()]]
)
def test_a_browser_keeps_every_rule_and_loads_every_face(
    name: str, fonts: list[Path], tmp_path: Path, site: str, browser: Browser
) -> None:
    # Inter comes with and without an axis of slant: of these two only one can be the family.
    usable = tuple(font for font in fonts if _is_usable(font) and not re.search("-(roman|italic)\\.var", font.name))
    if not usable:
        assert name == "truetype-unifont", "bitmaps"
        return
    request = BuildRequest(
        families=(FamilyRequest(fonts=usable, local=name == "demo"),),
        folder=tmp_path / "type",
        formats=("woff2",),
        characters=CharacterRequest(ranges=(_RANGES,)),
        effort="fast",
        licence=WebLicence(stated=True),
    )
    build = run(make_plan(request))
    write_output(build.files, request.folder)
    (tmp_path / "page.html").write_text(
        '<!doctype html><link rel="icon" href="data:,"><link rel="stylesheet" href="type/faces.css">'
    )
    with watched_page(browser) as (page, problems):
        page.goto(f"{site}/page.html")
        rules = _assert_kept(page, build.style_sheet)
        for family in build.families:
            for web in family.faces:
                stretch = {100: "", 75: "condensed "}.get(web.face.width)
                if stretch is None:
                    continue
                served = set().union(*(other.characters for other in family.faces))
                # A letter; symbol fonts have none, and their signs are nobody's characters.
                inside = min(map(chr, web.characters), key=lambda c: (not c.isalpha(), c.isspace(), c))
                outside = next(chr(code) for code in range(0x4E00, 0x5000) if code not in served)
                asked = f'{web.face.style} {web.face.weight} {stretch}16px "{family.name}"'
                found = page.evaluate(_CHECK, {"font": asked, "inside": inside, "outside": outside})
                # Nothing is loaded at first; but check() holds for families that are installed, as DejaVu is.
                assert found == ["dejavu" in name, True, True], asked
        loaded = page.evaluate(
            "Promise.all([...document.fonts].filter(f => !/ on (Arial|[A-Z].*)/.test(f.family)).map(f => f.load()))"
            ".then(faces => faces.map(face => face.status))"
        )
    assert problems == []
    assert set(loaded) == {"loaded"}
    assert len(rules) >= len(loaded) == sum(len(family.faces) for family in build.families)


@pytest.mark.parametrize(
    "name",
    ['Laut "Biru"', "it's", "a\nb\r\nc", "</style><script>alert(1)</script>", "*/ } body { color: red", "🐢 Penyu",
     "\\", "x" * 300, "日本語", "--", "\u202eabc", "1st; }", "inherit", "serif"],
    ids=lambda name: ascii(name[:16]),
)  # fmt: skip
def test_no_name_breaks_the_style_sheet(name: str, aksara: Run, tmp_path: Path, site: str, browser: Browser) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font(names={1: "Kotak", 2: "Regular", 0: f"© {name}"}))
    done = aksara("build", "a.ttf", "--family", name, "--format", "woff2", "--licensed-to", name)
    assert done.returncode == 0, done.stderr
    css = (tmp_path / "web-fonts/faces.css").read_text()
    # In a page of its own, where "</style" would end it.
    (tmp_path / "web-fonts/page.html").write_text(
        f'<!doctype html><meta charset="utf-8"><link rel="icon" href="data:,"><style>{css}</style><p>ABC</p>'
    )
    with watched_page(browser) as (page, problems):
        page.goto(f"{site}/web-fonts/page.html")
        page.evaluate("document.querySelector('p').style.fontFamily = getComputedStyle(document.documentElement)"
                      ".getPropertyValue([...document.styleSheets[0].cssRules].at(-1).style[0])")  # fmt: skip
        page.evaluate("document.fonts.ready")
        state = page.evaluate(
            "[[...document.fonts].map(face => face.status), document.body.innerText, document.styleSheets.length,"
            "[...document.styleSheets[0].cssRules].map(rule => rule.constructor.name)]"
        )
    assert problems == []
    assert state[0][0] == "loaded"
    assert state[1:3] == ["ABC", 1]
    assert set(state[3]) == {"CSSFontFaceRule", "CSSStyleRule"}
    assert (state[3].count("CSSFontFaceRule"), state[3].count("CSSStyleRule")) == (css.count("@font-face {"), 1)


@pytest.mark.parametrize(
    ("font", "technologies"),
    [("Karla[wght].ttf", ()), ("AmiriQuranColored.ttf", ("color-COLRv0",)), ("Karla-Bold.otf", ())],
)
def test_what_a_browser_must_know_besides_the_format_is_reported(
    font: str, technologies: tuple[str, ...], browser: Browser
) -> None:
    source = open_font(next(path for path in corpus() if path.name == font))
    assert technology_of(source) == "".join(technologies)
    part = WebSlice("all", frozenset({65}), "U+41", (WebFile("a.woff2", "woff2", b"x", "a.woff2"),))
    web = WebFace(
        face=identify(source),
        source_size=1,
        source_characters=1,
        slices=(part,),
        technologies=technologies,
    )
    family = WebFamily(name="Penyu Sans", faces=(web,), stack=("serif",), generic="serif")
    with open_page(browser) as page:
        page.set_content(f"<style>{rule(family, web, part)}</style>")
        (kept,) = page.evaluate(_READ_BACK, list(_DESCRIPTORS))
    tail = f" tech({', '.join(technologies)})" if technologies else ""
    assert kept["src"].lower() == f'url("a.woff2") format("woff2"){tail}'.lower()
    assert kept["font-weight"] == " ".join(map(str, dict.fromkeys(identify(source).weight_range)))


#: What is far more than any of the texts: all characters of the largest fonts would take minutes.
_WHOLE = "U+20-7E,U+400-4FF,U+1F400-1F6FF"
# Whose lines are seen where they count.
_TALL = (
    '@font-face { font-family: Tall; src: local("DejaVu Sans Mono"); ascent-override: 200%; descent-override: 100% } '
)
_EMOJI = next(path for path in corpus() if path.name == "unifont_upper.otf")
_SANS = next(path for path in DEJAVU if path.name == "DejaVuSans.ttf")


@pytest.mark.parametrize(
    ("font", "text", "options"),
    [
        (DEMO_SLABS[0], "Logo", ()),
        (DEMO_SLABS[0], "Lo go", ()),
        (PENYU, "Logo", ()),
        (_SANS, "LogoЯшма", ("--slices", "3")),
        (_EMOJI, "🐢🚢", ()),
    ],
    ids=lambda value: getattr(value, "name", str(value)),
)
def test_lines_are_as_high_as_with_the_whole_font(
    font: Path, text: str, options: tuple[str, ...], aksara: Run, site: str, tmp_path: Path, browser: Browser
) -> None:
    """Of a font without a space in its range browsers take no line height (CSS Fonts 4, "first available font")."""
    for folder, asked in (
        ("whole", ("--slices", "none", "--for-range", _WHOLE)),
        ("cut", ("--for-text", text, *options)),
    ):
        done = aksara("build", font, "--family", "Ferry", "--format", "woff2", *asked, "--to", folder)
        assert done.returncode == 0, done.stderr
        (tmp_path / f"{folder}.html").write_text(
            f'<!doctype html><meta charset="utf-8"><link rel="icon" href="data:,">'
            f'<link rel="stylesheet" href="{folder}/faces.css"><style>{_TALL}p {{ font: 24px Ferry, Tall; margin: 3px; '
            "background: #eee } .down { writing-mode: vertical-rl; height: 300px }</style>"
            f"<p>{text}<p class=down>{text}"
        )
    views = []
    for folder in ("whole", "cut"):
        with watched_page(browser) as (page, problems):
            page.goto(f"{site}/{folder}.html")
            page.evaluate("document.fonts.ready")
            assert page.evaluate("[...document.fonts].some(face => face.status === 'loaded')")
            views.append(page.screenshot())
            assert problems == []
    assert views[0] == views[1]
