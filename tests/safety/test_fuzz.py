"""Damaged input of every kind is read or refused with a word, and no browser refuses what was made of it."""

from __future__ import annotations

import base64
import io
import struct
from contextlib import suppress
from itertools import islice
from pathlib import Path

import pytest
from PIL import ImageFont
from playwright.sync_api import Browser

from aksara.container import woff2
from aksara.errors import AksaraError
from aksara.font import Font
from aksara.pipeline.making.font_files import FontRecipe, make_font_files
from aksara.subsetting import FeatureChoice, subset
from cases import DRAWN, KINDS, OF_STRANGERS, sources
from conftest import watched_page
from fonts import box, small_font
from mutation import charstring_mutants, loca_mutants, mutants
from places import TESTS

_FINDS = sorted((TESTS / "finds").glob("*"))
#: `make fuzz` tries more.
_CASES = {"sites": 20, "formulas": 30, "arabic": 20, "variable": 26, "blends": 20, "paints": 25,
          "blends in all formats": 20, "graphics": 80,
          "drawings": 80, "sequences": 60, "morphing": 60, "cache files": 80,
          **dict.fromkeys(OF_STRANGERS, 15)}  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_damaged_input_raises_our_errors_or_works(kind: str) -> None:
    seen = {"fine": 0, "told": 0}
    for data in islice(KINDS[kind].make(1), _CASES.get(kind, 40)):
        try:
            KINDS[kind].use(data)
            seen["fine"] += 1
        except AksaraError as error:
            assert str(error)
            seen["told"] += 1
    # Nothing of a page is refused, and of fonts whose only damage is in tables that they can do without few are.
    assert seen["fine"] > (0 if kind in OF_STRANGERS else 5)
    assert seen["told"] > 5 or kind in ("pages", "sites", "zips", *DRAWN, *OF_STRANGERS), seen


@pytest.mark.parametrize("path", _FINDS, ids=[path.name for path in _FINDS])
def test_what_was_found_once_is_found_no_more(path: Path) -> None:
    kind = path.name.rpartition("-")[0].replace("_", " ")
    try:
        KINDS[kind].use(path.read_bytes())
    except AksaraError as error:
        assert str(error)


_VERDICT = """async fonts => Promise.all(fonts.map(async font => {
    const bytes = Uint8Array.from(atob(font), character => character.charCodeAt(0));
    try { await new FontFace('x', bytes).load(); return ''; } catch (error) { return String(error); }
}))"""


def test_browsers_take_outlines_or_we_refuse_them(browser: Browser) -> None:
    """Charstrings with any operators, and outlines that are cut short, in the formats that copy them as they are."""
    fonts, made = sources(), []
    for mutant_of, name in ((charstring_mutants, "postscript"), (loca_mutants, "truetype"), (loca_mutants, "hinted")):
        for what, mutant in islice(mutant_of(fonts[name], 5), 150):
            for characters in (None, frozenset(map(ord, "ABfi"))):
                recipe = FontRecipe(
                    characters=characters, features=FeatureChoice(), hints=True, formats=("sfnt",), effort="fast"
                )
                with suppress(AksaraError):
                    (file,) = make_font_files(Font.read(mutant), recipe, costs="none").files
                    made.append((what, file.data))
    assert len(made) > 200
    with watched_page(browser) as (page, _):
        verdicts = page.evaluate(_VERDICT, [base64.b64encode(data).decode() for _, data in made])
    assert [what for (what, _), verdict in zip(made, verdicts, strict=True) if verdict] == []


def test_a_glyph_without_contours_is_taken_by_every_reader_of_woff2(browser: Browser) -> None:
    head = struct.pack(">hhhhhH", 0, 100, 100, 0, 0, 1) + b"\0"
    outlines = [box(400)[0], box(450)[0], head, box(500)[0]]
    made = subset(Font.read(small_font(None, outlines))).font.write("woff2")
    ImageFont.truetype(io.BytesIO(made), 40).getmask("ABC")
    with watched_page(browser) as (page, _):
        assert page.evaluate(_VERDICT, [base64.b64encode(made).decode()]) == [""]


def test_no_browser_refuses_what_is_made_of_damaged_fonts(browser: Browser) -> None:
    made: list[tuple[str, bytes, bytes]] = []
    refused = 0
    for name, data in sources().items():
        for what, mutant in islice(mutants(data, 9), 60):
            try:
                font = Font.read(mutant, "mutant")
                cut = subset(font, None).font
                web = woff2.write({tag: cut.raw(tag) for tag in cut}, font.flavour, quality=0)
                made.append((f"{name}: {what}", mutant, web))
            except AksaraError:
                refused += 1
    assert len(made) + refused >= 300
    assert len(made) > 150
    with watched_page(browser) as (page, _):
        before, after = (page.evaluate(_VERDICT, [base64.b64encode(each[n]).decode() for each in made]) for n in (1, 2))
    assert sum(map(bool, before)) > 20, "browsers take what is damaged, so this proves nothing"
    assert [what for (what, _, _), verdict in zip(made, after, strict=True) if verdict] == []
