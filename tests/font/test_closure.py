"""The closure over substitutions, held against one that looks at every rule again and again."""

from __future__ import annotations

import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from aksara.font import Font
from aksara.tables import Gsub
from aksara.tables.layout import gsub
from aksara.tables.layout.contexts import GlyphContext
from aksara.tables.layout.contexts.rules import ContextRule
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.lookups import Lookup
from fonts import SYSTEM
from layout_tables import NUMBER, tables
from reference_closure import reference_closure

TAGS = st.sets(st.sampled_from(["calt", "liga", "smcp"]))
# Lookup 0 calls 1 at glyph 2 alone; with 'smcp' lookup 1 applies everywhere. What it makes starts another rule.
CALLED_TWICE = Gsub(
    {},
    [FeatureRecord("calt", (0,)), FeatureRecord("smcp", (1,))],
    [
        Lookup(gsub.CONTEXT, 0, (GlyphContext(False, {2: (ContextRule((), (3,), (), ((0, 1), (0, 2))),)}),)),
        Lookup(gsub.SINGLE, 0, (gsub.SingleSubstitution({2: 4, 3: 5}),)),
        Lookup(gsub.LIGATURE, 0, (gsub.LigatureSubstitution({4: (((5,), 6),)}),)),
    ],
)
# Once 1 and 2 are joined, 3 may stand where 2 did.
JOINED_FIRST = Gsub(
    {},
    [FeatureRecord("calt", (0,))],
    [
        Lookup(gsub.CONTEXT, 0, (GlyphContext(False, {1: (ContextRule((), (2,), (), ((0, 1), (1, 2))),)}),)),
        Lookup(gsub.LIGATURE, 0, (gsub.LigatureSubstitution({1: (((2,), 6),)}),)),
        Lookup(gsub.SINGLE, 0, (gsub.SingleSubstitution({3: 13}),)),
    ],
)


@settings(max_examples=100, deadline=None, suppress_health_check=list(HealthCheck), derandomize=True)
@given(tables(Gsub), st.sets(NUMBER, min_size=1, max_size=8), TAGS, TAGS)
@example(CALLED_TWICE, {2, 3}, {"calt"}, {"smcp"})
@example(JOINED_FIRST, {1, 2, 3}, {"calt"}, set())
def test_the_glyphs_are_those_of_the_plainest_way(
    table: Gsub, glyphs: set[int], features: set[str], more: set[str]
) -> None:
    closure = table.closure(glyphs, features)
    assert closure.glyphs == reference_closure(table, glyphs, features)
    further = closure.with_lookups(sorted(table.lookups_of(more)))
    assert further.glyphs == reference_closure(table, glyphs, features | more)
    assert closure.glyphs == reference_closure(table, glyphs, features)  # which is as it was


@pytest.mark.parametrize(
    "path",
    [
        "truetype/dejavu/DejaVuSans.ttf",
        "truetype/inter-vf/Inter.var.ttf",
        "truetype/padauk/Padauk-Regular.ttf",
        "truetype/lohit-kannada/Lohit-Kannada.ttf",
        "opentype/fonts-hosny-amiri/Amiri-Regular.ttf",
    ],
)
def test_predicted_glyph_orders_hold_in_real_fonts(path: str) -> None:
    font = Font.read((SYSTEM.parent / path).read_bytes(), path)
    table = font.table(Gsub)
    tags = sorted({feature.tag for feature in table.features})
    grown = 0
    for step in (1, 3, 17):
        glyphs = {0, *list(font.characters.values())[::step]}
        for features in (None, set(tags[::2]), set(tags[1::2])):
            found = table.substitution_closure(glyphs, features)
            assert found == reference_closure(table, glyphs, features)
            grown += len(found) - len(glyphs)
    assert grown > 0
