"""Tables written otherwise, and glyphs in another order, to save bytes: they say the same, and they do save."""

from __future__ import annotations

import threading
import time
import zlib
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from aksara.compressibility import compressed_size
from aksara.container import EFFORTS, woff
from aksara.container.woff import deflate, deflate_fast
from aksara.font import Font, open_font
from aksara.offsets import OffsetReader, serialize
from aksara.pipeline.making.font_files import FontRecipe, make_font_files
from aksara.subsetting import FeatureChoice, SubsetOptions, subset
from aksara.subsetting.glyph_order import ordered_glyphs
from aksara.tables import Gpos, Name
from aksara.tables.layout.gpos import ClassPairs, GlyphPairs
from aksara.tables.layout.gpos.flattening import flattened
from aksara.tables.layout.gpos.pair_formats import parse_pairs
from aksara.tables.layout.lookups import Lookup, blocks_in_reach
from aksara.tables.layout.value_records import field_count
from aksara.tables.name import COPYRIGHT, FAMILY, LICENCE, LICENCE_URL, TRADEMARK
from aksara.tables.variation.item_variation_store import VariationIndex
from aksara.threads import Room
from conftest import Run
from fonts import DEMO_FONTS, SYSTEM, small_font
from layout_tables import GLYPHS, pairs

Pairs = GlyphPairs | ClassPairs
SORA = SYSTEM.parent / "opentype/sora/Sora-Bold.otf"
EVERY_GLYPH = tuple(range(GLYPHS))


# ---- pair adjustments as one matrix


def _adjustment(subtables: Sequence[Pairs], first: int, second: int) -> dict[int, object]:
    """What the first subtable that applies does to the first glyph: bit of the value format → what is not 0."""
    for subtable in subtables:
        fields: tuple[object, ...] | None = None
        if isinstance(subtable, GlyphPairs):
            found = subtable.pairs.get(first, {}).get(second)
            fields = found[0] if found is not None else None
        elif first in subtable.covered and subtable.classes2.get(second, 0) < subtable.values.shape[1]:
            row, column = subtable.classes1.get(first, 0), subtable.classes2.get(second, 0)
            count = field_count(subtable.value_formats[0])
            numbers = subtable.values[row, column].tolist()[:count]
            fields = tuple(subtable.devices.get((row, column, n), number) for n, number in enumerate(numbers))
        if fields is not None:
            bits = [bit for bit in range(8) if subtable.value_formats[0] >> bit & 1]
            return {bit: field for bit, field in zip(bits, fields, strict=True) if field}
    return {}


@settings(max_examples=150, deadline=None, suppress_health_check=list(HealthCheck), derandomize=True)
@given(st.lists(pairs(), min_size=1, max_size=4))
def test_one_matrix_adjusts_each_pair_as_the_subtables_do(subtables: list[Pairs]) -> None:
    matrix = flattened(subtables, EVERY_GLYPH)
    if any(subtable.value_formats[1] for subtable in subtables):
        assert matrix is None
        return
    for first in EVERY_GLYPH:
        for second in EVERY_GLYPH:
            made = _adjustment([matrix] if matrix is not None else [], first, second)
            assert made == _adjustment(subtables, first, second), (first, second)


def test_devices_and_classes_that_the_matrix_lacks_keep_their_meaning() -> None:
    device, other = VariationIndex(0, 3), VariationIndex(1, 0)
    exceptions = GlyphPairs((0x44, 0), {1: {2: ((-20, device), ()), 3: ((0, None), ())}})
    # Glyph 9 is of a class that the matrix does not have: there the last subtable applies.
    values = np.array([[[0], [-50]], [[7], [0]]], np.int16)
    classes = ClassPairs((4, 0), frozenset({1, 4}), {4: 1}, {2: 1, 9: 5}, values, {})
    last = GlyphPairs((0x40, 0), {1: {9: ((other,), ())}})
    subtables = [exceptions, classes, last]
    matrix = flattened(subtables, range(12))
    assert matrix is not None
    assert _adjustment([matrix], 1, 2) == {2: -20, 6: device}
    assert _adjustment([matrix], 1, 3) == {}
    assert _adjustment([matrix], 4, 3) == {2: 7}
    assert _adjustment([matrix], 1, 9) == {6: other}
    assert [_adjustment([matrix], 4, n) for n in range(12)] == [_adjustment(subtables, 4, n) for n in range(12)]


def test_a_matrix_beyond_the_reach_of_its_offsets_is_cut_by_rows() -> None:
    rng = np.random.default_rng(14)
    values = rng.integers(-90, 90, (200, 300, 1)).astype(np.int16)
    matrix = ClassPairs(
        (4, 0), frozenset(range(1, 201)), {n: n - 1 for n in range(2, 201)}, {n: n for n in range(1, 300)}, values, {}
    )
    blocks = blocks_in_reach(Lookup(2, 0, (matrix,)))
    assert len(blocks) == 2
    parts = [parse_pairs(OffsetReader(serialize(block))) for block in blocks]
    for first in range(1, 201, 7):
        for second in range(1, 300, 11):
            assert _adjustment(parts, first, second) == _adjustment([matrix], first, second)


def test_kerning_of_a_real_font_takes_two_thirds() -> None:
    font = open_font(SORA)
    table = font.table(Gpos)
    glyphs, features = set(range(font.num_glyphs)), {feature.tag for feature in table.features}
    prepared = table.prepared(glyphs, features)
    (number,) = [n for n, lookup in enumerate(table.lookups) if lookup.lookup_type == 2]
    before, after = (
        compressed_size(b"".join(map(serialize, blocks_in_reach(each.lookups[number])))) for each in (table, prepared)
    )
    assert after < 0.7 * before
    cut = subset(font, None).font.table(Gpos)
    assert max(len(lookup.subtables) for lookup in cut.lookups if lookup.lookup_type == 2) == 1


# ---- the order of glyphs


def test_glyphs_stand_in_the_order_of_their_characters_unless_grouping_saves_more() -> None:
    characters = {0x41 + n: 40 - n for n in range(26)}
    glyphs = {0, 50, *characters.values()}
    plain = [0, *(characters[code] for code in sorted(characters)), 50]
    assert ordered_glyphs(glyphs, characters, []) == plain
    few = [{40: 1, 38: 1}]
    assert ordered_glyphs(glyphs, characters, few) == plain
    assert ordered_glyphs(glyphs, characters, few, "groups") != plain
    # Every other letter is treated alike, in forty tables.
    alike = dict.fromkeys(list(characters.values())[::2], 1)
    many = [alike | {39: number} for number in range(2, 42)]
    order = ordered_glyphs(glyphs, characters, many)
    places = sorted(order.index(glyph) for glyph in alike)
    assert places == list(range(places[0], places[0] + 13))
    assert sorted(order) == sorted(glyphs)
    assert order[0] == 0
    assert ordered_glyphs(glyphs, characters, many, "characters") == plain


def test_what_is_reckoned_is_near_the_better_order() -> None:
    font = open_font(SORA)
    sizes = [len(subset(font, None, SubsetOptions(order=order)).font.write("woff2"))
             for order in ("reckoned", "characters", "groups")]  # fmt: skip
    assert sizes[0] in sizes[1:]
    assert sizes[0] < 1.03 * min(sizes)


def test_most_effort_takes_the_better_order() -> None:
    font = open_font(SORA)
    files = {}
    for effort in EFFORTS[1:]:
        recipe = FontRecipe(characters=None, features=FeatureChoice(), hints=True, formats=("sfnt",), effort=effort)
        files[effort] = make_font_files(font, recipe, costs="none").files[0].data
    orders = [subset(font, None, SubsetOptions(order=order)) for order in ("characters", "groups")]
    best = min(len(variant.write("sfnt")) for cut in orders for variant in cut.variants)
    assert len(files["most"]) == best <= len(files["normal"])


# ---- names, WOFF, and how much at a time


NAMES = {
    COPYRIGHT: "© Penyu Ferries",
    FAMILY: "Penyu Test",
    TRADEMARK: "Penyu is a trademark",
    LICENCE: "For the web sites of Penyu Ferries only. " * 20,
    LICENCE_URL: "https://penyu.example/licence",
}


@pytest.mark.parametrize("beside", ["with the font", "above it", "elsewhere", "given"])
def test_the_words_of_a_licence_leave_the_font_where_its_text_travels(beside: str, aksara: Run, tmp_path: Path) -> None:
    place = tmp_path / "seller" / "ttf"
    other = tmp_path / "seller" / "other"
    for folder in (place, other):
        folder.mkdir(parents=True)
    (place / "PenyuTest.ttf").write_bytes(small_font(names=NAMES))
    text = {"with the font": place, "above it": place.parent, "elsewhere": other, "given": tmp_path}[beside]
    (text / "LICENCE.txt").write_text("The whole licence.")
    given = ["--publish-licence", text / "LICENCE.txt"] if beside == "given" else []
    done = aksara("build", tmp_path / "seller", *given, "--to", tmp_path / "type", "--format", "sfnt")
    assert done.returncode == 0
    (file,) = (tmp_path / "type").glob("*.ttf")
    names = open_font(file).table(Name)
    assert names.get(COPYRIGHT) == NAMES[COPYRIGHT]
    assert names.get(LICENCE_URL) == NAMES[LICENCE_URL]
    travels = beside != "elsewhere"
    assert (names.get(LICENCE) is None) == travels
    assert (names.get(TRADEMARK) is None) == travels


def test_the_words_stay_where_nothing_else_says_whose_the_font_is() -> None:
    font = Font.read(small_font(names={FAMILY: "Penyu Test", LICENCE: "Ask first."}))
    kept = subset(font, None, SubsetOptions(licence_text=False)).font.table(Name)
    assert kept.get(LICENCE) == "Ask first."


def test_woff_size_depends_on_the_effort() -> None:
    tables = [DEMO_FONTS[0].read_bytes()[:60_000], bytes(5000), b"", bytes(range(256))]
    for table in tables:
        for compress in (deflate_fast, deflate):
            assert zlib.decompress(compress(table)) == table
    fast, normal = (len(compress(tables[0])) for compress in (deflate_fast, deflate))
    assert normal < fast < len(zlib.compress(tables[0], 9)) * 1.01
    assert normal < 0.98 * len(zlib.compress(tables[0], 9))
    assert woff.read(Font.read(DEMO_FONTS[0].read_bytes()).write("woff", effort="fast"))[0]


def test_large_work_waits_for_room() -> None:
    room = Room(10)
    running: list[int] = []
    most = 0
    lock = threading.Lock()

    def work(size: int) -> None:
        nonlocal most
        with room.taken(size):
            with lock:
                running.append(size)
                most = max(most, sum(running))
                assert len(running) == 1 or sum(running) <= 10
            time.sleep(0.005)
            with lock:
                running.remove(size)

    threads = [threading.Thread(target=work, args=(size,)) for size in (4, 5, 25, 3, 6, 1, 9, 2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(10)
    assert not running
    assert most == 25
