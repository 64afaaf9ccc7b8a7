"""Fonts with Apple's tables alone: what they make of kept characters stays, and what nothing leads to goes."""

from __future__ import annotations

import io
from collections.abc import Sequence

import pytest
from PIL import ImageFont

from aksara.errors import BeyondBounds
from aksara.font import Font
from aksara.subsetting import subset
from aksara.tables.morphing import Morphing
from apple_fonts import (
    CHARACTERS,
    CONTEXT,
    ENCODED,
    FORM,
    INSERTION,
    LIGATURE,
    NEVER,
    OTHER,
    PAIR,
    PUT_IN,
    SINGLE,
    TRIPLE,
    A,
    apple_font,
    lookup,
    machine,
    morx,
)
from fonts import words


def _drawn(data: bytes, text: str) -> tuple[object, ...]:
    font = ImageFont.truetype(io.BytesIO(data), 40, layout_engine=ImageFont.Layout.RAQM)
    mask = font.getmask(text)
    return font.getlength(text), mask.size, bytes(mask)


@pytest.mark.parametrize(
    ("subtables", "text", "leads_to"),
    [
        ([SINGLE], "AC", {FORM}), ([SINGLE], "AB", {FORM, OTHER}), ([SINGLE], "D", {ENCODED}), ([SINGLE], "C", set()),
        ([CONTEXT], "AB", {FORM, OTHER}), ([CONTEXT], "B", set()), ([CONTEXT], "C", set()),
        ([LIGATURE], "AB", {PAIR}), ([LIGATURE], "ABC", {PAIR, TRIPLE}), ([LIGATURE], "AC", set()),
        ([INSERTION], "CA", {PUT_IN}), ([INSERTION], "AB", set()),
        ([(0, b"")], "AB", set()), ([LIGATURE, (4, lookup({TRIPLE: NEVER}))], "ABC", {PAIR, TRIPLE, NEVER}),
    ],
)  # fmt: skip
def test_glyphs_of_apple_substitutions_stay(
    subtables: Sequence[tuple[int, bytes]], text: str, leads_to: set[int]
) -> None:
    source = apple_font(*subtables)
    cut = subset(Font.read(source, "a.ttf"), set(map(ord, text)))
    kept = {glyph for glyph in cut.glyphs if glyph is not None}
    assert kept == {0, *(CHARACTERS[ord(each)] for each in text), *leads_to}
    assert cut.font.raw("morx") == Font.read(source, "a.ttf").raw("morx")
    assert any("only Safari uses them" in warning for warning in cut.warnings)
    # HarfBuzz knows these tables.
    made = cut.font.write("sfnt")
    for each in (text, text[::-1], text * 2, *text):
        assert _drawn(made, each) == _drawn(source, each), each


def test_reported_features_work_in_the_font() -> None:
    plain = apple_font()
    for subtable, text in ((SINGLE, "A"), (CONTEXT, "AB"), (LIGATURE, "ABC"), (INSERTION, "C")):
        assert _drawn(apple_font(subtable), text) != _drawn(plain, text), text


@pytest.mark.parametrize("subtables", [[(3, b"")], [(2, LIGATURE[1][:30])], [(1, b"\0")], [(4, words(99))]])
def test_what_cannot_be_followed_keeps_all_that_has_no_character(subtables: list[tuple[int, bytes]]) -> None:
    cut = subset(Font.read(apple_font(*subtables), "a.ttf"), {0x41})
    assert {glyph for glyph in cut.glyphs if glyph is not None} == {0, A, *range(FORM, ENCODED)}


def test_state_tables_without_end_are_bounded() -> None:
    # Every entry leads to another state, and each waits for more.
    states, count = 400, 60
    classes = {glyph: 4 + glyph for glyph in range(count)}
    entries = {
        (state, number): ((state * 7 + number * 13) % states, 0x8000, (0,))
        for state in range(states) for number in range(4, count + 4)
    }  # fmt: skip
    table = morx((2, machine(classes, entries, states, (0,), bytes(4), bytes(8), bytes(8))))
    with pytest.raises(BeyondBounds):
        Morphing.parse(table, "morx", 100).substitution_closure(set(range(count)))
