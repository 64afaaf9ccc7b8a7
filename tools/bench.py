"""Measure Aksara against the compression it rests on: `make bench`.

All figures of a run are ratios taken in that run, since machines differ and are noisy. Prints
- the size of whole-font WOFF2 against brotli over the same tables untransformed, per font;
- CPU time of a whole build (reading, subsetting, compressing, verifying) against the compression alone of the
  same bytes, for whole fonts and for Basic Latin subsets;
- the same of variable fonts, and what limiting their axes takes;
- what a site's pages take to read, and what it saves to make each face for what they show in it;
- time of `aksara inspect` a font;
- start-up (`aksara --version`) against `python -c "import click"`;
- peak memory of building one font.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
import zlib
from collections.abc import Callable
from functools import partial
from pathlib import Path

import brotli

from aksara.container import FontFormat
from aksara.font import Font
from aksara.instancing import AxisLimit, narrow
from aksara.pipeline.compression import choose_variant
from aksara.pipeline.verify import verify_file
from aksara.subsetting import SubsetOptions, subset
from aksara.tables import Fvar
from bench_makers import against_makers, where_it_comes_from
from bench_sites import reading, site_bytes

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
    cut = subset(Font.read(data), request, SubsetOptions(costs=True))
    files = []
    for font_format in formats:
        font = choose_variant(cut.variants, font_format, "normal")
        files.append(font.write(font_format))
        verify_file(files[-1], font)
    return files


def ratios(data: bytes, request: frozenset[int] | None) -> list[float]:
    """CPU time of a build over compression alone: for WOFF2, WOFF, and both from one subset."""
    made = build(data, request, ("woff2", "sfnt"))
    stream, tables = payload(made[0]), stored(Font.read(made[1]))
    runs = 5 if request else 2
    brotli_time = cpu(lambda: compressed(stream), runs)
    zlib_time = cpu(lambda: [zlib.compress(table, 9) for table in tables], runs)
    alone: dict[tuple[FontFormat, ...], float] = {
        ("woff2",): brotli_time,
        ("woff",): zlib_time,
        ("woff2", "woff"): brotli_time + zlib_time,
    }
    return [cpu(partial(build, data, request, formats), runs) / time for formats, time in alone.items()]


def times(paths: list[Path]) -> None:
    print("\nCPU time of reading, subsetting, compressing and verifying, over the compression of the same bytes alone")
    print(f"  {'':40} {'characters':>10} {'WOFF2':>7} {'WOFF':>7} {'both':>7}")
    worst = 0.0
    for path in paths:
        for label, request in (("all", None), ("ASCII", LATIN)):
            woff2, woff, both = ratios(path.read_bytes(), request)
            worst = max(worst, woff2, both)
            print(f"  {path.name:40} {label:>10} {woff2:>7.2f} {woff:>7.2f} {both:>7.2f}")
    print(f"  largest for WOFF2, alone or with WOFF: {worst:.2f} (wanted: at most 1.6)")


def variable(paths: list[Path]) -> None:
    """The same of variable fonts; what limiting the axes takes, and what it saves."""
    print(
        "\nVariable fonts: CPU time as above; limited to the middle half of the first axis, size over the whole font's"
    )
    for path in paths:
        data = path.read_bytes()
        whole = build(data, None, ("woff2",))[0]
        alone = cpu(lambda: compressed(payload(whole)), 2)  # noqa: B023
        ratio = cpu(lambda: build(data, None, ("woff2",)), 2) / alone  # noqa: B023
        axis = Font.read(data).table(Fvar).axes[0]
        low, high = axis.range
        half = {axis.tag: AxisLimit(low + (high - low) / 4, high - (high - low) / 4)}
        started = time.process_time()
        narrowed = narrow(Font.read(data), half)
        took = (time.process_time() - started) / alone
        size = len(build(narrowed.write("sfnt"), None, ("woff2",))[0]) / len(whole)
        print(f"  {path.name:30} build {ratio:.2f} (wanted: at most 1.5), limiting {took:.2f}, size {size:.3f}")


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
    for font in (ROOT / "dejavu/DejaVuSans.ttf", *LARGE):
        memory(font, round(12 * font.stat().st_size / 1e6 + 80))
    memory(INTER, 160)


def memory(font: Path, wanted: int) -> None:
    """Peak memory of a whole build, all characters, in a process of its own."""
    code = (
        "import resource, sys; from aksara.cli import main\n"
        f"try: main(['-q', 'build', {str(font)!r}, '--dry-run', '--jobs', '1'])\n"
        "except SystemExit: print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1000)"
    )
    done = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True)
    size, peak = font.stat().st_size / 1e6, int(done.stdout.strip())
    print(f"Peak memory of building {font.name} ({size:.1f} MB), all characters: {peak} MB (wanted: at most {wanted})")


def main() -> None:
    paths = [path for folder in FOLDERS for path in sorted((ROOT / folder).glob("*.ttf"))]
    sizes(paths)
    paths += sorted((ROOT.parent / "opentype/sora").glob("*.otf"))[:1]
    chosen = {
        "Sora-Bold",
        "DejaVuSans",
        "LiberationSerif-Italic",
        "OpenSans-Regular",
        "OldStandard-Bold",
        "Lohit-Kannada",
    }
    times([*sorted(DEMO.glob("*-Regular.ttf")), *(path for path in paths if path.stem in chosen)])
    variable([DEMO / "PenyuSans[slnt,wght].ttf", ROOT / "karla-variable/Karla[wght].ttf", INTER])
    print("\nCPU time of cutting a large font, over reading it and the compression of the result")
    for path in LARGE:
        large(path)
    site_bytes()
    reading()
    against_makers("normal")
    where_it_comes_from()
    against_makers("most")
    whole_command()


if __name__ == "__main__":
    main()
