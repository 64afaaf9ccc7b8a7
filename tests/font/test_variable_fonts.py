"""Variable fonts: what is kept draws the same everywhere on its axes, and what is limited does within a unit."""

from __future__ import annotations

import random
from base64 import b64encode
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from playwright.sync_api import Browser

from aksara.errors import FontError, RequestError, UnsupportedFont
from aksara.font import Font, open_font
from aksara.instancing import AxisLimit, Limits, advances_at_locations, narrow
from aksara.instancing.limits import AxisChange
from aksara.instancing.rebasing import Rebasing
from aksara.subsetting import FeatureChoice, SubsetOptions, subset
from aksara.tables import (
    OS2,
    Avar,
    Base,
    Cff,
    Cff2,
    Cvar,
    Fvar,
    Gdef,
    Glyf,
    Gpos,
    Gsub,
    Gvar,
    Hhea,
    Hmtx,
    Hvar,
    Mvar,
    Name,
    Post,
    Stat,
    Vhea,
    Vmtx,
    Vorg,
    Vvar,
)
from aksara.tables.fvar import VariationAxis
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.baseline import BaselineAxis, BaseScript, Coordinate
from aksara.tables.layout.features import AxisCondition, FeatureRecord, FeatureVariation
from aksara.tables.variation.item_variation_store import ItemVariationStore, VariationIndex
from aksara.tables.variation.packed import read_deltas, read_points, write_deltas, write_points
from aksara.tables.variation.regions import ONE, AxisRegion, around
from aksara.tables.variation.store_packing import pack_store
from aksara.tables.variation.tuples import TupleVariation
from aksara.truetype.components import OVERLAP_COMPOUND
from aksara.truetype.interpolation import inferred, needed_points
from comparison import Comparison, at_place, unhinted
from conftest import watched_page
from fonts import LIBERATION, words
from variable import INTER, KARLA, PENYU, collection, places, with_postscript_outlines

LATIN = frozenset(range(0x20, 0x7F))
FONTS = {
    "penyu": lambda: open_font(PENYU),
    "karla": lambda: open_font(KARLA),
    "karla italic": lambda: open_font(KARLA.with_name("Karla-Italic[wght].ttf")),
    "inter": lambda: open_font(INTER),
    "cff2": with_postscript_outlines,
}
#: What is asked of each font: with all of Inter's 2,500 glyphs at every place the tests would take minutes.
_EVERYTHING = SubsetOptions(features=FeatureChoice(everything=True))


@pytest.mark.parametrize("name", FONTS)
def test_every_renderer_draws_the_same_everywhere(name: str) -> None:
    font = FONTS[name]()
    third = frozenset(random.Random(7).sample(sorted(font.characters), len(font.characters) // 3))
    requests = [
        (LATIN, SubsetOptions(), 3),
        (LATIN, SubsetOptions(keep_glyph_ids=True), 1),
        # Of Inter's 2,500 glyphs all are enough.
        *([(third, SubsetOptions(), 1)] if name != "inter" else []),
        (None, _EVERYTHING, 1),
    ]
    for characters, options, count in requests:
        cut = subset(font, characters, options)
        tried = list(places(font, randomly=count))
        for number, place in enumerate(tried if len(cut.glyphs) < 600 else tried[1::4]):
            assert Comparison(font, cut, location=place, part=(number, 4)).run() == []
        # Variants pack the same numbers otherwise: if one is wrong, it is wrong far from the default.
        for variant in cut.variants[1:]:
            assert Comparison(font, cut, location=tried[-1]).run_variant(variant) == []


def test_the_comparison_sees_what_does_not_vary() -> None:
    """An outline, an advance, kerning: each spoilt once."""
    font = open_font(KARLA)
    cut = subset(font, LATIN)
    place = {"wght": 800.0}
    gvar, gdef = cut.font.table(Gvar), cut.font.table(Gdef)
    few, none = replace(gvar, glyphs=[*gvar.glyphs[:-5], *[b""] * 5]), replace(gvar, glyphs=[b""] * len(gvar.glyphs))
    spoilt = {
        "outline": cut.font.with_tables([few]),
        "outline or metrics": cut.font.with_tables([none], ["HVAR"]),
        "shaped text": cut.font.with_tables([replace(gdef, variations=None)]),
    }
    for what, bad in spoilt.items():
        found = Comparison(font, replace(cut, font=bad), location=place).run()
        assert any(what in difference.what for difference in found), what
    assert Comparison(font, cut, location=place).run() == []


_PAGE = """<!doctype html><meta charset="utf-8"><link rel="icon" href="data:,"><style>{faces}
body {{ margin: 0 }} div {{ font: 30px/1.4 Test; height: 300px; width: 900px; overflow: hidden }}</style>{sections}"""
_TEXT = "AVATAR Tomorrow, Wave; LTd. “Yes” P.F. 0123456789 (1/2) 50% office affluent @ # [a]{b} Ångström"


def _url(data: bytes) -> str:
    return f"data:font/woff2;base64,{b64encode(data).decode()}"


@pytest.mark.parametrize("name", ["penyu", "karla", "cff2"])
def test_chromium_draws_the_same_everywhere(name: str, browser: Browser) -> None:
    font = FONTS[name]()
    cut = subset(font, frozenset(map(ord, _TEXT)) | LATIN)
    files = [font.write("sfnt"), cut.font.write("woff2")]
    faces = "".join(
        f"@font-face {{ font-family: Test{n}; src: url({_url(data)}); font-weight: 1 1000;"
        " font-style: oblique 0deg 20deg }" for n, data in enumerate(files)
    )  # fmt: skip
    tried = list(places(font, randomly=3))[-5:]
    settings = [", ".join(f"'{tag}' {value}" for tag, value in place.items()) for place in tried]
    sections = "".join(
        f'<div style="font-family: Test{n}; font-variation-settings: {values}">{_TEXT}</div>'
        for values in settings
        for n in range(2)
    )
    with watched_page(browser, viewport={"width": 900, "height": 300 * len(settings) * 2}) as (page, problems):
        page.set_content(_PAGE.format(faces=faces, sections=sections))
        page.evaluate("document.fonts.ready")
        pictures = [element.screenshot() for element in page.query_selector_all("div")]
    assert problems == []
    assert pictures[::2] == pictures[1::2]
    assert len(set(pictures)) == len(settings), "each place looks different"


# ---- narrowing and pinning

_LIMITS: list[tuple[str, Limits]] = [
    ("penyu", {"wght": AxisLimit(400, 700)}),
    ("penyu", {"wght": AxisLimit(520, 760), "slnt": AxisLimit(-7, -2)}),
    ("penyu", {"wght": AxisLimit(640, 640)}),
    ("penyu", {"wght": AxisLimit(333, 333), "slnt": AxisLimit(-10, -10)}),
    ("karla", {"wght": AxisLimit(300, 500)}),
    ("karla", {"wght": AxisLimit(450, 800)}),
    ("karla", {"wght": AxisLimit(612.5, 612.5)}),
    ("cff2", {"wght": AxisLimit(350, 650)}),
    ("cff2", {"wght": AxisLimit(500, 800), "slnt": AxisLimit(0, 0)}),
    ("cff2", {"wght": AxisLimit(555, 555), "slnt": AxisLimit(-4, -4)}),
]


@pytest.mark.parametrize(("name", "limits"), _LIMITS, ids=str)
def test_limited_axes_move_no_point_and_no_advance_by_more_than_a_unit(name: str, limits: Limits) -> None:
    font = FONTS[name]()
    # FreeType rounds what PostScript outlines have without hints to whole units; so compare with hinting, but no hints.
    font = subset(font, None, SubsetOptions(hints=False, keep_glyph_ids=True)).font if name == "cff2" else font
    narrowed = narrow(font, limits)
    axes = {axis.tag: axis.range for axis in narrowed.table(Fvar).axes} if "fvar" in narrowed else {}
    assert set(axes) == {tag for tag in ("wght", "slnt") if tag in dict(_ranges(font)) and not _pinned(limits, tag)}
    for place in _places_within(font, limits):
        before, after = at_place(font, place), at_place(narrowed, place)
        for glyph in range(before.num_glyphs):
            old, new = unhinted(before, glyph), unhinted(after, glyph)
            assert abs(old[1] - new[1]) <= 1, (glyph, place)
            # A renderer rounds the offsets of components before it places them.
            allowed = 1.0 if "glyf" not in font or not font.table(Glyf).is_composite(glyph) else 2.0
            assert old[0].shape == new[0].shape
            assert not len(old[0]) or np.abs(old[0] - new[0]).max() <= allowed, (glyph, place)


def _ranges(font: Font) -> list[tuple[str, tuple[float, float]]]:
    return [(axis.tag, axis.range) for axis in font.table(Fvar).axes]


def _pinned(limits: Limits, tag: str) -> bool:
    return tag in limits and limits[tag].is_pin


def _places_within(font: Font, limits: Limits) -> list[dict[str, float]]:
    chance, found = random.Random(3), []
    spans = {tag: (limits[tag].low, limits[tag].high) if tag in limits else span for tag, span in _ranges(font)}
    found.append({tag: span[0] for tag, span in spans.items()})
    found.append({tag: span[1] for tag, span in spans.items()})
    found += [{tag: round(chance.uniform(*span), 2) for tag, span in spans.items()} for _ in range(2)]
    return found


@pytest.mark.parametrize("name", ["penyu", "karla"])
def test_chromium_sets_text_on_limited_axes_as_before(name: str, browser: Browser) -> None:
    """Positions of every letter, kerned, at a size at which a unit is a pixel."""
    font = FONTS[name]()
    pinned = {tag: AxisLimit(low + (high - low) * 0.7, low + (high - low) * 0.7) for tag, (low, high) in _ranges(font)}
    ranged = {"wght": AxisLimit(450, 750)}
    for limits, place in ((pinned, {tag: limit.low for tag, limit in pinned.items()}), (ranged, {"wght": 700.0})):
        files = [font.write("sfnt"), subset(narrow(font, limits), LATIN).font.write("woff2")]
        settings = ", ".join(f"'{tag}' {value}" for tag, value in place.items())
        faces = "".join(f"@font-face {{ font-family: T{n}; src: url({_url(data)}) }}" for n, data in enumerate(files))
        text = "AVATAR To Wave LTd Yes P.F. ry, f"
        sections = "".join(
            f'<p style="font: 1000px T{n}; white-space: pre; font-variation-settings: {settings}">{text}</p>'
            for n in range(2)
        )
        with watched_page(browser) as (page, problems):
            page.set_content(f"<!doctype html><link rel=icon href='data:,'><style>{faces}</style>{sections}")
            page.evaluate("document.fonts.ready")
            found = page.evaluate(
                "[...document.querySelectorAll('p')].map(p => [...p.firstChild.data].map((_, n) => {"
                " const r = document.createRange(); r.setStart(p.firstChild, n); r.setEnd(p.firstChild, n + 1);"
                " return r.getBoundingClientRect().width; }))"
            )
        assert problems == []
        first, second = map(np.array, found)
        # The advance and the kerning are rounded each, and then the browser rounds to parts of a pixel.
        assert np.abs(first - second).max() <= 1.25
        assert np.median(np.abs(first - second)) < 0.5
        assert len(set(first.tolist())) > 10


def test_all_axes_pinned_leave_a_static_font_that_says_what_it_is() -> None:
    font = narrow(open_font(KARLA), {"wght": AxisLimit(700, 700)})
    assert not {"fvar", "gvar", "avar", "HVAR", "MVAR", "STAT", "cvar"} & set(font)
    assert font.table(Gdef).variations is None
    assert font.table(Gpos).changed(_refuse), "no value varies"
    os2, name = font.table(OS2), font.table(Name)
    assert (os2.weight_class, os2.fs_selection & 0x61) == (700, 0x20)
    assert [name.get(number) for number in (1, 2, 4, 6)] == ["Karla", "Bold", "Karla Bold", "Karla-Bold"]
    glyf = font.table(Glyf)
    simple = [n for n in range(len(glyf.glyphs)) if glyf.contours(n) > 0]
    assert glyf.simple(simple).overlap.all()
    (composite,) = [glyf.composite(font.characters[ord("é")])]
    assert composite.components[0].flags & OVERLAP_COMPOUND


def _refuse(value: int, device: object) -> tuple[int, None]:
    raise AssertionError(f"{device} is left")


def test_a_pinned_cff2_font_is_a_cff_font() -> None:
    font = narrow(with_postscript_outlines(), {"wght": AxisLimit(650, 650), "slnt": AxisLimit(0, 0)})
    assert "CFF2" not in font
    cff = font.table(Cff)
    assert Comparison(font, subset(font, LATIN)).run() == []
    longest = max(len(each) for each in cff.charstrings)
    assert longest > 500, "curves enough to need more than one stack full of numbers"
    assert all(each.endswith(b"\x0e") for each in cff.charstrings)


def test_axes_instances_and_names_after_narrowing() -> None:
    font = open_font(KARLA)
    narrowed = narrow(font, {"wght": AxisLimit(450, 750)})
    (axis,) = narrowed.table(Fvar).axes
    assert (axis.range, axis.default_value) == ((450, 750), 450)
    names = [narrowed.table(Name).get(each.name_id) for each in narrowed.table(Fvar).instances]
    assert names == ["Medium", "Bold"]
    before, after = font.table(Avar), narrowed.table(Avar)
    assert before.segments[0][:1] + before.segments[0][-1:] == ((-ONE, -ONE), (ONE, ONE))
    assert after.segments[0][:1] + after.segments[0][-1:] == ((-ONE, -ONE), (ONE, ONE))
    assert (0, 0) in after.segments[0]
    assert len(after.segments[0]) > 3
    stat, named = font.find(Stat), narrowed.find(Stat)
    if stat is not None and named is not None:
        assert all(450 <= value <= 750 for value in named.values["wght"])
    assert narrow(font, {}) is font


@pytest.mark.parametrize(
    ("limits", "said"),
    [
        ({"wdth": AxisLimit(100, 100)}, "there is no axis wdth; it has wght"),
        ({"wght": AxisLimit(100, 400)}, "wght 100..400 is beyond the axis, which goes from 200 to 800"),
        ({"wght": AxisLimit(700, 400)}, "the range is reversed; write the least value first: 400..700"),
    ],
)
def test_limits_that_cannot_be(limits: Limits, said: str) -> None:
    with pytest.raises(RequestError, match=said.replace("..", r"\.\.")):
        narrow(open_font(KARLA), limits)
    with pytest.raises(RequestError, match="the font is static"):
        narrow(open_font(LIBERATION[0]), limits)


def test_two_axes_of_one_tag_are_no_font() -> None:
    font = open_font(PENYU)
    fvar = font.raw("fvar")
    start, size = (int.from_bytes(fvar[at : at + 2], "big") for at in (4, 10))
    doubled = fvar[: start + size] + fvar[start : start + 4] + fvar[start + size + 4 :]
    with pytest.raises(FontError, match="it has two axes"):
        font.with_data({"fvar": doubled}).table(Fvar)


def test_axes_that_depend_on_one_another_stay_whole() -> None:
    font = open_font(PENYU)
    body = bytes((0, 2, 0, 0, 0, 0, 0, 2)) + bytes(4) + bytes(8)
    font = font.with_data({"avar": body})
    assert font.table(Avar).compile() == body
    with pytest.raises(UnsupportedFont, match="'avar' version 2"):
        narrow(font, {"wght": AxisLimit(400, 700)})
    assert subset(font, LATIN).font.raw("avar") == body


# ---- feature variations


def test_conditions_that_always_or_never_hold_are_settled() -> None:
    def variation(low: int, high: int, lookup: int) -> FeatureVariation:
        return FeatureVariation((AxisCondition(0, low, high),), {0: FeatureRecord("rvrn", (lookup,))})

    font = open_font(PENYU)
    gsub = replace(
        font.table(Gsub),
        features=[FeatureRecord("rvrn", ()), *font.table(Gsub).features[1:]],
        variations=[variation(ONE // 2, ONE, 1), variation(-ONE, 0, 2)],
    )
    font = font.with_tables([gsub])

    def left(low: float, high: float) -> Gsub:
        return narrow(font, {"wght": AxisLimit(low, high)}).table(Gsub)

    # 600 is half way from 400 to 800. Never reached: the first goes, the second always holds there.
    assert (left(300, 400).variations, left(300, 400).features[0].lookups) == ([], (2,))
    assert (left(700, 800).variations, left(700, 800).features[0].lookups) == ([], (1,))
    assert (left(450, 550).variations, left(450, 550).features[0].lookups) == ([], ())
    (kept,) = left(500, 700).variations
    assert kept.conditions == (AxisCondition(0, ONE // 2, ONE),)


# ---- the parts, on cases of all kinds

_COORDINATES = st.integers(-ONE, ONE)
_REGION = st.tuples(_COORDINATES, _COORDINATES, _COORDINATES).map(lambda three: AxisRegion(*sorted(three)))


@given(_REGION, st.tuples(_COORDINATES, _COORDINATES, _COORDINATES).map(sorted), st.lists(st.floats(0, 1), max_size=8))
def test_a_region_has_the_same_effect_on_a_narrower_axis(
    region: AxisRegion, span: list[int], shares: list[float]
) -> None:
    low, default, high = span
    before, after = (VariationAxis(0, *numbers, 0, 0) for numbers in ((-ONE, 0, ONE), (low, default, high)))
    change = AxisChange(before, after, low, default, high)
    rebased = Rebasing([change]).of(((region,),))
    steep = min((abs(a - b) for a, b in ((region.start, region.peak), (region.peak, region.end)) if a != b), default=1)
    reach = max(high - low, 1)
    for share in (0.0, 1.0, *shares):
        place = low + share * (high - low)
        at = change.renormalised(place)
        counted = rebased.to_default[0] + sum(
            rebased.to_regions[0, n] * new[0].scalar(at) for n, new in enumerate(rebased.regions)
        )
        # The new regions are rounded to 1/16384 of the new axis, which tells on steep slopes, and not beside a cliff.
        slack = 2 * reach / ONE / steep + 1e-9
        if min(abs(place - edge) for edge in (region.start, region.peak, region.end)) > 2 * reach / ONE + 1:
            assert abs(counted - region.scalar(place)) <= slack


_POINTS = st.lists(st.tuples(*[st.integers(-40, 40)] * 4), min_size=1, max_size=24)


@given(st.lists(_POINTS, min_size=1, max_size=3), st.sampled_from([1e-6, 0.5]))
def test_points_that_are_not_named_follow_from_those_that_are(
    contours: list[list[tuple[int, int, int, int]]], tolerance: float
) -> None:
    flat = np.array([point for contour in contours for point in contour])
    places, deltas = flat[:, :2], flat[:, 2:]
    sizes = np.array([len(contour) for contour in contours])
    named = needed_points(places, deltas, deltas.astype(float), sizes, tolerance)
    found = inferred(places, np.where(named[:, None], deltas, 0).astype(float), named, sizes)
    assert np.abs(found - deltas).max() <= tolerance + 1e-9


def test_points_follow_as_the_specification_says() -> None:
    places = np.array([[0, 0], [50, 0], [100, 0], [150, 10], [100, 100]])
    deltas = np.array([[10, 0], [0, 0], [20, 4], [0, 0], [0, 0]], float)
    named = np.array([True, False, True, False, False])
    found = inferred(places, deltas, named, np.array([5]))
    # Between: half of both. Beyond in x: as the nearer one. Both at one height, moved apart: none in y.
    assert found.tolist() == [[10, 0], [15, 0], [20, 4], [20, 0], [20, 0]]
    alone = inferred(places, deltas, np.array([False, False, True, False, False]), np.array([5]))
    assert alone.tolist() == [[20, 4]] * 5


@given(st.lists(st.lists(st.integers(-0x8000, 0x7FFF) | st.integers(-2, 2), max_size=200), max_size=4))
def test_packed_deltas_are_read_as_they_were_written(segments: list[list[int]]) -> None:
    values = np.array([value for segment in segments for value in segment], np.int64)
    data, sizes = write_deltas(values, np.array([len(segment) for segment in segments], np.int64))
    at = 0
    for segment, size in zip(segments, sizes.tolist(), strict=True):
        found: list[int] = []
        assert read_deltas(data, at, len(segment), found) == at + size
        assert found == segment
        at += size
    assert at == len(data)


@given(st.sets(st.integers(0, 3000), min_size=1, max_size=300))
def test_packed_points_are_read_as_they_were_written(points: set[int]) -> None:
    data = write_points(np.array(sorted(points)))
    assert read_points(data, 0) == (sorted(points), len(data))


@given(
    st.lists(st.lists(st.sampled_from([0, 0, 1, -3, 200, -40_000]), min_size=3, max_size=3), min_size=1, max_size=30)
)
def test_packed_rows_are_found_where_they_were_put(rows: list[list[int]]) -> None:
    regions = [(AxisRegion(0, n + 1, ONE),) for n in range(3)]
    store, places = pack_store(1, regions, np.array(rows, np.int64))
    for row, place in zip(rows, places, strict=True):
        assert (place is None) == (not any(row))
        if place is not None and store is not None:
            found = dict(zip(store.regions, store.rows([place])[0].tolist(), strict=True))
            assert [found.get(region, 0) for region in regions] == row


def test_advances_are_stored_in_whichever_way_is_smaller() -> None:
    font = open_font(KARLA)
    hvar = font.table(Hvar)
    count = len(font.table(Hmtx).advances)
    assert isinstance(hvar.store, ItemVariationStore)
    rows = hvar.rows(0, range(count))
    again = hvar.of_glyphs(GlyphMap(range(count)))
    assert rows is not None
    new = again.rows(0, range(count))
    assert new is not None
    order = [again.store.regions.index(region) for region in hvar.store.regions]
    assert np.array_equal(new[:, order], rows)
    assert len(again.compile()) <= len(hvar.compile())


def test_cff2_is_subset_like_any_table() -> None:
    font = with_postscript_outlines()
    cut = subset(font, {0x41})
    assert len(cut.font.table(Cff2).charstrings) == 2
    plain = subset(font, {0x41}, SubsetOptions(hints=False)).font.table(Cff2)
    assert len(plain.charstrings[1]) < len(cut.font.table(Cff2).charstrings[1])
    assert 6 not in plain.font_dicts[0].private


def test_a_collection_of_variable_fonts_is_taken_apart(tmp_path: Path) -> None:
    path = tmp_path / "both.ttc"
    path.write_bytes(collection([open_font(KARLA), open_font(PENYU)]))
    first, second = Font.read_all(path.read_bytes(), "both.ttc")
    for font, name in ((first, "karla"), (second, "penyu")):
        source = FONTS[name]()
        assert Comparison(source, subset(font, LATIN), location=next(places(source, randomly=0))).run() == []


# ---- tables that few fonts have


def _with_rare_tables() -> Font:
    """Penyu Sans with control values and line metrics that vary by weight, and without 'HVAR'."""
    font = open_font(PENYU)
    heavier, lighter = around((ONE, 0)), around((-ONE, 0))
    control = Cvar((
        TupleVariation(heavier, np.array([1]), np.array([[80]])),
        TupleVariation(lighter, None, np.array([[-10], [-20], [0]])),
    ))  # fmt: skip
    metrics = Mvar.of_rows(2, (heavier, lighter), {"xhgt": [40, -8], "undo": [-20, 0], "hcrn": [0, 300]})
    assert metrics is not None
    font = font.with_data({"cvt ": words(10, 20, 30), "prep": b"\xb0\x00\x21"})
    return font.with_tables([control, metrics], ["HVAR"])


def test_control_values_and_line_metrics_follow() -> None:
    font = _with_rare_tables()
    before, post, hhea = font.table(OS2), font.table(Post), font.table(Hhea)
    assert before.x_height is not None
    half = narrow(font, {"wght": AxisLimit(600, 600)})  # half way to the heaviest
    assert np.frombuffer(half.raw("cvt "), ">i2").tolist() == [10, 60, 30]
    assert half.table(OS2).x_height == before.x_height + 20
    assert half.table(Post).header.underline_position == post.header.underline_position - 10
    assert "cvar" not in half
    assert "MVAR" not in half
    left = narrow(font, {"wght": AxisLimit(350, 600)})  # the default stays
    assert np.frombuffer(left.raw("cvt "), ">i2").tolist() == [10, 20, 30]
    found = {each.region[0].peak: each.over(3)[:, 0].tolist() for each in left.table(Cvar).variations}
    assert found == {-ONE: [-5, -10, 0], ONE: [0, 40, 0]}
    store = left.table(Mvar).store
    assert store is not None
    rows = dict(zip(left.table(Mvar).values, store.rows(list(left.table(Mvar).values.values())).tolist(), strict=True))
    by_peak = [region[0].peak for region in store.regions]
    assert dict(zip(by_peak, rows["xhgt"], strict=True)) == {ONE: 20, -ONE: -4}
    assert narrow(font, {"wght": AxisLimit(300, 300)}).table(Hhea).caret_slope_run == hhea.caret_slope_run + 300
    # Hints and what varies them go together.
    assert {"cvt ", "cvar"} <= set(subset(font, LATIN).font)
    assert not {"cvt ", "cvar"} & set(subset(font, LATIN, SubsetOptions(hints=False)).font)


def test_without_hvar_advances_are_where_the_phantom_points_say() -> None:
    font, whole = _with_rare_tables(), open_font(PENYU)
    for limits in ({"wght": AxisLimit(550, 550)}, {"wght": AxisLimit(700, 800)}):
        found, expected = (narrow(each, limits).table(Hmtx).advances for each in (font, whole))
        assert np.array_equal(found, expected)
        assert not np.array_equal(found, whole.table(Hmtx).advances)
    places = [{"wght": AxisLimit(weight, weight)} for weight in (300, 640)]
    for mine, theirs in zip(advances_at_locations(font, places), advances_at_locations(whole, places), strict=True):
        assert np.array_equal(mine, theirs)


def test_heights_origins_and_baselines_follow() -> None:
    font = open_font(PENYU)
    count = font.num_glyphs
    heavier = around((ONE, 0))
    store = ItemVariationStore(2, (heavier,), ())
    rows = np.arange(count)[:, None]
    vvar = Vvar.of_rows(store, [2 * rows, None, None, rows])
    heights = Vmtx(np.full(count, 1000, np.uint16), np.zeros(count, np.int16))
    vhea = Vhea.parse(bytes(34) + words(1), font)
    axis = BaselineAxis(("romn",), {"latn": BaseScript(0, (Coordinate(100, device=VariationIndex(0, 0)),))})
    packed, _ = pack_store(2, (heavier,), np.array([[30]]))
    base = Base(axis, None, packed)
    font = font.with_tables([vhea, heights, Vorg(880, {}), vvar, base])
    half = narrow(font, {"wght": AxisLimit(600, 600)})
    assert half.table(Vmtx).advances[:4].tolist() == [1000, 1001, 1002, 1003]
    assert [half.table(Vorg).origins.get(glyph, 880) for glyph in (0, 2, 4)] == [880, 881, 882]
    assert half.table(Base).horizontal == BaselineAxis(("romn",), {"latn": BaseScript(0, (Coordinate(115),))})
    left = narrow(font, {"wght": AxisLimit(400, 600)})
    found = left.table(Vvar).rows(0, range(5))
    assert found is not None
    assert found[:, 0].tolist() == [0, 1, 2, 3, 4]
    cut = subset(left, LATIN).font
    (coordinate,) = cut.table(Base).horizontal.scripts["latn"].coordinates  # type: ignore[union-attr]
    assert (coordinate.value, coordinate.device) == (100, VariationIndex(0, 0))
    assert cut.table(Base).variations.rows([VariationIndex(0, 0)]).tolist() == [[15]]  # type: ignore[union-attr]
