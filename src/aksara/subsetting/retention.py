"""Which tables a web font can do without, and why."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

from aksara.font import Font
from aksara.sizes import format_size


@dataclass(slots=True, frozen=True)
class Dropped:
    """A table that was left out: its tag, its size in bytes, and the reason in words."""

    tag: str
    size: int
    reason: str


_REASONS = {
    "DSIG": "the signature does not hold for a changed font",
    "FFTM": "a note of the design program",
    "PfEd": "a note of the design program",
    "EBDT": "embedded bitmaps, which browsers do not use",
    "EBLC": "embedded bitmaps, which browsers do not use",
    "EBSC": "embedded bitmaps, which browsers do not use",
    "bdat": "embedded bitmaps, which browsers do not use",
    "bloc": "embedded bitmaps, which browsers do not use",
    "bhed": "embedded bitmaps, which browsers do not use",
    "TTFA": "a note of the hinting program",
    "BDF ": "notes on embedded bitmaps",
    "PCLT": "for printers",
    "JSTF": "no browser justifies with it",
    "TSI0": "source of the hinting",
    "TSI1": "source of the hinting",
    "TSI2": "source of the hinting",
    "TSI3": "source of the hinting",
    "TSI5": "source of the hinting",
    "STAT": "only variable fonts need it",
    "meta": "notes on languages for font menus",
}

# What browsers use, and what is cut down with the glyphs, or does not speak of them.
_KEPT = {
    *("head", "hhea", "maxp", "OS/2", "name", "post", "cmap", "hmtx", "loca", "glyf", "CFF ", "kern", "vhea", "vmtx"),
    *("VORG", "cvt ", "fpgm", "prep", "gasp", "hdmx", "LTSH", "VDMX", "BASE", "GDEF", "GPOS", "GSUB", "MATH"),
}
#: The programs that hint TrueType outlines, and what belongs to them; 'gasp' is adapted.
HINT_TABLES = frozenset({"fpgm", "prep", "cvt ", "cvar", "hdmx", "LTSH", "VDMX"})

_UNKNOWN = "no browser uses it"
# Apple's layout tables count only where the OpenType ones are missing.
_APPLE_SUBSTITUTION = frozenset({"morx", "mort", "feat", "prop"})
_APPLE_POSITIONING = frozenset({"kerx", "opbd", "bsln", "lcar", "trak", "ankr"})
# Graphite, which one browser uses instead of the OpenType tables where a font has both.
_GRAPHITE = frozenset({"Silf", "Glat", "Gloc", "Feat", "Sill"})


def tables_to_drop(
    font: Font, characters: Iterable[int], *, hints: bool = True
) -> tuple[tuple[Dropped, ...], list[str]]:
    """The tables that a web font with these characters does without; and warnings of what that may change."""
    sizes = font.sizes()
    mathematical = any(map(is_mathematical, characters))
    dropped: list[Dropped] = []
    for tag in sorted(sizes):
        reason = _reason(tag, sizes, mathematical=mathematical)
        if reason is None and not hints and tag in HINT_TABLES:
            reason = "hints are dropped"
        if reason is not None:
            dropped.append(Dropped(tag, sizes[tag], reason))
    warnings = []
    if "Silf" in sizes and "GSUB" not in sizes:
        warnings.append("it is shaped by Graphite only, which is left out: letters will not join or combine as they do")
    unknown = [f"'{item.tag}' ({format_size(item.size)})" for item in dropped if item.reason == _UNKNOWN]
    if unknown:
        many = "tables that are" if len(unknown) > 1 else "a table that is"
        warnings.append(f"{many} not known here, and not used by browsers, left out: {', '.join(unknown)}")
    return tuple(dropped), warnings


def numbers_must_stay(font: Font, dropped: Collection[str]) -> bool:
    """Whether tables are kept that speak of glyphs by number and are not written anew: Apple's."""
    return any(tag in font and tag not in dropped for tag in _APPLE_SUBSTITUTION | _APPLE_POSITIONING)


def _reason(tag: str, present: Collection[str], *, mathematical: bool) -> str | None:
    if tag in _REASONS:
        return _REASONS[tag]
    if tag in _APPLE_SUBSTITUTION:
        return "the OpenType tables do the same" if "GSUB" in present else None
    if tag in _APPLE_POSITIONING:
        return "the OpenType tables do the same" if "GPOS" in present else None
    if tag in _GRAPHITE:
        return "Graphite, which most browsers do not use"
    if tag == "MATH" and not mathematical:
        return "no mathematical character is kept"
    return None if tag in _KEPT else _UNKNOWN


def is_mathematical(code: int) -> bool:
    """Operators and mathematical letters (blocks Mathematical Operators, Supplemental…, Alphanumeric Symbols)."""
    return (
        0x2200 <= code <= 0x22FF or 0x27C0 <= code <= 0x27EF or 0x2980 <= code <= 0x2AFF or 0x1D400 <= code <= 0x1D7FF
    )
