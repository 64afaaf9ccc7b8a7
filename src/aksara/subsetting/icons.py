"""Icon fonts: pictures by names, which ligatures spell or glyphs have, and fonts with some of them only."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.font import Font
from aksara.subsetting.drawn import draws_glyphs
from aksara.subsetting.substituting import Ligature, all_ligatures
from aksara.tables import Gsub, Post
from aksara.tables.post import VERSION_2_0
from aksara.text.sequences import ICON_NAME, is_private_use

#: Names of Macintosh glyphs, which come before a font's own.
_MAC_GLYPHS = 258


class Icon(Struct, frozen=True):
    """An icon: its glyph, the character that it has of its own (None for none), and whether text that spells its name
    turns into it."""

    glyph: int
    character: int | None
    is_spelled: bool

    def characters(self, name: str) -> frozenset[int]:
        """Those that it takes to show it."""
        spelled = frozenset(map(ord, name)) if self.is_spelled else frozenset[int]()
        return spelled | ({self.character} if self.character is not None else set())


def font_icons(font: Font, named: Mapping[str, int] | None = None) -> Mapping[str, Icon]:
    """The icons of a font by their names; {} for a font of letters.

    `named` are names with their characters that are known from elsewhere, as from the font's style sheet.
    """
    private = {glyph: code for code, glyph in font.characters.items() if is_private_use(code)}
    found: dict[str, Icon] = {}
    for _, glyph, name in font.once(_named_ligatures):
        found.setdefault(name, Icon(glyph, private.get(glyph), True))
    for glyph, name in (_glyph_names(font) if private else {}).items():
        if glyph in private and ICON_NAME.fullmatch(name) and name not in found:
            found[name] = Icon(glyph, private[glyph], False)
    for name, code in (named or {}).items():
        if name not in found and code in font.characters:
            found[name] = Icon(font.characters[code], code, False)
    return found


def icon_ligatures(font: Font) -> dict[Ligature, str]:
    """The ligatures that spell names of icons, with these; {} where they cannot be read."""
    return {ligature: name for ligature, _, name in font.once(_named_ligatures)}


def _named_ligatures(font: Font) -> list[tuple[Ligature, int, str]]:
    """Ligatures with their glyphs and the names that they spell."""
    if Gsub.TAG not in font:
        return []
    try:
        letters = _letters(font)
        spelled = (
            (ligature, glyph, _spell(letters, ligature.first, ligature.rest))
            for ligature, glyph in all_ligatures(font.table(Gsub))
        )
        named = [(ligature, glyph, name) for ligature, glyph, name in spelled if name is not None]
        return [] if named and _sets_text(font, [ligature for ligature, _, _ in named]) else named
    except FontError:
        return []


def _sets_text(font: Font, ligatures: Sequence[Ligature]) -> bool:
    """Whether these are ligatures of text, such as "ttf" or "viii": the font draws their letters, too, and has more
    characters than ligatures."""
    letters = {glyph for ligature in ligatures for glyph in (ligature.first, *ligature.rest)}
    return sum(not is_private_use(code) for code in font.characters) > len(ligatures) and draws_glyphs(font, letters)


def _letters(font: Font) -> dict[int, str]:
    """The letter, digit or sign that each glyph spells in icon names."""
    plain = ((code, glyph) for code, glyph in font.characters.items() if code < 0x7F)
    return {glyph: chr(code) for code, glyph in plain if ICON_NAME.fullmatch(f"a{chr(code)}")}


def _spell(letters: Mapping[int, str], first: int, rest: tuple[int, ...]) -> str | None:
    """The name that a ligature's glyphs spell; None for a ligature of text, as "ffi"."""
    if len(rest) < 2 or not all(glyph in letters for glyph in (first, *rest)):
        return None
    name = "".join(letters[glyph] for glyph in (first, *rest))
    return name if ICON_NAME.fullmatch(name) and name not in ("ffi", "ffl", "fft", "fffi") else None


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
    own = ((glyph, name_index - _MAC_GLYPHS) for glyph, name_index in enumerate(numbers) if name_index >= _MAC_GLYPHS)
    return {glyph: texts[name_index] for glyph, name_index in own if name_index < len(texts)}
