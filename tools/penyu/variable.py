"""Penyu Sans as a variable font: from light to extra bold, and from upright to slanted."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from aksara.container import sfnt
from aksara.tables import Fvar, Gdef, Glyf, Gpos, Gvar, Hvar, Stat, Table
from aksara.tables.fvar import NamedInstance, VariationAxis
from aksara.tables.layout import gpos
from aksara.tables.layout.anchors import Anchor
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gpos import GlyphPairs
from aksara.tables.layout.gpos.attachment import MarkAttachment
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from aksara.tables.name import Name, NameRecord
from aksara.tables.stat import AxisValue, DesignAxis
from aksara.tables.variation.item_variation_store import ItemVariationStore, VariationIndex
from aksara.tables.variation.regions import EVERYWHERE, ONE, AxisRegion, Region
from aksara.tables.variation.sparse import GlyphVariations, sparse_variations
from aksara.tables.variation.store_packing import pack_store
from aksara.tables.variation.tuples import TupleVariation
from aksara.truetype.outlines import END, PHANTOM_POINTS
from penyu.design import STYLES, TANGENT, Style, X

LIGHTEST, HEAVIEST = 300, 800
_FIXED = 0x10000
_DEGREES = 10
#: Places that have a name: weight and angle.
_INSTANCES = (
    ("Light", 300, 0), ("Regular", 400, 0), ("Bold", 700, 0), ("Extra Bold", 800, 0),
    ("Light Oblique", 300, -_DEGREES), ("Oblique", 400, -_DEGREES), ("Bold Oblique", 700, -_DEGREES),
    ("Extra Bold Oblique", 800, -_DEGREES),
)  # fmt: skip
_FIRST_NAME = 256

Coordinates = NDArray[np.int64]


def style_of(weight: int) -> Style:
    """The upright style of that weight: between Regular and Bold, or beyond."""
    regular, bold = STYLES[0], STYLES[2]
    named = {400: regular, 700: bold}
    if weight in named:
        return named[weight]
    part = (weight - regular.weight) / (bold.weight - regular.weight)
    fields = {
        name: getattr(regular, name) + part * (getattr(bold, name) - getattr(regular, name))
        for name in ("v", "h", "cap_v", "cap_h", "side")
    }
    return replace(regular, name=str(weight), weight=weight, **fields)


#: The weights that are drawn; what lies between them is interpolated. The second is the default.
WEIGHTS = (LIGHTEST, 400, 700, HEAVIEST)
_BOLD_AT = round(ONE * (700 - 400) / (HEAVIEST - 400))
_UPRIGHT, _SLANTED = EVERYWHERE, AxisRegion(-ONE, -ONE, 0)
_BY_WEIGHT = {
    LIGHTEST: AxisRegion(-ONE, -ONE, 0),
    700: AxisRegion(0, _BOLD_AT, ONE),
    HEAVIEST: AxisRegion(_BOLD_AT, ONE, ONE),
}
#: Weight, slant: those by weight alone, by slant alone, and by both.
REGIONS: tuple[Region, ...] = (
    *((region, _UPRIGHT) for region in _BY_WEIGHT.values()),
    (EVERYWHERE, _SLANTED),
    *((region, _SLANTED) for region in _BY_WEIGHT.values()),
)


def deltas(upright: Sequence[Coordinates], slanted: Sequence[Coordinates]) -> list[Coordinates]:
    """What each region adds, given values at each of the weights, upright and slanted."""
    base, lean = upright[1], slanted[1] - upright[1]
    others = [0, 2, 3]
    return [
        *(upright[n] - base for n in others),
        lean,
        *(slanted[n] - upright[n] - lean for n in others),
    ]


class Masters(Struct):
    """What was drawn of the glyphs at each of the weights: point coordinates (or offsets of parts), and advances."""

    coordinates: list[list[Coordinates]]
    is_composite: list[bool]
    advances: list[list[int]]


def _slanted(points: Coordinates, *, about: float) -> Coordinates:
    moved = points.astype(np.float64)
    moved[:, 0] += TANGENT * (points[:, 1] - about)
    return np.rint(moved).astype(np.int64)


def make_gvar(glyf: Glyf, masters: Masters) -> Gvar:
    """How the points move; the phantom point at the end moves with the advance."""
    glyphs = []
    for number, outline in enumerate(glyf.outlines(range(len(glyf.glyphs)))):
        upright = [each[number] for each in masters.coordinates]
        about = 0 if masters.is_composite[number] else X / 2
        slanted = [_slanted(points, about=about) for points in upright]
        ends = [np.zeros((PHANTOM_POINTS, 2), np.int64) for _ in WEIGHTS]
        for end, advances in zip(ends, masters.advances, strict=True):
            end[END, 0] = advances[number]
        whole = [np.concatenate(pair) for pair in zip(upright, ends, strict=True)]
        leaning = [np.concatenate(pair) for pair in zip(slanted, ends, strict=True)]
        variations = tuple(
            TupleVariation(region, None, moved) for region, moved in zip(REGIONS, deltas(whole, leaning), strict=True)
        )
        glyphs.append(GlyphVariations(outline, tuple(each for each in variations if each.deltas.any())))
    return Gvar.of(2, sparse_variations(glyphs))


def make_hvar(masters: Masters) -> Hvar:
    """How the advances change; slant leaves them alone."""
    advances = [np.array(each, np.int64) for each in masters.advances]
    rows = np.array(deltas(advances, advances)).T
    return Hvar.of_rows(ItemVariationStore(2, REGIONS, ()), [rows, None, None])


def make_layout(kerns: Sequence[dict[tuple[int, int], int]], positions: Sequence[Gpos], gdef: Gdef) -> list[Table]:
    """'GPOS' and 'GDEF': kerning and marks as at the default, with what changes by weight and slant."""
    rows: dict[tuple[int, ...], None] = {}

    def row(values: Sequence[int], leaning: Sequence[int]) -> tuple[int, ...]:
        found = deltas([np.array(n) for n in values], [np.array(n) for n in leaning])
        key = tuple(int(n) for n in found)
        rows[key] = None
        return key

    pairs = {
        pair: (kerns[1][pair], row([kern[pair] for kern in kerns], [kern[pair] for kern in kerns])) for pair in kerns[1]
    }
    marks = [_mark_lookups(table) for table in positions]
    anchors: dict[tuple[int, int, int], list[Anchor]] = {key: [found[key] for found in marks] for key in marks[1]}
    moved: dict[tuple[int, int, int], tuple[tuple[int, ...], tuple[int, ...]]] = {}
    for key, each in anchors.items():
        ys = [anchor.y for anchor in each]
        xs = [anchor.x for anchor in each]
        moved[key] = row(xs, [round(x + TANGENT * y) for x, y in zip(xs, ys, strict=True)]), row(ys, ys)
    listed = list(rows)
    store, places = pack_store(2, REGIONS, np.array(listed, np.int64))
    place = dict(zip(listed, places, strict=True))
    table = _with_kerning(_with_anchors(positions[1], moved, place.__getitem__), pairs, place.__getitem__)
    return [table, replace(gdef, variations=store)]


Place = Callable[[tuple[int, ...]], VariationIndex | None]


def _mark_lookups(table: Gpos) -> dict[tuple[int, int, int], Anchor]:
    """Each base's anchors, by lookup, glyph and class of mark."""
    return {
        (number, glyph, kind): anchor
        for number, lookup in enumerate(table.lookups)
        for subtable in lookup.subtables
        if isinstance(subtable, MarkAttachment)
        for glyph, row in subtable.bases.items()
        for kind, anchor in enumerate(row)
        if anchor is not None
    }


def _with_anchors(
    table: Gpos, moved: dict[tuple[int, int, int], tuple[tuple[int, ...], tuple[int, ...]]], place: Place
) -> Gpos:
    lookups = []
    for number, lookup in enumerate(table.lookups):
        (subtable,) = lookup.subtables
        assert isinstance(subtable, MarkAttachment)
        bases = {
            glyph: tuple(
                replace(
                    anchor, x_device=place(moved[number, glyph, kind][0]), y_device=place(moved[number, glyph, kind][1])
                )
                if anchor is not None
                else None
                for kind, anchor in enumerate(row)
            )
            for glyph, row in subtable.bases.items()
        }
        lookups.append(replace(lookup, subtables=(replace(subtable, bases=bases),)))
    return Gpos(table.scripts, table.features, lookups)


def _with_kerning(table: Gpos, pairs: dict[tuple[int, int], tuple[int, tuple[int, ...]]], place: Place) -> Gpos:
    seconds: dict[int, dict[int, tuple[tuple[int | VariationIndex | None, ...], tuple[()]]]] = {}
    for (left, right), (value, row) in pairs.items():
        seconds.setdefault(left, {})[right] = ((value, place(row)), ())
    lookup = Lookup(gpos.PAIR, 0, (GlyphPairs((0x0044, 0), seconds),))
    features = [FeatureRecord("kern", (0,))]
    features += [replace(each, lookups=tuple(n + 1 for n in each.lookups)) for each in table.features]
    system = LanguageSystem(None, tuple(range(len(features))))
    return Gpos({tag: Script(system) for tag in table.scripts}, features, [lookup, *table.lookups])


def make_axes(names: Name) -> tuple[list[Table], Name]:
    """'fvar' and 'STAT', and the names with those that they refer to."""
    texts = ["Weight", "Slant", *(name for name, _, _ in _INSTANCES), "Upright", "Slanted"]
    numbers = {text: _FIRST_NAME + n for n, text in enumerate(texts)}

    def axis(tag: str, low: int, default: int, high: int, name: str) -> VariationAxis:
        return VariationAxis(int.from_bytes(tag.encode(), "big"), low * _FIXED, default * _FIXED, high * _FIXED, 0,
                             numbers[name])  # fmt: skip

    axes = axis("wght", LIGHTEST, 400, HEAVIEST, "Weight"), axis("slnt", -_DEGREES, 0, 0, "Slant")
    instances = tuple(
        NamedInstance(numbers[name], 0, (weight * _FIXED, angle * _FIXED)) for name, weight, angle in _INSTANCES
    )
    design = tuple(DesignAxis(each.tag_number, each.name_id, order) for order, each in enumerate(axes))
    upright = [(name, weight) for name, weight, angle in _INSTANCES if not angle]
    values = [AxisValue(1, 2 * (weight == 400), numbers[name], ((0, (weight * _FIXED,)),)) for name, weight in upright]
    values += [AxisValue(1, 2, numbers["Upright"], ((1, (0,)),))]
    values += [AxisValue(1, 0, numbers["Slanted"], ((1, (-_DEGREES * _FIXED,)),))]
    records = [NameRecord(3, 1, 0x409, number, text.encode("utf-16-be")) for text, number in numbers.items()]
    tables: list[Table] = [Fvar(axes, instances), Stat(design, tuple(values), numbers["Regular"])]
    return tables, Name((*names.records, *records))


def font_file(tables: Sequence[Table], gasp: bytes) -> bytes:
    """The TTF file."""
    data = {table.TAG: table.compile() for table in tables}
    return sfnt.write(data | {"gasp": gasp}, "\0\1\0\0")
