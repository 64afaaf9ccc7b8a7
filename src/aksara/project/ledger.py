"""The licences of a project: which fonts, from whom, under what, until when, for which domains, where they are used."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date
from typing import Any

from msgspec import Struct

from aksara.faces import Face, WebLicence, embedding
from aksara.font import Font
from aksara.parsed_tables import ParsedTables
from aksara.pipeline.planning.licences import licence_texts
from aksara.pipeline.planning.reading import font_paths, identify_fonts, read_fonts
from aksara.pipeline.request import BuildRequest
from aksara.sources import find_sources, printable
from aksara.tables import OS2, Name
from aksara.tables.name import COPYRIGHT, DESIGNER, LICENCE, LICENCE_URL, MANUFACTURER, VENDOR_URL


class LedgerEntry(Struct, frozen=True, kw_only=True):
    """A font: its face, what it says of its maker and licence, the texts beside it, what is stated of the licence, and
    the output folders that web fonts of it are in."""

    face: Face
    maker: str
    maker_address: str
    copyright: str
    licence: str
    licence_address: str
    texts: tuple[str, ...]
    embedding: str
    stated: WebLicence
    used_in: tuple[str, ...]

    def ends(self, today: date) -> str:
        """A remark about its end date; "" if there is none."""
        until = self.stated.until
        if until is None:
            return ""
        return f"ended on {until}" if until < today else f"until {until}"

    def as_json(self) -> dict[str, Any]:
        """In the terms of JSON."""
        return {
            "family": self.face.family,
            "label": self.face.label,
            "path": self.face.path,
            "maker": self.maker,
            "maker_address": self.maker_address,
            "copyright": self.copyright,
            "licence": self.licence,
            "licence_address": self.licence_address,
            "texts": list(self.texts),
            "embedding": self.embedding,
            "web_licence": self.stated.stated,
            "holder": self.stated.holder,
            "domains": list(self.stated.domains),
            "until": self.stated.until.isoformat() if self.stated.until else None,
            "used_in": list(self.used_in),
        }


def licence_ledger(requests: Sequence[BuildRequest]) -> list[LedgerEntry]:
    """The entries of all fonts of a project's builds, each once, in their order. Raises as planning does."""
    found: dict[str, LedgerEntry] = {}
    parsed = ParsedTables()
    for request in requests:
        for index, family in enumerate(request.families):
            with request.locating(index):
                sources = find_sources(font_paths(family), ignore=(request.folder, request.fonts_folder))
                faces = identify_fonts(family, read_fonts(sources.fonts, parsed)).value
            texts = licence_texts(sources.licences, request.published_licences, request.within)
            names = tuple(dict.fromkeys(file.source for file in texts.files))
            for face, font in faces:
                folder = printable(str(request.folder))
                known = found.get(face.path)
                used_in = (*known.used_in, folder) if known is not None else (folder,)
                found[face.path] = _entry(face, font, names, request.licence, used_in)
    return list(found.values())


def _entry(face: Face, font: Font, texts: Iterable[str], stated: WebLicence, used_in: Iterable[str]) -> LedgerEntry:
    names, os2 = font.find(Name), font.find(OS2)

    def said(number: int) -> str:
        return (names.get(number) if names is not None else None) or ""

    vendor = os2.vendor.decode("latin-1").strip("\0 ") if os2 is not None else ""
    return LedgerEntry(
        face=face,
        maker=said(MANUFACTURER) or said(DESIGNER) or vendor,
        maker_address=said(VENDOR_URL),
        copyright=said(COPYRIGHT),
        licence=said(LICENCE),
        licence_address=said(LICENCE_URL),
        texts=tuple(texts),
        embedding=embedding(font).words,
        stated=stated,
        used_in=tuple(dict.fromkeys(used_in)),
    )
