"""Layout tables made at random, of every lookup type and format: text of the part is set as with the whole font."""

from __future__ import annotations

import io
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import ImageFont

from aksara.font import Font
from aksara.subsetting import FeatureChoice, SubsetOptions, subset
from aksara.tables import Gdef, Gpos, Gsub
from aksara.tables.layout import gpos
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gpos import GlyphPairs
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from comparison import whole
from fonts import box, small_font
from layout_tables import GLYPHS, LETTERS, MARKS, SETS, tables

GDEFS = st.builds(
    Gdef,
    st.just(dict.fromkeys(MARKS, 3) | {5: 2, 1: 1, 2: 1}),
    mark_classes=st.just({10: 1, 11: 2}),
    mark_sets=st.tuples(SETS, SETS),
)


def _font(substitutions: Gsub, positions: Gpos, gdef: Gdef) -> Font:
    layout = {table.TAG: table.compile() for table in (substitutions, positions, gdef)}
    characters = {ord(letter): number for number, letter in enumerate(LETTERS, 1)}
    glyphs = [box(250 + 37 * number, 300 + 29 * number)[0] for number in range(GLYPHS)]
    return Font.read(small_font(characters, glyphs, extra=layout), "random.ttf")


def _setter(font: Font) -> Any:
    raqm = ImageFont.truetype(io.BytesIO(whole(font)), 60, layout_engine=ImageFont.Layout.RAQM)

    def set_text(text: str, features: list[str] | None) -> object:
        mask, offset = raqm.getmask2(text, features=features)
        return raqm.getlength(text, features=features), mask.size, offset, bytes(mask)

    return set_text


@settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck), derandomize=True)
@given(
    tables(Gsub),
    tables(Gpos),
    GDEFS,
    st.sets(st.sampled_from(LETTERS), min_size=2),
    st.lists(st.text(LETTERS, min_size=1, max_size=8), min_size=6, max_size=12),
)
def test_text_of_the_part_is_set_as_with_the_whole_font(
    substitutions: Gsub, positions: Gpos, gdef: Gdef, kept: set[str], words: list[str]
) -> None:
    font = _font(substitutions, positions, gdef)
    for table in (substitutions, positions, gdef):
        assert type(table).parse(font.raw(table.TAG), font) == table
    before = _setter(font)
    letters = sorted(kept)
    for wanted in (None, ["smcp", "cpsp"]):
        options = SubsetOptions(features=FeatureChoice(everything=wanted is not None))
        after = _setter(subset(font, set(map(ord, kept)), options).font)
        for word in words:
            text = "".join(letters[ord(letter) % len(letters)] for letter in word)
            assert before(text, wanted) == after(text, wanted), (text, wanted)


@pytest.mark.parametrize(("first", "second", "differs"), [("AB", "AC", False), ("AB", "AB", True)])
def test_the_comparison_would_see_a_lost_pair(first: str, second: str, differs: bool) -> None:
    pair = GlyphPairs((4, 0), {1: {2: ((-200,), ())}})
    features = [FeatureRecord("kern", (0,))]
    scripts = {"DFLT": Script(LanguageSystem(None, (0,)))}
    with_pair = _font(Gsub({}, [], []), Gpos(scripts, features, [Lookup(gpos.PAIR, 0, (pair,))]), Gdef({}))
    without = _font(Gsub({}, [], []), Gpos({}, [], []), Gdef({}))
    assert (_setter(with_pair)(first, None) != _setter(without)(first, None)) == (first == "AB")
    assert (_setter(with_pair)(second, None) != _setter(without)(second, None)) == differs
