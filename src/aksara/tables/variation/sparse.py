"""The variations of glyphs with as few points named as do: the others follow (see `truetype.interpolation`)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from aksara.tables.variation.packed import packed_sizes
from aksara.tables.variation.tuples import TupleVariation
from aksara.truetype.interpolation import EXACT, Floats, inferred, needed_points
from aksara.truetype.outlines import Outline
from aksara.truetype.points import Ints, ramp, segment_sums, starts_of


class GlyphVariations(Struct, frozen=True):
    """A glyph's outline, and the variations of its points."""

    outline: Outline
    variations: tuple[TupleVariation, ...]

    def all_deltas(self) -> Floats:
        """The deltas of all points in each variation (variations by points by 2), those that follow inferred."""
        count = self.outline.point_count
        dense = np.array([variation.over(count) for variation in self.variations], np.float64).reshape(-1, count, 2)
        some = [index for index, variation in enumerate(self.variations) if variation.points is not None]
        if some and len(self.outline.contours):
            flat = dense[some].reshape(-1, 2)
            named = np.zeros((len(some), count), bool)
            for row, index in enumerate(some):
                named[row, self.variations[index].points] = True
            coordinates, contours = repeated(self.outline, len(some))
            dense[some] = inferred(coordinates, flat, named.reshape(-1), contours).reshape(-1, count, 2)
        return dense


def repeated(outline: Outline, times: int) -> tuple[Ints, Ints]:
    """The outline's coordinates and contours that many times; what cannot be inferred is a contour by itself."""
    return np.tile(outline.with_phantoms, (times, 1)), np.tile(outline.parts, times)


def sparse_variations(glyphs: Sequence[GlyphVariations]) -> list[tuple[TupleVariation, ...]]:
    """The same variations, which all move something, in the fewest bytes that give exactly the same points.

    A variation that names points already has what it needs.
    """
    dense = [[variation for variation in glyph.variations if variation.points is None] for glyph in glyphs]
    listed = [variation for variations in dense for variation in variations]
    if not listed:
        return [glyph.variations for glyph in glyphs]
    deltas = np.concatenate([variation.deltas for variation in listed])
    found = iter(
        with_fewest_points(
            [glyph.outline for glyph in glyphs],
            [len(numbers) for numbers in dense],
            deltas,
            deltas.astype(np.float64),
            EXACT,
        )
    )
    result = []
    for glyph in glyphs:
        kept = []
        for variation in glyph.variations:
            if variation.points is None:
                points, moved = next(found)
                variation = TupleVariation(variation.region, points, moved)  # noqa: PLW2901
            kept.append(variation)
        result.append(tuple(kept))
    return result


def with_fewest_points(
    outlines: Sequence[Outline], times: Sequence[int], deltas: Ints, wanted: Floats, tolerance: float
) -> list[tuple[Ints | None, Ints]]:
    """For each variation the points to name (None: all) and their deltas.

    Each outline has as many variations as `times` says, whose deltas stand one behind the other (N by 2): `deltas` as
    they would be stored, `wanted` as they shall be, within the tolerance.
    """
    coordinates = _all_repeated([outline.with_phantoms for outline in outlines], times)
    contours = _all_repeated([outline.parts for outline in outlines], times)
    counts = np.repeat([outline.point_count for outline in outlines], times)
    named = needed_points(coordinates, deltas, wanted, contours, tolerance)
    some = segment_sums(named.astype(np.int64), counts)
    cheaper = 2 + some + _packed_sizes(deltas[named], some) < 1 + _packed_sizes(deltas, counts)
    result: list[tuple[Ints | None, Ints]] = []
    indices = 0
    for count, is_cheaper in zip(counts.tolist(), cheaper.tolist(), strict=True):
        own, marked = deltas[indices : indices + count], named[indices : indices + count]
        indices += count
        result.append((np.flatnonzero(marked), own[marked]) if is_cheaper else (None, own))
    return result


def _all_repeated(arrays: Sequence[Ints], times: Sequence[int]) -> Ints:
    """Each array that many times, one behind the other."""
    sizes = np.array([len(array) for array in arrays], np.int64)
    return np.concatenate(arrays)[ramp(np.repeat(starts_of(sizes), times), np.repeat(sizes, times))]


def _packed_sizes(deltas: Ints, counts: Ints) -> Ints:
    """Bytes of each variation's deltas, both dimensions together."""
    return packed_sizes(deltas[:, 0], counts) + packed_sizes(deltas[:, 1], counts)
