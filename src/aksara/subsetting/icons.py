"""Icon fonts: pictures by names, which ligatures spell or glyphs have, and fonts with some of them only."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence, Set
from contextlib import suppress
from dataclasses import dataclass, replace

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.font import Font
from aksara.tables import Gsub, Post
from aksara.tables.layout.gsub import LigatureSubstitution
from aksara.tables.layout.lookups import Lookup
from aksara.tables.post import VERSION_2_0

_NAME = re.compile(r"[a-z0-9][a-z0-9_-]{1,62}", re.IGNORECASE)
#: Characters that mean nothing by themselves (Unicode, "Private-Use Characters").
_PRIVATE = (range(0xE000, 0xF900), range(0xF0000, 0xFFFFE), range(0x100000, 0x10FFFE))
#: Names of Macintosh glyphs, which come before a font's own.
_MAC_GLYPHS = 258


@dataclass(slots=True, frozen=True)
class Icon:
    """An icon: its glyph, the character that it has of its own (None for none), and whether text that spells its name
    turns into it."""

    glyph: int
    character: int | None
    is_spelled: bool

    def characters(self, name: str) -> frozenset[int]:
        """Those that it takes to show it."""
        spelled = frozenset(map(ord, name)) if self.is_spelled else frozenset[int]()
        return spelled | ({self.character} if self.character is not None else set())


def font_icons(font: Font) -> Mapping[str, Icon]:
    """The icons of a font by their names; {} for a font of letters."""
    private = {glyph: code for code, glyph in font.characters.items() if any(code in block for block in _PRIVATE)}
    found = {name: Icon(glyph, private.get(glyph), True) for name, glyph in _spelled(font).items()}
    for glyph, name in _glyph_names(font).items():
        if glyph in private and _NAME.fullmatch(name) and name not in found:
            found[name] = Icon(glyph, private[glyph], False)
    return found


def with_icons_only(font: Font, names: Set[str]) -> Font:
    """The font without ligatures that spell other icons."""
    if Gsub.TAG not in font:
        return font
    letters = _letters(font)
    gsub = font.table(Gsub)

    def is_kept(first: int, rest: tuple[int, ...]) -> bool:
        name = _spell(letters, first, rest)
        return name is None or name in names

    lookups = []
    for lookup in gsub.lookups:
        subtables = []
        for subtable in lookup.subtables:
            if isinstance(subtable, LigatureSubstitution):
                kept = {
                    first: tuple(each for each in ligatures if is_kept(first, each[0]))
                    for first, ligatures in subtable.ligatures.items()
                }
                subtable = replace(subtable, ligatures={first: each for first, each in kept.items() if each})  # noqa: PLW2901
            subtables.append(subtable)
        lookups.append(replace(lookup, subtables=tuple(subtables)))
    return font.with_tables([replace(gsub, lookups=lookups)])


def _spelled(font: Font) -> dict[str, int]:
    found: dict[str, int] = {}
    if Gsub.TAG not in font:
        return found
    with suppress(FontError):
        letters = _letters(font)
        for subtable in _ligatures(font.table(Gsub).lookups):
            for first, ligatures in subtable.ligatures.items():
                for rest, glyph in ligatures:
                    if (name := _spell(letters, first, rest)) is not None:
                        found.setdefault(name, glyph)
    return found


def _ligatures(lookups: Sequence[Lookup]) -> list[LigatureSubstitution]:
    return [each for lookup in lookups for each in lookup.subtables if isinstance(each, LigatureSubstitution)]


def _letters(font: Font) -> dict[int, str]:
    """The letter, digit or sign that each glyph stands for in names."""
    plain = ((code, glyph) for code, glyph in font.characters.items() if code < 0x7F)
    return {glyph: chr(code) for code, glyph in plain if _NAME.fullmatch(f"a{chr(code)}")}


def _spell(letters: Mapping[int, str], first: int, rest: tuple[int, ...]) -> str | None:
    """The name that a ligature's glyphs spell; None for a ligature of text, as "ffi"."""
    if len(rest) < 2 or not all(glyph in letters for glyph in (first, *rest)):
        return None
    name = "".join(letters[glyph] for glyph in (first, *rest))
    return name if _NAME.fullmatch(name) and name not in ("ffi", "ffl", "fft", "fffi") else None


def _glyph_names(font: Font) -> dict[int, str]:
    """The names of glyphs that the font gives itself ('post', version 2.0); {} where it gives none."""
    if Post.TAG not in font:
        return {}
    try:
        post = font.table(Post)
        if post.header.version != VERSION_2_0:
            return {}
        reader = Reader(post.names)
        numbers = [reader.u16() for _ in range(reader.u16())]
        texts = []
        while reader.remaining:
            texts.append(reader.take(reader.u8(), "a name").decode("latin-1"))
    except FontError:
        return {}
    own = ((glyph, number - _MAC_GLYPHS) for glyph, number in enumerate(numbers) if number >= _MAC_GLYPHS)
    return {glyph: texts[number] for glyph, number in own if number < len(texts)}
