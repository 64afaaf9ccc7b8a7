"""Fonts with PostScript outlines converted to TrueType ones, for upload forms that accept nothing else.

Cubic curves become quadratic splines (`truetype.quadratics`), in all masters of a variable font alike. Advances, layout
and vertical metrics stay; hints, which are of another kind, go.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import FontError, located
from aksara.font import Font
from aksara.glyph_outlines import VaryingStep, varying_steps
from aksara.tables import Cff2, Fvar, Gasp, Glyf, Gvar, Head, Hhea, Hmtx, Hvar, Maxp, Vmtx, Vorg
from aksara.tables.base import Table
from aksara.tables.maxp import VERSION_1_0
from aksara.tables.variation.item_variation_store import ItemVariationStore
from aksara.tables.variation.regions import Region, peak_of, scalar
from aksara.tables.variation.sparse import GlyphVariations, sparse_variations
from aksara.tables.variation.tuples import TupleVariation
from aksara.truetype.outlines import END, PHANTOM_POINTS, Outline
from aksara.truetype.points import Ints, Points, encode_simple, points_of
from aksara.truetype.quadratics import Floats, Tolerance, quadratic_weights

#: Largest coordinate of a glyph, which is stored in 16 bits.
_LARGEST = 0x7FFF
#: Smoothing at all sizes, without a grid.
_SMOOTH = Gasp(1, ((0xFFFF, Gasp.SMOOTH),))
#: The left side bearing is where a glyph begins ("head", bit 1 of flags).
_BEARINGS_AT_EDGE = 0x0002
_TRUETYPE = "\0\1\0\0"


class _Drawing(Struct, frozen=True):
    """A glyph as points: `on_curve` (P), coordinates with what is added in each region (P by 2 by R + 1), points of
    each contour; and the item variation data that has the regions."""

    data: int
    on_curve: tuple[bool, ...]
    coordinates: Floats
    contours: tuple[int, ...]


def with_truetype_outlines(font: Font) -> Font:
    """The font with TrueType outlines in place of its PostScript ones.

    No point is further from the source than `Tolerance` says. Raises `FontError` where an outline is damaged, or too
    large for a TrueType glyph.
    """
    with located(file=font.path):
        regions = _regions_of(font)
        drawings = _drawings(font, regions)
        rounded_points = [_rounded(drawing, glyph) for glyph, drawing in enumerate(drawings)]
        boxes = np.array([_box(rounded) for rounded in rounded_points], np.int64).reshape(-1, 4)
        overlap = font.is_variable
        glyf = Glyf(_glyphs(drawings, rounded_points, boxes, overlap=overlap))
        loca = glyf.loca()
        changed: list[Table] = [glyf, loca, *_metrics(font, drawings, rounded_points, boxes, long=loca.long)]
        if font.is_variable:
            changed.append(_variations(font, drawings, rounded_points, regions))
        if "vmtx" in font and "VORG" in font:
            changed.append(_vertical(font, boxes))
        tables = {table.TAG: table.compile() for table in changed}
    kept = {tag: font.raw(tag) for tag in font if tag not in ("CFF ", "CFF2", "VORG")}
    return Font(kept | tables, _TRUETYPE, path=font.path, container=font.container, size=font.size)


# ---- outlines


def _regions_of(font: Font) -> list[list[Region]]:
    """The regions of each item variation data."""
    store = font.table(Cff2).store if Cff2.TAG in font else None
    if store is None:
        return [[]]
    return [[store.regions[index] for index in data.regions] if data is not None else [] for data in store.data]


def _drawings(font: Font, regions: Sequence[Sequence[Region]]) -> list[_Drawing]:
    drawn = [(data, _contours(steps)) for data, steps in varying_steps(font, range(font.num_glyphs))]
    curves: dict[int, list[Floats]] = {}
    for data, contours in drawn:
        curves.setdefault(data, []).extend(
            np.stack([before, *points]) for contour in contours for before, points in contour if len(points) == 3
        )
    tolerance = Tolerance.of_em(font.table(Head).units_per_em)
    weights = {
        data: iter(quadratic_weights(_masters(np.stack(points), regions[data] if regions else []), tolerance))
        for data, points in curves.items()
        if points
    }
    return [_drawing(data, contours, weights.get(data, iter(()))) for data, contours in drawn]


#: A line or curve: where it starts (2 by R + 1), and its other points.
_Segment = tuple[Floats, list[Floats]]


def _contours(steps: Iterable[VaryingStep]) -> list[list[_Segment]]:
    """The lines and curves of each contour, without those that lead nowhere."""
    contours: list[list[_Segment]] = []
    here = np.zeros((2, 1))
    for letter, points in steps:
        if letter == "Z":
            continue
        stacked = [np.stack(point) for point in points]
        if letter == "M":
            contours.append([])
        elif any((point != here).any() for point in stacked):
            contours[-1].append((here, stacked))
        here = stacked[-1]
    return [contour for contour in contours if contour]


def _masters(curves: Floats, regions: Sequence[Region]) -> Floats:
    """The curves (K × 4 × 2 × R + 1) at the default and at the peak of each region (M × K × 4 × 2)."""
    peaks = [peak_of(region) for region in regions]
    shares = np.array(
        [[1.0, *(0.0 for _ in regions)], *([1.0, *(scalar(region, peak) for region in regions)] for peak in peaks)]
    )
    return np.asarray(np.einsum("mr,kpcr->mkpc", shares, curves))


def _drawing(data: int, contours: Sequence[Sequence[_Segment]], weights: Iterable[Floats]) -> _Drawing:
    """The points of a glyph; contours turn the other way around in TrueType, and begin where they did."""
    listed = iter(weights)
    on_curve: list[bool] = []
    coordinates: list[Floats] = []
    counts = []
    for contour in contours:
        points: list[tuple[bool, Floats]] = [(True, contour[0][0])]
        for before, after in contour:
            if len(after) == 3:
                cubic = np.stack([before, *after])
                points += [(False, point) for point in np.einsum("np,pcr->ncr", next(listed), cubic)]
            points.append((True, after[-1]))
        # A contour closes by itself.
        if len(points) > 1 and (points[-1][1] == points[0][1]).all():
            points.pop()
        points[1:] = points[:0:-1]
        counts.append(len(points))
        on_curve += [on for on, _ in points]
        coordinates += [point for _, point in points]
    size = coordinates[0].shape[1] if coordinates else 1
    return _Drawing(data, tuple(on_curve), np.array(coordinates).reshape(-1, 2, size), tuple(counts))


def _rounded(drawing: _Drawing, glyph: int) -> Ints:
    """The coordinates of a glyph's points at the default (P by 2)."""
    places = np.rint(drawing.coordinates[:, :, 0]).astype(np.int64)
    if len(places) and np.abs(places).max() > _LARGEST:
        raise FontError("it is too large for a TrueType outline", glyph=glyph)
    return places


def _box(coordinates: Ints) -> tuple[int, int, int, int]:
    if not len(coordinates):
        return 0, 0, 0, 0
    (x0, y0), (x1, y1) = coordinates.min(0).tolist(), coordinates.max(0).tolist()
    return x0, y0, x1, y1


def _glyphs(drawings: Sequence[_Drawing], rounded: Sequence[Ints], boxes: Ints, *, overlap: bool) -> list[bytes]:
    simple = [glyph for glyph, drawing in enumerate(drawings) if drawing.contours]
    glyph_data = [b""] * len(drawings)
    if not simple:
        return glyph_data
    shape = Points(
        np.array([len(drawings[glyph].contours) for glyph in simple], np.int64),
        np.array([count for glyph in simple for count in drawings[glyph].contours], np.int64),
        np.array([on for glyph in simple for on in drawings[glyph].on_curve], np.bool_),
        np.zeros(0, np.int64),
        np.zeros(0, np.int64),
        # What moves may come to overlap, and has to be drawn as one.
        np.full(len(simple), overlap),
        [b""] * len(simple),
    )
    points = points_of(shape, np.concatenate([rounded[glyph] for glyph in simple]))
    for glyph, data in zip(simple, encode_simple(replace(points, overlap=shape.overlap), boxes[simple]), strict=True):
        glyph_data[glyph] = data
    return glyph_data


# ---- metrics


def _metrics(
    font: Font, drawings: Sequence[_Drawing], rounded_points: Sequence[Ints], boxes: Ints, *, long: bool
) -> list[Table]:
    """What says how large glyphs are, and where they begin."""
    filled = np.array([bool(len(rounded)) for rounded in rounded_points])
    advances = font.table(Hmtx).advances.astype(np.int64)
    bearings = np.where(filled, boxes[:, 0], 0)
    head, hhea = font.table(Head), font.table(Hhea)
    if filled.any():
        outer = boxes[filled]
        x0, y0 = outer[:, :2].min(0).tolist()
        x1, y1 = outer[:, 2:].max(0).tolist()
        head = replace(head, x_min=x0, y_min=y0, x_max=x1, y_max=y1)
        hhea = replace(hhea, min_left_side_bearing=x0, x_max_extent=x1,
                       min_right_side_bearing=int((advances[filled] - outer[:, 2]).min()))  # fmt: skip
    hmtx = Hmtx(font.table(Hmtx).advances, bearings.astype(np.int16))
    counts = [len(rounded) for rounded in rounded_points]
    limits = (
        max(counts, default=0),
        max((len(drawing.contours) for drawing in drawings), default=0),
        0,
        0,
        1,
        *[0] * 8,
    )
    return [
        replace(head, flags=head.flags | _BEARINGS_AT_EDGE, index_to_loc_format=int(long), glyph_data_format=0),
        replace(hhea, number_of_h_metrics=hmtx.stored_advances),
        hmtx,
        Maxp(VERSION_1_0, len(drawings), limits),
        _SMOOTH,
    ]


def _vertical(font: Font, boxes: Ints) -> Table:
    """Top side bearings from which the origins follow that 'VORG' had."""
    vmtx, vorg = font.table(Vmtx), font.table(Vorg)
    origins = np.array([vorg.origins.get(glyph, vorg.default) for glyph in range(len(boxes))], np.int64)
    return Vmtx(vmtx.advances, (origins - boxes[:, 3]).astype(np.int16))


# ---- variations


def _variations(
    font: Font, drawings: Sequence[_Drawing], rounded: Sequence[Ints], regions: Sequence[Sequence[Region]]
) -> Gvar:
    """How the points move, and where glyphs end."""
    axes = len(font.table(Fvar).axes)
    advances = _advance_deltas(font, len(drawings))
    listed = []
    for glyph, drawing in enumerate(drawings):
        count = len(rounded[glyph]) + PHANTOM_POINTS
        deltas: dict[Region, Ints] = {}
        for index, region in enumerate(regions[drawing.data] if len(rounded[glyph]) else ()):
            moved = np.zeros((count, 2), np.int64)
            moved[:-PHANTOM_POINTS] = np.rint(drawing.coordinates[:, :, 1 + index])
            deltas[region] = moved
        for region, by in advances.items():
            if by[glyph]:
                deltas.setdefault(region, np.zeros((count, 2), np.int64))[END, 0] += by[glyph]
        outline = Outline(rounded[glyph], np.array(drawing.contours, np.int64))
        varying = tuple(TupleVariation(region, None, moved) for region, moved in deltas.items() if moved.any())
        listed.append(GlyphVariations(outline, varying))
    return Gvar.of(axes, sparse_variations(listed))


def _advance_deltas(font: Font, count: int) -> Mapping[Region, Ints]:
    """How the advances of all glyphs change in each region."""
    hvar = font.find(Hvar)
    if hvar is None:
        return {}
    store: ItemVariationStore = hvar.store
    rows = hvar.rows(0, range(count))
    return (
        {}
        if rows is None
        else {region: np.rint(rows[:, index]).astype(np.int64) for index, region in enumerate(store.regions)}
    )
