"""Limits of axes: checked against a font, and converted to normalised coordinates."""

from __future__ import annotations

from collections.abc import Mapping
from math import isfinite, nan
from typing import Self

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import RequestError, UnsupportedFont
from aksara.font import Font
from aksara.tables import Avar, Fvar
from aksara.tables.fvar import VariationAxis
from aksara.tables.variation.regions import ONE

_FIXED = 0x10000


class AxisLimit(Struct, frozen=True):
    """What remains of an axis, in its own units: from `low` to `high`, or one value where both are the same."""

    low: float
    high: float

    @classmethod
    def parse(cls, low: str, high: str) -> Self:
        """The limit in a text such as "300..700". Raises `RequestError` for anything else."""
        try:
            limit = cls(float(low), float(high))
        except ValueError:
            limit = cls(nan, nan)
        if not (isfinite(limit.low) and isfinite(limit.high)):
            raise RequestError(
                f"'{low}' is not an axis value; write a number, or a range as 400..700"
                if low == high
                else f"'{low}..{high}' is not a range; write two numbers, as 400..700"
            )
        return limit

    @property
    def is_pin(self) -> bool:
        """Whether only one value remains."""
        return self.low == self.high

    def __str__(self) -> str:
        return f"{self.low:g}" if self.is_pin else f"{self.low:g}..{self.high:g}"


#: Axis tag → what remains of the axis; others stay whole.
Limits = Mapping[str, AxisLimit]


class AxisChange(Struct, frozen=True):
    """What becomes of an axis: before and after, and where the new range lies in the old one.

    `low`, `default` and `high` are normalised coordinates of the old axis in units of 1/16384, stretched by 'avar'.
    """

    before: VariationAxis
    after: VariationAxis
    low: float
    default: float
    high: float

    @property
    def is_pinned(self) -> bool:
        """Whether the axis is removed."""
        return self.after.minimum == self.after.maximum

    @property
    def is_whole(self) -> bool:
        """Whether nothing changes."""
        return self.before == self.after

    def renormalised(self, coordinate: float) -> float:
        """An old coordinate on the new axis, in the same units; it must lie within the new range."""
        if coordinate < self.default:
            return ONE * (coordinate - self.default) / (self.default - self.low)
        return ONE * (coordinate - self.default) / (self.high - self.default) if coordinate > self.default else 0.0


def check_limits(font: Font, limits: Limits) -> None:
    """Raise `RequestError` where a limit names an axis that does not exist, or values beyond the axis."""
    fvar = font.find(Fvar)
    axes = {axis.tag: axis for axis in fvar.axes} if fvar is not None else {}
    for tag, limit in limits.items():
        if not axes:
            raise RequestError(f"{font.path}: the font is static: it has no axis {tag}")
        if tag not in axes:
            raise RequestError(f"{font.path}: there is no axis {tag}; it has {', '.join(axes)}")
        low, high = axes[tag].range
        if limit.low > limit.high:
            raise RequestError(
                f"{tag} {limit}: the range is reversed; write the least value first: {limit.high:g}..{limit.low:g}"
            )
        if not low <= limit.low <= limit.high <= high:
            raise RequestError(f"{font.path}: {tag} {limit} is beyond the axis, which goes from {low:g} to {high:g}")


def axis_changes(font: Font, limits: Limits) -> tuple[AxisChange, ...]:
    """What becomes of each axis. The limits must be those of the font (see `check_limits`).

    Raises `UnsupportedFont` where axes depend on one another ('avar' version 2).
    """
    fvar, avar = font.table(Fvar), font.find(Avar)
    if avar is not None and avar.is_version_2:
        raise UnsupportedFont(
            "its axes depend on one another ('avar' version 2), so none of them can be limited; keep them whole",
            file=font.path,
        )

    def change(index: int, before: VariationAxis) -> AxisChange:
        after = _limited(before, limits.get(before.tag))

        def stretched(value: int) -> float:
            coordinate = normalised(before, value)
            return avar.mapped(index, coordinate) if avar is not None else coordinate

        return AxisChange(before, after, *map(stretched, (after.minimum, after.default, after.maximum)))

    return tuple(change(index, axis) for index, axis in enumerate(fvar.axes))


def _limited(axis: VariationAxis, limit: AxisLimit | None) -> VariationAxis:
    if limit is None:
        return axis
    low, high = round(limit.low * _FIXED), round(limit.high * _FIXED)
    return replace(axis, minimum=low, default=min(max(axis.default, low), high), maximum=high)


def normalised(axis: VariationAxis, value: float) -> float:
    """A value (16.16, as stored) on the axis as its coordinate in units of 1/16384, before 'avar'."""
    if value < axis.default:
        return ONE * (value - axis.default) / (axis.default - axis.minimum)
    return ONE * (value - axis.default) / (axis.maximum - axis.default) if value > axis.default else 0.0


def denormalised(axis: VariationAxis, coordinate: float) -> float:
    """The value (16.16) of a coordinate in units of 1/16384, before 'avar'."""
    span = axis.default - axis.minimum if coordinate < 0 else axis.maximum - axis.default
    return axis.default + span * coordinate / ONE
