"""What shows a feature: the letters that it changes, and the sequences that it joins."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Set

from aksara.errors import FontError
from aksara.font import Font
from aksara.tables import Gpos, Gsub
from aksara.tables.layout.gsub import LigatureSubstitution
from aksara.tables.layout.gsub.substitution import Substitution

#: Texts of one feature that are looked for.
_MOST = 400


def letters_of_features(font: Font, tags: Iterable[str], characters: Set[int]) -> dict[str, list[str]]:
    """For each feature texts of these characters that it may change, each of a letter or of several that it joins; []
    for one that only moves glyphs."""
    texts_by_tag: dict[str, list[str]] = {}
    try:
        gsub, gpos = font.find(Gsub), font.find(Gpos)
    except FontError:
        return texts_by_tag
    letters: dict[int, str] = {}
    for code, glyph in sorted(font.characters.items()):
        if code in characters and chr(code).isprintable() and not chr(code).isspace():
            letters.setdefault(glyph, chr(code))
    for tag in tags:
        texts = _texts(gsub, tag, letters) if gsub is not None else []
        moves = tag == "kern" or (gpos is not None and bool(gpos.lookups_of({tag})))
        if texts or moves:
            texts_by_tag[tag] = texts
    return texts_by_tag


def _texts(gsub: Gsub, tag: str, letters: dict[int, str]) -> list[str]:
    texts: dict[str, None] = {}
    for lookup_index in sorted(gsub.lookups_reached({tag}) if gsub.lookups_of({tag}) else ()):
        for subtable in gsub.lookups[lookup_index].subtables:
            if isinstance(subtable, LigatureSubstitution):
                joined = (_spelled((first, *rest), letters) for first, rest, _ in subtable.all())
                texts.update(dict.fromkeys(text for text in joined if text))
            elif isinstance(subtable, Substitution):
                texts.update(dict.fromkeys(letters[glyph] for glyph in sorted(subtable.inputs) if glyph in letters))
        if len(texts) >= _MOST:
            break
    return list(texts)[:_MOST]


def _spelled(glyphs: Collection[int], letters: dict[int, str]) -> str:
    return "".join(letters[glyph] for glyph in glyphs) if all(glyph in letters for glyph in glyphs) else ""
