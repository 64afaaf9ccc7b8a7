"""`subset`: the whole of subsetting, from characters to a font."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence, Set
from typing import Literal

from msgspec import Struct, field

from aksara.errors import FontError, NothingDrawn, located, without_frames
from aksara.font import Font
from aksara.offsets import OffsetOverflow
from aksara.subsetting.apple import kept_apple_tables, morphing_tables, warning_about_apple
from aksara.subsetting.closure import Substitutes, TextClosure, component_closure, encoded_glyphs, kept_tables
from aksara.subsetting.drawn import draws_glyphs
from aksara.subsetting.dropped_tables import (
    DroppedTable,
    damaged_tables,
    unneeded_tables,
    warnings_about,
)
from aksara.subsetting.feature_costs import OmittedFeature, feature_tags, omitted_features
from aksara.subsetting.features import FeatureChoice
from aksara.subsetting.glyph_order import GlyphOrder, ordered_glyphs
from aksara.subsetting.hint_costs import hint_size
from aksara.subsetting.missing_tables import made_up_tables
from aksara.subsetting.sanitising import sanitised
from aksara.tables import Cmap, Gsub, Maxp, ShapingTable, Table
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.math import Math, is_mathematical
from aksara.tables.registry import CLASSES
from aksara.tables.subsetting import SubsetContext, SubsetScope
from aksara.text import implied_characters

#: What to find out of what it costs.
Costs = Literal["none", "hints", "all"]


class SubsetOptions(Struct, frozen=True):
    """`features` to keep over the default ones, whether `hints` stay, whether glyphs keep their IDs, and the `order` of
    these if not.

    `licence_text`: whether the licence's own words and the trademark notice stay in the font, besides copyright and the
    licence's address; they need not where the text lies beside the font. `costs`: whether to find out what hints take,
    and (all) what the features that are left out would cost, which takes a moment.
    """

    features: FeatureChoice = field(default_factory=FeatureChoice)
    hints: bool = True
    licence_text: bool = True
    keep_glyph_ids: bool = False
    order: GlyphOrder = "reckoned"
    costs: Costs = "none"


class Subset(Struct, frozen=True, kw_only=True):
    """A font cut down, and what became of the request.

    `characters` (code point → glyph ID in the source) is what the new font serves: what was asked for as far as the
    font has it, and `implied`, which shaping text of the asked-for characters needs as well. `missing` was asked for,
    but the font does not have it. `glyphs` are the source's IDs of the kept glyphs in the order of the new font, None
    for one that is there only so that others keep their ID. `features` were kept, `omitted` could have been;
    `hint_size` is about how many bytes hints take in a WOFF2. Both are only found where costs were asked for.
    `variants` are fonts that draw the same as `font` and are written differently, `font` among them: whichever
    compresses best may be taken.
    """

    font: Font
    variants: tuple[Font, ...]
    characters: dict[int, int]
    implied: frozenset[int]
    missing: frozenset[int]
    glyphs: tuple[int | None, ...]
    features: frozenset[str]
    omitted: tuple[OmittedFeature, ...]
    hint_size: int
    dropped: tuple[DroppedTable, ...]
    warnings: tuple[str, ...]

    @property
    def kept_glyphs(self) -> int:
        """How many glyphs are drawn as before."""
        return sum(glyph is not None for glyph in self.glyphs)


def subset(font: Font, characters: Set[int] | None = None, options: SubsetOptions | None = None) -> Subset:
    """The font with only these characters (None: all) and what text in them needs.

    Raises `UnsupportedFont` or `FontError` for a font that cannot be used.
    An empty result (none of the characters in the font) is no error here,
    but `NothingDrawn` is raised where nothing at all would be drawn.
    """
    options = options or SubsetOptions()
    with located(file=font.path):
        needs = _find_needs(font, characters, options)
        tables, glyphs = needs.kept, needs.glyphs
        font, kept, features = tables.font, tables.characters, tables.features
        if not draws_glyphs(font, glyphs):
            raise NothingDrawn(f"{font.path}: draws nothing for these characters (spaces only?); ask for others")
        prepared = _prepared(tables, glyphs)
        order = _order(needs, prepared, options.order, keep_ids=options.keep_glyph_ids or needs.ids_stay)
        order += _padding(font, len(order)) if options.hints else []
        context = SubsetContext(
            font,
            GlyphMap(order),
            kept,
            features,
            hints=options.hints,
            licence_text=options.licence_text,
            prepared=prepared,
            dropped=tables.gone,
            classes=CLASSES,
        )
        warnings = list(tables.warnings)
        try:
            variants, cut = _variants(font, context)
        except OffsetOverflow:
            # With the glyph IDs that it had, a font's layout tables fit as they are.
            variants, cut = (_with_characters_only(font, context),), tables.tables
            warnings.append("its layout tables do not fit their format once cut down; they are kept whole")
        omitted = omitted_features(font, tables.tables, needs.text, glyphs, features) if options.costs == "all" else ()
        hints = hint_size(variants[0], cut) if options.costs != "none" else 0
    return Subset(
        font=variants[0],
        variants=variants,
        characters=kept,
        implied=tables.implied,
        missing=frozenset(characters or ()) - font.characters.keys(),
        glyphs=context.glyphs.order,
        features=features,
        omitted=omitted,
        hint_size=hints,
        dropped=tables.dropped,
        warnings=tuple(warnings),
    )


def needed_glyphs(font: Font, characters: Set[int], options: SubsetOptions) -> set[int]:
    """The glyphs that a subset for these characters would keep. Raises as `subset` does."""
    with located(file=font.path):
        return _find_needs(font, characters, options).glyphs


class KeptTables(Struct, frozen=True, kw_only=True):
    """What stays of a font for some characters, before any table is cut down.

    `font` has the tables that were made up for it, `characters` are those that are kept (code point → glyph ID), the
    `implied` ones included. `gone` are the tags that go, `tables` the parsed tables that stay, with these `features`.
    """

    font: Font
    implied: frozenset[int]
    characters: dict[int, int]
    dropped: tuple[DroppedTable, ...]
    gone: set[str]
    tables: list[Table]
    features: frozenset[str]
    warnings: tuple[str, ...]


class _Needs(Struct, frozen=True, kw_only=True):
    """What becomes of a request: `text` has the glyphs that text shows, `glyphs` are these and what they are drawn
    with; `ids_stay`: tables that are not written again speak of them."""

    kept: KeptTables
    ids_stay: bool
    text: TextClosure
    glyphs: set[int]


def _find_needs(
    font: Font, characters: Set[int] | None, options: SubsetOptions, damage: tuple[FontError, ...] = ()
) -> _Needs:
    kept = find_kept_tables(font, characters, options, damage)
    ids_stay = bool(kept_apple_tables(kept.font, kept.gone))
    text = _text(kept.font, kept.tables, kept.characters, kept.features, morphing_tables(kept.font, kept.gone))
    try:
        glyphs = component_closure(kept.tables, text.glyphs, kept.font.num_glyphs)
    except FontError as error:
        # Some tables are read as far as they are needed.
        if error.table not in CLASSES or not CLASSES[error.table].OPTIONAL or error.table in kept.gone:
            raise
        return _find_needs(font, characters, options, (*damage, without_frames(error)))
    return _Needs(kept=kept, ids_stay=ids_stay, text=text, glyphs=glyphs)


def find_kept_tables(
    font: Font, characters: Set[int] | None, options: SubsetOptions, damage: tuple[FontError, ...] = ()
) -> KeptTables:
    """What a subset for these characters (None: all) would keep. Raises what `subset` raises.

    `damage` is what was found to be wrong with tables whose parts are read when they are needed.
    """
    font.require_supported()
    whole, said = font.once(_in_order)
    font, warnings = whole or font, list(said)
    implied, kept = _kept_characters(font, characters)
    scope = SubsetScope(frozenset(font), kept.keys(), options.hints)
    dropped = unneeded_tables(font, scope)
    gone = {table.tag for table in dropped}
    warnings += warnings_about(font, dropped)
    warnings += warning_about_apple(kept_apple_tables(font, gone))
    damaged, defects = damaged_tables(font, gone, damage)
    warnings += defects
    gone |= damaged
    tables = [
        table.for_characters(characters) if isinstance(table, Cmap) else table for table in kept_tables(font, gone)
    ]
    return KeptTables(
        font=font,
        implied=implied,
        characters=kept,
        dropped=dropped,
        gone=gone,
        tables=tables,
        features=_kept_features(tables, options.features, kept),
        warnings=tuple(warnings),
    )


def _in_order(font: Font) -> tuple[Font | None, list[str]]:
    """The font with what browsers insist on, None where it is in order; and what was wrong."""
    made_up, warnings = made_up_tables(font)
    changed, repairs = sanitised(font.with_tables(made_up) if made_up else font)
    return (changed if changed is not font else None), [*warnings, *repairs]


def draws_any(font: Font, characters: Set[int] | None) -> bool:
    """Whether at least one of these characters (None: of all) is drawn: spaces are not."""
    available = font.characters
    wanted = available.keys() if characters is None else available.keys() & characters
    if draws_glyphs(font, {available[code] for code in wanted}):
        return True
    # Letters that draw nothing themselves may spell what does, as in fonts of icons.
    return bool(wanted) and Gsub.TAG in font and draws_glyphs(font, needed_glyphs(font, set(wanted), SubsetOptions()))


def has_visible(font: Font, characters: Set[int] | None) -> bool:
    """Whether it has at least one of these characters (None: any at all) that is no white space, drawn or not."""
    codes = font.characters.keys() if characters is None else font.characters.keys() & characters
    return any(not chr(code).isspace() for code in codes)


def _kept_characters(font: Font, characters: Set[int] | None) -> tuple[frozenset[int], dict[int, int]]:
    """The characters that shaping implies, and all kept ones with their glyphs (code point → glyph ID)."""
    available = font.characters
    wanted = set(available) if characters is None else set(characters) & available.keys()
    implied = implied_characters(
        wanted, available.keys(), has_gsub=Gsub.TAG in font, has_vertical_forms="vert" in _gsub_features(font)
    )
    return frozenset(implied), {code: available[code] for code in sorted(wanted | implied)}


def _gsub_features(font: Font) -> set[str]:
    """The tags of the font's substituting features; none where they cannot be read."""
    try:
        return {feature.tag for feature in font.table(Gsub).features} if Gsub.TAG in font else set()
    except FontError:
        return set()


def _kept_features(tables: Sequence[Table], choice: FeatureChoice, kept: Mapping[int, int]) -> frozenset[str]:
    formulas = any(isinstance(table, Math) for table in tables) and any(map(is_mathematical, kept))
    return choice.kept(feature_tags(tables), kept.keys(), formulas=formulas)


def _text(
    font: Font,
    tables: Sequence[Table],
    kept: Mapping[int, int],
    features: frozenset[str],
    morphing: Sequence[Substitutes],
) -> TextClosure:
    """All glyphs that text can show."""
    cmap = next(table for table in tables if isinstance(table, Cmap))
    glyphs = {glyph for glyph in encoded_glyphs(cmap, kept) if glyph < font.num_glyphs}
    return TextClosure(font, (*tables, *morphing), glyphs, features)


def _padding(font: Font, count: int) -> list[None]:
    """Empty glyphs behind the kept ones, which some font programs need to be there."""
    return [None] * (_least_glyphs(font) - count) if "fpgm" in font else []


def _prepared(kept: KeptTables, glyphs: Set[int]) -> list[Table]:
    """The tables, those of shaping written so that they can be cut down to the fewest bytes."""
    return [
        table.prepared(glyphs, kept.features) if isinstance(table, ShapingTable) else table for table in kept.tables
    ]


def _order(needs: _Needs, prepared: Sequence[Table], order: GlyphOrder, *, keep_ids: bool) -> list[int | None]:
    """The kept glyphs by new ID; None for those that are gone where the others keep theirs."""
    if keep_ids:
        return [glyph if glyph in needs.glyphs else None for glyph in range(max(needs.glyphs, default=0) + 1)]
    divisions = itertools.chain.from_iterable(
        table.divisions(needs.kept.features) for table in prepared if isinstance(table, ShapingTable)
    )
    return [*ordered_glyphs(needs.glyphs, needs.kept.characters, divisions, order)]


def _least_glyphs(font: Font) -> int:
    """How many glyphs a hinted font must have, empty ones added, for its programs to run as before.

    A renderer stops a program that loops too often, and allows the fewer loops the fewer glyphs the font has: at most
    100 a glyph, of 10 a point or 22 a control value and some hundred more.
    """
    limits = font.table(Maxp).limits or (0, 0, 0)
    values = len(font.raw("cvt ")) // 2 if "cvt " in font else 0
    loops = max(10 * max(limits[0], limits[2]) + max(50, values // 10), 300 + 22 * values)
    return min(font.num_glyphs, -(-loops // 100))


def _variants(font: Font, context: SubsetContext) -> tuple[tuple[Font, ...], list[Table]]:
    """The font with all its tables cut down, then others, in which one table is written differently; and the tables."""
    cut = {tag: context.subset(table_class) for tag, table_class in CLASSES.items() if tag in font}
    tables = [table for table in cut.values() if table is not None]
    gone = context.dropped | {tag for tag, table in cut.items() if table is None}
    base = font.with_tables(tables, gone)
    others = (base.with_tables([other]) for table in tables for other in table.alternatives())
    return (base, *others), tables


def _with_characters_only(font: Font, context: SubsetContext) -> Font:
    """The font with all layout tables and glyphs, but for the characters that are not kept."""
    same = GlyphMap(range(font.num_glyphs))
    whole = SubsetContext(font, same, context.characters, context.features, hints=True, dropped=context.dropped)
    return font.with_tables([font.table(Cmap).subset(whole)], context.dropped)
