"""Fonts of icons: only those asked for by name stay, and show as before."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest
from PIL import Image, ImageChops
from playwright.sync_api import Browser

from aksara.font import Font
from aksara.pipeline.planning.icons import pictures_of
from aksara.subsetting.icons import font_icons
from conftest import Run, open_page
from fonts import box, small_font
from icon_fonts import NAMES, icon_font
from places import ROOT


def test_names_come_from_ligatures_and_from_the_font() -> None:
    spelled = font_icons(Font.read(icon_font(), "a.ttf"))
    assert set(spelled) == set(NAMES) and spelled["home"].character == 0xE000 and spelled["see"].character is None
    named = font_icons(Font.read(icon_font(ligatures=False), "a.ttf"))
    assert set(named) == {"home", "search", "house"}, "without a character nothing leads to it"
    assert not named["home"].is_spelled
    assert font_icons(Font.read(small_font(), "a.ttf")) == {}


def test_a_text_font_with_ligatures_has_no_icons() -> None:
    """Nor is one of icons a font of letters because its icons have no characters of their own."""
    text, icons = (Font.read(icon_font(**drawn), "a.ttf") for drawn in ({"letters": box(500)[0]}, {"private": False}))
    assert font_icons(text) == {} and pictures_of(text) == ""
    assert set(font_icons(icons)) == set(NAMES) and pictures_of(icons) == "icons"


def test_icons_of_one_width_keep_their_place_until_they_are_there(aksara: Run, tmp_path: Path) -> None:
    signals = next(path for path in (ROOT / "src/aksara/demo/fonts").glob("PenyuSignals*"))
    aksara("build", signals, "--for-icon", "ferry", "--format", "woff2")
    assert "display: inline-block; width: 0.92em;" in (tmp_path / "web-fonts/faces.css").read_text()


def test_only_the_icons_asked_for_stay(aksara: Run, browser: Browser, tmp_path: Path) -> None:
    (tmp_path / "icons.ttf").write_bytes(icon_font())
    done = aksara("build", "icons.ttf", "--for-icon", "home,see", "--format", "woff2", "--json")
    assert done.returncode == 0, done.stderr
    (family,) = json.loads(done.stdout)["families"]
    assert family["icons"] == [{"name": "home", "character": "U+E000"}, {"name": "see", "character": None}]
    (made,) = (tmp_path / "web-fonts/fonts").glob("*.woff2")
    font = Font.read(made.read_bytes(), made.name)
    assert set(font_icons(font)) == {"home", "see"}
    assert font.num_glyphs == 1 + len(set("homesee")) + 2
    seen = []
    for name in ("icons.ttf", f"web-fonts/fonts/{made.name}"):
        (tmp_path / "page.html").write_text(
            f"<style>@font-face {{ font-family: X; src: url({name}) }} body {{ font: 40px X }}</style>"
            "<p>home</p><p>see</p><p>&#xe000;</p>"
        )
        with open_page(browser, viewport={"width": 300, "height": 300}) as view:
            view.goto(f"file://{tmp_path}/page.html")
            view.evaluate("document.fonts.ready")
            seen.append(Image.open(io.BytesIO(view.screenshot())).convert("L"))
    assert min(seen[0].get_flattened_data()) < 40 and ImageChops.difference(*seen).getbbox() is None


@pytest.mark.parametrize(
    ("font", "names", "message"),
    [
        (icon_font(), "hom", "no icon"), (icon_font(), "homs", "did you mean home?"),
        (icon_font(), "zzz", "there are 4"), (small_font(), "home", "no font here has icons"),
    ],
)  # fmt: skip
def test_unknown_names_are_reported(font: bytes, names: str, message: str, aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(font)
    done = aksara("build", "a.ttf", "--for-icon", names)
    assert done.returncode == 2 and message.replace("no icon", "has an icon called hom") in done.stderr
    assert "--for-icon" in done.stderr


def test_a_project_names_its_icons(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "icons.ttf").write_bytes(icon_font(ligatures=False))
    (tmp_path / "aksara.toml").write_text('[site]\nicons = ["search"]\n[[family]]\nfonts = ["icons.ttf"]\n')
    done = aksara("build", "--json")
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["families"][0]["icons"] == [{"name": "search", "character": "U+E001"}]
