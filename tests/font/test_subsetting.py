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
from aksara.subsetting import FeatureChoice, SubsetOptions, subset
from aksara.tables import OS2, Cmap, Gasp, Glyf, Gsub, Hhea, Kern, Maxp, Name, Post
from aksara.tables.cmap import unicode_subtables
from aksara.tables.cmap.variation_sequences import VariationSequences
from aksara.tables.layout import gsub
from aksara.tables.layout.contexts import ClassContext, Context, CoverageContext, GlyphContext
from aksara.tables.layout.contexts.rules import ContextRule
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.lookups import Lookup
from aksara.text import implied_characters
from comparison import Comparison
from conftest import open_page
from fonts import DEJAVU, LIBERATION, box, corpus, small_font

LATIN = frozenset(range(0x20, 0x7F))


def _dejavu(name: str) -> Font:
    return open_font(next(path for path in DEJAVU if path.stem == name))


def test_only_what_is_needed_is_kept() -> None:
    font = _dejavu("DejaVuSans")
    cut = subset(font, LATIN)
    assert cut.characters == {code: glyph for code, glyph in font.characters.items() if code in LATIN}
    old, new = font.table(Glyf).glyphs, cut.font.table(Glyf).glyphs
    assert all(new[number] == old[source] for number, source in enumerate(cut.glyphs) if source is not None)
    # 95 characters, .notdef, the five ligatures of f; not the other six thousand.
    assert cut.kept_glyphs == 101
    assert font.characters[0xFB01] in cut.glyphs, "fi would turn blank"
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


def test_kerning_pairs_of_lost_glyphs_go(penyu: dict[str, Path]) -> None:
    cut = subset(open_font(penyu["Regular"]), frozenset(map(ord, "AVT.")))
    (pairs,) = cut.font.table(Kern).subtables
    glyphs = {cut.font.characters[ord(c)]: c for c in "AVT."}
    found = {glyphs[left] + glyphs[right] for left, right, _ in pairs.pairs.tolist()}
    assert {"AV", "VA", "TA", "AT", "T.", "V."} == found


def test_kerning_that_overflows_its_table_works_in_browsers_afterwards(browser: Browser) -> None:
    """Open Sans has 18,694 pairs; browsers drop its kerning, which every desktop program shows."""
    path = next(path for path in corpus() if path.name == "OpenSans-Regular.ttf")
    whole = subset(open_font(path)).font
    assert [len(subtable.pairs) for subtable in whole.table(Kern).subtables] == [10920, 7774]
    desktop = ImageFont.truetype(str(path), 100, layout_engine=ImageFont.Layout.RAQM)
    url = "data:font/woff2;base64," + b64encode(whole.write("woff2")).decode()
    with open_page(browser) as page:
        page.set_content(
            f"<style>@font-face {{ font-family: T; src: url({url}) }} b {{ font: 100px T }}</style><b>AVATAR To."
        )
        page.evaluate("document.fonts.load('100px T')")
        width = page.evaluate("document.querySelector('b').getBoundingClientRect().width")
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
        # A part that the font does not have is taken apart again.
        ("ở\u0306", "oở\u031b\u0309\u0306", "o\u031b\u0309"),
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
    assert implied_characters(set(map(ord, kept)), set(map(ord, available))) == set(map(ord, besides))


def test_fonts_without_substitutions_keep_the_forms_that_stand_in_for_them() -> None:
    beh, forms, thai = 0x628, {0xFE8F, 0xFE90, 0xFE91, 0xFE92}, {0xE01, 0xE48}
    available = {beh, *forms, 0xFEF5, *thai, 0xF70A, 0x25CC}
    assert implied_characters({beh}, available, has_gsub=False) == forms
    assert implied_characters({beh}, available) == set()
    assert implied_characters(thai, available, has_gsub=False) == {0xF70A, 0x25CC}


def test_companions_are_closed_under_canonical_equivalence() -> None:
    available = {code for code in range(0x20, 0x250) if unicodedata.category(chr(code))[0] == "L"} | {
        0x301,
        0x300,
        0x323,
    }
    kept = {ord("a"), ord("é"), 0x301}
    all_kept = kept | implied_characters(kept, available)
    for first in all_kept:
        for mark in (0x301,):
            composed = unicodedata.normalize("NFC", chr(first) + chr(mark))
            assert len(composed) > 1 or ord(composed) in all_kept or ord(composed) not in available


def _gsub(kind: int, subtable: bytes, extension: bool = False) -> bytes:
    """A GSUB table with one lookup of one subtable, which the feature 'liga' leads to."""
    if extension:
        subtable, kind = struct.pack(">HHI", 1, kind, 8) + subtable, 7
    lookups = struct.pack(">HHHHHH", 1, 4, kind, 0, 1, 8) + subtable
    script = struct.pack(">H4sHHHHHHH", 1, b"DFLT", 8, 4, 0, 0, 0xFFFF, 1, 0)
    features = struct.pack(">H4sHHHH", 1, b"liga", 8, 0, 1, 0)
    at = 10 + len(script)
    return struct.pack(">IHHH", 0x10000, 10, at, at + len(features)) + script + features + lookups


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
        # Behind glyph 9 only, which is not there.
        (8, struct.pack(">HHHHHHH", 1, 20, 1, 14, 0, 1, 77) + _coverage(9) + _coverage(5), {5}, {5}),
    ],
)
def test_substitutions_as_the_specification_writes_them(
    kind: int, subtable: bytes, start: set[int], reached: set[int], extension: bool
) -> None:
    font = Font.read(small_font(extra={"GSUB": _gsub(kind, subtable, extension)}))
    assert font.table(Gsub).substitution_closure(start) == reached
    assert font.table(Gsub).substitution_closure(start, {"liga"}) == reached
    assert font.table(Gsub).substitution_closure(start, {"smcp"}) == start


def _rules(*lookups: Lookup, called_by: int = 0) -> Gsub:
    return Gsub({}, [FeatureRecord("calt", (called_by,))], list(lookups))


def _single(**pairs: int) -> Lookup:
    return Lookup(gsub.SINGLE, 0, (gsub.SingleSubstitution({int(a[1:]): b for a, b in pairs.items()}),))


@pytest.mark.parametrize(
    ("context", "start", "more"),
    [
        # Glyph 2 behind glyph 1 becomes 12; 3, which lookup 1 would change as well, is not there in the rule.
        (GlyphContext(False, {1: (ContextRule((), (2,), (), ((1, 1),)),)}), {1, 2, 3}, {12}),
        (GlyphContext(False, {1: (ContextRule((), (2,), (), ((1, 1),)),)}), {2, 3}, set()),
        (GlyphContext(True, {2: (ContextRule((1,), (), (3,), ((0, 1),)),)}), {1, 2, 3}, {12}),
        (GlyphContext(True, {2: (ContextRule((1,), (), (9,), ((0, 1),)),)}), {1, 2, 3}, set()),
        (
            ClassContext(True, {1: (ContextRule((1,), (), (), ((0, 1),)),)}, frozenset({2, 3}), {1: 1}, {2: 1}, {}),
            {1, 2},
            {12},
        ),
        # Of class 0 are all others: glyph 3 here.
        (
            ClassContext(False, {0: (ContextRule((), (), (), ((0, 1),)),)}, frozenset({2, 3}), {}, {2: 1}, {}),
            {2, 3},
            {13},
        ),
        (CoverageContext(True, (frozenset({1}),), (frozenset({2, 3}),), (), ((0, 1),)), {1, 3}, {13}),
        (CoverageContext(True, (frozenset({9}),), (frozenset({2, 3}),), (), ((0, 1),)), {1, 3}, set()),
        # A rule that calls itself ends.
        (CoverageContext(False, (), (frozenset({2}),), (), ((0, 0), (0, 1))), {2}, {12}),
        # What the first action makes, the second may find: 2 becomes 12, and 12 becomes 20.
        (CoverageContext(False, (), (frozenset({2}),), (), ((0, 1), (0, 2))), {2}, {12, 20}),
    ],
)
def test_rules_that_cannot_match_add_nothing(context: Context, start: set[int], more: set[int]) -> None:
    table = _rules(Lookup(gsub.CHAINED_CONTEXT, 0, (context,)), _single(g2=12, g3=13), _single(g12=20))
    assert table.substitution_closure(start, {"calt"}) == start | more


def test_ligatures_of_ligatures_are_reached() -> None:
    ligatures = gsub.LigatureSubstitution({3: (((4,), 5),), 2: (((9,), 3),), 5: (((1,), 6),)})
    table = _rules(Lookup(gsub.LIGATURE, 0, (ligatures,)), _single(g1=2))
    table.features.append(FeatureRecord("liga", (1,)))
    assert table.substitution_closure({1, 4, 9}) == {1, 2, 3, 4, 5, 6, 9}


def test_a_damaged_gsub_is_dropped_as_in_browsers_and_reported() -> None:
    font = Font.read(small_font(extra={"GSUB": b"\0\1\0\0\0\0\0\0\x40\0"}), "a.ttf")
    cut = subset(font, {0x41})
    assert "GSUB" not in cut.font
    assert "'GSUB' is damaged" in cut.warnings[0]


@pytest.mark.parametrize(
    ("characters", "choice", "kept"),
    [
        ("ab", FeatureChoice(), {"liga", "kern"}),
        ("ab", FeatureChoice(more=frozenset({"smcp"})), {"liga", "kern", "smcp"}),
        ("ab", FeatureChoice(without=frozenset({"liga"})), {"kern"}),
        ("ab", FeatureChoice(everything=True, without=frozenset({"kern"})), {"liga", "smcp", "frac", "halt", "ssty"}),
        # Shapers form fractions around a fraction slash, and browsers close up CJK punctuation, unasked.
        ("1⁄2", FeatureChoice(), {"liga", "kern", "frac"}),
        ("「」", FeatureChoice(), {"liga", "kern", "halt"}),
    ],
)
def test_features_are_kept_that_browsers_apply_and_users_ask_for(
    characters: str, choice: FeatureChoice, kept: set[str]
) -> None:
    present = {"liga", "kern", "smcp", "frac", "halt", "ssty"}
    assert choice.kept(present, set(map(ord, characters)), formulas=False) == kept


def test_what_is_left_out_is_reported_with_its_cost() -> None:
    font = open_font(next(path for path in corpus() if path.name == "OldStandard-Regular.ttf"))
    cut = subset(font, LATIN, SubsetOptions(costs="all"))
    left = {item.tag: item for item in cut.omitted}
    assert {"frac", "subs", "sups"} <= left.keys()
    assert not left.keys() & cut.features
    # The cost is told right: so many glyphs, and so many bytes, come with the feature.
    with_it = subset(font, LATIN, SubsetOptions(features=FeatureChoice(more=frozenset({"frac"}))))
    assert with_it.kept_glyphs - cut.kept_glyphs == left["frac"].glyphs
    more = sum(with_it.font.sizes().values()) - sum(cut.font.sizes().values())
    assert 0.7 * more < left["frac"].size < 1.3 * more


def test_without_hints_nothing_of_them_is_left() -> None:
    font = _dejavu("DejaVuSans")
    cut = subset(font, LATIN, SubsetOptions(hints=False)).font
    assert not {"fpgm", "prep", "cvt ", "hdmx", "LTSH", "VDMX"} & set(cut)
    assert not any(cut.table(Glyf).programs())
    assert cut.table(Gasp).ranges == ((0xFFFF, Gasp.SMOOTH),)
    assert cut.table(Maxp).limits[4:11] == (1, 0, 0, 0, 0, 0, 0)
    assert len(cut.write("woff2")) < 0.7 * len(subset(font, LATIN).font.write("woff2"))


def test_programs_may_loop_as_long_as_in_the_whole_font() -> None:
    """Renderers allow the fewer loops the fewer glyphs there are; a part of few glyphs would be hinted wrongly."""
    font = _dejavu("DejaVuSans")
    cut = subset(font, {0x41})
    assert cut.kept_glyphs == 2
    assert 100 * len(cut.glyphs) >= 10 * max(font.table(Maxp).limits[0], font.table(Maxp).limits[2])
    assert len(subset(font, {0x41}, SubsetOptions(hints=False)).glyphs) == 2


def test_glyphs_may_keep_their_numbers() -> None:
    font = _dejavu("DejaVuSans")
    cut = subset(font, LATIN, SubsetOptions(keep_glyph_ids=True))
    assert all(cut.font.characters[code] == glyph for code, glyph in cut.characters.items())
    assert len(cut.glyphs) == max(glyph for glyph in cut.glyphs if glyph is not None) + 1
    assert Comparison(font, cut).run() == []


def test_os2_claims_what_is_still_true() -> None:
    font = _dejavu("DejaVuSans")
    before, after = font.table(OS2), subset(font, LATIN).font.table(OS2)
    latin, latin_1, greek, cyrillic = 0, 1, 7, 9
    assert all(before.unicode_range1 >> bit & 1 for bit in (latin, latin_1, greek, cyrillic))
    assert after.unicode_range1 == 1 << latin
    # Latin 1, and the maker's own; of the others characters are gone.
    assert (after.code_page_range1, after.code_page_range2) == (1 << 30 | 1, 0)
    assert (after.first_char_index, after.last_char_index) == (0x20, 0x7E)
    liberation = open_font(next(path for path in LIBERATION if path.stem == "LiberationSans-Regular"))
    assert subset(liberation, {0x41}).font.table(OS2).max_context == 0
    assert subset(liberation, LATIN).font.table(OS2).max_context == 2  # pairs


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
    (glyph,) = with_a.table(Cmap).variations.glyphs()  # type: ignore[union-attr]
    assert with_a.table(Glyf).glyphs[glyph] == glyphs[5]
    assert with_a.table(Cmap).variations is not None
    assert glyphs[5] not in without.table(Glyf).glyphs
    assert without.table(Cmap).variations is None


@pytest.mark.parametrize(
    ("characters", "kept"),
    [(None, {1, 2, 3, 5}), ({0x41}, {1, 5}), ({0x41, 0xE0100}, {1, 2, 5}), ({0x41, 0xE0101}, {1, 5}), ({0x42}, {3})],
)
def test_ideographic_variation_sequences_stay_where_they_are_asked_for(
    characters: set[int] | None, kept: set[int]
) -> None:
    glyphs = [box(100 * number + 100)[0] for number in range(6)]
    codes = unicode_subtables({0x41: 1, 0x42: 3})
    sequences = VariationSequences({0xE0100: {0x41: 2}, 0xFE00: {0x41: 5}})
    font = Font.read(small_font(glyphs=glyphs)).with_tables([Cmap(codes, sequences)])
    cut = subset(font, characters)
    assert {old for old in cut.glyphs if old} == kept
    left = cut.font.table(Cmap).variations
    assert (0xE0100 in left.sequences if left is not None else False) == (2 in kept)


def test_what_is_left_out_is_reported_with_the_reason() -> None:
    dropped = {item.tag: item for item in subset(_dejavu("DejaVuSans"), LATIN).dropped}
    assert set(dropped) == {"FFTM", "MATH"}
    assert "mathematical" in dropped["MATH"].reason
    assert dropped["MATH"].size > 1000
    with_sums = subset(_dejavu("DejaVuSans"), LATIN | {0x2211})
    assert "MATH" in with_sums.font


def test_only_legal_and_family_names_are_kept() -> None:
    cut = subset(open_font(LIBERATION[0]), LATIN).font
    name = cut.table(Name)
    assert {0, 1, 2, 4, 6} <= {record.name_id for record in name.records} <= {0, 1, 2, 4, 6, 7, 13, 14, 16, 17}
    assert {record.platform for record in name.records} == {3}
    assert cut.table(Post).header.version == 0x30000


def test_missing_and_absent_characters_are_distinguished() -> None:
    cut = subset(Font.read(small_font()), {0x41, 0x3042})
    assert set(cut.characters) == {0x41}
    assert cut.missing == {0x3042}
    assert subset(Font.read(small_font()), {0x3042}).characters == {}
