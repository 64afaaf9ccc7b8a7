"""The axes themselves: 'fvar' with its instances, 'avar', 'STAT', and the control values with 'cvar'."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from aksara.font import Font
from aksara.instancing.limits import AxisChange, denormalised, normalised
from aksara.instancing.rebasing import Rebasing, rounded
from aksara.tables import Avar, Cvar, Fvar, Stat, Table
from aksara.tables.fvar import NamedInstance
from aksara.tables.stat import AxisValue
from aksara.tables.variation.avar import STRAIGHT, Segments
from aksara.tables.variation.tuples import TupleVariation

_CONTROL_VALUES = "cvt "
#: The numbers of a STAT value that has a range: the middle, the least, the most.
_RANGE = 3


def new_axes(font: Font, changes: Sequence[AxisChange]) -> list[Table]:
    """'fvar', 'avar' and 'STAT' with the axes that remain, and the instances and names within them."""
    fvar, avar, stat = font.table(Fvar), font.find(Avar), font.find(Stat)
    left = [index for index, change in enumerate(changes) if not change.is_pinned]
    instances = tuple(
        replace(instance, coordinates=tuple(instance.coordinates[index] for index in left))
        for instance in fvar.instances
        if _is_within(instance, changes)
    )
    tables: list[Table] = [Fvar(tuple(changes[index].after for index in left), instances)]
    if avar is not None:
        tables.append(Avar(tuple(_new_segments(avar, index, changes[index]) for index in left)))
    if stat is not None:
        tables.append(_new_stat(stat, changes))
    return tables


def _is_within(instance: NamedInstance, changes: Sequence[AxisChange]) -> bool:
    return all(
        change.after.minimum <= value <= change.after.maximum
        for value, change in zip(instance.coordinates, changes, strict=True)
    )


def _new_segments(avar: Avar, axis_index: int, change: AxisChange) -> Segments:
    """The same stretching, from the new axis to the new coordinates."""
    if change.is_whole or not avar.segments[axis_index]:
        return avar.segments[axis_index]
    bends = {denormalised(change.before, coordinate) for coordinate, _ in avar.segments[axis_index]} | {
        change.before.default
    }
    after = change.after
    inside = {value for value in bends if after.minimum < value < after.maximum and value != after.default}
    pairs = dict(STRAIGHT)
    for value in inside:
        before = round(normalised(after, value))
        target = round(change.renormalised(avar.mapped(axis_index, normalised(change.before, value))))
        if before not in pairs:
            pairs[before] = target
    segments = tuple(sorted(pairs.items()))
    return segments if any(a != b for a, b in segments) else STRAIGHT


def _new_stat(stat: Stat, changes: Sequence[AxisChange]) -> Stat:
    """With the names of places that are still there; of a pinned axis those of its value."""
    by_tag = {change.before.tag: change for change in changes}

    def remains(value: AxisValue) -> bool:
        for axis, numbers in value.positions:
            change = by_tag.get(stat.axes[axis].tag) if axis < len(stat.axes) else None
            if change is None:
                continue
            # A name for a range stands for its middle, but where one value is left, for every value in it.
            is_range = len(numbers) == _RANGE and change.is_pinned
            low, high = (numbers[1], numbers[2]) if is_range else (numbers[0], numbers[0])
            if high < change.after.minimum or low > change.after.maximum:
                return False
        return True

    return replace(stat, axis_values=tuple(value for value in stat.axis_values if remains(value)))


def new_control_values(font: Font, rebasing: Rebasing) -> tuple[dict[str, bytes], list[Table]]:
    """'cvt ' at the new default, as its bytes, and 'cvar' from there on."""
    cvar = font.find(Cvar)
    if cvar is None or _CONTROL_VALUES not in font or not cvar.variations:
        return {}, []
    values = np.frombuffer(font.raw(_CONTROL_VALUES)[: len(font.raw(_CONTROL_VALUES)) // 2 * 2], ">i2").astype(np.int64)
    rebased = rebasing.of(tuple(variation.region for variation in cvar.variations))
    old = np.array([variation.over(len(values))[:, 0] for variation in cvar.variations], np.float64)
    moved = rebased.to_default @ old
    steps = np.rint(moved).astype(np.int64)
    data = np.clip(values + steps, -0x8000, 0x7FFF).astype(">i2").tobytes()
    deltas = rounded(old.T @ rebased.to_regions, moved - steps, rebased.overlaps)
    variations = []
    for index, region in enumerate(rebased.regions):
        named = np.flatnonzero(deltas[:, index])
        if len(named):
            variations.append(TupleVariation(region, named, deltas[named, index : index + 1]))
    return {_CONTROL_VALUES: data}, [Cvar(tuple(variations))] if variations else []
