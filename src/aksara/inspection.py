"""A font's properties as data, for `aksara inspect` and for programs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import FontError, InputError, UnsupportedFont, located, without_frames
from aksara.faces import (
    Embedding,
    Face,
    FontFeature,
    FontVariation,
    colour_words,
    conflicting_faces,
    embedding,
    font_features,
    font_variation,
    generic_family,
    identify,
    read_metadata,
    sort_into_families,
)
from aksara.faces.restrictions import restrictions_in
from aksara.font import Font, open_fonts, postscript_outlines
from aksara.notices import Notice
from aksara.parsed_tables import ParsedTables
from aksara.phrases import listed
from aksara.sizes import format_size
from aksara.sources import SourceFile
from aksara.tables import OS2, Glyf, Head, Name
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
    clean,
)
from aksara.tables.registry import hinting_tags
from aksara.text import Coverage, all_languages, coverage, covered_languages, format_ranges

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
#: A longer name is a text, of which the beginning is enough.
_MAX_NAME = 600
#: Bytes of a licence text, and what is shown of it.
_READ_LICENCE, _SHOWN_LINES, _MAX_LINE = 2_000_000, 24, 400


class FontReport(Struct, frozen=True, kw_only=True):
    """One font: its face, permissions, contents.

    `tables` are sizes in bytes by tag; `names` and `metadata` (of WOFF and WOFF2 files) are ready to show;
    `variation` is None for a static font; `covers` are the paths of the static faces that a variable font has among its
    locations, of those inspected with it; `colour` says in words how it draws in colour ('' if it does not), and
    `unsupported` why no web font can be made of it ('' if one can).
    """

    face: Face
    generic: str
    embedding: Embedding
    outlines: str
    colour: str
    hint_size: int
    glyphs: int
    units_per_em: int
    characters: frozenset[int]
    container: str
    size: int
    tables: dict[str, int]
    names: dict[str, str]
    metadata: dict[str, str]
    features: tuple[FontFeature, ...]
    variation: FontVariation | None
    unsupported: str
    covers: tuple[str, ...] = ()
    conflict: str = ""
    #: Fields of its names that restrict its use, each with its words.
    restrictions: tuple[tuple[str, str], ...] = ()

    @property
    def notices(self) -> list[Notice]:
        """Oddities of the face, why it cannot be used, and other fonts that claim to be the same face."""
        notices = [*self.face.findings]
        notices += [Notice(self.face.path, self.unsupported)] if self.unsupported else []
        notices += [Notice(self.face.path, self.conflict, "FamilyRequest.overrides")] if self.conflict else []
        return notices

    def languages(self) -> list[Coverage]:
        """How well each known language is covered."""
        return [coverage(language, self.characters) for language in all_languages()]

    def as_json(self) -> dict[str, Any]:
        """All but the face's identity, in the terms of JSON."""
        return {
            "variant": self.face.variant,
            "variation": self.variation.as_json() if self.variation is not None else None,
            "covers": list(self.covers),
            "evidence": [
                {"aspect": piece.aspect, "source": piece.source, "says": piece.says} for piece in self.face.evidence
            ],
            "generic": self.generic,
            "embedding": {
                "permission": self.embedding.permission,
                "no_subsetting": self.embedding.no_subsetting,
                "bitmaps_only": self.embedding.bitmaps_only,
                "contradictory": self.embedding.contradictory,
                "words": self.embedding.words,
            },
            "outlines": self.outlines,
            "colour": self.colour,
            "hinted": self.hint_size > 0,
            "hint_bytes": self.hint_size,
            "glyphs": self.glyphs,
            "units_per_em": self.units_per_em,
            "characters": len(self.characters),
            "languages": [language.tag for language in covered_languages(self.characters)],
            "unicode_range": format_ranges(self.characters),
            "container": self.container,
            "bytes": self.size,
            "tables": self.tables,
            "names": self.names,
            "metadata": self.metadata,
            "features": [{"tag": feature.tag, "name": feature.name} for feature in self.features],
        }


#: Fonts of one face that are named.
_NAMED = 4


def inspect_all(files: Sequence[SourceFile]) -> tuple[list[FontReport], list[InputError]]:
    """A report on every font that can be read, sorted into families, and the problems of the others.

    Fonts that claim to be the same face are named in `conflict`.
    """
    reports: list[FontReport] = []
    problems: list[InputError] = []
    for file in files:
        try:
            reports += inspect_file(file)
        except InputError as problem:
            problems.append(without_frames(problem))
    faces = sort_into_families([report.face for report in reports])
    # Of one face in several containers a build takes one.
    containers: dict[str, list[Face]] = {}
    for report, face in zip(reports, faces, strict=True):
        containers.setdefault(report.container, []).append(face)
    groups = [group for container in containers.values() for group in conflicting_faces(container)]
    conflicts: dict[str, list[Face]] = {face.path: group for group in groups for face in group}
    ordered = sorted(faces, key=lambda face: face.sort_key)
    reports = [
        replace(
            report,
            face=face,
            covers=tuple(other.path for other in ordered if face.covers(other)) if face.is_variable else (),
            conflict=_conflict(face, conflicts.get(face.path, [])),
        )
        for report, face in zip(reports, faces, strict=True)
    ]
    return sorted(reports, key=lambda report: report.face.sort_key), problems


def _conflict(face: Face, group: Sequence[Face]) -> str:
    """Said once for each group: at its first face."""
    if not group or group[0].path != face.path:
        return ""
    others = listed([other.path for other in group[1:]], _NAMED)
    return f"claims to be {face.family} {face.label}, as does {others}; leave one out, or say which face it is"


def inspect_file(file: SourceFile) -> list[FontReport]:
    """Read what matters of a font, or of each in a collection. Raises `InputError` if it cannot be read."""
    fonts = open_fonts(file, ParsedTables())
    hint_sizes: dict[tuple[str, ...], int] = {}
    return [_report(font, hint_sizes) for font in fonts]


def _report(font: Font, hint_sizes: dict[tuple[str, ...], int]) -> FontReport:
    """The report of a font; `hint_sizes` are known for fonts of the same file with these very tables."""
    with located(file=font.path):
        key = tuple(font.table_digest(tag) for tag in ("glyf", "CFF ", "CFF2", *hinting_tags()) if tag in font)
        if key not in hint_sizes:
            hint_sizes[key] = _hint_size(font)
        report = _read_report(font, hint_sizes[key])
        font.trim_parsed()
        return report


def _read_report(font: Font, hint_size: int) -> FontReport:
    names = font.find(Name)
    texts = {label: names.get(name_id) if names else None for label, name_id in _SHOWN_NAMES.items()}
    return FontReport(
        face=identify(font),
        generic=generic_family(font),
        embedding=embedding(font),
        outlines=font.outlines if any(font.raw(tag) for tag in ("glyf", "CFF ", "CFF2") if tag in font) else "none",
        colour=colour_words(font),
        hint_size=hint_size,
        glyphs=font.num_glyphs,
        units_per_em=font.table(Head).units_per_em,
        characters=frozenset(font.characters),
        container=font.container,
        size=font.size,
        tables=font.sizes(),
        names={label: _shortened(text) for label, text in texts.items() if text} | _vendor(font),
        metadata=read_metadata(font.metadata),
        features=tuple(font_features(font)),
        variation=font_variation(font),
        unsupported=_why_not(font),
        restrictions=restrictions_in(font),
    )


def _hint_size(font: Font) -> int:
    """Bytes of the font that say how it is drawn at small sizes; 0 for one that does not, or is damaged."""
    sizes = font.sizes()
    size = sum(sizes.get(tag, 0) for tag in hinting_tags())
    try:
        if "glyf" in font:
            return size + font.table(Glyf).hint_size()
        return font.table(postscript_outlines(font)).hint_size() if font.outlines != "none" else 0
    except FontError:
        return size


def _why_not(font: Font) -> str:
    try:
        font.require_supported()
    except UnsupportedFont as error:
        return error.reason
    except FontError as error:
        return error.problem
    return ""


def _vendor(font: Font) -> dict[str, str]:
    """The vendor's four-letter mark in OS/2."""
    os2 = font.find(OS2)
    mark = clean(os2.vendor.decode("latin-1")) if os2 is not None else ""
    return {"Vendor mark": mark} if mark else {}


def _shortened(text: str) -> str:
    return text if len(text) <= _MAX_NAME else text[:_MAX_NAME].rstrip() + " …"


def licence_beginning(file: SourceFile) -> str:
    """The beginning of a licence text, safe to print; for other files, a description of their kind."""
    try:
        data = file.read(_READ_LICENCE)
    except InputError as error:
        return str(error)
    if data.startswith(b"%PDF") or b"\0" in data[:1000]:
        return f"Not plain text ({format_size(len(data))}); open it to read it."
    lines = (clean(line) for line in data.decode("utf-8", "replace").splitlines()[:_SHOWN_LINES])
    more = "\n…" if data.count(b"\n") >= _SHOWN_LINES else ""
    return "\n".join(line[:_MAX_LINE] for line in lines).strip() + more
