"""The palettes of a colour font, as it names them."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass

from aksara.errors import FontError
from aksara.font import Font
from aksara.tables import Colr, Cpal, Name


@dataclass(slots=True, frozen=True)
class FontPalette:
    """A palette: its name ("" for none), the `background` that it is meant for ("light", "dark", "any", "" if that is
    not said), and its colours as CSS writes them, by entry."""

    name: str
    background: str
    colours: tuple[str, ...]


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
