"""About how many bytes of a compressed file each character takes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Mapping

from msgspec import Struct, field

from aksara.compressibility import compressed_size
from aksara.font import Font, postscript_outlines
from aksara.subsetting import FeatureChoice, SubsetOptions, find_kept_tables
from aksara.tables import Glyf, ShapingTable
from aksara.tables.glyf import without_program
from aksara.truetype.glyph_data import contour_count

#: Bytes of a file with next to no characters: its header, names, metrics; its programs for hints come on top.
_FILE = 700.0
_PROGRAMS = ("fpgm", "prep", "cvt ")
#: Bytes of a character's advance and its places in tables, compressed.
_ENTRY = 4.0
#: Other forms of a glyph that are counted.
_MOST_FORMS = 40
#: Outlines whose compressed size stands for that of all.
_SAMPLE = 400


class Sizes(Struct, frozen=True, kw_only=True):
    """About how many bytes characters take in a file, and a file without any.

    `of_character` is what each takes by itself (by its code point), `parts` the components that it is drawn with, and
    `of_part` what each of these takes in a file, once, however many characters share it.
    """

    of_character: Mapping[int, float]
    of_file: float = _FILE
    parts: Mapping[int, frozenset[int]] = field(default_factory=dict)
    of_part: Mapping[int, float] = field(default_factory=dict)

    def of(self, codes: Collection[int]) -> float:
        """About the bytes that these characters take in one file."""
        own = sum(self.of_character.get(code, 0.0) for code in codes)
        return own + sum(self.of_part[part] for part in sorted(self.parts_of(codes)))

    def parts_of(self, codes: Iterable[int]) -> set[int]:
        """The components that any of these characters is drawn with."""
        return {part for code in codes for part in self.parts.get(code, ())}


def font_sizes(font: Font, characters: Collection[int], features: FeatureChoice, *, hints: bool) -> Sizes:
    """The sizes of these characters of a font with some features, and of a file of it, with `hints` or without."""
    programs = b"".join(font.raw(tag) for tag in _PROGRAMS if tag in font) if hints else b""
    of_file = _FILE + (compressed_size(programs) if programs else 0)
    outlines = font.table(Glyf).glyphs if Glyf.TAG in font else font.table(postscript_outlines(font)).charstrings
    glyphs = {code: font.characters[code] for code in sorted(characters) if code in font.characters}
    glyphs = {code: glyph for code, glyph in glyphs.items() if glyph < len(outlines)}
    used = sorted(set(glyphs.values()))
    sample = [outlines[glyph] for glyph in used[:: max(len(used) // _SAMPLE, 1)]]
    written = sample if hints or Glyf.TAG not in font else [_without_program(glyph) for glyph in sample]
    ratio = compressed_size(b"".join(written)) / max(sum(map(len, sample)), 1)
    if "gvar" in font and (size := sum(map(len, outlines))):
        ratio *= 1 + len(font.raw("gvar")) / size
    forms = _forms(font, characters, features)
    drawn = {code: _drawn_with(font, {glyph, *forms.get(glyph, ())}) for code, glyph in glyphs.items()}
    # What several characters need is in a file once; most glyphs are those of one character.
    uses = Counter(glyph for found in drawn.values() for glyph in found)
    parts = {code: frozenset(glyph for glyph in found if uses[glyph] > 1) for code, found in drawn.items()}
    return Sizes(
        of_character={
            code: _ENTRY + ratio * sum(len(outlines[glyph]) for glyph in sorted(found - parts[code]))
            for code, found in drawn.items()
        },
        of_file=of_file,
        parts={code: found for code, found in parts.items() if found},
        of_part={glyph: ratio * len(outlines[glyph]) for glyph, count in uses.items() if count > 1},
    )


def _without_program(glyph: bytes) -> bytes:
    return without_program(glyph) if contour_count(glyph) > 0 else glyph


def _forms(font: Font, characters: Collection[int], features: FeatureChoice) -> dict[int, list[int]]:
    """Glyph → the glyphs that it can become, or become a part of, in one step."""
    kept = find_kept_tables(font, set(characters), SubsetOptions(features=features))
    forms: dict[int, list[int]] = {}
    for table in (table for table in kept.tables if isinstance(table, ShapingTable)):
        for form in table.forms(kept.features):
            if len(listed := forms.setdefault(form.glyph, [])) < _MOST_FORMS:
                listed.append(form.form)
    return forms


def _drawn_with(font: Font, glyphs: set[int]) -> frozenset[int]:
    """These glyphs, as far as they are there, and the components that they are drawn with."""
    if Glyf.TAG not in font:
        return frozenset(glyph for glyph in glyphs if glyph < font.num_glyphs)
    glyf = font.table(Glyf)
    found = {glyph for glyph in glyphs if glyph < len(glyf.glyphs)}
    for glyph in tuple(found):
        if glyf.is_composite(glyph):
            _parts(glyf, glyph, found)
    return frozenset(found)


def _parts(glyf: Glyf, glyph: int, parts_so_far: set[int]) -> set[int]:
    for component in glyf.composite(glyph).components:
        part = component.glyph
        if part not in parts_so_far and part < len(glyf.glyphs):
            parts_so_far.add(part)
            if glyf.is_composite(part):
                _parts(glyf, part, parts_so_far)
    return parts_so_far
