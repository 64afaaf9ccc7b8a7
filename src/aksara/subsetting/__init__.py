"""Subsetting: a font with only what the kept characters and features need.

The glyphs are numbered anew, so every table that speaks of them by number is
written anew, too; each knows itself how (`tables/`). What is decided here is
which glyphs are needed, what is left out, and why.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np

from aksara.errors import FontError, InputError, located
from aksara.font import Font
from aksara.subsetting.claims import with_true_claims
from aksara.subsetting.closure import closed, encoded_glyphs, with_parts
from aksara.subsetting.features import FeatureChoice, LeftOut
from aksara.subsetting.layout import Layout
from aksara.subsetting.names import reduced_names
from aksara.subsetting.retention import HINT_TABLES, Dropped, is_mathematical, numbers_must_stay, tables_to_drop
from aksara.subsetting.substitutes import substitutes
from aksara.tables import (
    OS2,
    Cff,
    Cmap,
    Gasp,
    Glyf,
    Gsub,
    Hdmx,
    Head,
    Hhea,
    Hmtx,
    Ltsh,
    Maxp,
    Name,
    Post,
    Vhea,
    Vmtx,
    Vorg,
)
from aksara.tables.base import Table
from aksara.tables.layout.offsets import OffsetOverflow
from aksara.tables.metrics import Metrics
from aksara.text import companions

__all__ = [
    "HINT_TABLES",
    "Dropped",
    "FeatureChoice",
    "LeftOut",
    "Options",
    "Subset",
    "draws_any",
    "reduced_names",
    "subset",
]

M = TypeVar("M", bound=Metrics)
# head.flags: the glyph programs depend on the size, and change advances.
_HINTED_FLAGS = 1 << 2 | 1 << 4
_ONE_RANGE = 0xFFFF


@dataclass(slots=True, frozen=True)
class Options:
    """How to cut: `features` over the default ones, with or without `hints`, and whether glyphs keep their numbers.

    `costs`: whether to find out what the features that are left out would cost, which takes a moment.
    """

    features: FeatureChoice = field(default_factory=FeatureChoice)
    hints: bool = True
    keep_glyph_numbers: bool = False
    costs: bool = False


@dataclass(slots=True, frozen=True)
class Subset:
    """A font cut down, and what became of the request.

    `characters` (code point → glyph of the source) is what the new font serves: what was asked for as far as the font
    has it, and `companions`, which text of the asked-for characters needs as well. `missing` was asked for, but the
    font does not have it. `glyphs` are the source's numbers of the kept glyphs in the order of the new font, None for
    one that is there only so that others keep their number. `features` were kept, `left_out` could have been.
    `variants` are fonts that draw the same as `font` and are written differently, `font` among them: whichever makes
    the smallest file may be taken.
    """

    font: Font
    variants: tuple[Font, ...]
    characters: dict[int, int]
    companions: frozenset[int]
    missing: frozenset[int]
    glyphs: tuple[int | None, ...]
    features: frozenset[str]
    left_out: tuple[LeftOut, ...]
    dropped: tuple[Dropped, ...]
    warnings: tuple[str, ...]

    @property
    def kept_glyphs(self) -> int:
        """How many glyphs are drawn as before."""
        return sum(glyph is not None for glyph in self.glyphs)


@dataclass(slots=True, frozen=True)
class _Plan:
    """What is kept: characters (code point → old glyph), the glyphs in their new order, old number → new, features."""

    characters: Mapping[int, int]
    order: Sequence[int | None]
    numbers: Mapping[int, int]
    features: frozenset[str]
    hints: bool


def subset(font: Font, characters: Set[int] | None = None, options: Options | None = None) -> Subset:
    """The font with only these characters (None: all it has) and what text made of them needs.

    Raises `UnsupportedFont` or `FontError` for a font that cannot be used.
    An empty result (none of the characters in the font) is no error here,
    but `InputError` is raised where nothing at all would be drawn.
    """
    options = options or Options()
    font.require_supported()
    with located(file=font.path):
        made_up, warnings = substitutes(font)
        if made_up:
            font = font.with_tables(made_up)
        available = font.characters
        wanted = set(available) if characters is None else set(characters) & available.keys()
        turns = "vert" in _gsub_features(font)
        besides = frozenset(companions(wanted, available.keys(), substitutes="GSUB" in font, turns=turns))
        kept = {code: available[code] for code in sorted(wanted | besides)}
        dropped, notes = tables_to_drop(font, kept, hints=options.hints)
        gone = {item.tag for item in dropped}
        layout = Layout.of(font, gone)
        warnings += [*notes, *layout.warnings]
        present, formulas = layout.tags(), layout.math is not None and any(map(is_mathematical, kept))
        features = options.features.wanted(present, kept.keys(), formulas=formulas)
        shown = _shown(font, kept, layout, features, gone)
        glyphs = with_parts(font, shown)
        order = _order(glyphs, kept, keep_numbers=options.keep_glyph_numbers or numbers_must_stay(font, gone))
        if options.hints and "fpgm" in font:
            order += [None] * (_least_glyphs(font) - len(order))
        numbers = {old: new for new, old in enumerate(order) if old is not None}
        plan = _Plan(kept, order, numbers, features, options.hints)
        if not _draws(font, glyphs):
            raise InputError(f"{font.path}: draws nothing for the characters asked for (spaces only?); ask for others")
        try:
            variants = _variants(font, plan, layout, gone)
        except OffsetOverflow:
            # With the numbers that it had, a font's layout tables fit as they are.
            variants = _as_it_was(font, plan, gone)
            warnings.append("its layout tables do not fit their format once cut down; they are kept whole")
        left_out = layout.left_out(font, shown, glyphs, features) if options.costs else ()
    missing = frozenset(characters or ()) - available.keys()
    return Subset(
        variants[0], variants, kept, besides, missing, tuple(order), features, left_out, dropped, tuple(warnings)
    )


def _gsub_features(font: Font) -> set[str]:
    """The tags of the font's substituting features; none where they cannot be read."""
    try:
        return {feature.tag for feature in font.table(Gsub).features} if Gsub.TAG in font else set()
    except FontError:
        return set()


def draws_any(font: Font, characters: Set[int] | None) -> bool:
    """Whether at least one of these characters (None: of all) is drawn: spaces are not."""
    available = font.characters
    wanted = available.keys() if characters is None else available.keys() & characters
    return _draws(font, {available[code] for code in wanted})


def _draws(font: Font, glyphs: Set[int]) -> bool:
    """Whether any of these glyphs has an outline."""
    if "glyf" in font:
        outlines = font.table(Glyf).glyphs
        return any(outlines[glyph] for glyph in glyphs)
    cff = font.table(Cff)
    return any(cff.draws(glyph) for glyph in glyphs)


def _shown(font: Font, kept: Mapping[int, int], layout: Layout, features: frozenset[str], gone: Set[str]) -> set[int]:
    count = font.num_glyphs
    glyphs = {glyph for glyph in encoded_glyphs(font, kept) if glyph < count}
    if numbers_must_stay(font, gone):
        # Apple's tables may show any glyph that no character leads to.
        glyphs |= set(range(font.num_glyphs)) - set(font.characters.values())
    return closed(font, glyphs, layout.gsub, layout.math, features)


def _order(glyphs: Set[int], characters: Mapping[int, int], *, keep_numbers: bool) -> list[int | None]:
    """The kept glyphs by new number: in the order of their characters, which makes 'cmap' short, then the others."""
    if keep_numbers:
        return [glyph if glyph in glyphs else None for glyph in range(max(glyphs) + 1)]
    encoded = dict.fromkeys(glyph for _, glyph in sorted(characters.items()) if glyph in glyphs)
    return list(dict.fromkeys([0, *encoded, *sorted(glyphs)]))


def _least_glyphs(font: Font) -> int:
    """How many glyphs a hinted font must have, empty ones added, for its programs to run as before.

    A renderer stops a program that loops too often, and allows the fewer loops the fewer glyphs the font has: at most
    100 a glyph, of 10 a point or 22 a control value and some hundred more.
    """
    limits = font.table(Maxp).limits or (0, 0, 0)
    values = len(font.raw("cvt ")) // 2 if "cvt " in font else 0
    loops = max(10 * max(limits[0], limits[2]) + max(50, values // 10), 300 + 22 * values)
    return min(font.num_glyphs, -(-loops // 100))


def _variants(font: Font, plan: _Plan, layout: Layout, gone: Set[str]) -> tuple[Font, ...]:
    """The font with all its tables cut down: with CFF outlines, in the two forms that these can be written in."""
    tables = layout.subset(plan.numbers, plan.characters, plan.features)
    # Layout tables in which nothing is left are not written at all.
    empty = {"GSUB", "GPOS", "GDEF", "BASE", "MATH", "kern"} - {table.TAG for table in tables}
    changed = [*_font_wide(font, plan, tables), *_metrics(font, plan), *_device_tables(font, plan), *tables]
    if "glyf" in font:
        glyf = font.table(Glyf).take(plan.order, plan.numbers, hints=plan.hints)
        loca = glyf.loca()
        head = _head(font, plan, loca_format=int(loca.long))
        return (font.with_tables([*changed, head, glyf, loca], gone | empty),)
    changed.append(_head(font, plan, loca_format=font.table(Head).index_to_loc_format))
    forms = font.table(Cff).subset(plan.order, hints=plan.hints, names="name" not in font)
    base = font.with_tables(changed, gone | empty)
    return tuple(base.with_tables([form]) for form in (forms.plain, forms.with_subroutines) if form is not None)


def _as_it_was(font: Font, plan: _Plan, gone: Set[str]) -> tuple[Font, ...]:
    """The font with all layout tables and glyphs, but for the characters that are not kept."""
    cmap = font.table(Cmap)
    same = {glyph: glyph for glyph in range(font.num_glyphs)}
    return (font.with_tables([cmap.subset(dict(plan.characters), same)], gone),)


def _font_wide(font: Font, plan: _Plan, layout: Sequence[Table]) -> list[Table]:
    """The tables about the font as a whole."""
    maxp = replace(font.table(Maxp), num_glyphs=len(plan.order))
    characters = {code: plan.numbers[glyph] for code, glyph in plan.characters.items()}
    return [
        maxp if plan.hints else maxp.without_hints(),
        font.table(Cmap).subset(characters, plan.numbers),
        with_true_claims(font.table(OS2), font.characters.keys(), characters.keys(), layout),
        reduced_names(font.table(Name)),
        font.table(Post).without_names(),
    ]


def _head(font: Font, plan: _Plan, *, loca_format: int) -> Head:
    head = replace(font.table(Head), index_to_loc_format=loca_format)
    return head if plan.hints else replace(head, flags=head.flags & ~_HINTED_FLAGS)


def _metrics(font: Font, plan: _Plan) -> list[Table]:
    """Metrics of the kept glyphs; those of glyphs that are there only for their number become 0."""
    hmtx = _taken(font.table(Hmtx), plan.order)
    if "glyf" in font:
        # An empty glyph has no side: 0 is as true as any bearing, and lets WOFF2 leave the bearings out.
        outlines = font.table(Glyf).glyphs
        drawn = np.array([old is not None and bool(outlines[old]) for old in plan.order])
        hmtx = replace(hmtx, side_bearings=np.where(drawn, hmtx.side_bearings, 0).astype(np.int16))
    changed: list[Table] = [hmtx, replace(font.table(Hhea), number_of_h_metrics=hmtx.stored_advances)]
    if Vhea.TAG in font and Vmtx.TAG in font:
        vmtx = _taken(font.table(Vmtx), plan.order)
        changed += [vmtx, replace(font.table(Vhea), number_of_v_metrics=vmtx.stored_advances)]
    if (vorg := font.find(Vorg)) is not None:
        changed.append(vorg.subset(plan.numbers))
    return changed


def _taken(metrics: M, order: Sequence[int | None]) -> M:
    taken = metrics.take(np.array([old or 0 for old in order], np.int64))
    there = np.array([old is not None for old in order])
    return replace(
        taken,
        advances=np.where(there, taken.advances, 0).astype(np.uint16),
        side_bearings=np.where(there, taken.side_bearings, 0).astype(np.int16),
    )


def _device_tables(font: Font, plan: _Plan) -> list[Table]:
    """The tables about single sizes, which belong to the hints."""
    if not plan.hints:
        # Smoothing alone, at all sizes.
        return [Gasp(1, ((_ONE_RANGE, Gasp.SMOOTH),))] if Gasp.TAG in font else []
    changed: list[Table] = []
    order = [old or 0 for old in plan.order]
    if (hdmx := font.find(Hdmx)) is not None:
        changed.append(hdmx.take(order))
    if (ltsh := font.find(Ltsh)) is not None:
        changed.append(ltsh.take(order))
    return changed
