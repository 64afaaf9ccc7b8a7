"""PostScript outlines as TrueType ones, and what a catalogue takes with processes beside it."""

from __future__ import annotations

import statistics
import tempfile
import time
from concurrent.futures import Executor, ProcessPoolExecutor
from pathlib import Path

from aksara import BuildRequest, CharacterRequest, FamilyRequest
from aksara.font import Font, open_font
from aksara.glyph_outlines import outline_steps
from aksara.pipeline import build
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


def processes() -> None:
    """A build of eight families in this process, and by one and two others beside it."""
    paths = sorted((_FOLDER.parent / "truetype/dejavu").glob("*.ttf"))[:8]
    with tempfile.TemporaryDirectory() as folder:
        request = BuildRequest(
            families=tuple(FamilyRequest(fonts=(path,), name=f"Family {n}") for n, path in enumerate(paths)),
            characters=CharacterRequest(languages=("en", "vi", "ru")), folder=Path(folder), cache=False, jobs=1,
        )  # fmt: skip
        alone = _seconds(request, None)
        print(f"eight families by one thread here: {alone:.1f} s")
        for count in (1, 2):
            with ProcessPoolExecutor(count) as executor:
                executor.submit(int).result()
                print(f"  with {count} processes beside it: {_seconds(request, executor) / alone:.2f} of that")


def _seconds(request: BuildRequest, executor: Executor | None) -> float:
    start = time.perf_counter()
    build(request, executor=executor)
    return time.perf_counter() - start
