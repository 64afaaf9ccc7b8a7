"""'cmap': which glyph draws which character (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Mapping, Set
from contextlib import suppress
from typing import ClassVar, Self

from msgspec import Struct

from aksara.binary import Reader, Writer
from aksara.tables.base import FontTables, Table
from aksara.tables.cmap import format4, format12, variation_sequences
from aksara.tables.cmap.reading import READERS, StoredMapping
from aksara.tables.cmap.variation_sequences import VariationSequences
from aksara.tables.platforms import MACINTOSH, UNICODE, WINDOWS
from aksara.tables.subsetting import SubsetContext

_SYMBOL, _BMP, _FULL, _VARIATION_SEQUENCES = 0, 1, 10, 5
_SYMBOL_AREA = 0xF000
_FORMAT_14 = 14

# Encodings older than Unicode, by the name of Python's codec: only fonts that have nothing better are read by these.
_CODECS = {
    (WINDOWS, 2): "cp932",
    (WINDOWS, 3): "gbk",
    (WINDOWS, 4): "cp950",
    (WINDOWS, 5): "cp949",
    (WINDOWS, 6): "johab",
    (MACINTOSH, 0): "mac_roman",
}
# Best first; the Unicode platform's encodings differ only in how old a Unicode they promise.
_PREFERENCE = (
    (WINDOWS, _FULL),
    *((UNICODE, e) for e in (6, 4, 3, 2, 1, 0)),
    (WINDOWS, _BMP),
    (WINDOWS, _SYMBOL),
    *_CODECS,
)


class CmapSubtable(Struct):
    """One mapping from character codes to glyphs; glyph 0 means "none" and is left out.

    `language` matters only on the Macintosh platform.
    """

    platform: int
    encoding: int
    mapping: Mapping[int, int]
    language: int = 0


class Cmap(Table, frozen=True):
    """The subtables by platform and encoding, and the variation sequences (format 14), if any."""

    TAG: ClassVar[str] = "cmap"

    subtables: list[CmapSubtable]
    variations: VariationSequences | None = None

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data, 2)
        records = [(reader.u16(), reader.u16(), reader.u32()) for _ in range(reader.u16())]
        read: dict[int, StoredMapping] = {}
        subtables: list[CmapSubtable] = []
        sequences = None
        for platform, encoding, offset in records:
            subtable_format = reader.at(offset).u16()
            if subtable_format == _FORMAT_14:
                sequences = sequences or variation_sequences.parse(reader.at(offset))
            elif subtable_format in READERS:
                if offset not in read:
                    read[offset] = StoredMapping(subtable_format, reader.at(offset))
                subtables.append(CmapSubtable(platform, encoding, read[offset], read[offset].language))
        # The order that the specification asks for, and not all fonts have.
        subtables.sort(key=lambda sub: (sub.platform, sub.encoding))
        return cls(subtables, sequences)

    def compile(self) -> bytes:
        """Each mapping in format 4, or in format 12 beyond 16 bits or where format 4 does not fit."""
        entries: list[tuple[int, int, bytes]] = []
        for sub in self.subtables:
            wide = (sub.encoding == _FULL and sub.platform == WINDOWS) or any(code > 0xFFFF for code in sub.mapping)
            body = None if wide else format4.compile(sub.mapping, sub.language)
            entries.append((sub.platform, sub.encoding, body or format12.compile(sub.mapping, sub.language)))
        if self.variations is not None:
            entries.append((UNICODE, _VARIATION_SEQUENCES, variation_sequences.compile(self.variations)))
        entries.sort(key=lambda entry: entry[:2])
        header, bodies = Writer().u16(0, len(entries)), Writer()
        first = len(header) + 8 * len(entries)
        offsets: dict[bytes, int] = {}
        for platform, encoding, body in entries:
            if body not in offsets:
                offsets[body] = first + len(bodies)
                bodies.append(body)
            header.u16(platform, encoding).u32(offsets[body])
        return bytes(header) + bytes(bodies)

    @property
    def best(self) -> CmapSubtable | None:
        """The subtable that browsers use; None if they can use none."""
        by_encoding = {(sub.platform, sub.encoding): sub for sub in reversed(self.subtables)}
        return next((by_encoding[key] for key in _PREFERENCE if key in by_encoding), None)

    @property
    def is_symbol(self) -> bool:
        """Whether it is a symbol font's, whose codes mean nothing but their glyphs."""
        best = self.best
        return best is not None and (best.platform, best.encoding) == (WINDOWS, _SYMBOL)

    def characters(self) -> Mapping[int, int]:
        """Code point → glyph, as browsers see it. Raises `FontError` where the subtable that they use is damaged.

        A symbol font's codes lie at U+F000-F0FF; browsers find them at U+0000-00FF as well.
        """
        best = self.best
        if best is None:
            return {}
        if (codec := _CODECS.get((best.platform, best.encoding))) is not None:
            return _decoded(best.mapping, codec)
        if not self.is_symbol:
            return best.mapping.codes if isinstance(best.mapping, StoredMapping) else best.mapping
        twins = {code - _SYMBOL_AREA: glyph for code, glyph in best.mapping.items() if code >> 8 == _SYMBOL_AREA >> 8}
        return twins | dict(best.mapping)

    def for_characters(self, characters: Set[int] | None) -> Self:
        """The table with those ideographic variation sequences alone that text of these characters (None: any) has."""
        if characters is None or self.variations is None:
            return self
        return type(self)(self.subtables, self.variations.asked_for(characters))

    def subset(self, context: SubsetContext) -> Self:
        """The kept characters in subtables that every browser reads, and the variation sequences of these."""
        glyphs = context.glyphs
        characters = {code: glyphs[glyph] for code, glyph in context.characters.items()}
        sequences = self.variations.subset(characters, glyphs) if self.variations else None
        if self.is_symbol:
            # What is found at two places lies at the farther one; a font may have codes of its own before it.
            own = self.best.mapping if self.best is not None else {}
            coded = {code if code in own else code + _SYMBOL_AREA: g for code, g in characters.items()}
            return type(self)([CmapSubtable(WINDOWS, _SYMBOL, coded)], sequences)
        return type(self)(unicode_subtables(characters), sequences)


def _decoded(mapping: Mapping[int, int], codec: str) -> dict[int, int]:
    """Code point → glyph, from codes of one or two bytes in another encoding."""
    found: dict[int, int] = {}
    for code, glyph in mapping.items():
        with suppress(UnicodeDecodeError, OverflowError):
            text = code.to_bytes(1 if code < 0x100 else 2, "big").decode(codec)
            if len(text) == 1:
                found.setdefault(ord(text), glyph)
    return found


def unicode_subtables(characters: Mapping[int, int]) -> list[CmapSubtable]:
    """What every browser and system reads: 16-bit codes, and all codes once one lies beyond 16 bits."""
    basic = {code: glyph for code, glyph in characters.items() if code <= 0xFFFF}
    subtables = [CmapSubtable(WINDOWS, _BMP, basic)]
    if len(basic) < len(characters):
        subtables.append(CmapSubtable(WINDOWS, _FULL, dict(characters)))
    return subtables
