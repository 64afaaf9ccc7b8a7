"""Fonts under another family name, in the names that programs and people see."""

from __future__ import annotations

import re

from msgspec.structs import replace

from aksara.font import Font
from aksara.tables import Cff, Name
from aksara.tables.name import (
    FAMILY,
    FULL_NAME,
    POSTSCRIPT_NAME,
    SUBFAMILY,
    TYPOGRAPHIC_FAMILY,
    TYPOGRAPHIC_SUBFAMILY,
    VARIATIONS_PREFIX,
    WWS_FAMILY,
    NameRecord,
)
from aksara.tables.platforms import MACINTOSH

_FAMILIES = frozenset({FAMILY, TYPOGRAPHIC_FAMILY, WWS_FAMILY})
_RENAMED = _FAMILIES | {FULL_NAME, POSTSCRIPT_NAME, VARIATIONS_PREFIX}
_LONGEST = 63


def renamed(font: Font, family: str) -> Font:
    """The font with that family name in place of its own. Copyright and licence keep the old one: they are about it."""
    if Name.TAG not in font:
        return font
    table = font.table(Name)
    old = table.get(TYPOGRAPHIC_FAMILY) or table.get(FAMILY) or ""
    if not old or old == family:
        return font
    style = table.get(TYPOGRAPHIC_SUBFAMILY) or table.get(SUBFAMILY) or "Regular"
    records = tuple(
        _record(record, old, family, style) if record.name_id in _RENAMED else record for record in table.records
    )
    made = Name(records, table.language_tags)
    tables = [made]
    if Cff.TAG in font:
        name = (made.get(POSTSCRIPT_NAME) or "").encode("ascii", "ignore")
        if name:
            return font.with_tables([made, replace(font.table(Cff), name=name)])
    return font.with_tables(tables)


def _record(record: NameRecord, old: str, family: str, style: str) -> NameRecord:
    text = record.decode()
    if record.name_id in (POSTSCRIPT_NAME, VARIATIONS_PREFIX):
        new = _postscript(text, old, family, style if record.name_id == POSTSCRIPT_NAME else "")
    elif old in text:
        # The rest of the name, as in "Penyu Sans Light", distinguishes faces.
        new = text.replace(old, family)
    else:
        new = f"{family} {style}" if record.name_id == FULL_NAME else family
    encoding = "mac_roman" if record.platform == MACINTOSH else "utf-16-be"
    return replace(record, text=new.encode(encoding, "replace" if encoding == "mac_roman" else "surrogatepass"))


def _postscript(text: str, old: str, family: str, style: str) -> str:
    """The PostScript name: letters and digits, with a hyphen before the style."""
    plain = re.sub(r"[^A-Za-z0-9]", "", family) or "Font"
    before = re.sub(r"[^A-Za-z0-9]", "", old)
    if before and text.startswith(before):
        return f"{plain}{text[len(before) :]}"[:_LONGEST]
    return f"{plain}{'-' if style else ''}{re.sub(r'[^A-Za-z0-9]', '', style)}"[:_LONGEST]
