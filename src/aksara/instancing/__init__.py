"""Limiting the axes of a variable font: to a range, with the default moved into it, or to one value.

Font → Font, before subsetting: outlines, metrics, kerning and anchors, substitutions, hints, axes and names follow.
With all axes at one value the font is static.
"""

from aksara.instancing.limits import AxisLimit, Limits, check_limits
from aksara.instancing.narrowing import advances_at_locations, narrow

__all__ = ["AxisLimit", "Limits", "advances_at_locations", "check_limits", "narrow"]
