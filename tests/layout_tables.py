"""Strategies that make layout tables at random, of every lookup type and format."""

from __future__ import annotations

from typing import Any

import numpy as np
from hypothesis import strategies as st

from aksara.tables import Gpos, Gsub
from aksara.tables.layout import gpos, gsub
from aksara.tables.layout.anchors import Anchor
from aksara.tables.layout.contexts import ClassContext, CoverageContext, GlyphContext
from aksara.tables.layout.contexts.rules import ContextRule
from aksara.tables.layout.features import AxisCondition, FeatureRecord, FeatureVariation
from aksara.tables.layout.gpos import ClassPairs, GlyphPairs
from aksara.tables.layout.gpos.attachment import CursiveAttachment, LigatureAttachment, MarkAttachment
from aksara.tables.layout.gpos.single import SingleAdjustment
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script

# Glyph n draws the n-th letter; those from 13 on have no character, so that only lookups show them.
ENCODED, GLYPHS, LOOKUPS = 12, 18, 5
LETTERS = "ABCDEFGHIJKL"
MARKS = (10, 11, 12)
NUMBER = st.integers(1, GLYPHS - 1)
SETS = st.frozensets(st.integers(1, GLYPHS - 1), min_size=1, max_size=6)
AROUND = st.lists(SETS, max_size=2).map(tuple)
ACTIONS = st.lists(st.tuples(st.integers(0, 2), st.integers(0, LOOKUPS - 1)), max_size=2).map(tuple)
CLASSES = st.dictionaries(NUMBER, st.integers(1, 3), max_size=10)
STEP = st.integers(-300, 300)
ANCHOR = st.builds(Anchor, STEP, STEP)
FLAGS = st.sampled_from([0, 0, 0, 0x0008, 0x0002, 0x0100, 0x0010])


def _rules(numbers: st.SearchStrategy[int], chained: bool) -> st.SearchStrategy[tuple[ContextRule, ...]]:
    around = st.lists(numbers, max_size=2).map(tuple) if chained else st.just(())
    rule = st.builds(ContextRule, around, st.lists(numbers, max_size=2).map(tuple), around, ACTIONS)
    return st.lists(rule, min_size=1, max_size=3).map(tuple)


@st.composite
def contexts(draw: Any, chained: bool) -> Any:
    form = draw(st.integers(1, 3))
    if form == 1:
        return GlyphContext(chained, draw(st.dictionaries(NUMBER, _rules(NUMBER, chained), min_size=1, max_size=3)))
    if form == 2:
        classes = [draw(CLASSES) if chained or n == 1 else {} for n in range(3)]
        covered = draw(SETS)
        # Rules for classes that no covered glyph has are not read.
        firsts = st.sampled_from(sorted({classes[1].get(glyph, 0) for glyph in covered}))
        rules = draw(st.dictionaries(firsts, _rules(st.integers(0, 3), chained), min_size=1, max_size=3))
        return ClassContext(chained, rules, covered, classes[0], classes[1], classes[2])
    inputs = draw(st.lists(SETS, min_size=1, max_size=3).map(tuple))
    around = [draw(AROUND) if chained else () for _ in range(2)]
    return CoverageContext(chained, around[0], inputs, around[1], draw(ACTIONS))


LISTS = st.lists(NUMBER, min_size=1, max_size=3).map(tuple)
SUBSTITUTIONS = {
    gsub.SINGLE: st.builds(gsub.SingleSubstitution, st.dictionaries(NUMBER, NUMBER, min_size=1, max_size=5)),
    gsub.MULTIPLE: st.builds(gsub.MultipleSubstitution, st.dictionaries(NUMBER, LISTS, min_size=1, max_size=3)),
    gsub.ALTERNATE: st.builds(gsub.AlternateSubstitution, st.dictionaries(NUMBER, LISTS, min_size=1, max_size=3)),
    gsub.LIGATURE: st.builds(
        gsub.LigatureSubstitution,
        st.dictionaries(NUMBER, st.lists(st.tuples(LISTS, NUMBER), min_size=1, max_size=2).map(tuple), min_size=1),
    ),
    gsub.CONTEXT: contexts(chained=False),
    gsub.CHAINED_CONTEXT: contexts(chained=True),
    gsub.REVERSE: st.builds(
        gsub.ReverseSubstitution, st.dictionaries(NUMBER, NUMBER, min_size=1, max_size=4), AROUND, AROUND
    ),
}

FORMS = st.sampled_from([(4, 0), (1, 0), (5, 0), (4, 4), (5, 1)])


def _values(form: int) -> st.SearchStrategy[Any]:
    return st.tuples(*[st.sampled_from([0, 0, -120, 90, 250])] * form.bit_count())


@st.composite
def pairs(draw: Any) -> Any:
    forms = draw(FORMS)
    value = st.tuples(*map(_values, forms))
    if draw(st.booleans()):
        return GlyphPairs(forms, draw(st.dictionaries(NUMBER, st.dictionaries(NUMBER, value, max_size=4), max_size=4)))
    rows, columns = draw(st.integers(1, 4)), draw(st.integers(1, 4))
    flat = draw(st.lists(st.sampled_from([0, 0, -100, 140]), min_size=64, max_size=64))
    fields = forms[0].bit_count() + forms[1].bit_count()
    values = np.resize(np.array(flat, np.int16), (rows, columns, fields))
    covered = draw(SETS)
    classes1 = {g: c for g, c in draw(CLASSES).items() if 0 < c < rows and g in covered}
    return ClassPairs(forms, covered, classes1, {g: c for g, c in draw(CLASSES).items() if 0 < c < columns}, values, {})


@st.composite
def attachments(draw: Any, component: bool) -> Any:
    classes = draw(st.integers(1, 2))
    row = st.tuples(*[st.none() | ANCHOR] * classes)
    marks = {mark: (draw(st.integers(0, classes - 1)), draw(ANCHOR)) for mark in draw(st.sets(st.sampled_from(MARKS)))}
    if component:
        others = st.dictionaries(NUMBER, st.lists(row, min_size=1, max_size=2).map(tuple), max_size=5)
        return LigatureAttachment(classes, marks, draw(others))
    return MarkAttachment(classes, marks, draw(st.dictionaries(NUMBER, row, max_size=6)))


@st.composite
def singles(draw: Any) -> SingleAdjustment:
    form = draw(st.sampled_from([4, 1, 7]))
    return SingleAdjustment(form, draw(st.dictionaries(NUMBER, _values(form), min_size=1, max_size=4)))


POSITIONS = {
    gpos.SINGLE: singles(),
    gpos.PAIR: pairs(),
    gpos.CURSIVE: st.builds(
        CursiveAttachment,
        st.dictionaries(NUMBER, st.tuples(st.none() | ANCHOR, st.none() | ANCHOR), min_size=1, max_size=5),
    ),
    gpos.MARK_TO_BASE: attachments(component=False),
    gpos.MARK_TO_LIGATURE: attachments(component=True),
    gpos.MARK_TO_MARK: attachments(component=False),
    gpos.CONTEXT: contexts(chained=False),
    gpos.CHAINED_CONTEXT: contexts(chained=True),
}


@st.composite
def tables(draw: Any, kind: type[Gsub] | type[Gpos]) -> Gsub | Gpos:
    subtables = SUBSTITUTIONS if kind is Gsub else POSITIONS
    lookups = []
    for _ in range(LOOKUPS):
        number, flags = draw(st.sampled_from(sorted(subtables))), draw(FLAGS)
        mark_set = draw(st.integers(0, 2)) if flags & 0x10 else None
        each = draw(st.lists(subtables[number], min_size=1, max_size=3).map(tuple))
        lookups.append(Lookup(number, flags, each, mark_set))
    # Where a lookup calls itself, by whatever way, shapers give the whole text up; no font works like that.
    plain = {number for number, lookup in enumerate(lookups) if not lookup.contexts}
    lookups = [
        lookup.renumbered({called: called for called in range(LOOKUPS) if called in plain or called > number})
        for number, lookup in enumerate(lookups)
    ]
    called = st.sets(st.integers(0, LOOKUPS - 1), max_size=3).map(lambda found: tuple(sorted(found)))
    tags = ("calt", "liga", "smcp") if kind is Gsub else ("kern", "mark", "cpsp")
    listed = [FeatureRecord(tag, draw(called)) for tag in tags]
    required = draw(st.sampled_from([None, None, 0, 2]))
    rest = tuple(number for number in range(3) if number != required)
    scripts = {"DFLT": Script(LanguageSystem(required, rest)), "latn": Script(LanguageSystem(None, (0, 1)))}
    # Where no axis moves, renderers take each for standing at 0.
    axis = draw(st.sampled_from([AxisCondition(0, 0, 0x4000), AxisCondition(0, 0x2000, 0x4000)]))
    varied = [FeatureVariation((axis,), {1: FeatureRecord(tags[1], draw(called))})] if draw(st.booleans()) else []
    return kind(scripts, listed, lookups, varied)
