"""Containers: bytes ⇄ {tag: table bytes}, for sfnt (TTF, OTF), WOFF, WOFF2, and EOT.

A container knows where tables lie and how they are compressed, not what they mean.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, get_args

from msgspec import Struct

from aksara.container import eot, sfnt, woff, woff2
from aksara.container.decompression import Tables
from aksara.container.sfnt import without_checksum
from aksara.errors import FontError, UnsupportedFont

__all__ = [
    "EFFORTS",
    "FORMATS",
    "Effort",
    "FontContents",
    "FontFormat",
    "add_metadata",
    "read",
    "sniff",
    "without_checksum",
    "write",
]

#: The output formats: 'sfnt' is the plain TTF or OTF, 'eot' what Internet Explorer took before it took WOFF.
FontFormat = Literal["woff2", "woff", "sfnt", "eot"]
FORMATS: tuple[FontFormat, ...] = get_args(FontFormat)
#: How much time compression may take.
Effort = Literal["fast", "normal", "most"]
EFFORTS: tuple[Effort, ...] = get_args(Effort)
_BROTLI_QUALITY = {"fast": 9, "normal": 11, "most": 11}
_DEFLATE = {"fast": woff.deflate_fast, "normal": woff.deflate, "most": woff.deflate}


class FontContents(Struct, frozen=True):
    """What a font file holds: the container, the sfnt flavour (version tag), the tables, and the extended metadata that
    WOFF and WOFF2 files may carry (XML, decompressed; empty if none)."""

    container: FontFormat
    flavour: str
    tables: Tables
    metadata: bytes = b""


def write(font_format: FontFormat, tables: Mapping[str, bytes], flavour: str, *, effort: Effort = "normal") -> bytes:
    """The font file in that format, compressed with that effort."""
    if font_format == "sfnt":
        return sfnt.write(tables, flavour)
    if font_format == "eot":
        return eot.write(tables, flavour)
    if font_format == "woff":
        return woff.write(tables, flavour, _DEFLATE[effort])
    return woff2.write(tables, flavour, quality=_BROTLI_QUALITY[effort], search=effort == "most")


def add_metadata(data: bytes, metadata: bytes) -> bytes:
    """A WOFF or WOFF2 file without blocks behind its tables, with extended metadata (XML) added to it.

    An sfnt, which has no place for metadata, is given back as it is; so is everything if there is no metadata.
    """
    kind = sniff(data)
    if not metadata or kind not in ("woff", "woff2"):
        return data
    return woff.add_metadata(data, metadata) if kind == "woff" else woff2.add_metadata(data, metadata)


def sniff(data: bytes) -> Literal["sfnt", "woff", "woff2", "collection", "eot"] | None:
    """The kind of a font file by its first four bytes, for EOT by its header; None if it is not a font."""
    signature = data[:4]
    if signature in sfnt.FLAVOURS:
        return "sfnt"
    if signature == b"wOFF":
        return "woff"
    if signature == b"wOF2":
        return "woff2"
    if signature == b"ttcf":
        return "collection"
    return "eot" if eot.is_eot(data) else None


def read(data: bytes) -> list[FontContents]:
    """The fonts in the file: one, or each member of a collection (TTC, OTC, or WOFF2).

    Raises `FontError` for damaged data, `UnsupportedFont` for what is no
    font or not one that can be read.
    """
    kind = sniff(data)
    if kind is None:
        raise UnsupportedFont(_what_is_it(data))
    metadata = b""
    if kind == "sfnt":
        fonts = [sfnt.read(data)]
    elif kind == "collection":
        kind, fonts = "sfnt", sfnt.read_collection(data)
    elif kind == "eot":
        flavour, tables = eot.read(data)
        fonts = [(flavour, tables)]
    elif kind == "woff":
        flavour, tables, metadata = woff.read(data)
        fonts = [(flavour, tables)]
    else:
        fonts, metadata = woff2.read(data)
    if not all(tables for _, tables in fonts):
        raise FontError("it holds no tables")
    return [FontContents(kind, flavour, tables, metadata) for flavour, tables in fonts]


_OTHER_KINDS = {
    b"%PDF": "a PDF document",
    b"PK\x03\x04": "a ZIP inside another; unzip it and give its folder",
    b"%!PS": "a PostScript Type 1 font, which browsers do not support; ask its maker for TTF or OTF",
    b"\x80\x01": "a PostScript Type 1 font, which browsers do not support; ask its maker for TTF or OTF",
    b"<svg": "an SVG document",
    b"<!DO": "a web page, perhaps from a failed download; download the font again",
    b"<htm": "a web page, perhaps from a failed download; download the font again",
    b"typ1": "an old Mac font, which browsers do not support; ask its maker for TTF or OTF",
}


def _what_is_it(data: bytes) -> str:
    if not data:
        return "the file is empty; copy it again from its source"
    for start, kind in _OTHER_KINDS.items():
        if data.startswith(start):
            return f"not a font but {kind}" if "font," not in kind else kind
    return "not a font that Aksara reads (TTF, OTF, WOFF or WOFF2); give the font file itself"
