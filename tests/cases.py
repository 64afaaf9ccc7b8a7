"""Cases for fuzzing, of every kind of input: how they are made, and all that the program does with them.

`tools/fuzz.py` tries as many as there is time for; tests try a few, and whatever once was found.
"""

from __future__ import annotations

import gzip
import random
import struct
import tempfile
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path

import brotli
from msgspec import Struct

from aksara.binary import Reader
from aksara.checking.site_check import check_site
from aksara.container import woff, woff2
from aksara.container.woff2.directory import read_entry
from aksara.errors import AksaraError
from aksara.faces import embedding, font_variation, generic_family, identify
from aksara.faces.colour import colour_words, font_palettes
from aksara.font import Font, open_fonts
from aksara.inspection import inspect_file
from aksara.instancing import AxisLimit, narrow
from aksara.project import read_project
from aksara.site import SiteRequest, read_site
from aksara.sources import SourceFile, find_sources
from aksara.subsetting import FeatureChoice, subset
from aksara.subsetting.icons import font_icons
from aksara.subsetting.sequences import drawn_as_one, with_sequences_only
from aksara.svg_fonts import svg_font
from aksara.text.sequences import Sequences
from apple_fonts import CONTEXT, INSERTION, LIGATURE, SINGLE, apple_font
from attacks import zipped
from cases_of_strangers import (
    cache_files,
    font_entries,
    in_slices,
    manifests,
    project_files,
    servers,
    use_cache_file,
    use_everything,
    use_font_entry,
    use_manifest,
    use_project,
    use_server,
)
from emoji_fonts import ASTRONAUT, BY_RULES, TONE, WOMAN, D, I
from fonts import DEMO_FONTS, SYSTEM, small_font
from mutation import changed_bytes, mutants, spliced
from painted_fonts import painted_font
from picture_fonts import drawings, graphics, pictures
from variable import KARLA, collection, with_postscript_outlines

_OPEN = SYSTEM.parent / "opentype"
_DEMO = DEMO_FONTS[0].parent.parent
_TEXT = frozenset(map(ord, "ABfiéẫ.0"))


class Kind(Struct, frozen=True):
    """`make` gives cases without end for a seed, `use` does with one what the program would and may refuse it."""

    make: Callable[[int], Iterator[bytes]]
    use: Callable[[bytes], None]


def use_font(data: bytes) -> None:
    """All that `inspect` and a build do with the fonts of a file, but for the long compression."""
    for font in Font.read_all(data, "mutant")[:2]:
        _use_one(font)


def _use_one(font: Font) -> None:
    identify(font)
    if (variation := font_variation(font)) is not None and variation.axes:
        (first, *_), spans = variation.axes, {axis.tag: axis.maximum - axis.minimum for axis in variation.axes}
        narrow(font, {first.tag: AxisLimit(first.minimum + 0.2 * spans[first.tag], first.maximum)})
        places = {axis.tag: axis.minimum + 0.6 * spans[axis.tag] for axis in variation.axes}
        subset(narrow(font, {tag: AxisLimit(value, value) for tag, value in places.items()}), {0x41, 0x42})
    embedding(font)
    generic_family(font)
    for characters in ({0x41, 0x42, 0x66, 0x69, 0x301, 0x0C95}, None):
        cut = subset(font, characters)
        if cut.characters:
            woff2.write({tag: cut.font.raw(tag) for tag in cut.font}, font.flavour, quality=0)
            cut.font.write("sfnt")


def _in_file(data: bytes, name: str, use: Callable[[Path], object]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, name)
        path.write_bytes(data)
        use(path)


def _use_zip(data: bytes) -> None:
    def use(path: Path) -> None:
        for file in find_sources([path]).fonts:
            try:
                inspect_file(file)
                open_fonts(file)
            except AksaraError:
                continue

    _in_file(data, "order.zip", use)


def _use_page(data: bytes) -> None:
    _in_file(data, "index.html", lambda path: read_site(SiteRequest(pages=(path,))))


def _use_site(data: bytes) -> None:
    """A folder with a template of each kind and a style sheet that no page loads, as `check` reads it."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for suffix in (".html", ".php", ".twig", ".vue", ".svelte", ".jsx", ".astro", ".cshtml", ".css", ".js"):
            (folder / f"part{suffix}").write_bytes(data)
        check_site(read_site(SiteRequest(pages=(folder,), whole=True, sheets_alone=True)))


def _use_project(data: bytes) -> None:
    _in_file(data, "aksara.toml", read_project)


def _inspect(data: bytes) -> None:
    _in_file(data, "a.ttf", lambda path: inspect_file(SourceFile(path, "a.ttf")))


@cache
def _cut(path: Path, characters: frozenset[int] = _TEXT) -> bytes:
    """A real font with its layout tables, cut down so that thousands of it can be tried."""
    return subset(Font.read(path.read_bytes()), set(characters)).font.write("sfnt")


def _fonts(source: Callable[[], bytes], *tags: str) -> Callable[[int], Iterator[bytes]]:
    return lambda seed: (mutant for _, mutant in mutants(source(), seed, tags))


def _use_drawn(data: bytes) -> None:
    """What a build does with fonts that draw in colour, join emoji or are shaped by Apple's tables."""
    font = Font.read(data, "mutant")
    asked = frozenset((ASTRONAUT, WOMAN + TONE, I + D))
    drawn_as_one(font, asked)
    font_icons(font)
    font_palettes(font)
    colour_words(font)
    if font.is_variable:
        narrow(font, {"wght": AxisLimit(500, 500)}, {1, 2})
    for chosen in (font, with_sequences_only(font, Sequences(asked), FeatureChoice())):
        for characters in ({0x41, 0x42, 0x43, *map(ord, ASTRONAUT)}, None):
            cut = subset(chosen, characters)
            if cut.characters:
                Font.read(cut.font.write("sfnt"), "made")
    svg_font(subset(font, {0x41, 0x42}).font)


def _drawn_fonts() -> dict[str, Kind]:
    """Fonts with tables that few have, of which these alone are damaged."""
    indices = {f"pictures {n}": pictures(n, 17 + n % 3) for n in range(1, 6)}
    made: dict[str, tuple[Callable[[], bytes], tuple[str, ...]]] = {
        "paints": (lambda: subset(painted_font(), set(map(ord, "ABCQRSTUVab"))).font.write("sfnt"), ("COLR", "CPAL")),
        **{name: (lambda extra=extra: small_font(extra=extra), ("CBLC", "CBDT")) for name, extra in indices.items()},
        "graphics": (lambda: small_font(extra={"sbix": graphics(*_GRAPHICS)}), ("sbix",)),
        "drawings": (
            lambda: small_font(extra={"SVG ": drawings((1, 2, _SVG), (3, 3, gzip.compress(_SVG, mtime=0)))}),
            ("SVG ",),
        ),
        "sequences": (lambda: BY_RULES, ("GSUB", "cmap")),
        "morphing": (lambda: apple_font(SINGLE, CONTEXT, LIGATURE, INSERTION), ("morx",)),
    }
    return {name: Kind(_fonts(source, *tags), _use_drawn) for name, (source, tags) in made.items()}


_SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"><defs><g id="a">'
    b'<rect width="3" height="4" fill="url(#b)"/></g><linearGradient id="b"><stop offset="1"/></linearGradient></defs>'
    b'<g id="glyph1"><use xlink:href="#a"/></g><g id="glyph2"><style>.x { fill: var(--color1) }</style></g>'
    b'<g id="glyph3"><path d="M0 0h9"/></g></svg>'
)
_GRAPHICS = (b"png " + b"\x89PNG\r\n\x1a\n" + bytes(20), b"dupe" + bytes((0, 1)), None)


def _wrapped(seed: int) -> Iterator[bytes]:
    """Web fonts whose inside is damaged, or what holds it."""
    chance = random.Random(seed)
    for _, mutant in mutants(_cut(DEMO_FONTS[0]), seed):
        try:
            font = Font.read(mutant)
            tables = {tag: font.raw(tag) for tag in font}
            is_second = chance.random() < 0.7
            whole = woff2.write(tables, font.flavour, quality=0) if is_second else woff.write(tables, font.flavour)
        except (AksaraError, KeyError, OverflowError, struct.error):
            continue
        harm = chance.random()
        yield changed_bytes(whole, chance) if harm < 0.3 else _repacked(whole, chance) if harm < 0.7 else whole


def _repacked(whole: bytes, chance: random.Random) -> bytes:
    """A WOFF2 with what its compressed stream holds changed; anything else as it is."""
    if not whole.startswith(b"wOF2"):
        return whole
    reader = Reader(whole, 48)
    for _ in range(int.from_bytes(whole[12:14], "big")):
        read_entry(reader)
    size = int.from_bytes(whole[20:24], "big")
    stream = brotli.decompress(whole[reader.position : reader.position + size])
    packed = brotli.compress(changed_bytes(stream, chance)[: len(stream)].ljust(len(stream), b"\0"), quality=1)
    head = bytearray(whole[: reader.position])
    head[8:12] = (len(head) + len(packed)).to_bytes(4, "big")
    head[20:24] = len(packed).to_bytes(4, "big")
    return bytes(head) + packed


def _collections(seed: int) -> Iterator[bytes]:
    chance = random.Random(seed)
    for _, mutant in mutants(_cut(DEMO_FONTS[0]), seed):
        try:
            whole = collection([Font.read(mutant), Font.read(_cut(DEMO_FONTS[1]))])
        except AksaraError:
            continue
        yield changed_bytes(whole, chance) if chance.random() < 0.6 else whole


def _zips(seed: int) -> Iterator[bytes]:
    chance = random.Random(seed)
    methods = (0, 8, 12, 14)
    for _, mutant in mutants(small_font(), seed):
        whole = zipped({"fonts/a.ttf": mutant, "b.otf": small_font(), "LICENCE.txt": b"yes"}, chance.choice(methods))
        yield changed_bytes(whole, chance)


def _in_folder(use: Callable[[bytes, Path], None]) -> Callable[[bytes], None]:
    def used(data: bytes) -> None:
        with tempfile.TemporaryDirectory() as folder:
            use(data, Path(folder))

    return used


def _pages(seed: int) -> Iterator[bytes]:
    texts = [path.read_text() for path in sorted((_DEMO / "site").rglob("*")) if path.suffix in (".html", ".css")]
    sheets = [text for text in texts if not text.startswith("<")]
    for text in spliced([*texts, *(f"<style>{sheet}</style><p>a" for sheet in sheets)], seed):
        yield text.encode("utf-8", "surrogatepass")


def _sites(seed: int) -> Iterator[bytes]:
    parts = (
        '<link rel=stylesheet href="{{ \'part.css\' | asset }}"><h1 class="a {{ b }}">{{ "Hi" | t }}</h1>{% if a %}b',
        "<?php get_header(); ?><p class=k><?php echo 'a'; ?><%= x %><# y #>${z}{# c #}",
        "<template><p :class='x' v-if=\"a\">{{ b }}</p></template><script>let a = {b: '12px Nunito'}</script>",
        "---\nconst a = 1\n---\nexport default () => (<p className='k'>Hi {b ? <b>y</b> : 'n'}</p>)",
        "@font-face { font-family: A; src: url(a.woff2) format('woff2'), url(data:;base64,AA#x) } .k { font: 1em A }",
        "<!-- a --><?x ?><!doctype html><iframe srcdoc='<p>x'></iframe>{#if a}{name}{/if}@if(a(b))@model C\n",
    )
    for text in spliced(parts, seed):
        yield text.encode("utf-8", "surrogatepass")


def _projects(seed: int) -> Iterator[bytes]:
    text = (_DEMO / "aksara.toml").read_text()
    schema = (
        '[site]\npages = ["**/*.html"]\n[output]\nbudget = "9 KB"\nformats = ["woff2"]\n[[family]]\nfonts = ["a"]\n'
    )
    for made in spliced([text, schema], seed):
        yield made.encode("utf-8", "surrogatepass")


_KANNADA, _ARABIC = frozenset(range(0xC80, 0xCB0)), frozenset((0x628, 0x627, 0x644, 0x647, 0x64E))
#: Whole builds: fonts of every kind in all formats, and what else comes from strangers.
OF_STRANGERS = {
    "variable in all formats": Kind(_fonts(lambda: _cut(KARLA, frozenset(map(ord, "ABé")))), use_everything),
    "blends in all formats": Kind(
        _fonts(lambda: subset(with_postscript_outlines(), set(_TEXT)).font.write("sfnt")), use_everything
    ),
    "postscript in all formats": Kind(
        _fonts(lambda: _cut(DEMO_FONTS[0].with_name("PenyuSlab-Regular.otf"))), use_everything
    ),
    "paints in all formats": Kind(
        _fonts(lambda: subset(painted_font(), set(map(ord, "ABCQRSTUVab"))).font.write("sfnt"), "COLR", "CPAL", "fvar",
               "gvar", "glyf"), use_everything
    ),
    "morphing in all formats": Kind(
        _fonts(lambda: apple_font(SINGLE, CONTEXT, LIGATURE, INSERTION), "morx", "kern", "glyf", "loca"), use_everything
    ),
    "boxes in slices": Kind(_fonts(lambda: _cut(DEMO_FONTS[0])), _in_folder(in_slices)),
    "project values": Kind(project_files, _in_folder(use_project)),
    "manifests": Kind(manifests, _in_folder(use_manifest)),
    "cache files": Kind(cache_files, _in_folder(use_cache_file)),
    "font entries": Kind(font_entries, _in_folder(use_font_entry)),
    "servers": Kind(servers, _in_folder(use_server)),
}  # fmt: skip
#: Fonts whose damage is in tables that a font can do without.
DRAWN = _drawn_fonts()
KINDS: dict[str, Kind] = {
    "boxes": Kind(_fonts(small_font), use_font),
    "inspected": Kind(_fonts(small_font), _inspect),
    "truetype": Kind(_fonts(lambda: _cut(DEMO_FONTS[0])), use_font),
    "hinted": Kind(_fonts(lambda: _cut(SYSTEM / "dejavu/DejaVuSans.ttf")), use_font),
    "postscript": Kind(_fonts(lambda: _cut(DEMO_FONTS[0].with_name("PenyuSlab-Regular.otf"))), use_font),
    "kannada": Kind(_fonts(lambda: _cut(SYSTEM / "lohit-kannada/Lohit-Kannada.ttf", _KANNADA)), use_font),
    "arabic": Kind(_fonts(lambda: _cut(_OPEN / "fonts-hosny-amiri/Amiri-Regular.ttf", _ARABIC)), use_font),
    "formulas": Kind(
        _fonts(lambda: _cut(_OPEN / "asana-math/Asana-Math.otf", frozenset((0x2211, 0x28, 0x29, 0x1D465)))), use_font
    ),
    "variable": Kind(_fonts(lambda: _cut(KARLA, frozenset(map(ord, "ABé")))), use_font),
    "blends": Kind(_fonts(lambda: subset(with_postscript_outlines(), set(_TEXT)).font.write("sfnt")), use_font),
    "web fonts": Kind(_wrapped, use_font),
    "collections": Kind(_collections, use_font),
    "zips": Kind(_zips, _use_zip),
    "pages": Kind(_pages, _use_page),
    "sites": Kind(_sites, _use_site),
    "projects": Kind(_projects, _use_project),
    **DRAWN,
    **OF_STRANGERS,
}


def sources() -> dict[str, bytes]:
    """Small fonts of the kinds that differ most, to be damaged."""
    return {
        "truetype": _cut(DEMO_FONTS[0]),
        "hinted": _cut(SYSTEM / "dejavu/DejaVuSans.ttf"),
        "postscript": _cut(DEMO_FONTS[0].with_name("PenyuSlab-Regular.otf")),
        "kannada": _cut(SYSTEM / "lohit-kannada/Lohit-Kannada.ttf", _KANNADA),
        "variable": _cut(KARLA, frozenset(map(ord, "ABé"))),
    }
