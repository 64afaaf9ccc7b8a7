"""'name': the font's names, in many languages and encodings (OpenType 1.9.1)."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar

from aksara.binary import Reader
from aksara.tables.base import Font

COPYRIGHT, FAMILY, SUBFAMILY, UNIQUE_ID, FULL_NAME, VERSION, POSTSCRIPT_NAME, TRADEMARK = range(8)
MANUFACTURER, DESIGNER, DESCRIPTION, VENDOR_URL, DESIGNER_URL, LICENCE, LICENCE_URL = range(8, 15)
TYPOGRAPHIC_FAMILY, TYPOGRAPHIC_SUBFAMILY = 16, 17
WWS_FAMILY, WWS_SUBFAMILY = 21, 22

UNICODE, MACINTOSH, WINDOWS = 0, 1, 3
_WINDOWS_ENGLISH, _MAC_ENGLISH = 0x0409, 0
# Encodings of the Windows platform that are not UTF-16.
_WINDOWS_CODECS = {2: "shift_jis", 3: "gb18030", 4: "big5", 5: "euc_kr"}
_MAC_CODECS = {0: "mac_roman", 1: "shift_jis", 2: "big5", 3: "euc_kr", 6: "mac_greek", 7: "mac_cyrillic", 25: "gb18030"}


@dataclass(slots=True, frozen=True)
class NameRecord:
    """One name; `text` is its bytes in the encoding that platform and encoding say."""

    platform: int
    encoding: int
    language: int
    name_id: int
    text: bytes

    def decode(self) -> str:
        """The text; bytes that its encoding does not allow become U+FFFD."""
        if self.platform == MACINTOSH:
            return self.text.decode(_MAC_CODECS.get(self.encoding, "mac_roman"), "replace")
        if self.platform == WINDOWS and self.encoding in _WINDOWS_CODECS:
            # Some writers put these in 16-bit units like the rest, with zeros before single bytes.
            return self.text.replace(b"\0", b"").decode(_WINDOWS_CODECS[self.encoding], "replace")
        return self.text.decode("utf-16-be", "replace")

    @property
    def is_english(self) -> bool:
        if self.platform == WINDOWS:
            return self.language & 0x3FF == 0x009
        return self.language == _MAC_ENGLISH


@dataclass(slots=True, frozen=True)
class Name:
    """Name records in their stored order, and the language tags (UTF-16) of format 1."""

    TAG: ClassVar[str] = "name"

    records: tuple[NameRecord, ...]
    language_tags: tuple[bytes, ...] = ()

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Name:
        reader = Reader(data)
        version, count, storage = reader.u16(), reader.u16(), reader.u16()
        heads = [tuple(reader.u16() for _ in range(6)) for _ in range(count)]
        tags = [(reader.u16(), reader.u16()) for _ in range(reader.u16())] if version == 1 else []

        def text(size: int, offset: int) -> bytes:
            # A text that runs beyond the table is cut there, as browsers and systems do.
            return data[storage + offset : storage + offset + size]

        records = tuple(
            NameRecord(platform, encoding, language, name_id, text(size, offset))
            for platform, encoding, language, name_id, size, offset in heads
        )
        return cls(records, tuple(text(size, offset) for size, offset in tags))

    def compile(self) -> bytes:
        storage = bytearray()
        places: dict[bytes, int] = {}

        def place(text: bytes) -> bytes:
            if text not in places:
                found = storage.find(text)  # a text may lie within another
                places[text] = found if found >= 0 else len(storage)
                if found < 0:
                    storage.extend(text)
            return len(text).to_bytes(2, "big") + places[text].to_bytes(2, "big")

        heads = b"".join(
            b"".join(n.to_bytes(2, "big") for n in (r.platform, r.encoding, r.language, r.name_id)) + place(r.text)
            for r in self.records
        )
        version = 1 if self.language_tags else 0
        if version:
            heads += len(self.language_tags).to_bytes(2, "big") + b"".join(place(tag) for tag in self.language_tags)
        start = 6 + len(heads)
        return b"".join(n.to_bytes(2, "big") for n in (version, len(self.records), start)) + heads + bytes(storage)

    def get(self, name_id: int) -> str | None:
        """The name in English, else in whatever language there is; Windows before Mac. None if absent or blank."""
        found = [record for record in self.records if record.name_id == name_id]
        for record in sorted(found, key=_preference):
            if text := clean(record.decode()):
                return text
        return None

    def keep(self, wanted: Callable[[NameRecord], bool]) -> Name:
        """The same table with only the wanted records; language tags stay as they are."""
        return Name(tuple(filter(wanted, self.records)), self.language_tags)


def _preference(record: NameRecord) -> tuple[int, int]:
    exact = record.platform == WINDOWS and record.language == _WINDOWS_ENGLISH
    platform = {WINDOWS: 0, UNICODE: 1}.get(record.platform, 2)
    return (0 if exact else 1 if record.is_english else 2, platform)


def clean(text: str) -> str:
    """The text without control and direction characters, safe to show, its white space folded."""
    # Zs and tabs fold to a space; Cc, Cf (bidi overrides), Cs (lone surrogates) and Co go.
    kept = (" " if c.isspace() else c for c in text if c.isspace() or not unicodedata.category(c).startswith("C"))
    return " ".join("".join(kept).split())
