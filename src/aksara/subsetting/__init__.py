"""Subsetting: a font with only what the kept characters need.

Glyphs keep their numbers: those that are not needed become empty. So every
table that speaks of glyphs by number stays right as it is.
"""

from __future__ import annotations

from collections.abc import Set
from dataclasses import dataclass, replace

import numpy as np

from aksara.errors import InputError, located
from aksara.font import Font
from aksara.subsetting.closure import needed_glyphs
from aksara.subsetting.retention import Dropped, tables_to_drop
from aksara.tables import OS2, Cmap, Glyf, Head, Hhea, Hmtx, Kern, Name, Post
from aksara.tables.base import Table
from aksara.tables.name import (
    COPYRIGHT,
    FAMILY,
    FULL_NAME,
    LICENCE,
    LICENCE_URL,
    MACINTOSH,
    POSTSCRIPT_NAME,
    SUBFAMILY,
    TRADEMARK,
    TYPOGRAPHIC_FAMILY,
    TYPOGRAPHIC_SUBFAMILY,
    NameRecord,
)
from aksara.text import companions

__all__ = ["Dropped", "Subset", "draws_any", "subset"]

# Names that identify the font on the web or that the law wants to travel with it.
_KEPT_NAMES = frozenset(
    {
        *(COPYRIGHT, FAMILY, SUBFAMILY, FULL_NAME, POSTSCRIPT_NAME, TRADEMARK, LICENCE, LICENCE_URL),
        *(TYPOGRAPHIC_FAMILY, TYPOGRAPHIC_SUBFAMILY),
    }
)


@dataclass(slots=True, frozen=True)
class Subset:
    """A font cut down, and what became of the request.

    `characters` (code point → glyph) is what the new font serves: what was
    asked for as far as the font has it, and `companions`, which text of the
    asked-for characters needs as well. `missing` was asked for, but the font
    does not have it. `kept_glyphs` counts those that are not emptied.
    """

    font: Font
    characters: dict[int, int]
    companions: frozenset[int]
    missing: frozenset[int]
    kept_glyphs: int
    dropped: tuple[Dropped, ...]
    warnings: tuple[str, ...]


def subset(font: Font, characters: Set[int] | None = None) -> Subset:
    """The font with only these characters (None: all it has) and what text made of them needs.

    Raises `UnsupportedFont` or `FontError` for a font that cannot be used.
    An empty result (none of the characters in the font) is no error here,
    but `InputError` is raised where nothing at all would be drawn.
    """
    font.require_supported()
    with located(file=font.path):
        available = font.characters
        wanted = set(available) if characters is None else set(characters) & available.keys()
        besides = frozenset(companions(wanted, available.keys(), substitutes="GSUB" in font))
        kept = {code: available[code] for code in sorted(wanted | besides)}
        dropped = tables_to_drop(font, kept)
        warnings: list[str] = []
        glyphs = needed_glyphs(font, kept, {item.tag for item in dropped}, warnings)
        changed = _changed_tables(font, kept, glyphs)
    result = font.with_tables(changed, [item.tag for item in dropped])
    missing = frozenset(characters or ()) - available.keys()
    return Subset(result, kept, besides, missing, len(glyphs), dropped, tuple(warnings))


def draws_any(font: Font, characters: Set[int] | None) -> bool:
    """Whether at least one of these characters (None: of all) is drawn: spaces are not."""
    glyphs, available = font.table(Glyf).glyphs, font.characters
    wanted = available.keys() if characters is None else available.keys() & characters
    return any(glyphs[available[code]] for code in wanted)


def _changed_tables(font: Font, kept: dict[int, int], glyphs: set[int]) -> list[Table]:
    old = font.table(Glyf)
    count = font.num_glyphs
    glyf = Glyf([old.glyphs[number] if number in glyphs else b"" for number in range(count)])
    if not any(glyf.glyphs):
        raise InputError(f"{font.path}: draws nothing for the characters asked for (spaces only?); ask for others")
    loca = glyf.loca()
    hmtx = _metrics(font, glyf, glyphs)
    changed: list[Table] = [
        glyf,
        loca,
        hmtx,
        replace(font.table(Hhea), number_of_h_metrics=hmtx.number_of_h_metrics),
        replace(font.table(Head), index_to_loc_format=int(loca.long)),
        font.table(Cmap).subset(kept),
    ]
    if (os2 := font.find(OS2)) is not None:
        codes = [min(code, 0xFFFF) for code in kept] or [0]
        changed.append(replace(os2, first_char_index=min(codes), last_char_index=max(codes)))
    if (name := font.find(Name)) is not None:
        changed.append(reduced_names(name))
    if (post := font.find(Post)) is not None:
        changed.append(post.without_names())
    if (kern := font.find(Kern)) is not None:
        changed.append(kern.subset(np.array(sorted(glyphs), np.int64)))
    return changed


def _metrics(font: Font, glyf: Glyf, glyphs: set[int]) -> Hmtx:
    """Metrics of the needed glyphs; the others' become 0, which packs to nothing."""
    old = font.table(Hmtx)
    needed = np.zeros(len(old.advances), bool)
    needed[list(glyphs)] = True
    # An empty glyph has no side: 0 is as true as any bearing, and lets WOFF2 leave the bearings out.
    drawn = needed & np.fromiter((bool(glyph) for glyph in glyf.glyphs), bool)
    return Hmtx(
        np.where(needed, old.advances, 0).astype(np.uint16), np.where(drawn, old.side_bearings, 0).astype(np.int16)
    )


def reduced_names(name: Name) -> Name:
    """What matters on the web and to the law, in English where there is English, for Windows where there is that."""
    wanted = [record for record in name.records if record.name_id in _KEPT_NAMES]
    kept: list[NameRecord] = []
    for name_id in sorted({record.name_id for record in wanted}):
        group = [record for record in wanted if record.name_id == name_id]
        group = [record for record in group if record.platform != MACINTOSH] or group
        group = [record for record in group if record.is_english] or group
        kept += group
    return Name(tuple(record for record in name.records if record in kept))
