"""Damaged input of every kind is read or refused with a word, and no browser refuses what was made of it."""

from __future__ import annotations

import base64
from itertools import islice
from pathlib import Path

import pytest
from playwright.sync_api import Browser

from aksara.container import woff2
from aksara.errors import AksaraError
from aksara.font import Font
from aksara.subsetting import subset
from cases import DRAWN, KINDS, sources
from conftest import watched_page
from mutation import mutants

_FINDS = sorted((Path(__file__).parent / "finds").glob("*"))
#: `make fuzz` tries more.
_CASES = {"formulas": 40, "arabic": 60, "variable": 80, "blends": 80, "paints": 300, "graphics": 500, "drawings": 500,
          "sequences": 400, "morphing": 300, **{f"pictures {number}": 200 for number in range(1, 6)}}  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_damaged_input_raises_our_errors_or_works(kind: str) -> None:
    seen = {"fine": 0, "told": 0}
    for data in islice(KINDS[kind].make(1), _CASES.get(kind, 150)):
        try:
            KINDS[kind].use(data)
            seen["fine"] += 1
        except AksaraError as error:
            assert str(error)
            seen["told"] += 1
    # Nothing of a page is refused, and of fonts whose only damage is in tables that they can do without few are.
    assert seen["fine"] > 5
    assert seen["told"] > 5 or kind in ("pages", "zips", *DRAWN), seen


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
