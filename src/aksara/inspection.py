"""What a font is, as data: for `aksara inspect` and for programs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from aksara.errors import FontError, UnsupportedFont
from aksara.faces import Embedding, Face, embedding, generic_family, identify
from aksara.font import Font
from aksara.sources import FontFile
from aksara.tables import Head, Name
from aksara.tables.name import (
    COPYRIGHT,
    DESIGNER,
    FULL_NAME,
    LICENCE,
    LICENCE_URL,
    MANUFACTURER,
    POSTSCRIPT_NAME,
    TRADEMARK,
    VERSION,
)
from aksara.text import format_ranges

_SHOWN_NAMES = {
    "Full name": FULL_NAME,
    "PostScript name": POSTSCRIPT_NAME,
    "Version": VERSION,
    "Maker": MANUFACTURER,
    "Designer": DESIGNER,
    "Copyright": COPYRIGHT,
    "Trademark": TRADEMARK,
    "Licence": LICENCE,
    "Licence address": LICENCE_URL,
}
#: A name longer than this is a text, of which the beginning tells enough.
_MAX_NAME = 600


@dataclass(slots=True, frozen=True)
class FontReport:
    """One font: its face, permissions, contents. `tables` are sizes in bytes by tag, `names` ready to show.

    `unsupported` says in words why no web font can be made of it; '' if one can.
    """

    face: Face
    generic: str
    embedding: Embedding
    outlines: str
    hinted: bool
    glyphs: int
    units_per_em: int
    characters: frozenset[int]
    container: str
    size: int
    tables: dict[str, int]
    names: dict[str, str]
    unsupported: str

    @property
    def warnings(self) -> list[dict[str, str]]:
        notes = [*self.face.findings, *([self.unsupported] if self.unsupported else [])]
        return [{"path": self.face.path, "message": note} for note in notes]

    def as_json(self) -> dict[str, Any]:
        """All but the face's identity, in the terms of JSON."""
        return {
            "generic": self.generic,
            "embedding": {
                "permission": self.embedding.permission,
                "no_subsetting": self.embedding.no_subsetting,
                "bitmaps_only": self.embedding.bitmaps_only,
                "words": self.embedding.words,
            },
            "outlines": self.outlines,
            "hinted": self.hinted,
            "glyphs": self.glyphs,
            "units_per_em": self.units_per_em,
            "characters": len(self.characters),
            "unicode_range": format_ranges(self.characters),
            "container": self.container,
            "bytes": self.size,
            "tables": self.tables,
            "names": self.names,
        }


def inspect_font(file: FontFile) -> FontReport:
    """Read what matters of one font. Raises `InputError` if it cannot be read."""
    font = Font.read(file.read(), file.name)
    names = font.find(Name)
    texts = {label: names.get(number) if names else None for label, number in _SHOWN_NAMES.items()}
    return FontReport(
        identify(font),
        generic_family(font),
        embedding(font),
        font.outlines,
        "fpgm" in font or "prep" in font or "cvt " in font,
        font.num_glyphs,
        font.table(Head).units_per_em,
        frozenset(font.characters),
        font.container,
        font.size,
        font.sizes(),
        {label: _shortened(text) for label, text in texts.items() if text},
        _why_not(font),
    )


def _why_not(font: Font) -> str:
    try:
        font.require_supported()
    except UnsupportedFont as error:
        return error.kind
    except FontError as error:
        return error.problem
    return ""


def _shortened(text: str) -> str:
    return text if len(text) <= _MAX_NAME else text[:_MAX_NAME].rstrip() + " …"
