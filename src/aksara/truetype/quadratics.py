"""Cubic curves as quadratic splines, as TrueType draws them: few points, and within a bound that is worked out.

A spline of n off-curve points goes through its two ends and half-way between neighbouring off-curve points, where no
point is stored ("glyf", "Simple glyph description"). Each off-curve point is a weighted sum of the cubic's four points,
so the same weights do for all masters of a variable outline and for what lies between them.
"""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Floats = NDArray[np.float64]

#: Off-curve points that are fitted; where more are needed, they divide the curve evenly.
_FITTED, _EVEN = (1, 2, 3, 4, 5, 6), (8, 12, 16, 24, 32, 48, 64, 128)
#: Places of a curve that a spline is fitted at, and rounds of fitting.
_PLACES, _ROUNDS = 16, 4
#: How much a distance along the curve counts, beside one across it.
_ALONG = 0.15
#: How much it counts that a point is where an even division has it.
_STIFFNESS = 0.0003
#: Parts of each quadratic curve that are compared with the parts of the cubic beside them.
_PARTS = 6
#: Curves that are worked on at a time; each takes some thousand numbers.
_AT_ONCE = 4_000
_TINY = 1e-9


class Tolerance(Struct, frozen=True):
    """How far a spline may be from its cubic, in font units: as worked out, and with its points rounded."""

    exact: float
    rounded: float

    @classmethod
    def of_em(cls, units_per_em: int) -> Tolerance:
        """Half a thousandth of an em, and a whole one. Rounding alone moves a point by up to 0.71 units."""
        return cls(units_per_em / 2_000, max(units_per_em / 1_000, 0.75))


def quadratic_weights(masters: Floats, tolerance: Tolerance) -> list[Floats]:
    """For each of K cubics the weights (n × 4) of its points in the n off-curve points of its spline.

    `masters` are the points of the cubics in M masters (M × K × 4 × 2); splines are fitted to the first. In all masters
    no point of a cubic is further from its spline, and no point of the spline further from the cubic, than `tolerance`
    says. The spline has the cubic's tangents at its ends.
    """
    weights_of_runs: list[Floats] = []
    for start in range(0, masters.shape[1], _AT_ONCE):
        weights_of_runs += _weights_of_some(masters[:, start : start + _AT_ONCE], tolerance)
    return weights_of_runs


def _weights_of_some(masters: Floats, tolerance: Tolerance) -> list[Floats]:
    count = masters.shape[1]
    weights_of_each: list[Floats] = [_even_weights(_EVEN[-1])] * count
    waiting = np.arange(count)
    for off_curves in (*_FITTED, *_EVEN):
        if not len(waiting):
            break
        here = masters[:, waiting]
        if off_curves in _FITTED:
            weights = _fitted_weights(here[0], off_curves)
        else:
            weights = np.broadcast_to(_even_weights(off_curves), (len(waiting), off_curves, 4))
        fits = np.asarray(np.isfinite(weights).all((1, 2)))
        weights = np.where(fits[:, None, None], weights, 0.0)
        for cubics in here:
            splines = np.concatenate([cubics[:, :1], weights @ cubics, cubics[:, 3:]], 1)
            fits &= distance_bounds(cubics, splines) <= tolerance.exact
            fits &= distance_bounds(cubics, np.rint(splines)) <= tolerance.rounded
        for index, weight in zip(waiting[fits], weights[fits], strict=True):
            weights_of_each[index] = weight
        waiting = waiting[~fits]
    return weights_of_each


def distance_bounds(cubics: Floats, splines: Floats) -> Floats:
    """How far each cubic (K × 4 × 2) and its spline (K × n + 2 × 2: ends and off-curve points) are apart at most (K).

    Both are cut into parts. The difference of a part of the one and a part of the other, each with a parameter from 0
    to 1, is a cubic polynomial, which nowhere is larger than the largest of its coefficients in Bernstein's form.
    Whichever parts are compared, the bound holds; it is close where they are beside each other.
    """
    off_curves = splines.shape[1] - 2
    steps = np.arange(off_curves * _PARTS + 1) / _PARTS
    basis, slope = _spline_basis(np.broadcast_to(steps, (len(cubics), len(steps))), off_curves)
    points, slopes = basis @ splines, slope @ splines
    # Where on the cubic each place of the spline is nearest, about.
    even = steps / off_curves
    nearest = np.broadcast_to(even, (len(cubics), len(steps)))
    for _ in range(4):
        point, along = _cubic_at(cubics, nearest)
        moved = ((points - point) * along).sum(2) / np.maximum((along * along).sum(2), _TINY)
        # Where a curve comes back to itself, what is nearest may be another part of it.
        nearest = np.clip(
            nearest + moved,
            np.maximum(even - 0.5 / off_curves, 0.0),
            np.minimum(even + 0.5 / off_curves, 1.0),
        )
    nearest = np.maximum.accumulate(nearest, 1)
    nearest[:, 0], nearest[:, -1] = 0.0, 1.0
    point, along = _cubic_at(cubics, nearest)
    third = np.diff(nearest, axis=1)[:, :, None] / 3
    # Slopes of a spline jump where nothing does but its parameter: each part has those of its own quadratic curve.
    before, after = slopes[:, :-1] / (3 * _PARTS), slopes[:, 1:] / (3 * _PARTS)
    differences = [
        points[:, :-1] - point[:, :-1],
        points[:, :-1] + before - point[:, :-1] - third * along[:, :-1],
        points[:, 1:] - after - point[:, 1:] + third * along[:, 1:],
        points[:, 1:] - point[:, 1:],
    ]
    return np.asarray(np.sqrt(np.max([(difference * difference).sum(2).max(1) for difference in differences], 0)))


def _cubic_at(cubics: Floats, t: Floats) -> tuple[Floats, Floats]:
    """Points and slopes of each cubic at J places (K × J × 2)."""
    s = 1 - t
    weights = np.stack([s**3, 3 * s * s * t, 3 * s * t * t, t**3], 2)
    slopes = 3 * np.stack([-s * s, s * s - 2 * s * t, 2 * s * t - t * t, t * t], 2)
    return weights @ cubics, slopes @ cubics


def _spline_basis(parameters: Floats, off_curves: int) -> tuple[Floats, Floats]:
    """The weights (K × J × n + 2) of ends and off-curve points in the points and slopes of splines at J places, which
    count from 0 to n."""
    piece = np.clip(np.floor(parameters), 0, off_curves - 1).astype(np.int64)
    t = parameters - piece
    s = 1 - t
    shape = (*parameters.shape, off_curves + 2)
    weights, slopes = np.zeros(shape), np.zeros(shape)
    rows = np.arange(off_curves + 2)
    # An on-curve point is the middle of its neighbours, but for those at the ends.
    for offset, weight, slope in ((0, s * s, -2 * s), (2, t * t, 2 * t)):
        end = piece + offset == (0 if offset == 0 else off_curves + 1)
        for shift, share in ((0, np.where(end, 1.0 if offset == 0 else 0.0, 0.5)),
                             (1, np.where(end, 0.0 if offset == 0 else 1.0, 0.5))):  # fmt: skip
            index = piece + shift + (0 if offset == 0 else 1)
            hit = rows == index[..., None]
            weights += hit * (weight * share)[..., None]
            slopes += hit * (slope * share)[..., None]
    hit = rows == (piece + 1)[..., None]
    weights += hit * (2 * s * t)[..., None]
    slopes += hit * (2 * s - 2 * t)[..., None]
    return weights, slopes


def _even_weights(off_curves: int) -> Floats:
    """The weights of n off-curve points that divide a cubic evenly.

    A spline through points of the cubic at even steps h has its off-curve points at C + hC'/2 - h³C'''/24, from the
    start of each step; half-way between them it goes through the cubic itself. The first and the last are put on the
    tangents.
    """
    step = 1 / off_curves
    weights = np.empty((off_curves, 4))
    for index in range(off_curves):
        t = index * step
        s = 1 - t
        basis = np.array([s**3, 3 * s * s * t, 3 * s * t * t, t**3])
        slope = 3 * np.array([-s * s, s * s - 2 * s * t, 2 * s * t - t * t, t * t])
        weights[index] = basis + step / 2 * slope - step**3 / 24 * np.array([-6.0, 18.0, -18.0, 6.0])
    reach = 1.5 * step
    weights[0], weights[-1] = (1 - reach, reach, 0, 0), (0, 0, reach, 1 - reach)
    return weights


# ---- fitting


def _fitted_weights(cubics: Floats, off_curves: int) -> Floats:
    """The weights of the splines of that many off-curve points that fit best; infinite where no spline fits.

    The first off-curve point stays on the tangent at the start, the last on the one at the end.
    """
    first, last = _tangents(cubics), _tangents(cubics[:, ::-1])[:, ::-1]
    begin, end = (first[:, None] @ cubics)[:, 0], (last[:, None] @ cubics)[:, 0]
    if off_curves == 1:
        reach, back = _crossing(cubics, begin, end)
        inner = np.empty((len(cubics), 0, 2))
    else:
        reach, back, inner = _fit(cubics, begin, end, off_curves)
    good = (reach > 0) & (back > 0)
    weights = np.empty((len(cubics), off_curves, 4))
    weights[:, -1] = (0, 0, 0, 1) + back[:, None] * last
    weights[:, 0] = (1, 0, 0, 0) + reach[:, None] * first
    if off_curves > 2:
        weights[:, 1:-1] = _as_weights(cubics, inner, _even_weights(off_curves)[1:-1])
    return np.where(good[:, None, None], weights, np.inf)


def _tangents(cubics: Floats) -> Floats:
    """What leads from the start along the curve, as weights of its points (K × 4)."""
    tangents = np.zeros((len(cubics), 4))
    tangents[:, 0] = -1
    lengths = np.abs(cubics[:, 1:] - cubics[:, :1]).sum(2) > _TINY
    tangents[np.arange(len(cubics)), 1 + lengths.argmax(1)] = 1
    return tangents


def _crossing(cubics: Floats, begin: Floats, end: Floats) -> tuple[Floats, Floats]:
    """How far along both tangents they cross."""
    between = cubics[:, 3] - cubics[:, 0]
    turn = _cross(begin, end)
    turn = np.where(np.abs(turn) > _TINY, turn, np.inf)
    return _cross(between, end) / turn, _cross(between, begin) / turn


def _cross(one: Floats, other: Floats) -> Floats:
    return np.asarray(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0])


def _fit(cubics: Floats, begin: Floats, end: Floats, off_curves: int) -> tuple[Floats, Floats, Floats]:
    """How far the first and the last off-curve point are along the tangents (K), and the others (K × n - 2 × 2).

    Least squares of the distances across the curve, in rounds: where the spline is nearest is looked for again, and
    what is furthest counts for more (Lawson's algorithm), so that the largest distance gets small.
    """
    count = len(cubics)
    t = np.broadcast_to((np.arange(_PLACES) + 0.5) / _PLACES, (count, _PLACES))
    targets, _ = _cubic_at(cubics, t)
    even, size = _even_weights(off_curves), 2 * off_curves - 2
    splines = np.concatenate([cubics[:, :1], even @ cubics, cubics[:, 3:]], 1)
    parameters = t * off_curves
    importance = np.ones((count, _PLACES))
    # Points that could slide along the curve as well stay about where an even division has them.
    rest = np.concatenate([np.full((count, 1), even[0, 1]), splines[:, 2:-2].reshape(count, -1),
                           np.full((count, 1), even[-1, 2])], 1)  # fmt: skip
    stiffness = _stiffness(begin, end, size)
    for round_number in range(_ROUNDS):
        basis, slope = _spline_basis(parameters, off_curves)
        along = slope @ splines
        along /= np.maximum(np.sqrt((along * along).sum(2, keepdims=True)), _TINY)
        across = np.stack([-along[:, :, 1], along[:, :, 0]], 2)
        rows, aims = [], []
        fixed = (basis[:, :, :2].sum(2)[:, :, None] * cubics[:, None, 0]
                 + basis[:, :, -2:].sum(2)[:, :, None] * cubics[:, None, 3])  # fmt: skip
        for direction, weight in ((across, importance), (along, _ALONG * importance)):
            row = np.empty((count, _PLACES, size))
            row[:, :, 0] = basis[:, :, 1] * (direction @ begin[:, :, None])[:, :, 0]
            row[:, :, -1] = basis[:, :, -2] * (direction @ end[:, :, None])[:, :, 0]
            inner = basis[:, :, 2:-2, None] * direction[:, :, None]
            row[:, :, 1:-1] = inner.reshape(count, _PLACES, size - 2)
            rows.append(row * weight[:, :, None])
            aims.append(((targets - fixed) * direction).sum(2) * weight)
        matrix, aim = np.concatenate(rows, 1), np.concatenate(aims, 1)
        turned = matrix.transpose(0, 2, 1)
        square = turned @ matrix + stiffness
        solution = np.linalg.solve(square, turned @ aim[:, :, None] + stiffness @ rest[:, :, None])[:, :, 0]
        reach, back, inner = solution[:, 0], solution[:, -1], solution[:, 1:-1].reshape(count, off_curves - 2, 2)
        splines[:, 1:-1][:, 1:-1] = inner
        splines[:, -2] = cubics[:, 3] + back[:, None] * end
        splines[:, 1] = cubics[:, 0] + reach[:, None] * begin
        basis, slope = _spline_basis(parameters, off_curves)
        apart, along = targets - basis @ splines, slope @ splines
        moved = (apart * along).sum(2) / np.maximum((along * along).sum(2), _TINY)
        parameters = np.clip(parameters + moved, 0, off_curves)
        if round_number:
            apart = targets - _spline_basis(parameters, off_curves)[0] @ splines
            distances = np.sqrt((apart * apart).sum(2))
            importance *= np.sqrt(distances / np.maximum(distances.mean(1, keepdims=True), _TINY) + 0.05)
    return reach, back, inner


def _stiffness(begin: Floats, end: Floats, size: int) -> Floats:
    """How much it counts that each number stays where it is (K × size × size); those along tangents are in parts of
    these."""
    stiffness = np.zeros((len(begin), size, size))
    stiffness[:, range(size), range(size)] = _STIFFNESS
    stiffness[:, 0, 0] *= (begin * begin).sum(1)
    stiffness[:, -1, -1] *= (end * end).sum(1)
    stiffness[:, range(size), range(size)] += _TINY
    return stiffness


def _as_weights(cubics: Floats, points: Floats, about: Floats) -> Floats:
    """The weights of each cubic's points, which sum up to 1, that give these points (K × n × 2) and are nearest to what
    is given (n × 4)."""
    matrix = np.concatenate([cubics.transpose(0, 2, 1), np.ones((len(cubics), 1, 4))], 1)
    missing = points - about @ cubics
    aims = np.concatenate([missing, np.zeros((*missing.shape[:2], 1))], 2)
    return np.asarray(about + aims @ np.linalg.pinv(matrix).transpose(0, 2, 1))
