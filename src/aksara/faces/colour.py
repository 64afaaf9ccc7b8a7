"""How a font draws in colour, and the palettes that it has, as it names them."""

from __future__ import annotations

from contextlib import suppress

from msgspec import Struct

from aksara.errors import FontError
from aksara.font import Font
from aksara.tables import Colr, Cpal, Name

_OTHERS = {"SVG ": "drawings", "sbix": "pictures", "CBDT": "pictures"}


class FontPalette(Struct, frozen=True):
    """A palette: its name ("" for none), the `background` that it is meant for ("light", "dark", "any", "" if that is
    not said), and its colours as CSS writes them, by entry."""

    name: str
    background: str
    colours: tuple[str, ...]


def colour_words(font: Font) -> str:
    """How a font draws in colour: "COLR version 1, 2 palettes"; "" for one that takes the colour of the text."""
    found = []
    if Colr.TAG in font:
        version = font.raw(Colr.TAG)[1:2].hex().lstrip("0") or "0"
        palettes = len(font_palettes(font))
        found.append(f"COLR version {version}, {palettes} palette{'s' * (palettes != 1)}")
    found += [f"{tag.strip()} ({words})" for tag, words in _OTHERS.items() if tag in font]
    return "; ".join(found)


def font_palettes(font: Font) -> tuple[FontPalette, ...]:
    """The palettes of a font, () for one that is not painted with any."""
    if Colr.TAG not in font or Cpal.TAG not in font:
        return ()
    with suppress(FontError):
        names = font.find(Name)
        found = []
        for palette in font.table(Cpal).palettes:
            name = names.get(palette.name_id) if names is not None and palette.name_id is not None else None
            background = {(True, True): "any", (True, False): "light", (False, True): "dark"}
            found.append(
                FontPalette(
                    name or "",
                    background.get((palette.for_light, palette.for_dark), ""),
                    tuple(colour.css for colour in palette.colours),
                )
            )
        return tuple(found)
    return ()
