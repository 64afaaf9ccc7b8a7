"""Fonts with Apple's tables alone: what they make of kept characters stays, and what nothing leads to goes."""

from __future__ import annotations

import io
import struct
from collections.abc import Mapping, Sequence

import pytest
from PIL import ImageFont

from aksara.binary import pad4
from aksara.errors import BeyondBounds
from aksara.font import Font
from aksara.subsetting import subset
from aksara.tables.morphing import Morphing
from comparison import IDLE_PROGRAM
from fonts import box, small_font, words

A, B, C, D = 1, 2, 3, 4
# Glyphs without a character, but for the last one.
FORM, OTHER, PAIR, TRIPLE, PUT_IN, NEVER, ENCODED = range(5, 12)
CHARACTERS = {0x41: A, 0x42: B, 0x43: C, 0x44: D, 0x58: ENCODED}
#: Entries of a state table: (state, class of the glyph) → (next state, flags, the entry's own words).
Entries = Mapping[tuple[int, int], tuple[int, int, tuple[int, ...]]]


def _lookup(values: Mapping[int, int]) -> bytes:
    """Format 6: single glyphs, with the one that ends a search."""
    body = b"".join(words(glyph, value) for glyph, value in sorted(values.items()))
    return words(6, 4, len(values), 0, 0, 0) + body + words(0xFFFF, 0)


def _machine(classes: Mapping[int, int], entries: Entries, states: int, none: tuple[int, ...], *more: bytes) -> bytes:
    """A state table of extended form, with further parts behind it, each with an offset of 32 bits."""
    count = 1 + max(classes.values())
    listed = [(0, 0, none), *entries.values()]
    numbers = {key: number for number, key in enumerate(entries, 1)}
    rows = words(*(numbers.get((state, each), 0) for state in range(states) for each in range(count)))
    table = b"".join(words(after, flags, *own) for after, flags, own in listed)
    parts = [_lookup(classes), rows, table, *more]
    head = 4 + 4 * len(parts)
    offsets, at = [], head
    for part in parts:
        offsets.append(at)
        at += len(part) + -len(part) % 4
    header = struct.pack(f">{1 + len(offsets)}I", count, *offsets)
    return header + b"".join(map(pad4, parts))


def morx(*subtables: tuple[int, bytes]) -> bytes:
    """One chain, whose subtables always apply."""
    body = b"".join(struct.pack(">III", 12 + len(data), kind, 1) + data for kind, data in subtables)
    head = struct.pack(">IIII", 1, 16 + 12 + len(body), 1, len(subtables)) + struct.pack(">HHII", 0, 0, 1, 0xFFFFFFFF)
    return struct.pack(">HHI", 2, 0, 1) + head + body


SINGLE = (4, _lookup({A: FORM, B: OTHER, D: ENCODED, NEVER: PAIR}))
#: A before B becomes another form; so does B behind A.
CONTEXT = (1, _machine(
    {A: 4, B: 5},
    {(0, 4): (2, 0x8000, (0xFFFF, 0xFFFF)), (2, 5): (0, 0, (0, 1)), (1, 4): (2, 0x8000, (0xFFFF, 0xFFFF))},
    3, (0xFFFF, 0xFFFF),
    struct.pack(">II", 8, 8 + len(_lookup({A: FORM}))) + _lookup({A: FORM}) + _lookup({B: OTHER, C: NEVER}),
))  # fmt: skip
#: A B becomes one, A B C another one.
LIGATURE = (2, _machine(
    {A: 4, B: 5, C: 6},
    {(0, 4): (2, 0x8000, (0,)), (2, 5): (3, 0x8000, (0,)), (3, 6): (0, 0xA000, (2,)), (1, 4): (2, 0x8000, (0,)),
     (3, 1): (0, 0x6000, (0,)), (3, 4): (0, 0x6000, (0,)), (3, 0): (0, 0x2000, (0,))},
    4, (0,),
    # The actions go from the last component to the first: A B, then A B C.
    struct.pack(">IIIII", 0, 0x80000000, 0, 0, 0x80000000),
    # What A, B and C add up to.
    words(0, 0, 0, 1),
    words(PAIR, TRIPLE),
))  # fmt: skip
INSERTION = (5, _machine(
    {C: 4}, {(0, 4): (0, 1 << 5, (0, 0xFFFF)), (1, 4): (0, 1 << 5, (0, 0xFFFF))}, 2, (0xFFFF, 0xFFFF), words(PUT_IN),
))  # fmt: skip


def apple_font(*subtables: tuple[int, bytes]) -> bytes:
    glyphs = [box(100 + 40 * number, 300 + 30 * number)[0] for number in range(ENCODED + 1)]
    return small_font(CHARACTERS, glyphs, extra={"morx": morx(*subtables), "prep": IDLE_PROGRAM})


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
        ([(0, b"")], "AB", set()), ([LIGATURE, (4, _lookup({TRIPLE: NEVER}))], "ABC", {PAIR, TRIPLE, NEVER}),
    ],
)  # fmt: skip
def test_what_apples_tables_make_stays(subtables: Sequence[tuple[int, bytes]], text: str, leads_to: set[int]) -> None:
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


def test_the_font_really_does_what_it_says() -> None:
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
    table = morx((2, _machine(classes, entries, states, (0,), bytes(4), bytes(8), bytes(8))))
    with pytest.raises(BeyondBounds):
        Morphing.parse(table, "morx", 100).substitution_closure(set(range(count)))
