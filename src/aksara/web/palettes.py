"""`@font-palette-values`: the palettes of colour fonts, by names for style sheets (CSS Fonts 4, section 9.2)."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence

from msgspec import Struct, field

from aksara.errors import RequestError
from aksara.limits import MAX_PALETTES
from aksara.web.syntax import comment_text, string

_NAME = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
_COLOUR = re.compile(r"#(?:[0-9a-fA-F]{3,4}|[0-9a-fA-F]{6}|[0-9a-fA-F]{8})|[a-zA-Z]{3,20}")


class PaletteRequest(Struct, frozen=True):
    """A palette that the user makes: the number of the font's palette that it rests on, and other colours (CSS) by the
    number of their entry in it."""

    base: int = 0
    colours: Mapping[int, str] = field(default_factory=dict)

    def check(self, name: str) -> None:
        """Raise `RequestError` for what CSS cannot say."""
        if not _NAME.fullmatch(name):
            raise RequestError(f"'{name}' is not a palette name; write small letters, digits and hyphens, as night")
        if not all(0 <= palette_index <= MAX_PALETTES for palette_index in (self.base, *self.colours)):
            raise RequestError(f"palette {name}: palettes and their entries are numbered from 0")
        for palette_index, colour in self.colours.items():
            if not _COLOUR.fullmatch(colour):
                raise RequestError(
                    f"palette {name}: '{colour}' (entry {palette_index}) is not a colour; write one as #0b4f6c"
                )


class WebPalette(Struct, frozen=True, kw_only=True):
    """A palette of a family: its `name`, as the font or the user gives it, and the `identifier` in CSS.

    `colours` are those that differ from the font's palette `base`; `background` is "light", "dark", "any", or "" if
    nothing is said.
    """

    name: str
    identifier: str
    base: int
    colours: Mapping[int, str] = field(default_factory=dict)
    background: str = ""


def web_palettes(
    prefix: str, own: Sequence[tuple[str, str]], asked: Mapping[str, PaletteRequest]
) -> tuple[WebPalette, ...]:
    """The palettes of a family whose custom property is `prefix`: those of the font, if there are several (name and
    background each), and those that are asked for."""
    found: dict[str, WebPalette] = {}
    for index, (name, background) in enumerate(own if len(own) > 1 else ()):
        word = _word(name) or (background if background in ("light", "dark") else "") or f"palette-{index}"
        word = word if word not in found else f"{word}-{index}"
        found[word] = WebPalette(
            name=name or word.removeprefix("palette-"),
            identifier=f"{prefix}-{word}",
            base=index,
            background=background,
        )
    for name, palette in asked.items():
        background = own[palette.base][1] if palette.base < len(own) else ""
        found[name] = WebPalette(
            name=name, identifier=f"{prefix}-{name}", base=palette.base,
            colours=dict(sorted(palette.colours.items())), background=background,
        )  # fmt: skip
    return tuple(found.values())


def _word(name: str) -> str:
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:40].strip("-")


def palette_rule(family: str, palette: WebPalette) -> str:
    """The rule of a palette, with a comment that says how to use it."""
    meant = {"light": ", for light backgrounds", "dark": ", for dark backgrounds", "any": ", for any background"}
    title = f"{family}, palette {palette.name}{meant.get(palette.background, '')}: font-palette: {palette.identifier};"
    lines = [f"/* {comment_text(title)} */", f"@font-palette-values {palette.identifier} {{"]
    lines += [f"  font-family: {string(family)};", f"  base-palette: {palette.base};"]
    if palette.colours:
        listed = ", ".join(f"{entry} {colour}" for entry, colour in palette.colours.items())
        lines.append(f"  override-colors: {listed};")
    return "\n".join([*lines, "}"])
