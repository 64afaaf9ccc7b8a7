"""'name': the font's names, in many languages and encodings (OpenType 1.9.1)."""

from __future__ import annotations

import struct
import unicodedata
from collections import defaultdict
from collections.abc import Iterable
from functools import cache
from typing import ClassVar, Self

from msgspec import Struct

from aksara.binary import Reader
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table
from aksara.tables.colour.cpal import Cpal
from aksara.tables.fvar import Fvar
from aksara.tables.platforms import MACINTOSH, UNICODE, WINDOWS
from aksara.tables.stat import Stat
from aksara.tables.subsetting import SubsetContext

COPYRIGHT, FAMILY, SUBFAMILY, UNIQUE_ID, FULL_NAME, VERSION, POSTSCRIPT_NAME, TRADEMARK = range(8)
MANUFACTURER, DESIGNER, DESCRIPTION, VENDOR_URL, DESIGNER_URL, LICENCE, LICENCE_URL = range(8, 15)
TYPOGRAPHIC_FAMILY, TYPOGRAPHIC_SUBFAMILY = 16, 17
WWS_FAMILY, WWS_SUBFAMILY = 21, 22
#: What the PostScript names of a variable font's instances begin with.
VARIATIONS_PREFIX = 25

_WINDOWS_ENGLISH, _MAC_ENGLISH = 0x0409, 0
# Encodings of the Windows platform that are not UTF-16.
_WINDOWS_CODECS = {2: "shift_jis", 3: "gb18030", 4: "big5", 5: "euc_kr"}
_MAC_CODECS = {0: "mac_roman", 1: "shift_jis", 2: "big5", 3: "euc_kr", 6: "mac_greek", 7: "mac_cyrillic", 25: "gb18030"}
_REACH = 0xFFFF - 6
# Names that identify the font on the web or that the law wants to travel with it.
_KEPT = frozenset(
    {
        *(COPYRIGHT, FAMILY, SUBFAMILY, FULL_NAME, POSTSCRIPT_NAME, TRADEMARK, LICENCE, LICENCE_URL),
        *(TYPOGRAPHIC_FAMILY, TYPOGRAPHIC_SUBFAMILY),
    }
)
# What a licence text beside the font says at length, and what is left to say whose the font is.
_OF_LICENCE_TEXT, _OTHER_NOTICES = frozenset({LICENCE, TRADEMARK}), frozenset({COPYRIGHT, LICENCE_URL})


class _Header(FixedRecord, frozen=True):
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">HHH")

    version: int
    count: int
    storage_offset: int


class _RecordHeader(FixedRecord, frozen=True):
    """A name record as it is stored; its text lies at `offset` in the storage."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">6H")

    platform: int
    encoding: int
    language: int
    name_id: int
    size: int
    offset: int


class _LanguageTag(FixedRecord, frozen=True):
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">HH")

    size: int
    offset: int


class NameRecord(Struct, frozen=True):
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
        """Whether the name is in English, of any country."""
        if self.platform == WINDOWS:
            return self.language & 0x3FF == 0x009
        return self.language == _MAC_ENGLISH


class _Storage:
    """The texts of all names, in which a text may lie within another."""

    def __init__(self, texts: Iterable[bytes]) -> None:
        self.data = bytearray()
        self._offsets: dict[bytes, int] = {}
        for text in texts:
            if text not in self._offsets:
                offset = self.data.find(text)
                self._offsets[text] = offset if offset >= 0 else len(self.data)
                self.data += text if offset < 0 else b""

    def place_of(self, text: bytes) -> tuple[int, int]:
        """The text's size and offset."""
        return len(text), self._offsets[text]


class Name(Table, frozen=True):
    """Name records in their stored order, and the language tags (UTF-16) of format 1."""

    TAG: ClassVar[str] = "name"

    records: tuple[NameRecord, ...]
    language_tags: tuple[bytes, ...] = ()

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        header = _Header.read(reader, "the header of 'name'")
        stored = [_RecordHeader.read(reader, "a name record") for _ in range(header.count)]
        tags = [_LanguageTag.read(reader) for _ in range(reader.u16())] if header.version == 1 else []

        @cache  # many records may share one text
        def text(size: int, offset: int) -> bytes:
            # A text that runs beyond the table is cut there, as browsers and systems do.
            start = min(header.storage_offset + offset, len(data))
            return reader.at(start).take(min(size, len(data) - start), "a name")

        records = tuple(
            NameRecord(one.platform, one.encoding, one.language, one.name_id, text(one.size, one.offset))
            for one in stored
        )
        return cls(records, tuple(text(tag.size, tag.offset) for tag in tags))

    def compile(self) -> bytes:
        storage = _Storage([*(record.text for record in self.records), *self.language_tags])
        heads = b"".join(
            _RecordHeader(one.platform, one.encoding, one.language, one.name_id, *storage.place_of(one.text)).compile()
            for one in self.records
        )
        if self.language_tags:
            heads += len(self.language_tags).to_bytes(2, "big")
            heads += b"".join(_LanguageTag(*storage.place_of(tag)).compile() for tag in self.language_tags)
        version = 1 if self.language_tags else 0
        header = _Header(version, len(self.records), _Header.LAYOUT.size + len(heads))
        return header.compile() + heads + bytes(storage.data)

    def subset(self, context: SubsetContext) -> Self:
        """What matters on the web and to the law: in English if there is English, for Windows if there is that."""
        ids = _KEPT | _ids_of_variations(context)
        if (palettes := context.subset(Cpal)) is not None:
            ids |= palettes.name_ids
        if not context.licence_text and any(record.name_id in _OTHER_NOTICES for record in self.records):
            ids -= _OF_LICENCE_TEXT
        groups: dict[int, list[NameRecord]] = defaultdict(list)
        for record in self._first_of_each():
            if record.name_id in ids:
                groups[record.name_id].append(record)
        kept: set[NameRecord] = set()
        for group in groups.values():
            records = [record for record in group if record.platform != MACINTOSH] or group
            kept.update([record for record in records if record.is_english] or records)
        return type(self)(_within_reach(record for record in self._first_of_each() if record in kept))

    def _first_of_each(self) -> list[NameRecord]:
        """The records without those that only repeat platform, encoding, language and ID of another."""
        firsts: dict[tuple[int, int, int, int], NameRecord] = {}
        for record in self.records:
            firsts.setdefault((record.platform, record.encoding, record.language, record.name_id), record)
        return list(firsts.values())

    def get(self, name_id: int) -> str | None:
        """The name in English, else in whatever language there is; Windows before Mac. None if absent or blank."""
        records = [record for record in self.records if record.name_id == name_id]
        for record in sorted(records, key=_preference):
            if text := clean(record.decode()):
                return text
        return None


def _ids_of_variations(context: SubsetContext) -> set[int]:
    """The names of axes and instances of a variable font."""
    fvar, stat = context.subset(Fvar), context.subset(Stat)
    ids = fvar.name_ids() | {VARIATIONS_PREFIX} if fvar is not None else set()
    return ids | (stat.name_ids() if stat is not None else set())


def _within_reach(records: Iterable[NameRecord]) -> tuple[NameRecord, ...]:
    """The records, as far as 16-bit offsets reach behind them and their texts; no real font comes near."""
    room, kept, texts = _REACH, [], set[bytes]()
    for record in records:
        room -= _RecordHeader.LAYOUT.size + (len(record.text) if record.text not in texts else 0)
        if room < 0:
            break
        texts.add(record.text)
        kept.append(record)
    return tuple(kept)


def _preference(record: NameRecord) -> tuple[int, int]:
    exact = record.platform == WINDOWS and record.language == _WINDOWS_ENGLISH
    platform = {WINDOWS: 0, UNICODE: 1}.get(record.platform, 2)
    return (0 if exact else 1 if record.is_english else 2, platform)


def clean(text: str) -> str:
    """The text without control and direction characters, safe to show, its white space folded."""
    # Zs and tabs fold to a space; Cc, Cf (bidi overrides), Cs (lone surrogates) and Co go.
    words = (word if word.isprintable() else _without_controls(word) for word in text.split())
    return " ".join(filter(None, words))


def _without_controls(word: str) -> str:
    return "".join(c for c in word if not unicodedata.category(c).startswith("C"))
