"""`narrow`: the whole of it, table by table."""

from __future__ import annotations

import struct
from collections.abc import Sequence, Set

import numpy as np
from numpy.typing import NDArray

from aksara.errors import FontError, located
from aksara.font import Font
from aksara.instancing.axes import new_axes, new_control_values
from aksara.instancing.layout import new_colours, new_layout
from aksara.instancing.limits import AxisChange, Limits, axis_changes, check_limits
from aksara.instancing.metrics import advances_at, new_font_metrics, new_horizontal_metrics, new_vertical_metrics
from aksara.instancing.naming import new_identity
from aksara.instancing.outlines import new_outlines
from aksara.instancing.postscript import new_postscript_outlines
from aksara.instancing.rebasing import Rebasing
from aksara.tables import Avar, Cff2, Cvar, Fvar, Glyf, Gvar, Hmtx, Hvar, Mvar, Stat, Table, Vvar

#: The tables that only variable fonts have. Those that are not written again have nothing left to say.
_OF_VARIATIONS = tuple(table.TAG for table in (Fvar, Avar, Gvar, Cvar, Hvar, Vvar, Mvar, Stat, Cff2))


def advances_at_locations(font: Font, locations: Sequence[Limits]) -> list[NDArray[np.uint16]]:
    """The advance widths of all glyphs (in font units) at places where each named axis has one value."""
    return advances_at(font, [Rebasing(axis_changes(font, limits)) for limits in locations])


def narrow(font: Font, limits: Limits, glyphs: Set[int] | None = None) -> Font:
    """The font with its axes limited; those that are not named stay whole.

    Of `glyphs` it is known that no others will be drawn (None: all may be), and so others become empty.

    Raises `RequestError` for limits that do not fit the font, `UnsupportedFont` for one whose axes depend on one
    another, `FontError` for damaged variations.
    """
    check_limits(font, limits)
    with located(file=font.path):
        changes = axis_changes(font, limits) if limits else ()
        if all(change.is_whole for change in changes):
            return font
        try:
            return _narrowed(font, changes, glyphs)
        except (OverflowError, struct.error) as error:
            raise FontError("its variations lead beyond the numbers that its tables can hold") from error


def _narrowed(font: Font, changes: Sequence[AxisChange], glyphs: Set[int] | None) -> Font:
    rebasing = Rebasing(changes)
    outlines = new_outlines(font, rebasing, glyphs) if Glyf.TAG in font else None
    tables: list[Table] = [*outlines.tables] if outlines is not None else []
    horizontal = new_horizontal_metrics(font, rebasing, outlines)
    tables += horizontal
    if Cff2.TAG in font:
        tables += new_postscript_outlines(font, rebasing, _advances(horizontal), glyphs)
    tables += new_vertical_metrics(font, rebasing, outlines)
    tables += new_font_metrics(font, tables, rebasing)
    tables += new_layout(font, rebasing)
    tables += new_colours(font, rebasing)
    tables += new_identity(font, tables, changes)
    control_values, varying = new_control_values(font, rebasing)
    tables += varying
    if rebasing.axis_count:
        tables += new_axes(font, changes)
    made = {table.TAG: table for table in tables}
    gone = [tag for tag in _OF_VARIATIONS if tag not in made]
    return font.with_tables(made.values(), gone).with_data(control_values)


def _advances(tables: Sequence[Table]) -> NDArray[np.uint16]:
    return next(table.advances for table in tables if isinstance(table, Hmtx))
