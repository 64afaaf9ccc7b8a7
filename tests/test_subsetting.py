"""Subsetting: just what is asked for, and everything that text of it needs."""

from __future__ import annotations

import struct
import unicodedata
from base64 import b64encode
from pathlib import Path

import pytest
from PIL import ImageFont
from playwright.sync_api import Browser

from aksara.font import Font, open_font
from aksara.subsetting import subset
from aksara.tables import OS2, Cmap, Glyf, Hhea, Hmtx, Kern, Name, Post
from aksara.tables.layout import gsub
from aksara.text import companions
from fonts import DEJAVU, LIBERATION, box, corpus, small_font

LATIN = frozenset(range(0x20, 0x7F))


def _dejavu(name: str) -> Font:
    return open_font(next(path for path in DEJAVU if path.stem == name))


def test_only_what_is_needed_keeps_its_outline() -> None:
    font = _dejavu("DejaVuSans")
    cut = subset(font, LATIN)
    assert cut.characters == {code: glyph for code, glyph in font.characters.items() if code in LATIN}
    drawn = [number for number, glyph in enumerate(cut.font.table(Glyf).glyphs) if glyph]
    old = font.table(Glyf)
    assert all(cut.font.table(Glyf).glyphs[number] == old.glyphs[number] for number in drawn)
    # 95 characters, .notdef, the ligatures of f and their like; not the other six thousand.
    assert 95 < len(drawn) < 130
    assert font.characters[0xFB01] in drawn, "fi would turn blank"
    assert 0xFB01 not in cut.characters


def test_line_height_is_never_touched() -> None:
    for path in (*DEJAVU[:2], *LIBERATION[:2]):
        font = open_font(path)
        cut = subset(font, LATIN).font
        for kind, names in (
            (Hhea, ("ascender", "descender", "line_gap")),
            (OS2, ("typo_ascender", "typo_descender", "typo_line_gap", "win_ascent", "win_descent", "fs_selection")),
        ):
            assert all(getattr(font.table(kind), n) == getattr(cut.table(kind), n) for n in names)
        assert cut.raw("head")[18:50] == font.raw("head")[18:50]


def test_advances_of_what_is_kept_stay_and_the_rest_pack_to_nothing() -> None:
    font = _dejavu("DejaVuSans")
    cut = subset(font, LATIN)
    old, new = font.table(Hmtx), cut.font.table(Hmtx)
    kept = set(cut.characters.values())
    assert all(old.advances[glyph] == new.advances[glyph] for glyph in kept)
    assert (new.advances > 0).sum() <= cut.kept_glyphs


def test_kerning_pairs_of_lost_glyphs_go(penyu: dict[str, Path]) -> None:
    cut = subset(open_font(penyu["Regular"]), frozenset(map(ord, "AVT.")))
    (pairs,) = cut.font.table(Kern).subtables
    glyphs = {cut.characters[ord(c)]: c for c in "AVT."}
    found = {glyphs[left] + glyphs[right] for left, right, _ in pairs.pairs.tolist()}
    assert {"AV", "VA", "TA", "AT", "T.", "V."} == found


def test_kerning_that_overflows_its_table_works_in_browsers_afterwards(browser: Browser) -> None:
    """Open Sans has 18,694 pairs; browsers drop its kerning, which every desktop program shows."""
    path = next(path for path in corpus() if path.name == "OpenSans-Regular.ttf")
    whole = subset(open_font(path)).font
    assert [len(subtable.pairs) for subtable in whole.table(Kern).subtables] == [10920, 7774]
    desktop = ImageFont.truetype(str(path), 100, layout_engine=ImageFont.Layout.RAQM)
    url = "data:font/woff2;base64," + b64encode(whole.write("woff2")).decode()
    page = browser.new_page()
    page.set_content(
        f"<style>@font-face {{ font-family: T; src: url({url}) }} b {{ font: 100px T }}</style><b>AVATAR To."
    )
    page.evaluate("document.fonts.load('100px T')")
    width = page.evaluate("document.querySelector('b').getBoundingClientRect().width")
    page.close()
    assert abs(width - desktop.getlength("AVATAR To.")) < 0.1
    assert width < desktop.getlength("AVATAR To.", features=["-kern"]) - 20


@pytest.mark.parametrize(
    ("kept", "available", "besides"),
    [
        ("e", "eé\u0301", ""),
        ("e\u0301", "eé\u0301", "é"),
        ("e\u0301", "e\u0301", ""),
        # Whatever the parts of the parts make, also by another way round.
        ("a\u0302\u0301", "aâấá\u0302\u0301", "âấá"),
        # A precomposed letter beside another mark is taken apart and put together again.
        ("é\u0323", "eéẹ\u0301\u0323", "eẹ\u0301"),
        ("ab", "ab\u0301á", ""),
        # A mark without its letter is drawn on a dotted circle.
        ("a\u0301", "ab\u0301◌", "◌"),
        # Vowels on both sides of a letter: by Unicode in Tamil and Bengali, by custom in Thai, Lao and Khmer.
        ("கொ", "கொொ", "ொ"),
        ("ো", "োো", "ো"),
        ("กำ", "กำําข", "ํา"),
        ("ກຳ", "ກຳໍາ", "ໍາ"),
        ("កើ", "កើេ", "េ"),
        # Brackets turn round in right-to-left text, and only there.
        ("א(", "א()[]", ")"),
        ("a(", "a()", ""),
        ("ا<«", "ا<>«»", ">»"),
    ],
)
def test_what_a_shaper_may_draw_besides_is_kept(kept: str, available: str, besides: str) -> None:
    assert companions(set(map(ord, kept)), set(map(ord, available))) == set(map(ord, besides))


def test_fonts_without_substitutions_keep_the_forms_that_stand_in_for_them() -> None:
    beh, forms, thai = 0x628, {0xFE8F, 0xFE90, 0xFE91, 0xFE92}, {0xE01, 0xE48}
    available = {beh, *forms, 0xFEF5, *thai, 0xF70A, 0x25CC}
    assert companions({beh}, available, substitutes=False) == forms
    assert companions({beh}, available) == set()
    assert companions(thai, available, substitutes=False) == {0xF70A, 0x25CC}


def test_companions_are_closed_under_canonical_equivalence() -> None:
    available = {code for code in range(0x20, 0x250) if unicodedata.category(chr(code))[0] == "L"} | {
        0x301,
        0x300,
        0x323,
    }
    kept = {ord("a"), ord("é"), 0x301}
    all_kept = kept | companions(kept, available)
    for first in all_kept:
        for mark in (0x301,):
            composed = unicodedata.normalize("NFC", chr(first) + chr(mark))
            assert len(composed) > 1 or ord(composed) in all_kept or ord(composed) not in available


def _gsub(kind: int, subtable: bytes, extension: bool = False) -> bytes:
    """A GSUB table with one lookup of one subtable."""
    if extension:
        subtable, kind = struct.pack(">HHI", 1, kind, 8) + subtable, 7
    lookup = struct.pack(">HHHH", kind, 0, 1, 8) + subtable
    return struct.pack(">IHHH", 0x10000, 0, 0, 10) + struct.pack(">HH", 1, 4) + lookup


def _coverage(*glyphs: int) -> bytes:
    return struct.pack(f">HH{len(glyphs)}H", 1, len(glyphs), *glyphs)


@pytest.mark.parametrize("extension", [False, True])
@pytest.mark.parametrize(
    ("kind", "subtable", "start", "reached"),
    [
        (1, struct.pack(">HHh", 1, 6, 10) + _coverage(5, 6), {5}, {5, 15}),
        (1, struct.pack(">HHHHH", 2, 10, 2, 40, 41) + _coverage(5, 6), {6}, {6, 41}),
        (2, struct.pack(">HHHHHHH", 1, 14, 1, 8, 2, 7, 8) + _coverage(5), {5}, {5, 7, 8}),
        (3, struct.pack(">HHHHHHH", 1, 14, 1, 8, 2, 7, 8) + _coverage(5), {5}, {5, 7, 8}),
        (4, struct.pack(">HHHHHHHHH", 1, 18, 1, 8, 1, 4, 90, 2, 6) + _coverage(5), {5, 6}, {5, 6, 90}),
        (4, struct.pack(">HHHHHHHHH", 1, 18, 1, 8, 1, 4, 90, 2, 6) + _coverage(5), {5}, {5}),
        (8, struct.pack(">HHHHHH", 1, 12, 0, 0, 1, 77) + _coverage(5), {5}, {5, 77}),
    ],
)
def test_substitutions_are_followed(
    kind: int, subtable: bytes, start: set[int], reached: set[int], extension: bool
) -> None:
    assert gsub.parse(_gsub(kind, subtable, extension)).closure(start) == reached


def test_ligatures_of_ligatures_are_reached() -> None:
    table = gsub.Gsub({1: {2}}, [(frozenset({3, 4}), 5), (frozenset({2, 9}), 3), (frozenset({5, 1}), 6)])
    assert table.closure({1, 4, 9}) == {1, 2, 3, 4, 5, 6, 9}


def test_a_damaged_gsub_keeps_all_glyphs_and_says_so() -> None:
    font = Font.read(small_font(extra={"GSUB": b"\0\1\0\0\0\0\0\0\0\x40"}), "a.ttf")
    cut = subset(font, {0x41})
    assert cut.kept_glyphs == 4
    assert "GSUB" in cut.warnings[0]
    assert "nothing turns blank" in cut.warnings[0]


def test_variation_sequences_keep_their_glyphs() -> None:
    sequences = (
        b"\0\x0e" + struct.pack(">II", 29 + 1, 1) + b"\0\xfe\0" + struct.pack(">II", 0, 21) + struct.pack(">I", 1)
    )
    sequences += b"\0\0\x41" + struct.pack(">H", 5)
    glyphs = [box(100 * n + 100)[0] for n in range(6)]
    plain = Font.read(small_font(glyphs=glyphs)).raw("cmap")
    offset = len(plain) + 8
    cmap = struct.pack(">HHHHI", 0, 2, 0, 5, offset) + struct.pack(">HHI", 3, 1, 20) + plain[12:] + sequences
    font = Font.read(small_font(glyphs=glyphs, extra={"cmap": cmap}))
    with_a, without = subset(font, {0x41, 0xFE00}).font, subset(font, {0x42}).font
    assert with_a.table(Glyf).glyphs[5]
    assert with_a.table(Cmap).variations is not None
    assert not without.table(Glyf).glyphs[5]
    assert without.table(Cmap).variations is None


def test_what_is_left_out_is_said_with_the_reason() -> None:
    dropped = {item.tag: item for item in subset(_dejavu("DejaVuSans"), LATIN).dropped}
    assert set(dropped) == {"FFTM", "MATH"}
    assert "mathematical" in dropped["MATH"].reason
    assert dropped["MATH"].size > 1000
    with_sums = subset(_dejavu("DejaVuSans"), LATIN | {0x2211})
    assert "MATH" in with_sums.font


def test_names_keep_the_law_and_the_family_and_nothing_else() -> None:
    cut = subset(open_font(LIBERATION[0]), LATIN).font
    name = cut.table(Name)
    assert {0, 1, 2, 4, 6} <= {record.name_id for record in name.records} <= {0, 1, 2, 4, 6, 7, 13, 14, 16, 17}
    assert {record.platform for record in name.records} == {3}
    assert cut.table(Post).version == 0x30000


def test_missing_and_absent_characters_are_told_apart() -> None:
    cut = subset(Font.read(small_font()), {0x41, 0x3042})
    assert set(cut.characters) == {0x41}
    assert cut.missing == {0x3042}
    assert subset(Font.read(small_font()), {0x3042}).characters == {}
