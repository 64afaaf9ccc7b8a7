"""About how many bytes of a compressed file each character takes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from aksara.compressibility import compressed_size
from aksara.font import Font, postscript_outlines
from aksara.tables import Glyf

#: Bytes of a file with next to no characters: its header, names, metrics; its programs for hints come on top.
_FILE = 700.0
_PROGRAMS = ("fpgm", "prep", "cvt ")
#: Bytes of a character's advance and its places in tables, compressed.
_ENTRY = 4.0
#: Outlines whose compressed size stands for that of all.
_SAMPLE = 400


@dataclass(slots=True, frozen=True)
class Sizes:
    """About how many bytes each character takes (by its code point), and a file without any."""

    of_character: Mapping[int, float]
    of_file: float = _FILE

    def of(self, codes: Iterable[int]) -> float:
        """About the bytes that these characters take."""
        return sum(self.of_character.get(code, 0.0) for code in codes)


def font_sizes(font: Font, characters: Collection[int], *, hints: bool) -> Sizes:
    """The sizes of these characters of a font, and of a file of it, with `hints` or without."""
    programs = b"".join(font.raw(tag) for tag in _PROGRAMS if tag in font) if hints else b""
    return Sizes(_character_bytes(font, characters), _FILE + (compressed_size(programs) if programs else 0))


def _character_bytes(font: Font, characters: Collection[int]) -> dict[int, float]:
    """About how many bytes each of these characters takes, of those that the font has."""
    glyphs = {code: font.characters[code] for code in sorted(characters) if code in font.characters}
    outlines = font.table(Glyf).glyphs if Glyf.TAG in font else font.table(postscript_outlines(font)).charstrings
    used = sorted({glyph for glyph in glyphs.values() if glyph < len(outlines)})
    sample = b"".join(outlines[glyph] for glyph in used[:: max(len(used) // _SAMPLE, 1)])
    ratio = compressed_size(sample) / len(sample) if sample else 1.0
    components = _component_sizes(font, used) if Glyf.TAG in font else {}
    if "gvar" in font and (size := sum(map(len, outlines))):
        ratio *= 1 + len(font.raw("gvar")) / size
    return {
        code: _ENTRY + ratio * (len(outlines[glyph]) + components.get(glyph, 0.0))
        for code, glyph in glyphs.items()
        if glyph < len(outlines)
    }


def _component_sizes(font: Font, glyphs: Collection[int]) -> dict[int, float]:
    """Of composite glyphs the bytes of their components, which they share with others in the same file."""
    glyf = font.table(Glyf)
    parts = {glyph: _parts(glyf, glyph, set()) for glyph in glyphs if glyf.is_composite(glyph)}
    uses = Counter(part for found in parts.values() for part in found)
    # A component with many uses has some in each file.
    return {
        glyph: sum(len(glyf.glyphs[part]) / uses[part] ** 0.5 for part in found - parts.keys())
        for glyph, found in parts.items()
    }


def _parts(glyf: Glyf, glyph: int, found: set[int]) -> set[int]:
    for component in glyf.composite(glyph).components:
        part = component.glyph
        if part not in found and part < len(glyf.glyphs):
            found.add(part)
            if glyf.is_composite(part):
                _parts(glyf, part, found)
    return found


def mean_sizes(of_fonts: Sequence[Sizes]) -> Sizes:
    """The means, of characters over the fonts that have them."""
    total: Counter[int] = Counter()
    counts: Counter[int] = Counter()
    for sizes in of_fonts:
        for code, size in sizes.of_character.items():
            total[code] += size  # type: ignore[assignment]
            counts[code] += 1
    mean = {code: total[code] / counts[code] for code in total}
    return Sizes(mean, sum(sizes.of_file for sizes in of_fonts) / max(len(of_fonts), 1))
