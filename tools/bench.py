"""Measure Aksara against the compression it rests on: `make bench`.

All figures of a run are ratios taken in that run, since machines differ and are noisy. Prints
- the size of whole-font WOFF2 against brotli over the same tables untransformed, per font;
- CPU time of a whole build (reading, subsetting, costs, compressing, verifying) against the compression alone of the
  same bytes, for fonts of a dozen kinds, whole and cut to Basic Latin;
- what limiting the axes of variable fonts takes;
- what slices save on pages in several languages, and what a hundred of them take;
- what a site's pages take to read, and what it saves to make each face for what they show in it;
- points and bytes of converted PostScript outlines;
- what a build takes with processes beside it, and what each of many families of a folder takes;
- time of `aksara inspect` a font, and of one with tens of thousands of glyphs;
- start-up (`aksara --version`) against `python -c "import click"`;
- what imports of `aksara build` take;
- peak memory of building one font, and several at a time.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import brotli

from aksara.cli.memory import frugal
from aksara.container import FontFormat
from aksara.container.woff import deflate
from aksara.font import Font
from aksara.instancing import AxisLimit, narrow
from aksara.pipeline.making.compression import choose_variant
from aksara.pipeline.making.verification import verify_file
from aksara.subsetting import SubsetOptions, subset
from aksara.tables import Fvar
from bench_catalogues import folders, processes
from bench_makers import against_makers, fetched, where_bytes_go, where_it_comes_from
from bench_outlines import outlines
from bench_sites import reading, site_bytes
from bench_slices import slices

FOLDERS = ("dejavu", "liberation", "open-sans", "lohit-kannada", "padauk", "fonts-oldstandard")
ROOT = Path("/usr/share/fonts/truetype")
DEMO = Path(__file__).resolve().parent.parent / "src/aksara/demo/fonts"
INTER = ROOT / "inter-vf/Inter.var.ttf"
LATIN = frozenset(range(0x20, 0x7F))
LARGE = (ROOT / "wqy/wqy-microhei.ttc", ROOT.parent / "opentype/unifont/unifont.otf")


def cpu(work: Callable[[], object], runs: int = 1) -> float:
    """Least CPU seconds of some runs."""
    times = []
    for _ in range(runs):
        start = time.process_time()
        work()
        times.append(time.process_time() - start)
    return min(times)


def compressed(data: bytes) -> bytes:
    result: bytes = brotli.compress(data, mode=brotli.MODE_FONT, quality=11, lgwin=24)
    return result


def stored(font: Font) -> list[bytes]:
    return [font.raw(tag) for tag in sorted(font) if tag != "DSIG"]


def payload(data: bytes) -> bytes:
    """What the brotli stream of a WOFF2 file holds."""
    from aksara.binary import Reader
    from aksara.container.woff2.directory import read_entry

    reader = Reader(data, 12)
    count = reader.u16()
    reader.position = 20
    size = reader.u32()
    reader.position = 48
    for _ in range(count):
        read_entry(reader)
    return brotli.decompress(reader.take(size))


def sizes(paths: list[Path]) -> None:
    print("Whole font, all tables as they are: WOFF2 against brotli over the untransformed tables")
    ratios = []
    for path in paths:
        font = Font.read(path.read_bytes(), path.name)
        ours, plain = len(font.write("woff2")), len(compressed(b"".join(stored(font))))
        ratios.append(ours / plain)
        print(f"  {path.name:40} {font.size:>9,} {ours:>9,} {ours / plain:.3f}")
    print(f"  mean {statistics.mean(ratios):.3f}, largest {max(ratios):.3f} (wanted: mean at most 0.900, none over 1)")


def build(data: bytes, request: frozenset[int] | None, formats: tuple[FontFormat, ...]) -> list[bytes]:
    """All that a build does with one font: reading, subsetting, costs, compressing and verifying."""
    cut = subset(Font.read(data), request, SubsetOptions(costs="all"))
    files = []
    for font_format in formats:
        font = choose_variant(cut.variants, font_format, "normal")
        files.append(font.write(font_format))
        verify_file(files[-1], font)
    return files


def kinds() -> list[Path]:
    """A dozen fonts that have little in common: outlines, hints, scripts, kerning, rules, axes."""
    opentype = ROOT.parent / "opentype"
    return [
        DEMO / "PenyuSans-Regular.ttf",
        ROOT / "dejavu/DejaVuSans.ttf",
        ROOT / "liberation/LiberationSerif-Italic.ttf",
        ROOT / "open-sans/OpenSans-Regular.ttf",
        ROOT / "fonts-oldstandard/OldStandard-Bold.ttf",
        ROOT / "lohit-kannada/Lohit-Kannada.ttf",
        ROOT / "padauk/Padauk-Regular.ttf",
        ROOT / "mingzat/Mingzat-Regular.ttf",
        opentype / "fonts-hosny-amiri/Amiri-Regular.ttf",
        opentype / "asana-math/Asana-Math.otf",
        opentype / "sora/Sora-Bold.otf",
        fetched("firacode") / "package/distr/ttf/FiraCode-Regular.ttf",
        INTER,
    ]


def times(paths: list[Path]) -> None:
    print(
        "\nCPU time of reading, subsetting, costs, compressing and verifying, over compression of the same bytes alone"
    )
    print(f"  {'':32} {'glyphs':>6} {'WOFF2':>7} {'and WOFF':>8}   Basic Latin: bytes, milliseconds above compression")
    large = []
    for path in paths:
        data = path.read_bytes()
        made = build(data, None, ("woff2", "sfnt"))
        stream, tables = payload(made[0]), stored(Font.read(made[1]))
        brotli_time = cpu(partial(compressed, stream), 2)
        deflate_time = cpu(partial(all_deflated, tables), 2)
        woff2 = cpu(partial(build, data, None, ("woff2",)), 2) / brotli_time
        both = cpu(partial(build, data, None, ("woff2", "woff")), 2) / (brotli_time + deflate_time)
        small = build(data, LATIN, ("woff2",))[0]
        alone = cpu(partial(compressed, payload(small)), 5)
        above = 1000 * (cpu(partial(build, data, LATIN, ("woff2",)), 5) - alone)
        glyphs = Font.read(made[1]).num_glyphs
        large += [woff2] if glyphs >= 300 else []
        print(f"  {path.name:32} {glyphs:>6,} {woff2:>7.2f} {both:>8.2f} {len(small):>18,} {above:>8.0f}")
    print(
        f"  with 300 glyphs or more: mean {statistics.mean(large):.2f} (wanted: at most 1.15), "
        f"largest {max(large):.2f} "
        "(wanted: at most 1.25); small ones of 10 KB (wanted: at most 25 ms above)"
    )


def all_deflated(tables: list[bytes]) -> list[bytes]:
    return [deflate(table) for table in tables]


def variable(paths: list[Path]) -> None:
    """What limiting the axes of variable fonts takes, and what it saves."""
    print(
        "\nVariable fonts limited to the middle half of the first axis: CPU time over compression, size over the whole"
    )
    for path in paths:
        data = path.read_bytes()
        whole = build(data, None, ("woff2",))[0]
        alone = cpu(partial(compressed, payload(whole)), 2)
        axis = Font.read(data).table(Fvar).axes[0]
        low, high = axis.range
        half = {axis.tag: AxisLimit(low + (high - low) / 4, high - (high - low) / 4)}
        started = time.process_time()
        narrowed = narrow(Font.read(data), half)
        took = (time.process_time() - started) / alone
        size = len(build(narrowed.write("sfnt"), None, ("woff2",))[0]) / len(whole)
        print(f"  {path.name:30} limiting {took:.2f}, size {size:.3f}")


def large(path: Path) -> None:
    """A font of tens of thousands of glyphs, cut to 3,000 characters, over its compression and reading."""
    data = path.read_bytes()
    wanted = frozenset(range(0x4E00, 0x4E00 + 2900)) | LATIN
    made = build(data, wanted, ("woff2", "sfnt"))
    alone = cpu(lambda: compressed(payload(made[0])), 3) + cpu(lambda: Font.read(data), 3)
    ratio = cpu(lambda: build(data, wanted, ("woff2",)), 3) / alone
    glyphs = Font.read(data).num_glyphs
    print(f"  {path.name}, {glyphs:,} glyphs, 3,000 characters: {ratio:.2f} (wanted: at most 2.0)")


def inspect(program: Path) -> None:
    """Time of `aksara inspect` a font, and to its first line, over all the folders."""
    folders = [str(ROOT / folder) for folder in FOLDERS]
    count = sum(1 for folder in FOLDERS for _ in (ROOT / folder).glob("*.ttf"))
    start = time.perf_counter()
    with subprocess.Popen([str(program), "inspect", *folders], stdout=subprocess.PIPE, stderr=subprocess.STDOUT) as run:
        assert run.stdout is not None
        run.stdout.readline()
        first = time.perf_counter() - start
        run.stdout.read()
    each = (time.perf_counter() - start) / count * 1000
    print(f"Inspecting {count} fonts: {each:.0f} ms each (wanted: at most 25), first line after {first:.2f} s")
    for path in LARGE:
        start = time.perf_counter()
        subprocess.run([str(program), "inspect", str(path)], check=True, capture_output=True)
        print(f"  {path.name}: {time.perf_counter() - start:.2f} s (wanted: at most 1)")


def whole_command() -> None:
    """Start-up and memory, in processes of their own."""

    def median(command: list[str]) -> float:
        runs = []
        for _ in range(9):
            start = time.perf_counter()
            subprocess.run(command, check=True, capture_output=True)
            runs.append(time.perf_counter() - start)
        return statistics.median(runs)

    program = Path(sys.executable).parent / "aksara"
    ratio = median([str(program), "--version"]) / median([sys.executable, "-c", "import click"])
    print(f'\nStart-up: `aksara --version` over `python -c "import click"`: {ratio:.2f} (wanted: at most 2.0)')
    inspect(program)
    imports = median([sys.executable, "-c", "import aksara.cli.build"]) - median([sys.executable, "-c", "pass"])
    numbers = median([sys.executable, "-c", "import numpy"]) - median([sys.executable, "-c", "pass"])
    print(
        f"Imports of `aksara build`: {1000 * imports:.0f} ms (wanted: at most 60), of which NumPy {1000 * numbers:.0f}"
    )
    for font in (ROOT / "dejavu/DejaVuSans.ttf", *LARGE, INTER):
        memory([font])
    memory(sorted((ROOT / "dejavu").glob("*.ttf")), jobs=4)


def memory(fonts: list[Path], jobs: int = 1) -> None:
    """Peak memory of a whole build, all characters, in a process of its own."""
    arguments = ["-q", "build", *map(str, fonts), "--dry-run", "--no-cache", "--jobs", str(jobs)]
    code = (
        "from pathlib import Path; from aksara.cli import main\n"
        f"try: main({arguments!r})\n"
        # What the operating system says of the process itself: other figures count what started it, too.
        "except SystemExit: print(Path('/proc/self/status').read_text().split('VmHWM:')[1].split()[0])"
    )
    done = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True)
    size, peak = max(font.stat().st_size for font in fonts) / 1e6, int(done.stdout.strip()) * 1024 // 1_000_000
    what = fonts[0].name if len(fonts) == 1 else f"{len(fonts)} fonts, {jobs} at a time,"
    print(f"Peak memory of building {what} ({size:.1f} MB): {peak} MB (wanted: at most {100 + 8 * size:.0f})")


def main() -> None:
    frugal()  # as the program itself runs
    paths = [path for folder in FOLDERS for path in sorted((ROOT / folder).glob("*.ttf"))]
    sizes(paths)
    times(kinds())
    variable([DEMO / "PenyuSans[slnt,wght].ttf", ROOT / "karla-variable/Karla[wght].ttf", INTER])
    print("\nCPU time of cutting a large font, over reading it and the compression of the result")
    for path in LARGE:
        large(path)
    site_bytes()
    reading()
    slices()
    against_makers("normal")
    where_it_comes_from()
    where_bytes_go()
    against_makers("most")
    outlines()
    processes()
    folders()
    whole_command()


if __name__ == "__main__":
    main()
