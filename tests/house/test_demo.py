"""The demo: a site that someone would ship, set in a typeface of our own, and its page of proofs."""

from __future__ import annotations

import subprocess
import sys
import unicodedata
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page

from aksara.faces import Face
from aksara.font import open_font
from aksara.proof import proof_page
from aksara.proof.characters import MAX_SHOWN
from aksara.proof.content import FamilyProof
from aksara.web.model import WebFace, WebFamily, WebFile, WebSlice
from conftest import watched_page
from fonts import DEMO_FONTS
from places import ROOT

REPOSITORY = ROOT
PAGES = ("index", "timetable", "islands", "booking")


_STATIC = ("Regular", "Italic", "Bold", "Bold Italic")


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demo") / "penyu"
    done = subprocess.run(
        [sys.executable, "-m", "aksara", "demo", str(folder)], capture_output=True, text=True, check=True
    )
    assert "site/index.html" in done.stdout
    assert done.stderr == ""
    return folder


@pytest.fixture
def page(browser: Browser) -> Iterator[Page]:
    """A page on which any message or failed request fails the test."""
    with watched_page(browser, viewport={"width": 1280, "height": 800}) as (opened, problems):
        yield opened
    assert problems == []


@pytest.mark.parametrize("name", PAGES)
def test_every_page_is_set_in_the_built_fonts(name: str, demo: Path, page: Page) -> None:
    page.goto(f"file://{demo}/site/{name}.html")
    page.evaluate("document.fonts.ready")
    faces = (
        "[...document.fonts].filter(face => face.family.replaceAll('\"', '') === 'Penyu Sans')"
        ".map(face => [`${face.weight} ${face.style}`, face.status])"
    )
    statuses = page.evaluate(faces)
    assert {face for face, status in statuses if status == "loaded"} == {face for face, _ in statuses}
    assert {status for _, status in statuses} <= {"loaded", "unloaded"}
    assert "error" not in page.evaluate(
        "[...document.fonts].filter(face => !face.family.includes(' on ')).map(face => face.status)"
    )
    # Not one letter of the page comes from a fallback or is bent by the browser.
    session = page.context.new_cdp_session(page)
    session.send("DOM.enable")
    session.send("CSS.enable")
    root = session.send("DOM.getDocument", {"depth": 1})["root"]["nodeId"]
    used: dict[str, int] = {}
    for node in session.send("DOM.querySelectorAll", {"nodeId": root, "selector": "body *"})["nodeIds"]:
        for font in session.send("CSS.getPlatformFontsForNode", {"nodeId": node})["fonts"]:
            used[font["familyName"]] = used.get(font["familyName"], 0) + font["glyphCount"]
    # The project calls the variable font by another name than its maker, and so does the font itself then.
    assert set(used) - {"Penyu Sans Variable"} == {"Penyu Sans", "Penyu Slab", "Penyu Signals"}
    assert used["Penyu Sans"] > 200


def test_the_pages_are_in_three_languages(demo: Path) -> None:
    languages = [(demo / f"site/{name}.html").read_text().split('lang="')[1][:2] for name in PAGES]
    assert languages == ["en", "id", "en", "vi"]


def test_the_demo_can_be_run_again(demo: Path) -> None:
    before = {path: path.read_bytes() for path in demo.rglob("*") if path.is_file()}
    subprocess.run([sys.executable, "-m", "aksara", "-q", "demo", str(demo)], check=True)
    assert {path: path.read_bytes() for path in demo.rglob("*") if path.is_file()} == before


def test_the_typeface_is_what_its_script_draws(tmp_path: Path) -> None:
    subprocess.run(
        [sys.executable, "tools/draw_penyu.py", str(tmp_path)], cwd=REPOSITORY, check=True, capture_output=True
    )
    demo = DEMO_FONTS[0].parent.parent
    drawn = [*demo.glob("fonts/*.?tf"), *demo.glob("candidates/*.otf")]
    assert len(drawn) == 12
    for path in drawn:
        assert (tmp_path / path.relative_to(demo)).read_bytes() == path.read_bytes(), "run `make typeface`"


def test_the_proof_shows_every_face_and_character_and_needs_no_other_file(demo: Path, page: Page) -> None:
    page.goto(f"file://{demo}/site/type/proof.html")
    page.evaluate("document.fonts.ready")
    assert page.locator(".card[id^=face-]").count() == 10
    assert page.locator("td.name").all_inner_texts() == [*_STATIC, "Variable 300–800", *_STATIC, "Regular"]
    # A name that the face cannot set in full is not set half in it.
    families = page.locator("td.name").evaluate_all("cells => cells.map(each => each.style.fontFamily)")
    assert ["proof-" in family for family in families] == [True] * 9 + [False]
    served: set[int] = set()
    for path in (demo / "site/type/fonts").glob("PenyuSans-*.woff2"):
        served |= open_font(path).characters.keys()
    visible = [code for code in served if unicodedata.category(chr(code))[0] not in "CZ"]
    assert page.locator("#cells-0 b").count() == len(visible) > 200
    assert (
        page.evaluate("performance.getEntriesByType('resource').filter(r => !r.name.startsWith('data:')).length") == 0
    )
    titles = page.locator(".cells b").evaluate_all("cells => cells.map(cell => cell.title)")
    assert "U+1EA5 latin small letter a with circumflex and acute" in titles


def test_a_proof_of_a_huge_font_stays_usable(demo: Path) -> None:
    codes = frozenset(range(0x4E00, 0x4E00 + 20_000))
    part = WebSlice("all", codes, "", (WebFile("a", "woff2", b"x"),))
    face = Face(path="a<b>.ttf", family="<i>", weight=400, style="normal")
    web = WebFace(face=face, source_size=10_000_000, source_characters=20_000, slices=(part,))
    family = WebFamily(name="<i>", faces=(web,), stack=("serif",), generic="serif")
    html = proof_page([FamilyProof(web=family)], "0").decode()
    assert html.count("<b title=") == MAX_SHOWN
    assert "first 3000 shown" in html
    assert "<i>" not in html
