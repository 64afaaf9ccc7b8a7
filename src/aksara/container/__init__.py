"""Containers: bytes ⇄ {tag: table bytes}, for sfnt (TTF, OTF), WOFF and WOFF2.

A container knows where tables lie and how they are packed, not what they mean.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

from aksara.container import sfnt, woff, woff2
from aksara.container.limits import Tables
from aksara.errors import FontError, UnsupportedFont

Writer = Callable[[Mapping[str, bytes], str], bytes]

#: Each output format's writer. CSS names the first two in `format()`; 'sfnt' is the plain TTF or OTF.
WRITERS: dict[str, Writer] = {"woff2": woff2.write, "woff": woff.write, "sfnt": sfnt.write}


def sniff(data: bytes) -> str | None:
    """The container's name by its first four bytes: 'sfnt', 'woff', 'woff2', 'collection', or None."""
    signature = data[:4]
    if signature in sfnt.FLAVOURS:
        return "sfnt"
    return {b"wOFF": "woff", b"wOF2": "woff2", b"ttcf": "collection"}.get(signature)


def read(data: bytes) -> tuple[str, str, Tables]:
    """The container's name, the sfnt flavour (version tag) and the tables.

    Raises `FontError` for damaged data, `UnsupportedFont` for what is no
    font or not one that can be read.
    """
    kind = sniff(data)
    if kind is None:
        raise UnsupportedFont(_what_is_it(data))
    if kind == "collection":
        raise UnsupportedFont(
            "a collection (TTC or OTC) of several fonts, which Aksara cannot take apart yet; "
            "ask its maker for the fonts as single TTF files"
        )
    flavour, tables = {"sfnt": sfnt.read, "woff": woff.read, "woff2": woff2.read}[kind](data)
    if not tables:
        raise FontError("it holds no tables")
    return kind, flavour, tables


_OTHER_KINDS = {
    b"%PDF": "a PDF document",
    b"PK\x03\x04": "a ZIP archive; unpack it and give its folder",
    b"%!PS": "a PostScript Type 1 font, which browsers do not take; ask its maker for TTF or OTF",
    b"\x80\x01": "a PostScript Type 1 font, which browsers do not take; ask its maker for TTF or OTF",
    b"<svg": "an SVG document",
    b"<!DO": "a web page, perhaps the answer of a failed download; fetch the font again",
    b"<htm": "a web page, perhaps the answer of a failed download; fetch the font again",
    b"typ1": "an old Mac font, which browsers do not take; ask its maker for TTF or OTF",
}


def _what_is_it(data: bytes) -> str:
    if not data:
        return "the file is empty; copy it again from where it came"
    for start, kind in _OTHER_KINDS.items():
        if data.startswith(start):
            return f"not a font but {kind}" if "font," not in kind else kind
    return "not a font that Aksara knows (TTF, OTF, WOFF or WOFF2), whatever its name says; give the real font file"
