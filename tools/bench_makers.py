"""Size of our WOFF2 and WOFF against the font makers' own, of the same fonts: a part of `make bench`.

The npm packages hold the makers' desktop fonts beside their web fonts. Everything is kept: characters, features, hints.
"""

from __future__ import annotations

import math
import subprocess
import tarfile
from collections import defaultdict
from functools import cache
from pathlib import Path

from aksara.container import Effort
from aksara.font import Font
from aksara.pipeline.making.compression import choose_variant
from aksara.subsetting import FeatureChoice, SubsetOptions, subset
from aksara.tables import Glyf, Loca, Post
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.subsetting import SubsetContext

PACKAGES = ("hack-font", "source-code-pro", "source-sans-pro", "source-serif-pro", "firacode", "katex")
#: Fonts of each package and kind of outlines that are compared, evenly chosen.
_COMPARED = 6
STORE = Path(__file__).resolve().parent.parent / ".bench"
#: (outlines, format) → what the geometric mean must not be over.
WANTED = {
    ("variable TrueType", "woff2"): 0.90,
    ("variable CFF2", "woff2"): 0.90,
    ("TrueType", "woff2"): 0.88,
    ("CFF", "woff2"): 0.80,
    ("TrueType", "woff"): 0.90,
    ("CFF", "woff"): 0.90,
}


def fetched(name: str) -> Path:
    """The folder of a package, fetched if it is not here yet."""
    folder = STORE / name
    if not folder.exists():
        STORE.mkdir(exist_ok=True)
        command = ["npm", "pack", name, "--silent"]
        done = subprocess.run(command, cwd=STORE, check=True, capture_output=True, text=True)
        with tarfile.open(STORE / done.stdout.strip().splitlines()[-1]) as archive:
            archive.extractall(folder, filter="data")
    return folder


@cache
def pairs() -> list[tuple[Path, str, Path]]:
    """(desktop font, format, the maker's file in that format) of some fonts; of variable ones WOFF2 only."""
    return [pair for name in PACKAGES for pair in _pairs_of(fetched(name))]


def _pairs_of(folder: Path) -> list[tuple[Path, str, Path]]:
    files = [path for path in folder.rglob("*") if "subset" not in path.name]
    found: dict[tuple[str, bool], list[list[tuple[Path, str, Path]]]] = defaultdict(list)
    for source in sorted(path for path in files if path.suffix in (".ttf", ".otf")):
        variable = Font.read(source.read_bytes()).is_variable
        both = []
        for form in ("woff2", "woff"):
            # Makers name a file after the font's, or after its stem, some in small letters.
            names = {f"{source.name}.{form}", f"{source.stem}.{form}", f"{source.stem.lower()}.{form}"}
            theirs = [path for path in files if path.name in names]
            if theirs and (form == "woff2" or not variable):
                both.append((source, form, theirs[0]))
        if both:
            found[source.suffix, variable].append(both)
    chosen = (group[:: -(-len(group) // _COMPARED)] for group in found.values())
    return [pair for group in chosen for both in group for pair in both]


def without_names(font: Font) -> Post:
    return font.table(Post).subset(SubsetContext(font, GlyphMap(()), {}, frozenset()))


def against_makers(effort: Effort) -> None:
    print(f"\nOurs over the makers' own, with all characters, features and hints, --effort {effort}")
    ratios: dict[tuple[str, str], list[float]] = defaultdict(list)
    options = SubsetOptions(features=FeatureChoice(everything=True))
    for source, font_format, theirs in pairs():
        font = Font.read(source.read_bytes(), source.name)
        chosen = choose_variant(subset(font, None, options).variants, font_format, effort)
        data = chosen.write(font_format, effort=effort)
        kind = f"variable {font.outlines}" if font.is_variable else font.outlines
        ratios[kind, font_format].append(len(data) / theirs.stat().st_size)
    for key, each in ratios.items():
        mean = math.exp(sum(map(math.log, each)) / len(each))
        print(
            f"  {key[0]:17} {key[1]:5} {len(each):3} fonts: geometric mean {mean:.3f} (wanted: at most {WANTED[key]})"
        )


def where_it_comes_from(package: str = "source-code-pro") -> None:
    """What each step saves of the WOFF2 of one TrueType font of a package, in the order in which they are taken."""
    compared = _pairs_of(fetched(package))
    source, _, theirs = next(pair for pair in compared if pair[0].suffix == ".ttf" and pair[1] == "woff2")
    font = Font.read(source.read_bytes(), source.name)
    options = SubsetOptions(features=FeatureChoice(everything=True))
    numbered = SubsetOptions(features=options.features, keep_glyph_ids=True)
    steps = {
        "the maker's WOFF2": theirs.stat().st_size,
        "written again, all tables as they are": len(font.write("woff2")),
        "without glyph names": len(font.with_tables([without_names(font)]).write("woff2")),
        "all tables written again": len(subset(font, None, numbered).font.write("woff2")),
        "glyphs in the order of their characters": len(subset(font, None, options).font.write("woff2")),
    }
    print(f"\nWhere it comes from, {source.name}")
    whole = steps["the maker's WOFF2"]
    for step, size in steps.items():
        print(f"  {step:45} {size:>9,} {size / whole:.3f}")


def where_bytes_go(characters: frozenset[int] = frozenset(range(0x20, 0x7F))) -> None:
    """What each table of small Latin faces takes: the bytes that the file has less without it."""
    print("\nWhere the bytes of a face of Basic Latin go: what the file has less without a table")
    faces = {"SourceSansPro-Regular.ttf": "source-sans-pro", "SourceSansPro-Regular.otf": "source-sans-pro"}
    for name, package in (faces | {"Hack-Regular.ttf": "hack-font"}).items():
        source = next(fetched(package).rglob(name))
        for licence_text in (True, False):
            options = SubsetOptions(licence_text=licence_text)
            cut = subset(Font.read(source.read_bytes(), name), characters, options)
            chosen = choose_variant(cut.variants, "woff2", "normal")
            whole = len(chosen.write("woff2"))
            sizes = {tag: _alone(chosen, tag) for tag in chosen if tag not in _NEEDED}
            listed = sorted(sizes.items(), key=lambda item: -item[1])
            tables = ", ".join(f"{tag.strip()} {size:,} ({size / whole:.0%})" for tag, size in listed[:8])
            beside = "" if licence_text else ", licence beside it"
            print(f"  {name}{beside}: {whole:,}: {tables}")


#: Small tables that a file cannot be written without.
_NEEDED = ("head", "hhea", "maxp", "loca")


def _alone(font: Font, tag: str) -> int:
    """Bytes that the file has less without the table; 'loca' goes with 'glyf'."""
    gone = (Glyf.TAG, Loca.TAG) if tag == Glyf.TAG else (tag,)
    without = Font({each: font.raw(each) for each in font if each not in gone}, font.flavour)
    return len(font.write("woff2")) - len(without.write("woff2"))
