"""'cmap' format 14: Unicode variation sequences (OpenType, "Unicode variation sequences")."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from itertools import groupby

from msgspec import Struct

from aksara.binary import Reader

_HEADER, _RECORD = 10, 11
#: Variation selectors 17 to 256.
IDEOGRAPHIC_SELECTORS = range(0xE0100, 0xE01F0)


class VariationSequences(Struct, frozen=True):
    """Selector → base character → glyph, or None where the base's own glyph is used."""

    sequences: Mapping[int, Mapping[int, int | None]]

    def subset(
        self, characters: Collection[int], new_ids: Mapping[int, int] | None = None
    ) -> VariationSequences | None:
        """The sequences of kept base characters, or None if none is left.

        `new_ids` is old glyph ID → new, if they change.
        """
        kept = {
            selector: {
                base: new_ids.get(glyph, 0) if new_ids is not None and glyph is not None else glyph
                for base, glyph in bases.items()
                if base in characters
            }
            for selector, bases in self.sequences.items()
        }
        kept = {selector: bases for selector, bases in kept.items() if bases}
        return VariationSequences(kept) if kept else None

    def asked_for(self, characters: Collection[int]) -> VariationSequences | None:
        """Without ideographic variation sequences (Unicode Technical Standard 37) whose selectors are not among these
        characters: they show one form of an ideograph, and only where a text has the selector. None if none is left."""
        kept = {
            selector: bases
            for selector, bases in self.sequences.items()
            if selector not in IDEOGRAPHIC_SELECTORS or selector in characters
        }
        return VariationSequences(kept) if kept else None

    def glyphs(self) -> set[int]:
        """Glyphs that only a sequence shows."""
        return {glyph for bases in self.sequences.values() for glyph in bases.values() if glyph is not None}


def parse(reader: Reader) -> VariationSequences:
    """The subtable at the cursor."""
    start = reader.position
    reader.take(6, "the header of format 14")
    sequences: dict[int, dict[int, int | None]] = {}
    for _ in range(reader.u32()):
        selector, default_offset, other_offset = reader.u24(), reader.u32(), reader.u32()
        bases = sequences.setdefault(selector, {})
        if default_offset:
            part = reader.at(start + default_offset)
            for _ in range(part.u32()):
                first, more = part.u24(), part.u8()
                reader.work.spend_numbers(more)
                bases.update(dict.fromkeys(range(first, first + more + 1)))
        if other_offset:
            part = reader.at(start + other_offset)
            for _ in range(part.u32()):
                base, glyph = part.u24(), part.u16()
                bases[base] = glyph
    return VariationSequences(sequences)


def compile(table: VariationSequences) -> bytes:
    """The subtable in format 14."""
    selectors = sorted(table.sequences)
    offset = _HEADER + _RECORD * len(selectors)
    head, body = b"", b""
    for selector in selectors:
        bases = table.sequences[selector]
        default = _ranges(sorted(base for base, glyph in bases.items() if glyph is None))
        other = [(base, glyph) for base, glyph in sorted(bases.items()) if glyph is not None]
        parts = (
            b"".join(first.to_bytes(3, "big") + more.to_bytes(1, "big") for first, more in default),
            b"".join(base.to_bytes(3, "big") + glyph.to_bytes(2, "big") for base, glyph in other),
        )
        head += selector.to_bytes(3, "big")
        for part, count in zip(parts, (len(default), len(other)), strict=True):
            head += (offset + len(body) if count else 0).to_bytes(4, "big")
            body += count.to_bytes(4, "big") + part if count else b""
    return b"\0\x0e" + (offset + len(body)).to_bytes(4, "big") + len(selectors).to_bytes(4, "big") + head + body


def _ranges(codes: list[int]) -> list[tuple[int, int]]:
    """First code and how many more, at most 255 at a time."""
    ranges: list[tuple[int, int]] = []
    for _, group in groupby(enumerate(codes), key=lambda pair: pair[1] - pair[0]):
        run = [code for _, code in group]
        ranges += [(run[i], min(255, len(run) - 1 - i)) for i in range(0, len(run), 256)]
    return ranges
