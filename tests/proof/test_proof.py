"""The proof: each of its parts answers a question truly, with the site's words, whatever these are."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import jinja2
import pytest
from playwright.sync_api import Browser, Page

from aksara.faces import Face
from aksara.proof.lines import fitted
from aksara.proof.samples import texts_for
from aksara.web.fallback import FallbackFace
from aksara.web.model import WebFace, WebFile, WebSlice
from conftest import Run, watched_page
from fonts import DEMO_FONTS, SYSTEM, small_font

_PLAIN = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789.:"
_WORDS = "Terns nest on the slipway"


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A site that asks for a weight and a character that there are not."""
    folder = tmp_path_factory.mktemp("proof")
    (folder / "site").mkdir()
    (folder / "site/index.html").write_text(
        f'<html lang="en"><style>body {{ font-family: "Penyu Sans" }} h1 {{ font-weight: 900 }} '
        f"i {{ font-style: italic }}</style><h1>{_WORDS}</h1><p>{_WORDS}, and nobody minds; fine films ☃☃ at 6:45.</p>"
        "<p>\u202eabc<script>x()</script>&lt;script&gt;alert(1)&lt;/script&gt; \x01\x85</p><i>slowly</i></html>"
    )
    (folder / "site/other.html").write_text('<style>body { font-family: "Penyu Sans" }</style><p>☃</p>')
    return folder


@pytest.fixture
def proof(folder: Path, aksara: Run, browser: Browser) -> Iterator[Page]:
    regular, italic = (path for path in DEMO_FONTS if path.stem in ("PenyuSans-Regular", "PenyuSans-Italic"))
    done = aksara("build", regular, italic, "--for-site", folder / "site", "--to", folder / "out", "--budget", "20 KB",
                  "--feature", "smcp", "--effort", "fast", "--exact")  # fmt: skip
    assert done.returncode == 0, done.stderr
    with watched_page(browser, viewport={"width": 1280, "height": 800}) as (page, problems):
        page.goto(f"file://{folder}/out/proof.html")
        page.evaluate("document.fonts.ready")
        yield page
        assert problems == []


def test_the_proof_uses_the_sites_own_text(proof: Page) -> None:
    lines = proof.locator(".card[id^=face-] .line p").all_inner_texts()
    assert any(line.startswith(_WORDS) for line in lines)
    assert proof.locator(".card[id^=face-] .line p[lang=en]").count() > 4
    assert proof.evaluate("typeof x") == "undefined" and "alert(1)" not in proof.locator("script").all_inner_texts()


def test_what_is_faked_is_shown_and_said(proof: Page) -> None:
    part = proof.locator("section", has=proof.locator("#faked-0"))
    assert "Yes: there is no Black, and browsers make it up." in part.inner_text()
    card = part.locator(".card", has_text="Black")
    assert "readers get Regular, thickened by the browser" in card.inner_text()
    shown = card.locator("dd").first
    assert proof.evaluate("each => getComputedStyle(each).fontSynthesis", shown.element_handle()).startswith("weight")
    italic = part.locator(".card", has_text="Readers get the real face").filter(has_text="Italic")
    real, faked = italic.locator("dd").all()
    assert real.inner_text() == faked.inner_text() and real.screenshot() != faked.screenshot()


def test_missing_characters_are_reported_with_their_pages(proof: Page) -> None:
    (row,) = proof.locator(".lacking tr").all()
    assert row.locator("td").all_inner_texts() == ["☃", "U+2603 snowman", "3 times", "site/index.html, site/other.html"]
    marked = proof.locator("#cells-0 b.on").all_text_contents()
    assert "T" in marked and "Q" not in marked
    assert "written" in (proof.locator("#cells-0 b.on").first.get_attribute("title") or "")
    proof.get_by_label("Shown in").select_option("Italic")
    assert "lacks" in (proof.locator("#cells-0 b", has_text=re.compile("^6$")).get_attribute("class") or "")


def test_features_are_shown_on_and_off(proof: Page) -> None:
    rows = {row.locator("code").inner_text(): row for row in proof.locator(".features tr:has(td)").all()}
    assert {"kern", "liga", "smcp"} <= rows.keys()
    for tag, row in rows.items():
        _, on, off = row.locator("td").all()
        assert on.inner_text() == off.inner_text()
        if tag != "kern":
            assert on.screenshot() != off.screenshot(), tag
    assert "films" in rows["liga"].inner_text(), "in the site's words"


def test_costs_are_charts_that_can_be_read_aloud(proof: Page) -> None:
    tree = json.dumps(proof.context.new_cdp_session(proof).send("Accessibility.getFullAXTree"))
    assert '"Bytes of each face"' in tree and re.search(r'"\d+(\.\d)? KB WOFF2"', tree)
    assert '"What does it cost?"' in tree and '"To the proof"' in tree
    bars = proof.locator('[aria-label^="Bytes that a first view"] rect')
    assert bars.count() == 2
    # Headings go down by one level at a time, and everything is in a landmark.
    levels = [
        int(each[1]) for each in proof.locator("h1, h2, h3, h4, h5").evaluate_all("all => all.map(e => e.tagName)")
    ]
    assert levels[0] == 1 and all(after - before <= 1 for before, after in pairwise(levels) if after < 5)
    assert proof.locator("main").count() == proof.locator("header").count() == 1


def test_the_proof_fits_a_phone_and_needs_no_script(folder: Path, proof: Page, browser: Browser) -> None:
    proof.set_viewport_size({"width": 390, "height": 844})
    assert proof.evaluate("document.documentElement.scrollWidth") <= 390
    context = browser.new_context(java_script_enabled=False, color_scheme="dark")
    page = context.new_page()
    page.goto(f"file://{folder}/out/proof.html")
    fit = page.locator(".fit").first
    both = fit.screenshot()
    fit.get_by_label("the fallback").check()
    only = fit.screenshot()
    assert both != only and page.locator(".cells b").count() > 25
    context.close()


def test_large_fonts_lie_beside_it(aksara: Run, tmp_path: Path, browser: Browser) -> None:
    done = aksara(
        "build", f"{SYSTEM / 'wqy/wqy-microhei.ttc'}#1", "--format", "sfnt", "--effort", "fast", "--to", "out"
    )
    assert done.returncode == 0, done.stderr
    html = (tmp_path / "out/proof.html").read_text()
    assert "base64" not in html and len(html) < 1_500_000
    with watched_page(browser) as (page, problems):
        page.goto(f"file://{tmp_path}/out/proof.html")
        page.evaluate("document.fonts.ready")
        assert page.evaluate("[...document.fonts].some(face => face.status === 'loaded')")
    assert problems == []


def test_fallback_lines_are_measured() -> None:
    codes = frozenset(map(ord, "aein "))
    face = Face(path="a.ttf", family="A", weight=400, style="normal")
    web = WebFace(face=face, source_size=1, source_characters=5,
                  slices=(WebSlice("all", codes, "", (WebFile("a", "woff2", b"x"),)),))  # fmt: skip
    rule = FallbackFace(family="A on Arial", on="Arial", local=("Arial",), weight=(400, 400), style="normal",
                        width=(100, 100), size_adjust=100, ascent=90, descent=20, line_gap=0)  # fmt: skip
    widths = dict.fromkeys(codes, 0.5)
    (text,) = fitted(web, widths, "ae ie na ni", [rule], 3.0)
    assert [line.text for line in text.lines] == ["ae ie", "na ni"]
    # Arial's a, e and n are 0.556 wide, its i 0.222, a space 0.278 (in thousands of an em).
    assert text.lines[0].difference == pytest.approx((3 * 0.556 + 0.222 + 0.278) / 2.5 - 1, abs=0.01)
    assert fitted(web, widths, "xyz", [rule]) == []


@pytest.mark.parametrize(
    ("letters", "languages", "first"),
    [
        (_PLAIN, ("id",), ("id", "Kapal")), (_PLAIN, (), ("en", "The")), ("xyz", (), ("", "xyz")),
    ],
)  # fmt: skip
def test_without_a_site_it_speaks_the_fonts_languages(
    letters: str, languages: tuple[str, ...], first: tuple[str, str]
) -> None:
    face = Face(path="a.ttf", family="A", weight=400, style="normal")
    part = WebSlice("all", frozenset(map(ord, letters)), "", ())
    web = WebFace(face=face, source_size=1, source_characters=5, slices=(part,))
    language, text = texts_for(web, [], languages)[0]
    assert (language, text.split()[0]) == first


def test_names_and_texts_cannot_break_out(aksara: Run, tmp_path: Path, browser: Browser) -> None:
    name = "</style><script>window.broken = 1</script>"
    (tmp_path / "a.ttf").write_bytes(small_font(names={1: name, 2: "Regular", 4: name, 6: "x"}))
    done = aksara("build", "a.ttf", "--effort", "fast")
    assert done.returncode == 0, done.stderr
    with watched_page(browser) as (page, problems):
        page.goto(f"file://{tmp_path}/web-fonts/proof.html")
        assert page.evaluate("window.broken") is None
        assert page.locator("h2").inner_text().startswith("</style>")
    assert problems == []


def test_compiled_templates_are_kept_and_made_again_where_they_are_damaged(
    aksara: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("sys.pycache_prefix", str(tmp_path / "kept"))
    monkeypatch.setattr("sys.dont_write_bytecode", False)
    build = ("-q", "build", DEMO_FONTS[0], "--to", "out", "--for-text", "Kapal", "--no-cache")
    pages = set()
    for length in (None, 0, 70, -1):  # whole at first, then cut short
        assert aksara(*build).returncode == 0
        pages.add((tmp_path / "out/proof.html").read_bytes())
        kept = list((tmp_path / "kept").rglob("*.template"))
        assert kept
        for path in kept:
            path.write_bytes(path.read_bytes()[:length])
    assert len(pages) == 1
    assert aksara(*build).returncode == 0
    monkeypatch.setattr(jinja2.Environment, "compile", None)
    assert aksara(*build).returncode == 0
