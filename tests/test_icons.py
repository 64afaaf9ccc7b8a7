"""Fonts of icons: only those asked for by name stay, and show as before."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest
from PIL import Image, ImageChops
from playwright.sync_api import Browser

from aksara.font import Font
from aksara.subsetting.icons import font_icons
from attacks import layout_table
from conftest import Run, open_page
from fonts import box, small_font, words

_NAMES = ("home", "search", "house", "see")
_LETTERS = sorted(set("".join(_NAMES)))
_GLYPH_OF = {letter: number for number, letter in enumerate(_LETTERS, 1)}
_ICON_OF = {name: len(_LETTERS) + 1 + number for number, name in enumerate(_NAMES)}


def icon_font(*, ligatures: bool = True) -> bytes:
    """Letters that draw nothing, and icons that they spell; "see" has no character of its own, the others have."""
    characters = {ord(letter): glyph for letter, glyph in _GLYPH_OF.items()}
    characters |= {0xE000 + number: _ICON_OF[name] for number, name in enumerate(_NAMES[:-1])}
    glyphs = [b""] * (1 + len(_LETTERS)) + [box(100 * (3 + n))[0] for n in range(len(_NAMES))]
    return small_font(characters, glyphs, extra={"GSUB": _ligatures()} if ligatures else {"post": _names()})


def _ligatures() -> bytes:
    by_first: dict[int, list[bytes]] = {}
    for name, icon in sorted(_ICON_OF.items(), key=lambda each: -len(each[0])):
        parts = [_GLYPH_OF[letter] for letter in name]
        by_first.setdefault(parts[0], []).append(words(icon, len(parts), *parts[1:]))
    firsts = sorted(by_first)
    coverage = words(1, len(firsts), *firsts)
    head = 6 + 2 * len(firsts)
    sets, at, offsets = b"", head + len(coverage), []
    for first in firsts:
        offsets.append(at + len(sets))
        places, body = [], b""
        for each in by_first[first]:
            places.append(2 + 2 * len(by_first[first]) + len(body))
            body += each
        sets += words(len(places), *places) + body
    return layout_table(4, words(1, head, len(firsts), *offsets) + coverage + sets, b"liga")


def _names() -> bytes:
    """'post' of version 2.0, with a name for each glyph of an icon."""
    count = 1 + len(_LETTERS) + len(_NAMES)
    numbers = [0] * (1 + len(_LETTERS)) + [258 + n for n in range(len(_NAMES))]
    texts = b"".join(bytes([len(name)]) + name.encode() for name in _NAMES)
    return words(2, 0) + bytes(28) + words(count, *numbers) + texts


def test_names_come_from_ligatures_and_from_the_font() -> None:
    spelled = font_icons(Font.read(icon_font(), "a.ttf"))
    assert set(spelled) == set(_NAMES) and spelled["home"].character == 0xE000 and spelled["see"].character is None
    named = font_icons(Font.read(icon_font(ligatures=False), "a.ttf"))
    assert set(named) == {"home", "search", "house"}, "without a character nothing leads to it"
    assert not named["home"].is_spelled
    assert font_icons(Font.read(small_font(), "a.ttf")) == {}


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
def test_unknown_names_are_told(font: bytes, names: str, message: str, aksara: Run, tmp_path: Path) -> None:
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
