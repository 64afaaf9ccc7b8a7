"""The measures of a face by which text set in it takes room: its lines, and how wide its letters are.

All lengths are in ems: 0.5 is half the font size.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aksara.font import Font
from aksara.tables import OS2, Head, Hhea, Hmtx
from aksara.tables.os2 import USE_TYPO_METRICS


class LineMetrics(Struct, frozen=True):
    """The parts of a line with `line-height: normal`: above the baseline, below it, and between lines."""

    ascent: float
    descent: float
    gap: float

    @property
    def height(self) -> float:
        return self.ascent + self.descent + self.gap


class FaceMetrics(Struct, frozen=True):
    """`lines` as browsers take them on most systems, `windows_lines` as they do on Windows.

    `widths` is the advance of every character, `x_height` that of the letter x (None if the font does not say).
    """

    lines: LineMetrics
    windows_lines: LineMetrics
    widths: Mapping[int, float]
    x_height: float | None = None


def face_metrics(font: Font) -> FaceMetrics:
    """Read from 'hhea', 'OS/2' and 'hmtx'. Raises `FontError` where one of them is damaged."""
    em = font.table(Head).units_per_em
    os2 = font.find(OS2)
    advances = font.table(Hmtx).advances
    widths = widths_of(font, advances)
    x_height = os2.x_height / em if os2 is not None and os2.x_height else None
    return FaceMetrics(_lines(font, em), _windows_lines(font, em), widths, x_height)


def widths_of(font: Font, advances: NDArray[np.uint16]) -> dict[int, float]:
    """The advance of every character in ems, by the advances of the glyphs in font units."""
    em = font.table(Head).units_per_em
    widths = [advance / em for advance in advances.tolist()]
    return {code: widths[glyph] for code, glyph in font.characters.items() if glyph < len(widths)}


def _lines(font: Font, em: int) -> LineMetrics:
    """The rule of macOS, iOS, Android and Linux: 'hhea', unless OS/2 says that its typographic metrics count.

    OpenType 1.9.1, OS/2 fsSelection bit 7; a font whose 'hhea' is empty falls back to OS/2.
    """
    hhea, os2 = font.table(Hhea), font.find(OS2)
    typographic = _typographic(os2, em)
    if typographic is not None and os2 is not None and os2.fs_selection & USE_TYPO_METRICS:
        return typographic
    if hhea.ascender or hhea.descender:
        return LineMetrics(hhea.ascender / em, -hhea.descender / em, max(hhea.line_gap, 0) / em)
    if typographic is not None and (typographic.ascent or typographic.descent):
        return typographic
    return _windows_lines(font, em)


def _windows_lines(font: Font, em: int) -> LineMetrics:
    """The rule of Windows: typographic metrics if they count, else 'usWinAscent' and 'usWinDescent'.

    The gap is what 'hhea' leaves of its own height above theirs ("External leading", OpenType 1.9.1, 'hhea').
    """
    hhea, os2 = font.table(Hhea), font.find(OS2)
    plain = LineMetrics(hhea.ascender / em, -hhea.descender / em, max(hhea.line_gap, 0) / em)
    if os2 is None or os2.win_ascent is None or os2.win_descent is None:
        return plain
    if os2.fs_selection & USE_TYPO_METRICS and (typographic := _typographic(os2, em)) is not None:
        return typographic
    ascent, descent = os2.win_ascent / em, os2.win_descent / em
    return LineMetrics(ascent, descent, max(plain.height - ascent - descent, 0)) if ascent + descent else plain


def _typographic(os2: OS2 | None, em: int) -> LineMetrics | None:
    if os2 is None or os2.typo_ascender is None or os2.typo_descender is None:
        return None
    return LineMetrics(os2.typo_ascender / em, -os2.typo_descender / em, max(os2.typo_line_gap or 0, 0) / em)
