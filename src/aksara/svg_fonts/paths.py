"""Outlines as the data of an SVG path (SVG 1.1, section 8.3), in font units with y upwards, as SVG fonts have them."""

from __future__ import annotations

from collections.abc import Sequence

from aksara.font import Font
from aksara.glyph_outlines import Step, outline_steps


def paths_of(font: Font, glyphs: Sequence[int]) -> list[str]:
    """The path of each glyph ("" for one that draws nothing); of a variable font those of its default.

    Raises `FontError` where an outline is damaged.
    """
    return [_path_data(steps) for steps in outline_steps(font, glyphs)]


def _path_data(steps: Sequence[Step]) -> str:
    return "".join(letter + " ".join(f"{number(x)} {number(y)}" for x, y in points) for letter, points in steps)


def number(value: float) -> str:
    """A number as briefly as SVG has it, to a hundredth of a unit."""
    return f"{value:.2f}".rstrip("0").rstrip(".") if value != round(value) else str(round(value))
