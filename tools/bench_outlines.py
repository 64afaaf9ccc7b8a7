"""PostScript outlines as TrueType ones."""

from __future__ import annotations

import statistics
import time
from pathlib import Path

from aksara.font import Font, open_font
from aksara.glyph_outlines import outline_steps
from aksara.subsetting import SubsetOptions, subset
from aksara.tables import Glyf
from aksara.truetype_outlines import with_truetype_outlines

_FOLDER = Path("/usr/share/fonts/opentype")
_LATIN = frozenset((*range(0x20, 0x7F), *range(0xA0, 0x180)))


def outlines() -> None:
    """Points and bytes of converted fonts against their sources, and what converting takes against compressing."""
    fonts = [open_font(path) for path in sorted(_FOLDER.rglob("*.otf"))]
    points, woff2, times = [], [], []
    for font in fonts:
        if font.outlines != "CFF" or font.num_glyphs > 10_000:
            continue
        source = subset(font, _LATIN, SubsetOptions(hints=False)).font
        start = time.process_time()
        made = with_truetype_outlines(source)
        converting = time.process_time() - start
        start = time.process_time()
        sizes = [len(each.write("woff2")) for each in (source, made)]
        times.append(converting / (time.process_time() - start))
        woff2.append(sizes[1] / sizes[0])
        drawn = outline_steps(source, range(source.num_glyphs))
        points.append(_points(made) / sum(len(places) for steps in drawn for _, places in steps))
    print(f"TrueType outlines of {len(points)} PostScript fonts, Latin, without hints")
    for label, ratios in (
        ("points against the source's", points), ("WOFF2 against the source's", woff2),
        ("CPU against compressing both as WOFF2", times),
    ):  # fmt: skip
        print(f"  {label}: {statistics.median(ratios):.3f} in the middle, {min(ratios):.3f} to {max(ratios):.3f}")


def _points(font: Font) -> int:
    """Points that are stored; the last one's number stands in front of the program's length."""
    found = 0
    for data in font.table(Glyf).glyphs:
        end = 8 + 2 * int.from_bytes(data[:2], "big")
        found += int.from_bytes(data[end : end + 2], "big") + 1 if data else 0
    return found
