"""TrueType outlines, and the metrics in their phantom points, at the new default."""

from __future__ import annotations

from collections.abc import Sequence, Set

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from aksara.font import Font
from aksara.instancing.rebasing import Floats, Ints, Rebased, Rebasing, wanted_at
from aksara.tables import Glyf, Gvar, Head, Table
from aksara.tables.variation.regions import Region
from aksara.tables.variation.sparse import GlyphVariations, with_fewest_points
from aksara.tables.variation.tuples import TupleVariation
from aksara.truetype.boxes import AssembledGlyphs
from aksara.truetype.components import ARGS_ARE_XY, OVERLAP_COMPOUND, Composite
from aksara.truetype.interpolation import inferred
from aksara.truetype.outlines import BOTTOM, END, PHANTOM_POINTS, START, TOP, Outline
from aksara.truetype.points import encode_simple, points_of

#: How far a point may be from where it should, in font units: as far as rounding takes it anyway.
_TOLERANCE = 0.5


class NewOutlines(Struct, frozen=True, kw_only=True):
    """The tables that change, and what happened to each glyph (G each), in font units.

    `moved` (G by 4) is how far the phantom points have moved: of start and end along x, of top and bottom along y;
    `old_boxes` and `boxes` (G by 4) are the bounding boxes in the glyphs' headers.
    """

    tables: tuple[Table, ...]
    moved: Floats
    old_boxes: Ints
    boxes: Ints


class _Glyph(Struct):
    """One glyph in the works: its new outline, and the new regions with their deltas (points by 2 by regions)."""

    outline: Outline
    moved: Floats
    rest: Floats
    rebased: Rebased
    deltas: Floats
    stored: Floats


def new_outlines(font: Font, rebasing: Rebasing, kept: Set[int] | None = None) -> NewOutlines:
    """'glyf' and 'gvar' on the new axes; without any axis no 'gvar', and contours that overlap are marked.

    Glyphs that are not `kept` become empty; components of those that are must be kept, too.
    """
    glyf, gvar = font.table(Glyf), font.find(Gvar)
    if kept is not None:
        glyf = Glyf([glyph if index in kept else b"" for index, glyph in enumerate(glyf.glyphs)])
        varied = [data if index in kept else b"" for index, data in enumerate(gvar.glyphs)] if gvar else []
        gvar = replace(gvar, glyphs=varied) if gvar is not None else None
    count = len(glyf.glyphs)
    if gvar is None:
        still = np.zeros((count, PHANTOM_POINTS))
        return NewOutlines(tables=(), moved=still, old_boxes=glyf.boxes(), boxes=glyf.boxes())
    glyphs = [_rebased(variations, rebasing) for variations in gvar.of_glyphs(glyf, range(count))]
    static = not rebasing.axis_count
    new, boxes = _new_glyf(glyf, [glyph.outline for glyph in glyphs], overlapping=static)
    tables: list[Table] = [new, new.loca(), replace(font.table(Head), index_to_loc_format=int(new.loca().long))]
    if not static:
        tables.append(Gvar.of(rebasing.axis_count, _new_variations(glyphs)))
    moved = np.array(
        [(glyph.moved[START, 0], glyph.moved[END, 0], glyph.moved[TOP, 1], glyph.moved[BOTTOM, 1]) for glyph in glyphs]
    )
    return NewOutlines(tables=tuple(tables), moved=moved.reshape(count, 4), old_boxes=glyf.boxes(), boxes=boxes)


def _rebased(glyph: GlyphVariations, rebasing: Rebasing) -> _Glyph:
    """The glyph from its new default on, its deltas not yet rounded."""
    outline = glyph.outline
    rebased = rebasing.of(tuple(variation.region for variation in glyph.variations))
    old = glyph.all_deltas()
    moved = np.tensordot(rebased.to_default, old, 1) if len(old) else np.zeros((outline.point_count, 2))
    deltas = np.tensordot(old, rebased.to_regions, (0, 0)) if len(old) else np.zeros((outline.point_count, 2, 0))
    steps = np.rint(moved).astype(np.int64)
    new = Outline(outline.coordinates + steps[:-PHANTOM_POINTS], outline.contours)
    return _Glyph(new, moved, moved - steps, rebased, deltas, np.zeros(deltas.shape))


def _new_glyf(glyf: Glyf, outlines: Sequence[Outline], *, overlapping: bool) -> tuple[Glyf, Ints]:
    """The glyphs with their points and components at new places, and their bounding boxes."""
    glyphs = list(glyf.glyphs)
    composites = {n: _new_composite(glyf.composite(n), outlines[n]) for n in range(len(glyphs)) if glyf.is_composite(n)}
    assembly = AssembledGlyphs(lambda glyph: outlines[glyph].coordinates.astype(np.float64), composites.get)
    # Those made of others come behind these, so that what nests too deeply is refused here.
    glyf.component_closure(set(composites))
    boxes = np.array([assembly.box(glyph) for glyph in range(len(glyphs))], np.int64).reshape(-1, 4)
    simple = [glyph for glyph in range(len(glyphs)) if glyf.contours(glyph) > 0]
    points = (
        points_of(glyf.simple(simple), np.concatenate([outlines[n].coordinates for n in simple])) if simple else None
    )
    if points is not None:
        if overlapping:
            points.overlap[:] = True
        for glyph, data in zip(simple, encode_simple(points, boxes[simple]), strict=True):
            glyphs[glyph] = data
    for glyph, composite in composites.items():
        first, *others = composite.components
        if overlapping:
            first = replace(first, flags=first.flags | OVERLAP_COMPOUND)
        left, bottom, right, top = boxes[glyph].tolist()
        glyphs[glyph] = replace(composite, box=(left, bottom, right, top), components=(first, *others)).compile()
    return Glyf(glyphs), boxes


def _new_composite(composite: Composite, outline: Outline) -> Composite:
    """The composite with its components where the outline has them; those placed by points stay."""
    moved = tuple(
        component.moved_to((int(x), int(y))) if component.flags & ARGS_ARE_XY else component
        for component, (x, y) in zip(composite.components, outline.coordinates.tolist(), strict=True)
    )
    return replace(composite, components=moved)


def _new_variations(glyphs: Sequence[_Glyph]) -> list[list[TupleVariation]]:
    """The variations of each glyph: region by region, so that each makes up for what those before it left over."""
    found: list[list[TupleVariation]] = [[] for _ in glyphs]
    most = max((len(glyph.rebased.regions) for glyph in glyphs), default=0)
    for index in range(most):
        members = [n for n, glyph in enumerate(glyphs) if index < len(glyph.rebased.regions)]
        for n, variation in zip(members, _region(index, [glyphs[n] for n in members]), strict=True):
            if variation is not None:
                found[n].append(variation)
    return found


def _region(region_index: int, glyphs: Sequence[_Glyph]) -> list[TupleVariation | None]:
    """The variation of each glyph in the region of that number; None where nothing moves."""
    wanted = [
        wanted_at(region_index, glyph.deltas, glyph.stored, glyph.rest, glyph.rebased.overlaps) for glyph in glyphs
    ]
    goal = np.concatenate(wanted)
    whole = np.rint(goal).astype(np.int64)
    chosen = with_fewest_points([glyph.outline for glyph in glyphs], [1] * len(glyphs), whole, goal, _TOLERANCE)
    result: list[TupleVariation | None] = []
    for glyph, (points, deltas) in zip(glyphs, chosen, strict=True):
        glyph.stored[..., region_index] = _as_drawn(glyph.outline, points, deltas)
        region: Region = glyph.rebased.regions[region_index]
        result.append(TupleVariation(region, points, deltas) if deltas.any() else None)
    return result


def _as_drawn(outline: Outline, points: Ints | None, deltas: Ints) -> Floats:
    """How far all points move, given the deltas of those that are named."""
    if points is None:
        return deltas.astype(np.float64)
    named = np.zeros(outline.point_count, bool)
    named[points] = True
    full = np.zeros((outline.point_count, 2))
    full[points] = deltas
    return inferred(outline.with_phantoms, full, named, outline.parts)
