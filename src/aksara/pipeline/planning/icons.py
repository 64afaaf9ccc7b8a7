"""The icons that a build keeps: found by name in its fonts and in the style sheets beside them."""

from __future__ import annotations

import unicodedata
from collections.abc import Collection, Mapping, Sequence
from contextlib import suppress
from difflib import get_close_matches

from msgspec.structs import replace

from aksara.errors import InputError, RequestError
from aksara.font import Font
from aksara.limits import MAX_ICON_SHEET_SIZE
from aksara.pipeline.characters import CharacterRequest
from aksara.pipeline.planning.planned import FamilyPlan
from aksara.pipeline.planning.reading import FacesOfFonts
from aksara.sources import SourceFile
from aksara.subsetting.icons import Icon, font_icons
from aksara.tables import Head, Hmtx
from aksara.text.emoji import emoji_count
from aksara.text.sequences import is_private_use
from aksara.web.model import Pictures

#: Ligatures of names that a font of letters may have.
_FEW = 3


def shows_pictures(font: Font) -> bool:
    """Whether a font is one of icons or emoji: by most of its characters, or by ligatures that spell names."""
    return font.once(_shows_pictures)


def _shows_pictures(font: Font) -> bool:
    return is_of_pictures(font.characters) or sum(icon.is_spelled for icon in font_icons(font).values()) > _FEW


def pictures_of(font: Font) -> Pictures:
    """Whether a font draws icons or emoji, or text."""
    if not shows_pictures(font):
        return ""
    emoji = emoji_count(code for code in font.characters if code > 0xFF)
    return "emoji" if emoji > sum(map(is_private_use, font.characters)) else "icons"


def icon_width(font: Font) -> float | None:
    """How wide each of its icons is, in ems; None where they differ. Elements that have this width do not move what is
    beside them when the font arrives, whatever text its icons are spelled with."""
    own = {glyph for code, glyph in font.characters.items() if is_private_use(code)}
    glyphs = sorted(own | {icon.glyph for icon in font_icons(font).values()})
    advances = font.table(Hmtx).advances
    widths = {int(advances[glyph]) for glyph in glyphs if glyph < len(advances)}
    return widths.pop() / font.table(Head).units_per_em if len(widths) == 1 else None


def is_of_pictures(characters: Collection[int]) -> bool:
    """Whether most of these characters are icons or emoji."""
    drawn = [code for code in characters if not unicodedata.category(chr(code)).startswith(("Z", "Cc", "Cf"))]
    pictures = sum(map(is_private_use, drawn)) + emoji_count(code for code in drawn if code > 0xFF)
    return pictures > len(drawn) / 2


def names_in_sheets(sheets: Collection[SourceFile], faces: FacesOfFonts) -> dict[str, int]:
    """The names of icons in style sheets, with their characters; read only where fonts have such characters."""
    if not sheets or not any(map(is_private_use, (code for _, font in faces for code in font.characters))):
        return {}
    from aksara.site import decode_page, icon_names

    found: dict[str, int] = {}
    for sheet in sheets:
        with suppress(InputError):
            found = icon_names(decode_page(sheet.read(MAX_ICON_SHEET_SIZE))) | found
    return found


def with_icons(request: CharacterRequest, faces: FacesOfFonts, named: Mapping[str, int]) -> CharacterRequest:
    """The request with the texts and characters that it takes to show its icons.

    Raises `RequestError` for a name that no font has.
    """
    fonts = [font_icons(font, named) for _, font in faces]
    texts = []
    for name in request.icons:
        same_icons = [icons[name] for icons in fonts if name in icons]
        if not same_icons:
            raise _unknown(name, {icon for icons in fonts for icon in icons})
        # As a text of its own, a name is asked for as an icon.
        texts += [name for icon in same_icons if icon.is_spelled]
        texts += [chr(icon.character) for icon in same_icons if icon.character is not None]
    return replace(request, texts=(*request.texts, *dict.fromkeys(texts)))


def _unknown(name: str, known: set[str]) -> RequestError:
    near = get_close_matches(name, sorted(known), 1, 0.6)
    hint = f"did you mean {near[0]}?" if near else f"there are {len(known):,}" if known else "no font here has icons"
    return RequestError(f"no font here has an icon called {name}; {hint}", parameter="CharacterRequest.icons")


def kept_icons(families: Sequence[FamilyPlan], named: Mapping[str, int]) -> dict[str, dict[str, Icon]]:
    """The requested icons by family, where not all characters are kept."""
    found: dict[str, dict[str, Icon]] = {}
    for family in families:
        for face in family.faces:
            if face.characters is None or face.sequences is None:
                continue
            for name, icon in font_icons(face.source, named).items():
                has_character = icon.character in face.characters
                if has_character or (icon.is_spelled and name in face.sequences.asked):
                    kept = icon if has_character else replace(icon, character=None)
                    found.setdefault(family.name, {}).setdefault(name, kept)
    return {name: dict(sorted(icons.items())) for name, icons in found.items()}
