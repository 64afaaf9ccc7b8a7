"""Bytes of pages and style sheets as text (WHATWG Encoding; HTML, "determining the character encoding")."""

from __future__ import annotations

import codecs
import re

import webencodings

_BOMS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
_META = re.compile(rb"<meta[^>]{0,400}?charset\s*=\s*[\"']?\s*([\w:.-]{1,40})", re.IGNORECASE)
_XML = re.compile(rb"^\s*<\?xml[^>]{0,200}?encoding\s*=\s*[\"']([\w:.-]{1,40})")
_CHARSET = re.compile(rb'^@charset "([\w:.-]{1,40})";')
# Where browsers look for a declaration.
_LOOKED_AT = 4096


def decode_page(data: bytes, declared: str = "") -> str:
    """A page's text. `declared` is the encoding in the server's headers, "" for none.

    Without any declaration it is UTF-8 if it can be, else windows-1252.
    """
    head = data[:_LOOKED_AT]
    return _decode(data, [declared, _found(_META, head), _found(_XML, head)])


def decode_style_sheet(data: bytes, declared: str = "", of_page: str = "") -> str:
    """A style sheet's text; `of_page` is the encoding of the page that it is for (CSS Syntax 3, section 3.2)."""
    return _decode(data, [declared, _found(_CHARSET, data[:64]), of_page])


def _found(pattern: re.Pattern[bytes], head: bytes) -> str:
    match = pattern.search(head)
    return match[1].decode("ascii", "ignore") if match else ""


def _decode(data: bytes, labels: list[str]) -> str:
    for bom, name in _BOMS:
        if data.startswith(bom):
            return data[len(bom) :].decode(name, "replace")
    for label in labels:
        encoding = webencodings.lookup(label) if label else None
        if encoding is not None:
            # What could be read as ASCII to find this out is not UTF-16 (HTML, "prescan a byte stream").
            name = "utf-8" if encoding.name.startswith("utf-16") else encoding.name
            return str(webencodings.decode(data, name, errors="replace")[0])
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return str(webencodings.decode(data, "windows-1252", errors="replace")[0])
