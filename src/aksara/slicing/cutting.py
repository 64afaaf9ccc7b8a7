"""Cutting characters into slices so that an average page view is cheapest.

Groups of characters that stay together are put in order, in bins of those that pages show alike; then bins are joined
two at a time, always those whose joining saves most, as long as it saves anything: a request where both are fetched,
against bytes that are fetched for nothing where only one is needed.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from msgspec import Struct

from aksara.slicing.views import Floats, View, chance_logarithms
from aksara.slicing.weights import Sizes

#: What one more request costs, in bytes: its headers both ways, and the time that a server and a browser take for it.
REQUEST_BYTES = 1_000
#: What one more rule takes of the style sheet, compressed: every page fetches that.
RULE_BYTES = 200
#: Bins to start from. Joining takes time by their square.
_BINS = 240
#: Slices that a face gets where the user says no number.
_MOST = 100
#: The most views that are kept apart, and the most cells of views and groups.
_VIEWS, _CELLS = 400, 2_000_000
#: The chances of characters within one factor of this are alike; those of rare ones within another.
_ALIKE, _RARE, _ALIKE_RARE = 4.0, 0.002, 50.0


class Cost(Struct, frozen=True):
    """What an average page view takes: bytes of files, and how many of these; and bytes of the `typical` and of the
    largest one. The views of a page in several faces are one. `rules` is how many rules a face has."""

    size: float
    files: float
    most: float
    typical: float
    rules: int

    @property
    def total(self) -> float:
        """Bytes, plus the cost of requests and rules."""
        return self.size + self.files * REQUEST_BYTES + self.rules * RULE_BYTES


def cost_of(slices: Sequence[frozenset[int]], views: Sequence[View], size_of: Sizes) -> Cost:
    """The cost of cutting that way."""
    part_of = {code: index for index, codes in enumerate(slices) for code in codes}
    chances = -np.expm1(chance_logarithms(views, part_of, len(slices)))
    sizes = np.array([size_of.of_file + size_of.of(codes) for codes in slices])
    weights = np.array([view.weight for view in views])
    fetched = chances @ sizes
    pages: dict[tuple[str, bool], float] = {}
    for view, size in zip(views, fetched.tolist(), strict=True):
        pages[view.name, view.exact] = pages.get((view.name, view.exact), 0.0) + size
    exact = [size for (_, read), size in pages.items() if read] or list(pages.values())
    files = float(weights @ chances.sum(axis=1))
    return Cost(float(weights @ fetched), files, most=max(exact), typical=float(np.median(exact)), rules=len(slices))


def cheapest(
    groups: Sequence[frozenset[int]],
    kinds: Callable[[frozenset[int]], str],
    views: Sequence[View],
    size_of: Sizes,
    count: int | None = None,
) -> list[frozenset[int]]:
    """The groups joined into slices: as many as are cheapest, or `count`, if there are as many groups."""
    views = _thinned(views, len(groups))
    part_of = {code: position for position, codes in enumerate(groups) for code in codes}
    logarithms = chance_logarithms(views, part_of, len(groups))
    sizes = np.array([size_of.of(codes) for codes in groups])
    weights = np.array([view.weight for view in views])
    exact = np.array([view.exact for view in views], dtype=bool)
    bins = _bins(groups, kinds, logarithms, sizes, weights, exact, _BINS if count is None else max(_BINS, 2 * count))
    binned = [frozenset[int]().union(*(groups[position] for position in numbers)) for numbers in bins]
    joined = _joined(
        np.stack([logarithms[:, numbers].sum(axis=1) for numbers in bins], axis=1),
        np.array([sum(size_of.of_character.get(code, 0.0) for code in codes) for codes in binned]),
        *_shared_parts(binned, size_of),
        weights,
        REQUEST_BYTES + size_of.of_file,
        count,
    )
    return [frozenset().union(*(binned[index] for index in indices)) for indices in joined]


def _shared_parts(binned: Sequence[frozenset[int]], size_of: Sizes) -> tuple[Floats, Floats]:
    """Which bin (a row) has characters drawn with which component (a column), as 1 and 0; and the components' bytes."""
    of_bins = [size_of.parts_of(codes) for codes in binned]
    columns = {part: column for column, part in enumerate(sorted(set().union(*of_bins)))}
    has = np.zeros((len(binned), len(columns)))
    for row, parts in zip(has, of_bins, strict=True):
        row[[columns[part] for part in parts]] = 1.0
    return has, np.array([size_of.of_part[part] for part in columns])


def _thinned(views: Sequence[View], groups: int) -> list[View]:
    """The views, or an even selection of them, each representing its neighbours."""
    pages = [view for view in views if view.exact]
    step = -(-len(pages) // min(_VIEWS, max(_CELLS // groups, 1)))
    if step <= 1:
        return list(views)
    kept = pages[::step]
    weight = sum(view.weight for view in pages) / len(kept)
    stand_ins = [View(name=view.name, weight=weight, chances=view.chances) for view in kept]
    return [*stand_ins, *(view for view in views if not view.exact)]


def _bins(
    groups: Sequence[frozenset[int]],
    kinds: Callable[[frozenset[int]], str],
    logarithms: Floats,
    sizes: Floats,
    weights: Floats,
    exact: np.ndarray,
    most: int,
) -> list[list[int]]:
    """Groups of one kind that are alike in how often they are shown, and on which pages."""
    chances = -np.expm1(logarithms)
    means = weights @ chances
    rare = means < _RARE
    tiers = np.floor(np.log(np.maximum(means, 1e-9)) / np.log(np.where(rare, _ALIKE_RARE, _ALIKE))).astype(int)
    pages = [np.packbits(column).tobytes() for column in (chances[exact] > 0.5).T]
    # Characters that hardly any page shows stand by their code points: their ranges are shorter.
    places = {index: (kinds(group), -int(tiers[index]), pages[index]) for index, group in enumerate(groups)}
    order = sorted(places, key=lambda n: (*places[n], 0 if rare[n] else -round(float(means[n]), 9), min(groups[n])))
    least = 0.0
    while True:
        bins: list[list[int]] = []
        for index in order:
            last = bins[-1] if bins else []
            # What no page shows may be parted anywhere; what pages show alike is not.
            alike = bool(last) and places[last[-1]] == places[index] and any(pages[index])
            near = bool(last) and places[last[-1]][0] == places[index][0] and sizes[last].sum() < least
            if alike or near:
                last.append(index)
            else:
                bins.append([index])
        if len(bins) <= most:
            return bins
        least = 2 * least or float(sizes.sum()) / most / 8


def _joined(
    logarithms: Floats,
    sizes: Floats,
    has_part: Floats,
    of_part: Floats,
    weights: Floats,
    cost_of_file: float,
    count: int | None,
) -> list[list[int]]:
    """Bins in slices, joined two by two.

    `sizes` are the bytes of their characters, `has_part` and `of_part` those of the components; `each` is what a file
    costs whatever is in it.
    """
    # What joining changes is a copy.
    sizes, logarithms, has_part = sizes + has_part @ of_part, logarithms.copy(), has_part.copy()
    members = [[index] for index in range(len(sizes))]
    costs = (cost_of_file + sizes) * (weights @ -np.expm1(logarithms))
    alive = np.ones(len(sizes), dtype=bool)
    savings = np.full((len(sizes), len(sizes)), -np.inf)

    def compare(index: int, others: np.ndarray) -> Floats:
        """What joining one with each of the others saves; rounded, so that no computer decides otherwise."""
        both = -np.expm1(logarithms[:, [index]] + logarithms[:, others])
        # Components that both have are there once.
        common = has_part[others] @ (has_part[index] * of_part)
        joined = (cost_of_file + sizes[index] + sizes[others] - common) * (weights @ both)
        saved: Floats = np.round(RULE_BYTES + costs[index] + costs[others] - joined, 3)
        return saved

    for index in range(len(sizes) - 1):
        savings[index, index + 1 :] = compare(index, np.arange(index + 1, len(sizes)))
    left = len(sizes)
    while left > (count or 1):
        first, second = divmod(int(savings.argmax()), len(sizes))
        if count is None and savings[first, second] <= 0 and left <= _MOST:
            break
        members[first] += members[second]
        logarithms[:, first] += logarithms[:, second]
        sizes[first] += sizes[second] - has_part[second] @ (has_part[first] * of_part)
        has_part[first] = np.maximum(has_part[first], has_part[second])
        costs[first] = (cost_of_file + sizes[first]) * (weights @ -np.expm1(logarithms[:, first]))
        alive[second] = False
        savings[second, :] = savings[:, second] = -np.inf
        before = np.flatnonzero(alive[:first])
        behind = np.flatnonzero(alive[first + 1 :]) + first + 1
        savings[before, first] = compare(first, before)
        savings[first, behind] = compare(first, behind)
        left -= 1
    return [members[index] for index in np.flatnonzero(alive).tolist()]


def with_additions(
    before: Mapping[str, frozenset[int]],
    groups: Sequence[frozenset[int]],
    views: Sequence[View],
    size_of: Sizes,
) -> dict[str, frozenset[int]]:
    """Slices as they were, with groups that are new each where it costs least.

    Slices that a group has characters of become one.
    """
    slice_of = {code: name for name, codes in before.items() for code in codes}
    codes_by_name: dict[str, set[int]] = {}
    merged: dict[str, str] = {}

    def now(name: str) -> str:
        while name in merged:
            name = merged[name]
        return name

    new: list[frozenset[int]] = []
    for group in groups:
        names = sorted({now(slice_of[code]) for code in group if code in slice_of})
        if not names:
            new.append(group)
            continue
        chosen = max(names, key=lambda name: (len(before[name]), name))
        codes = codes_by_name.setdefault(chosen, set())
        codes |= group
        for name in names:
            if name != chosen:
                codes |= codes_by_name.pop(name, set())
                merged[name] = chosen
    if new:
        _place(new, codes_by_name, _thinned(views, len(new)), size_of)
    return {name: frozenset(codes) for name, codes in codes_by_name.items()}


def _place(
    new: Sequence[frozenset[int]], codes_by_name: dict[str, set[int]], views: Sequence[View], size_of: Sizes
) -> None:
    """Add each of the new groups to the slice with which it costs least."""
    names = list(codes_by_name)
    part_of = {code: index for index, name in enumerate(names) for code in codes_by_name[name]}
    own = {code: index for index, codes in enumerate(new) for code in codes}
    weights, cost_of_file = np.array([view.weight for view in views]), REQUEST_BYTES + size_of.of_file
    slices = chance_logarithms(views, part_of, len(names)) if views else np.zeros((0, len(names)))
    groups = chance_logarithms(views, own, len(new)) if views else np.zeros((0, len(new)))
    sizes = np.array([size_of.of(codes_by_name[name]) for name in names])
    for index, codes in enumerate(new):
        size = size_of.of(codes)
        both = -np.expm1(slices + groups[:, [index]])
        # What more is fetched: the slice where only the group is needed, the group where only the slice is.
        more = (cost_of_file + sizes + size) * (weights @ both)
        more -= (cost_of_file + sizes) * (weights @ -np.expm1(slices))
        chosen = int(np.round(more, 3).argmin())
        codes_by_name[names[chosen]] |= codes
        slices[:, chosen] += groups[:, index]
        sizes[chosen] += size
