"""Whether a web font draws what its source does: compared in FreeType, and shaped by HarfBuzz (Pillow's raqm).

Used by the tests on their corpus, and by `make fidelity` on any folder of fonts.
"""

from __future__ import annotations

import ctypes
import io
import math
import random
import unicodedata
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import suppress
from functools import cache, lru_cache

import freetype
import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace
from numpy.typing import NDArray
from PIL import Image, ImageFont

from aksara import container
from aksara.container import FontFormat
from aksara.errors import TableUnread
from aksara.font import Font
from aksara.subsetting import Subset, SubsetOptions, subset
from aksara.tables import Cmap, Fvar, Gpos, Gsub, Kern
from aksara.tables.layout.gpos import ClassPairs, GlyphPairs
from aksara.tables.layout.gsub import LigatureSubstitution
from aksara.tables.layout.lookups import Lookup

#: FreeType makes hints of its own, from whatever letters the font has, for a TrueType font without programs worth the
#: name. One that does nothing (pushes a number, drops it) keeps it from that, so that fonts can be compared.
IDLE_PROGRAM = b"\xb0\x00\x21" * 4
SIZE = 37
#: The bits of a point's tag that say what it is.
_KINDS = bytes(tag & 3 for tag in range(256))
#: Tables that only say which glyphs text is set in and where, and those that only draw them.
_OF_TEXT, _OF_OUTLINES = (
    frozenset({"GDEF", "GPOS", "GSUB", "kern"}),
    frozenset({"CFF ", "CFF2", "glyf", "gvar", "loca"}),
)
#: Random ones, besides those that are made for pairs and ligatures.
MOST_TEXTS = 60
TEXTS = ("AVATAR Tokyo Wave", "ffi fl fj ffl fi", "1/2 3⁄4 10 000", "“quoted” — it’s", "L’Été à Zürich, ijsberg")


class Difference(Struct):
    """Something that is not the same; `where` is a glyph, character or text."""

    what: str
    where: str


class Comparison(Struct):
    """One font and one subset of it. `features` are tried one by one besides the default ones.

    A variable font is compared at `location`: axis tag → value in the axis's own units. `part` says which texts are
    set: from the first number on every so-many-th, so that each is set somewhere when there are many locations.
    """

    source: Font
    cut: Subset
    features: tuple[str, ...] = ()
    seed: int = 1
    location: Mapping[str, float] = field(default_factory=dict)
    part: tuple[int, int] = (0, 1)
    differences: list[Difference] = field(default_factory=list)

    def run(self) -> list[Difference]:
        self.outlines()
        self.shaping()
        return self.differences

    def run_variant(self, variant: Font) -> list[Difference]:
        """The same of a font that differs from the compared one in a table or two: only what these tables do."""
        changed = {tag for tag in variant if variant.raw(tag) != self.cut.font.raw(tag)}
        other = replace(self, cut=replace(self.cut, font=variant), differences=[])
        if changed - _OF_TEXT:
            other.outlines()
        if changed - _OF_OUTLINES:
            other.shaping()
        return other.differences

    def _differ(self, what: str, where: object) -> None:
        self.differences.append(Difference(what, str(where)))

    # ---- FreeType

    def outlines(self) -> None:
        """Outlines, advances and vertical metrics of every kept glyph, in font units; and which character has it."""
        result = self._face(self.cut.font.write("sfnt", effort="fast"))
        drawn_before = self._drawn_source()
        for new, old in enumerate(self.cut.glyphs):
            if old is not None and drawn_before(old) != _drawn(result, new):
                self._differ("outline or metrics", f"glyph {old}")
        numbers = {old: new for new, old in enumerate(self.cut.glyphs) if old is not None}
        symbol = self.cut.font.table(Cmap).is_symbol
        if symbol:
            result.select_charmap(freetype.FT_ENCODING_MS_SYMBOL)
        for code, old in self.cut.characters.items():
            found = result.get_char_index(code) or (result.get_char_index(0xF000 | code & 0xFF) if symbol else 0)
            if found != numbers[old]:
                self._differ("character shows another glyph", f"U+{code:04X}")

    def _drawn_source(self) -> Callable[[int], object]:
        """What the source draws; without a location it is kept for the next subset of the same font."""
        if not self.location:
            return _glyphs_of(self.source)
        face = self._face(whole(self.source))
        return lambda glyph: _drawn(face, glyph)

    def _face(self, data: bytes) -> freetype.Face:
        face = freetype.Face(io.BytesIO(data))
        if self.location:
            face.set_var_design_coords(self._coordinates(self.source))
        return face

    def _coordinates(self, font: Font) -> list[float]:
        return [self.location[axis.tag] for axis in font.table(Fvar).axes]

    # ---- HarfBuzz

    def shaping(self) -> None:
        set_before = _setter(self.source, tuple(self._coordinates(self.source)) if self.location else ())
        after = _raqm(self.cut.font, font_format="woff2")
        if self.location:
            after.set_variation_by_axes(self._coordinates(self.cut.font))
        rng = random.Random(self.seed)
        first_text, step = self.part
        chosen = texts(self.source, self.cut.characters, rng)[first_text % step :: step]
        for number, text in enumerate(chosen):
            for wanted, direction in self._settings(text, number):
                first = set_before(text, wanted, direction)
                if first is not None and first != _set(after, text, wanted, direction):
                    self._differ(f"shaped text {wanted or ''} {direction or ''}".strip(), _shown(text))

    def _settings(self, text: str, number: int) -> Iterator[tuple[tuple[str, ...] | None, str | None]]:
        """Features and direction to set the text with: one more or less with each text."""
        yield None, None
        if number % 4 == 0:
            yield ("-kern", "-liga"), None
        if any(0x3000 <= ord(letter) <= 0x9FFF for letter in text):
            yield None, "ttb"
        if self.features:
            yield (self.features[number % len(self.features)],), None


def at_place(font: Font, place: Mapping[str, float]) -> freetype.Face:
    """The font in FreeType, at that place, as large as its em has units: so a pixel is a unit, of which it draws 64
    parts."""
    face = freetype.Face(io.BytesIO(font.write("sfnt", effort="fast")))
    face.set_pixel_sizes(0, face.units_per_EM)
    if font.is_variable:
        face.set_var_design_coords([place[axis.tag] for axis in font.table(Fvar).axes])
    return face


def unhinted(face: freetype.Face, glyph: int) -> tuple[NDArray[np.float64], float]:
    """The points of a glyph (P by 2) and its advance, in units."""
    # Of PostScript outlines FreeType gives parts of a unit only if it may hint them.
    flags = freetype.FT_LOAD_NO_AUTOHINT if face.get_format() == b"CFF" else freetype.FT_LOAD_NO_HINTING
    face.load_glyph(glyph, flags)
    outline = face.glyph.outline
    points, kept, start = np.array(outline.points, float).reshape(-1, 2) / 64, [], 0
    for end in outline.contours:
        contour, start = points[start : end + 1], end + 1
        # Whether a contour closes by itself depends on whether its last point is just where the first is.
        kept.append(contour[:-1] if len(contour) > 1 and np.abs(contour[0] - contour[-1]).max() <= 1 else contour)
    return np.concatenate(kept) if kept else points, face.glyph.linearHoriAdvance / 65536


def farthest(source: Font, result: Font, place: Mapping[str, float], glyphs: Iterable[int] | None = None) -> float:
    """How many units points and advances of the two are apart, at most; of these glyphs, under the same IDs."""
    if "CFF2" in source:
        source, result = (
            subset(font, None, SubsetOptions(hints=False, keep_glyph_ids=True)).font for font in (source, result)
        )
    before, after = at_place(source, place), at_place(result, place)
    worst = 0.0
    for glyph in range(before.num_glyphs) if glyphs is None else sorted(glyphs):
        (old, advance), (new, other) = unhinted(before, glyph), unhinted(after, glyph)
        worst = max(worst, abs(advance - other))
        if old.shape == new.shape and len(old):
            worst = max(worst, float(np.abs(old - new).max()))
        elif old.shape != new.shape and abs(len(old) - len(new)) > 2:
            return math.inf
    return worst


@lru_cache(maxsize=6)
def whole(font: Font, font_format: FontFormat = "sfnt") -> bytes:
    """The font file, with a program that does nothing if it is TrueType and has none."""
    tables = {tag: font.raw(tag) for tag in font}
    if "glyf" in tables and "fpgm" not in tables:
        tables["prep"] = tables.get("prep", b"") + IDLE_PROGRAM
    return container.write(font_format, tables, font.flavour, effort="fast")


def _drawn(face: freetype.Face, glyph: int) -> object:
    try:
        face.load_glyph(glyph, freetype.FT_LOAD_NO_SCALE)
    except freetype.FT_Exception as error:
        return str(error)
    slot = face.glyph
    outline, metrics = slot.outline._FT_Outline, slot.metrics
    vertical = (metrics.vertAdvance, metrics.vertBearingX, metrics.vertBearingY) if face.has_vertical else ()
    # As bytes: a list of a font's points takes ten times as long as all else here.
    points = ctypes.string_at(outline.points, outline.n_points * ctypes.sizeof(freetype.FT_Vector))
    kinds = ctypes.string_at(outline.tags, outline.n_points).translate(_KINDS)
    contours = ctypes.string_at(outline.contours, outline.n_contours * ctypes.sizeof(ctypes.c_short))
    return points, kinds, contours, slot.advance.x, vertical


@lru_cache(maxsize=1)
def _glyphs_of(font: Font) -> Callable[[int], object]:
    face = freetype.Face(io.BytesIO(whole(font)))
    return cache(lambda glyph: _drawn(face, glyph))


def _raqm(font: Font, font_format: FontFormat = "sfnt") -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(io.BytesIO(whole(font, font_format)), SIZE, layout_engine=ImageFont.Layout.RAQM)


@lru_cache(maxsize=1)
def _setter(font: Font, coordinates: tuple[float, ...]) -> Callable[..., object]:
    """Sets text in the source, each once: all subsets of a font are compared with it. None for what cannot be set,
    which says nothing of a subset."""
    renderer = _raqm(font)
    if coordinates:
        renderer.set_variation_by_axes(list(coordinates))

    @cache
    def set_text(text: str, features: tuple[str, ...] | None, direction: str | None) -> object:
        with suppress(ValueError, OSError):
            return _set(renderer, text, features, direction)
        return None

    return set_text


def _set(font: ImageFont.FreeTypeFont, text: str, features: tuple[str, ...] | None, direction: str | None) -> object:
    mask, offset = font.getmask2(text, features=features, direction=direction)
    picture = Image.Image()._new(mask).tobytes() if all(mask.size) else b""
    return font.getlength(text, features=features, direction=direction), mask.size, offset, picture


def _shown(text: str) -> str:
    return " ".join(f"{ord(letter):04X}" for letter in text) + f" ({text})"


def texts(font: Font, characters: Mapping[int, int], rng: random.Random) -> list[str]:
    """Texts of these characters in which something may happen: pairs, ligatures, joining, marks, conjuncts."""
    found = [text for text in TEXTS if all(ord(letter) in characters for letter in text)]
    code_of = {glyph: chr(code) for code, glyph in characters.items()}
    found += _ligature_texts(font, code_of, rng) + _pair_texts(font, code_of, rng)
    groups: dict[str, list[str]] = {}
    for code in characters:
        if code > 0x20 and unicodedata.category(chr(code))[0] not in "CZ":
            groups.setdefault(_group(code), []).append(chr(code))
    more = []
    for letters in groups.values():
        marks = [letter for letter in letters + groups.get("COMBINING", []) if unicodedata.category(letter)[0] == "M"]
        for _ in range(12):
            more.append("".join(rng.choices(letters, k=7)))
            if marks:
                pairs = zip(rng.choices(letters, k=4), rng.choices(marks, k=4), strict=True)
                more.append("".join(a + b for a, b in pairs))
    everything = [letter for letters in groups.values() for letter in letters]
    space = " " if 0x20 in characters else ""
    more += [space.join("".join(rng.choices(everything, k=2)) for _ in range(8)) for _ in range(6 if everything else 0)]
    return found + rng.sample(more, min(len(more), MOST_TEXTS))


def _group(code: int) -> str:
    """The script, as the first word of the name of a letter or mark tells it; signs are one group."""
    if unicodedata.category(chr(code))[0] not in "LM":
        return "SIGNS"
    return unicodedata.name(chr(code), "OTHER").split()[0]


def _pair_texts(font: Font, code_of: Mapping[int, str], rng: random.Random) -> list[str]:
    """Texts of pairs that the font kerns, whose glyphs have characters."""
    found: set[str] = set()
    if "kern" in font:
        for subtable in font.table(Kern).subtables:
            pairs = (pair for pair in subtable.pairs.tolist() if pair[0] in code_of and pair[1] in code_of)
            found |= {code_of[left] + code_of[right] for left, right, _ in pairs}
    lookups: list[Lookup] = []
    if "GPOS" in font:
        with suppress(TableUnread):
            lookups = list(font.table(Gpos).lookups)
    for lookup in lookups:
        for subtable in lookup.subtables:
            if isinstance(subtable, GlyphPairs):
                for first in subtable.pairs.keys() & code_of.keys():
                    found |= {code_of[first] + code_of[s] for s in subtable.pairs[first].keys() & code_of.keys()}
            elif isinstance(subtable, ClassPairs):
                seconds = [code_of[glyph] for glyph in subtable.classes2 if glyph in code_of]
                for first in subtable.covered & code_of.keys():
                    found |= {code_of[first] + second for second in rng.sample(sorted(seconds), min(len(seconds), 5))}
    chosen = rng.sample(sorted(found), min(len(found), 150))
    return ["".join(chosen[at : at + 5]) for at in range(0, len(chosen), 5)]


def _ligature_texts(font: Font, code_of: Mapping[int, str], rng: random.Random) -> list[str]:
    """Texts for ligatures of the font whose components have characters."""
    if "GSUB" not in font:
        return []
    found = set()
    for lookup in font.table(Gsub).lookups:
        for subtable in lookup.subtables:
            if isinstance(subtable, LigatureSubstitution):
                for first, ligatures in subtable.ligatures.items():
                    for rest, _ in ligatures:
                        glyphs = (first, *rest)
                        if all(glyph in code_of for glyph in glyphs):
                            found.add("".join(code_of[glyph] for glyph in glyphs))
    chosen = sorted(found)
    return rng.sample(chosen, min(len(chosen), 25))
