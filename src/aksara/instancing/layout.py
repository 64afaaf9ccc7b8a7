"""Kerning, anchors, carets, baselines and paints from the new default on, and substitutions that depend on a place."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

from msgspec.structs import replace

from aksara.font import Font
from aksara.instancing.limits import AxisChange
from aksara.instancing.rebasing import Rebasing
from aksara.instancing.stores import RebasedValues
from aksara.tables import Base, Colr, Gdef, Gpos, Gsub, Math, Table
from aksara.tables.layout.features import AxisCondition, FeatureVariation
from aksara.tables.layout.layout_table import LayoutTable

T = TypeVar("T", bound=LayoutTable)


def new_layout(font: Font, rebasing: Rebasing) -> list[Table]:
    """'GDEF', 'GPOS', 'GSUB' and 'BASE' on the new axes."""
    gdef, gpos, gsub, base = font.find(Gdef), font.find(Gpos), font.find(Gsub), font.find(Base)
    tables: list[Table] = []
    if gdef is not None and gdef.variations is not None:
        values = RebasedValues(gdef.variations, rebasing)
        for table in (gdef, gpos, font.find(Math)):
            if table is not None:
                table.changed(values.note)
        values.work_out()
        tables.append(replace(gdef.changed(values.change), variations=values.store))
        gpos = gpos.changed(values.change) if gpos is not None else None
        tables += [math.changed(values.change)] if (math := font.find(Math)) is not None else []
    tables += [with_conditions(table, rebasing.changes) for table in (gpos, gsub) if table is not None]
    if base is not None and base.variations is not None:
        values = RebasedValues(base.variations, rebasing)
        base.changed(values.note)
        values.work_out()
        tables.append(replace(base.changed(values.change), variations=values.store))
    return tables


def new_colours(font: Font, rebasing: Rebasing) -> list[Table]:
    """'COLR' on the new axes."""
    colr = font.find(Colr)
    if colr is None or colr.store is None:
        return []
    values = RebasedValues(colr.store, rebasing)
    colr.changed(values.note)
    values.work_out()
    return [replace(colr.changed(values.change), store=values.store)]


def with_conditions(table: T, changes: Sequence[AxisChange]) -> T:
    """The table with its feature variations as they hold on the new axes.

    Those that never hold go; behind one that always holds nothing else is reached, and if it comes first, its features
    are the table's own.
    """
    kept: list[FeatureVariation] = []
    for variation in table.variations:
        conditions = _conditions(variation, changes)
        if conditions is None:
            continue
        kept.append(FeatureVariation(conditions, variation.features))
        if not conditions:
            break
    if kept and not kept[0].conditions:
        features = [kept[0].features.get(index, feature) for index, feature in enumerate(table.features)]
        return replace(table, features=features, variations=[])
    return replace(table, variations=kept)


def _conditions(variation: FeatureVariation, changes: Sequence[AxisChange]) -> tuple[AxisCondition, ...] | None:
    """What must still hold; None if it never does."""
    new_axes = [index for index, change in enumerate(changes) if not change.is_pinned]
    conditions = []
    for condition in variation.conditions:
        # A condition of another format, or on an axis that does not exist, never holds for renderers.
        if not isinstance(condition, AxisCondition) or condition.axis >= len(changes):
            return None
        change = changes[condition.axis]
        low, high = max(condition.minimum, change.low), min(condition.maximum, change.high)
        if low > high:
            return None
        if (low, high) != (change.low, change.high):
            bounds = (round(change.renormalised(low)), round(change.renormalised(high)))
            conditions.append(AxisCondition(new_axes.index(condition.axis), *bounds))
    return tuple(conditions)
