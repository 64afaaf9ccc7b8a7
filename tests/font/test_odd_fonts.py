"""Fonts with old, odd or missing tables, as foundries have sold them: what few real fonts have is made here."""

from __future__ import annotations

import io
import struct
from base64 import b64encode
from collections.abc import Callable

import brotli
import freetype
import numpy as np
import pytest
from PIL import ImageFont
from playwright.sync_api import Browser

from aksara.binary import Reader
from aksara.container import sfnt
from aksara.container.woff2.directory import Entry, base128, write_entry
from aksara.errors import FontError
from aksara.font import Font
from aksara.subsetting import SubsetOptions, subset
from aksara.tables import Cff, Cmap, Hdmx, Kern, Ltsh, Vmtx, Vorg
from aksara.tables.base import Table
from aksara.tables.cff import FontDict
from aksara.tables.cff.charsets import read_charset, write_charset
from aksara.tables.cff.charstrings import Runner, bias, without_width
from aksara.tables.cff.dicts import Dict, read_dict, write_dict
from aksara.tables.cff.subroutines import choose_subroutines
from aksara.tables.device_metrics import DeviceWidths
from aksara.tables.vertical import Vhea
from aksara.truetype.components import Component, Composite
from attacks import layout_table
from comparison import Comparison
from conftest import watched_page
from fonts import box, small_font, words


def _cmap(platform: int, encoding: int, body: bytes) -> bytes:
    return words(0, 1, platform, encoding, 0, 12) + body


def _with_cmap(platform: int, encoding: int, body: bytes) -> bytes:
    return small_font(extra={"cmap": _cmap(platform, encoding, body)})


_MAC = struct.pack(">HHH", 0, 262, 0) + bytes({0x41: 1, 0x42: 2, 0xCA: 3}.get(code, 0) for code in range(256))
_HIGH_BYTES = (
    words(2, 0, 0, *(8 if code == 0x82 else 0 for code in range(256)))
    + words(0x41, 2, 0, 10, 0xA0, 2, 0, 6)  # one byte: A, B; lead byte 0x82: two codes from 0xA0 on
    + words(1, 2, 3, 3)
)
_GROUPS = struct.pack(">III", 0x41, 0x43, 1)

#: What a cmap says, and the characters that a browser should find.
CMAPS = {
    "Mac only": ((1, 0, _MAC), {0x41: 1, 0x42: 2, 0xA0: 3}),
    "format 2, Shift JIS": ((3, 2, _HIGH_BYTES), {0x41: 1, 0x42: 2, 0x3042: 3, 0x3043: 3}),
    "format 6": ((0, 3, words(6, 16, 0, 0x41, 3, 1, 2, 3)), {0x41: 1, 0x42: 2, 0x43: 3}),
    "format 8": (
        (3, 10, struct.pack(">HHII", 8, 0, 8220, 0) + bytes(8192) + struct.pack(">I", 1) + _GROUPS),
        {0x41: 1, 0x42: 2, 0x43: 3},
    ),
    "format 10": (
        (3, 10, struct.pack(">HHIIII", 10, 0, 26, 0, 0x41, 3) + words(1, 2, 3)),
        {0x41: 1, 0x42: 2, 0x43: 3},
    ),
    "format 13": ((3, 10, struct.pack(">HHIII", 13, 0, 28, 0, 1) + _GROUPS), {0x41: 1, 0x42: 1, 0x43: 1}),
}


@pytest.mark.parametrize("name", CMAPS)
def test_every_form_of_cmap_becomes_one_that_browsers_read(name: str) -> None:
    where, characters = CMAPS[name]
    cut = subset(Font.read(_with_cmap(*where)))
    assert cut.characters == characters
    face = freetype.Face(io.BytesIO(cut.font.write("sfnt")))
    for code, old in characters.items():
        assert cut.glyphs[face.get_char_index(code)] == old
    assert {(sub.platform, sub.encoding) for sub in cut.font.table(Cmap).subtables} == {(3, 1)}


# ---- kerning without GPOS


def _old_kern(form: int, body: bytes) -> bytes:
    return words(0, 1, 0, 6 + len(body), form << 8 | 1) + body


def _apple_kern(form: int, body: bytes) -> bytes:
    return struct.pack(">IIIHH", 0x10000, 1, 8 + len(body), form, 0) + body


_LIST = words(1, 6, 0, 0) + words(1, 2, -200)
_INDEXED = (
    words(4) + bytes((2, 2, 2, 0)) + words(0, -200) + bytes((0, 1, 0, 0)) + bytes((0, 0, 1, 0)) + bytes((0, 0, 0, 1))
)


def _matrix(header: int) -> bytes:
    """Format 2: glyph 1 before glyph 2 is 200 closer. Offsets count from the subtable's header."""
    left_at = header + 8
    right_at, array_at = left_at + 6, left_at + 12
    body = words(4, left_at, right_at, array_at)
    body += words(1, 1, array_at + 4)  # glyph 1 has the second row
    body += words(2, 1, 2)  # glyph 2 the second column
    return body + words(0, 0, 0, -200)


@pytest.mark.parametrize(
    "table",
    [
        *(_old_kern(0, _LIST), _old_kern(2, _matrix(6)), _apple_kern(0, _LIST), _apple_kern(2, _matrix(8))),
        _apple_kern(3, _INDEXED),
    ],
    ids=["list", "matrix", "Apple's list", "Apple's matrix", "Apple's indices"],
)
def test_every_form_of_kerning_becomes_one_that_browsers_take(table: bytes) -> None:
    font = Font.read(small_font(extra={"kern": table}))
    cut = subset(font, {0x41, 0x42})
    (pairs,) = cut.font.table(Kern).subtables
    assert pairs.pairs.tolist() == [[1, 2, -200]]
    assert cut.font.raw("kern")[:2] == b"\0\0"
    assert subset(font, {0x41}).font.find(Kern) is None
    for text, kerned in (("AB", -200), ("BA", 0)):
        raqm = ImageFont.truetype(io.BytesIO(cut.font.write("sfnt")), 1000, layout_engine=ImageFont.Layout.RAQM)
        assert raqm.getlength(text) == raqm.getlength(text[0]) + raqm.getlength(text[1]) + kerned


@pytest.mark.parametrize("header", [words(-11036, 500, 500, 100, 100), words(2, 500, 500, 100, 100)])
def test_a_damaged_glyph_matters_only_where_it_is_wanted(header: bytes) -> None:
    font = Font.read(small_font({0x41: 1, 0x42: 2}, [box(400)[0], box(450)[0], header]))
    assert subset(font, {0x41}).kept_glyphs == 2
    with pytest.raises(FontError, match="glyph"):
        subset(font, {0x42}).font.write("woff2")


# ---- missing tables


@pytest.mark.parametrize(("sets", "is_used"), [(10, True), (200, False)])
def test_a_table_that_text_engines_do_not_use_is_left_out(sets: int, is_used: bool) -> None:
    """Sets of pairs that overlap, as where offsets were wrapped at 16 bits; one glyph leads to one of them."""
    pairs = words(2, 0x42, -300 & 0xFFFF, 0x43, -200 & 0xFFFF)
    large = words(5000, *[0x50, 0] * 5000)
    head = 10 + 2 * sets
    offsets = [head + 6, *[head + 6 + len(pairs)] * (sets - 1)]
    subtable = words(1, head, 4, 0, sets, *offsets) + words(1, 1, 0x41) + pairs + large
    glyphs = [box(300)[0]] * 0x60
    font = Font.read(small_font({code: code for code in (0x41, 0x42, 0x43)}, glyphs,
                                extra={"GPOS": layout_table(2, subtable, b"kern")}))  # fmt: skip
    renderer = ImageFont.truetype(io.BytesIO(font.write("sfnt")), 1000, layout_engine=ImageFont.Layout.RAQM)
    assert (renderer.getlength("AB") != renderer.getlength("AB", features=["-kern"])) == is_used
    cut = subset(font, {0x41, 0x42, 0x43})
    assert Comparison(font, cut).run() == []
    assert any("text engines do not use it" in warning for warning in cut.warnings) != is_used


@pytest.mark.parametrize("missing", [("OS/2",), ("name",), ("post",), ("OS/2", "name", "post")])
def test_tables_required_by_browsers_are_added_and_reported(missing: tuple[str, ...], browser: Browser) -> None:
    cut = subset(Font.read(small_font(without=missing), "Kotak Tua.ttf"))
    for tag in set(missing) - {"post"}:
        assert any(f"'{tag}'" in warning for warning in cut.warnings)
    assert _accepted(browser, cut.font.write("woff2")) == ["loaded", []]


def _accepted(browser: Browser, data: bytes) -> list[object]:
    """What Chromium makes of a font, and what it says on the console."""
    with watched_page(browser) as (page, problems):
        page.set_content("<link rel=icon href='data:,'>")
        status = page.evaluate(
            "async url => { const face = new FontFace('T', `url(${url})`); document.fonts.add(face);"
            " try { await face.load() } catch {} return face.status }",
            "data:font/woff2;base64," + b64encode(data).decode(),
        )
    return [status, problems]


# ---- tables beside the outlines


def _vhea(advances: int) -> Vhea:
    fields = dict.fromkeys(Vhea.__slots__, 0) | {"version": 0x10000, "ascender": 500, "descender": -500}
    return Vhea(**fields | {"advance_height_max": 1000, "caret_slope_rise": 1, "number_of_v_metrics": advances})


def test_metrics_for_vertical_text_and_single_sizes_follow_the_glyphs() -> None:
    tables: list[Table] = [
        _vhea(4),
        Vmtx(np.array([1000, 900, 800, 700], np.uint16), np.array([1, 2, 3, 4], np.int16)),
        Vorg(880, {1: 801, 3: 803}),
        Hdmx({12: DeviceWidths(9, bytes((5, 6, 7, 8)))}),
        Ltsh(bytes((1, 20, 30, 40))),
    ]
    data = small_font(extra={table.TAG: table.compile() for table in tables})
    font = Font.read(data)
    for table in tables:
        assert font.table(type(table)) == table
    cut = subset(font, {0x41, 0x43})
    assert cut.glyphs == (0, 1, 3)
    assert cut.font.table(Vmtx).advances.tolist() == [1000, 900, 700]
    assert cut.font.table(Vhea).number_of_v_metrics == 3
    assert cut.font.table(Vorg).origins == {1: 801, 2: 803}
    assert cut.font.table(Hdmx).sizes == {12: DeviceWidths(9, bytes((5, 6, 8)))}
    assert cut.font.table(Ltsh).thresholds == bytes((1, 20, 40))
    comparison = Comparison(font, cut)
    comparison.outlines()
    assert comparison.differences == []


@pytest.mark.parametrize("flags", [0x0003, 0x0803, 0x0001, 0x0000, 0x020B], ids=hex)
def test_composites_of_every_kind_keep_their_parts(flags: int) -> None:
    """Offsets as bytes and words, scaled ones, points that match, a part's metrics."""
    scale = (0x2000,) if flags & 0x0008 else ()
    whole = Composite((0, 0, 500, 700), (Component(3, 0x0022, (10, 20)), Component(2, flags, (3, 1), scale)))
    glyphs = [box(300)[0], whole.compile(), box(200)[0], box(150)[0], box(900)[0]]
    font = Font.read(small_font({0x41: 1, 0x42: 4}, glyphs))
    cut = subset(font, {0x41})
    assert set(cut.glyphs) == {0, 1, 2, 3}
    assert Comparison(font, cut).run() == []


# ---- collections as WOFF2


def test_a_woff2_collection_is_taken_apart() -> None:
    fonts = [small_font(weight=400), small_font(names={1: "Kotak", 2: "Bold", 4: "Kotak Bold", 6: "K"}, weight=700)]
    tables: list[tuple[str, bytes]] = []
    members = b""
    for data in fonts:
        flavour, found = sfnt.read(data)
        places = []
        for tag in sorted(found, key=lambda tag: tag.replace("loca", "glyg")):
            if (tag, found[tag]) not in tables:
                tables.append((tag, found[tag]))
            places.append(tables.index((tag, found[tag])))
        members += bytes((len(places),)) + flavour.encode("latin-1") + bytes(places)
    untransformed = {"glyf": 3, "loca": 3}
    entries = b"".join(write_entry(Entry(tag, untransformed.get(tag, 0), len(d), len(d))) for tag, d in tables)
    stream = brotli.compress(b"".join(body for _, body in tables))
    body = entries + struct.pack(">I", 0x10000) + bytes((len(fonts),)) + members + stream
    head = struct.pack(">4s4sIHHII", b"wOF2", b"ttcf", 48 + len(body), len(tables), 0, 1000, len(stream)) + bytes(24)
    first, second = Font.read_all(head + body, "pair.woff2")
    assert (first.path, second.path) == ("pair.woff2#1", "pair.woff2#2")
    assert [{tag: font.raw(tag) for tag in font} for font in (first, second)] == [sfnt.read(data)[1] for data in fonts]
    assert base128(300) == b"\x82\x2c"


# ---- CFF


#: What a Top DICT may say besides: the bounds of all glyphs, and how they are painted.
_BOUNDS: Dict = {5: (0, -200, 1000, 800), 0x0C05: (0,)}


def _cff(
    charstrings: list[bytes],
    *,
    local: list[bytes] | None = None,
    shared: list[bytes] | None = None,
    charset: list[int] | None = None,
    dicts: list[list[bytes]] | None = None,
    select: list[int] | None = None,
    more: Dict | None = None,
) -> Cff:
    top: Dict = {0x0C1E: (391, 392, 0), 0x0C22: (len(charstrings),)} if dicts else {}
    font_dicts = [FontDict({}, {20: (500,), 21: (0,)}, each) for each in dicts or [local or []]]
    names = charset or list(range(len(charstrings)))
    strings = [b"Adobe", b"Identity"] if dicts else []
    return Cff(
        b"Kotak",
        top | (more or {}),
        strings,
        names,
        charstrings,
        font_dicts,
        select or [0] * len(charstrings),
        shared or [],
    )


def _cff_font(cff: Cff, characters: dict[int, int]) -> Font:
    glyphs = [b""] * len(cff.charstrings)
    data = small_font(characters, glyphs, extra={"CFF ": cff.compile()}, without=("glyf", "loca"))
    tables = sfnt.read(data)[1]
    tables["maxp"] = b"\0\0\x50\0" + tables["maxp"][4:6]
    return Font(tables, "OTTO", path="kotak.otf")


# 100 100 rmoveto 200 hlineto 300 vlineto endchar, and the like.
_MOVE, _RIGHT, _UP, _END = bytes((239, 239, 21)), b"\xf7\x5c\x06", b"\xf7\xc0\x07", b"\x0e"
_PLAIN = [_END, _MOVE + _RIGHT + _UP + _END, _MOVE + _UP + _RIGHT + _END, _MOVE + _UP + _END]


def _number(value: int) -> bytes:
    return b"\x1c" + struct.pack(">h", value)


def test_accented_letters_that_are_composed_keep_both_parts() -> None:
    """endchar with four numbers: A (65, SID 34) with acute (194, SID 125), by their standard codes."""
    composed = _number(120) + _number(350) + _number(65) + _number(194) + _END
    cff = _cff([*_PLAIN, composed], charset=[0, 34, 125, 40, 200])
    font = _cff_font(cff, {0xC1: 4, 0x42: 3})
    cut = subset(font, {0xC1})
    assert set(cut.glyphs) == {0, 1, 2, 4}
    assert Comparison(font, cut).run() == []
    assert set(subset(font, {0x42}).glyphs) == {0, 3}


@pytest.mark.parametrize("count", [3, 300, 1300, 34000])
def test_calls_are_renumbered_whatever_the_bias(count: int) -> None:
    """Of many subroutines two are used, which then have other numbers and another bias."""
    body = _RIGHT + _UP * 9 + b"\x0b"
    used, last = 1, count - 1
    subroutines = [body if number in (used, last) else b"\x0b" for number in range(count)]
    call = [_number(number - bias(count)) for number in (used, last)]
    glyph = _MOVE + call[0] + b"\x0a" + call[1] + b"\x1d" + _END
    cff = _cff([_END, glyph, glyph, glyph], local=subroutines, shared=subroutines)
    font = _cff_font(cff, {0x41: 1, 0x42: 2, 0x43: 3})
    cut = subset(font, {0x41, 0x42})
    assert len(cut.variants) == 2
    plain, called = (variant.table(Cff) for variant in cut.variants)
    assert not plain.subroutines and len(called.subroutines) == len(called.font_dicts[0].subroutines) == 1
    for variant in cut.variants:
        face = freetype.Face(io.BytesIO(variant.write("sfnt")))
        face.load_char("A", freetype.FT_LOAD_NO_SCALE)
        source = freetype.Face(io.BytesIO(font.write("sfnt")))
        source.load_char("A", freetype.FT_LOAD_NO_SCALE)
        assert face.glyph.outline.points == source.glyph.outline.points != []


def test_unused_font_dictionaries_are_dropped() -> None:
    charstrings = [_END, *[_MOVE + _number(-107 + 0) + b"\x0a" + _END] * 3]
    cff = _cff(charstrings, dicts=[[_UP + b"\x0b"], [_RIGHT + b"\x0b"], [_UP + _RIGHT + b"\x0b"]], select=[0, 0, 1, 2])
    font = _cff_font(cff, {0x41: 1, 0x42: 2, 0x43: 3})
    assert font.table(Cff) == cff
    cut = subset(font, {0x43})
    kept = cut.font.table(Cff)
    assert kept.is_cid_keyed and len(kept.font_dicts) == 2 and kept.font_dict_of == [0, 1]
    assert Comparison(font, cut).run() == []
    assert Comparison(font, subset(font)).run() == []


@pytest.mark.parametrize(
    ("numbers", "operator", "has_width"),
    [
        (3, 0x15, True), (2, 0x15, False), (2, 0x16, True), (1, 0x16, False), (2, 0x04, True), (1, 0x04, False),
        (1, 0x0E, True), (0, 0x0E, False), (4, 0x0E, False), (5, 0x12, True), (4, 0x01, False), (3, 0x13, True),
        (0, 0x14, False), (1, 0x14, True),
    ],
)  # fmt: skip
def test_widths_leave_charstrings(numbers: int, operator: int, has_width: bool) -> None:
    start = b"".join(_number(500 + number) for number in range(numbers))
    rest = bytes((operator,)) + _RIGHT + _END
    assert without_width(start + rest) == (start[len(_number(500)) :] if has_width else start) + rest


def test_hints_of_postscript_outlines_can_be_dropped() -> None:
    """Stems with a width before them, masks whose stems are implied, and what the dictionary says of zones."""
    stems = _number(620) + _number(0) + _number(50) + b"\x12" + _number(10) + _number(60) + b"\x13\xc0"
    glyph = stems + _MOVE + _RIGHT + b"\x13\x40" + _UP + _END
    cff = _cff([_END, glyph, glyph, glyph])
    cff.font_dicts[0].private[6] = (-10, 10)
    font = _cff_font(cff, {0x41: 1, 0x42: 2, 0x43: 3})
    cut = subset(font, {0x41}, SubsetOptions(hints=False)).font.table(Cff)
    assert cut.charstrings[1] == _MOVE + _RIGHT + _UP + _END
    with_hints = subset(font, {0x41}).font.table(Cff)
    assert with_hints.charstrings[1] == glyph[len(_number(620)) :]
    assert 6 not in cut.font_dicts[0].private
    assert font.table(Cff).hint_size() > 3 * 15 and cut.hint_size() == 0


@pytest.mark.parametrize(
    ("glyph", "problem"),
    [
        (_MOVE + b"\x0a" + _END, "without saying which"),
        (_MOVE + _number(500) + b"\x0a" + _END, "calls subroutine 607, but there are 1"),
        (_number(-107) + b"\x0a" + _END, "too deeply"),
        (_number(1) * 40 + b"\x13", "within a hint mask"),
        (b"\x0c", "within an operator"),
    ],
)
def test_damaged_charstrings_are_reported(glyph: bytes, problem: str) -> None:
    recursive = [_number(-107) + b"\x0a\x0b"]
    font = _cff_font(_cff([_END, glyph, *_PLAIN[2:]], local=recursive), {0x41: 1, 0x42: 2})
    with pytest.raises(FontError, match=problem):
        subset(font, {0x41})
    assert subset(font, {0x42}).kept_glyphs == 2, "a glyph that is not wanted does not matter"


def test_bodies_that_callers_read_differently_are_only_written_out() -> None:
    """The bytes behind a mask depend on the stems before it, so one subroutine may be two things."""
    body = b"\x13\x80\x80" + _UP + b"\x0b"  # with up to eight stems, the second 0x80 is the number -11
    glyphs = [_number(1) * (2 * stems) + b"\x12" + _number(-107) + b"\x0a" + _END for stems in (1, 9)]
    runner = Runner([_END, *glyphs], [[body]], [])
    for number in range(3):
        runner.run(number, 0)
    assert runner.calls and choose_subroutines(runner, range(3)) is not None  # the same cut into operators
    tricky = b"\x13\x80\x0b" + _UP + b"\x0b"  # the first byte behind the mask is a return, or part of it
    runner = Runner([_END, *glyphs], [[tricky]], [])
    for number in range(3):
        runner.run(number, 0)
    assert choose_subroutines(runner, range(3)) is None


@pytest.mark.parametrize("body", [b"\x13\x80\x80" + _UP + b"\x0b", b"\x13\x80\x0b" + _UP + b"\x0b"])
@pytest.mark.parametrize("hints", [True, False])
def test_what_a_font_was_cut_to_before_does_not_matter(body: bytes, hints: bool) -> None:
    """Charstrings are run once; these call a subroutine that is the same for all of them, and one that is not."""
    stems = [_number(1) * (2 * count) + b"\x12" for count in (1, 9, 1, 9)]
    cff = _cff([_END, *(hint + _MOVE + _number(-107) + b"\x0a" + _END for hint in stems)], local=[body])
    sets = [{0x41}, {0x42}, {0x41, 0x43}, {0x41, 0x42}, {0x43}, {0x41, 0x42, 0x43, 0x44}, {0x41}]

    def font() -> Font:
        return _cff_font(cff, {0x41: 1, 0x42: 2, 0x43: 3, 0x44: 4})

    def cut(font: Font, codes: set[int]) -> list[bytes] | str:
        try:
            return [variant.raw("CFF ") for variant in subset(font, codes, SubsetOptions(hints=hints)).variants]
        except FontError as error:
            return str(error)

    used = font()
    assert [cut(used, codes) for codes in sets] == [cut(font(), codes) for codes in sets]


NUMBERS = (0, 107, -107, 108, -108, 1131, -1131, 1132, -1132, 32767, -32768, 32768, -70000, 2**31 - 1)


def test_dictionaries_hold_numbers_of_every_size() -> None:
    values = {5: tuple(NUMBERS), 0x0C07: (b"\x0a\x14\x05\x41\xff", 0, 0), 17: (1,)}
    assert read_dict(write_dict(values)) == values


@pytest.mark.parametrize(
    ("charset", "size"),
    [(list(range(229)), None), (list(range(240)), 4), ([0, 9, 2, 300, 7], 9), ([0, *range(5, 300)], 5)],
)
def test_charsets_are_as_short_as_can_be(charset: list[int], size: int | None) -> None:
    packed = write_charset(charset, cid_keyed=False)
    assert (packed and len(packed)) == size
    data = bytes(8) + (packed or b"")
    assert read_charset(Reader(data), 8 if packed else 0, len(charset), cid_keyed=False) == charset


def test_predefined_charsets_are_known() -> None:
    expert = read_charset(Reader(b""), 1, 166, cid_keyed=False)
    assert (expert[:4], expert[-1], len(set(expert))) == ([0, 1, 229, 230], 378, 166)
    small = read_charset(Reader(b""), 2, 87, cid_keyed=False)
    assert (small[:4], small[-1], len(set(small))) == ([0, 1, 231, 232], 346, 87)


def test_every_container_of_cff_is_accepted_by_chromium(browser: Browser) -> None:
    composed = _number(120) + _number(350) + _number(65) + _number(194) + _END
    fonts: list[Callable[[], Font]] = [
        lambda: _cff_font(_cff(_PLAIN), {0x41: 1, 0x42: 2}),
        lambda: _cff_font(_cff([*_PLAIN, composed], charset=[0, 34, 125, 40, 200]), {0xC1: 4, 0x42: 3}),
        # Of a CID-keyed font the order of what its Top DICT says matters, here with the bounds of glyphs.
        lambda: _cff_font(_cff(_PLAIN, dicts=[[], []], select=[0, 1, 0, 1], more=_BOUNDS), {0x41: 1, 0x42: 2}),
        lambda: _cff_font(_cff(_PLAIN * 120), {0x4E00 + n: n for n in range(1, 480)}),
    ]
    for make in fonts:
        for variant in subset(make()).variants:
            assert _accepted(browser, variant.write("woff2")) == ["loaded", []]
