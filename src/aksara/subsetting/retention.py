"""Which tables a web font can do without, and why."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from aksara.font import Font


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
    "PCLT": "for printers",
    "JSTF": "no browser justifies with it",
    "TSI0": "source of the hinting",
    "TSI1": "source of the hinting",
    "TSI2": "source of the hinting",
    "TSI3": "source of the hinting",
    "TSI5": "source of the hinting",
}

# What browsers use, or may, and what is right with unchanged glyph numbers.
_KEPT = {
    *("head", "hhea", "maxp", "OS/2", "name", "post", "cmap", "hmtx", "loca", "glyf", "kern", "vhea", "vmtx", "VORG"),
    *("cvt ", "fpgm", "prep", "gasp", "hdmx", "LTSH", "VDMX", "BASE", "GDEF", "GPOS", "GSUB", "MATH", "STAT", "meta"),
    *("Silf", "Glat", "Gloc", "Feat", "Sill"),
}

# Apple's layout tables count only where the OpenType ones are missing.
_APPLE_SUBSTITUTION = frozenset({"morx", "mort", "feat", "prop"})
_APPLE_POSITIONING = frozenset({"kerx", "opbd", "bsln", "lcar", "trak", "ankr"})


def tables_to_drop(font: Font, characters: Iterable[int]) -> tuple[Dropped, ...]:
    """The tables that a web font with these characters does without."""
    sizes = font.sizes()
    mathematical = any(_is_mathematical(code) for code in characters)
    dropped: list[Dropped] = []
    for tag in sorted(sizes):
        reason = _reason(tag, sizes, mathematical=mathematical)
        if reason is not None:
            dropped.append(Dropped(tag, sizes[tag], reason))
    return tuple(dropped)


def _reason(tag: str, present: Iterable[str], *, mathematical: bool) -> str | None:
    if tag in _REASONS:
        return _REASONS[tag]
    if tag in _APPLE_SUBSTITUTION:
        return "the OpenType tables do the same" if "GSUB" in present else None
    if tag in _APPLE_POSITIONING:
        return "the OpenType tables do the same" if "GPOS" in present else None
    if tag == "MATH" and not mathematical:
        return "no mathematical character is kept"
    return None if tag in _KEPT else "no browser uses it"


def _is_mathematical(code: int) -> bool:
    """Operators and mathematical letters (blocks Mathematical Operators, Supplemental…, Alphanumeric Symbols)."""
    return (
        0x2200 <= code <= 0x22FF or 0x27C0 <= code <= 0x27EF or 0x2980 <= code <= 0x2AFF or 0x1D400 <= code <= 0x1D7FF
    )
