"""What a font says of itself, piece by piece: the grounds on which a face is identified."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import PurePath
from typing import Literal

from aksara.errors import FontError
from aksara.faces.words import StyleWords, read_style, split_family
from aksara.font import Font
from aksara.tables import OS2, Fvar, Head, Name, Post, Stat
from aksara.tables.head import MAC_BOLD, MAC_ITALIC
from aksara.tables.name import (
    FAMILY,
    FULL_NAME,
    POSTSCRIPT_NAME,
    SUBFAMILY,
    TYPOGRAPHIC_FAMILY,
    TYPOGRAPHIC_SUBFAMILY,
    WWS_FAMILY,
    WWS_SUBFAMILY,
)
from aksara.tables.os2 import BOLD, ITALIC, OBLIQUE

Aspect = Literal["family", "weight", "style", "width", "optical size", "variant"]


@dataclass(slots=True, frozen=True)
class Evidence:
    """One thing that one source says: e.g. `weight`, "OS/2", "400"; or `style`, "file name", "italic"."""

    aspect: Aspect
    source: str
    says: str


@dataclass(slots=True, frozen=True)
class Testimony:
    """Everything that bears on the face, read out of the tables but not weighed.

    `names` are the four styles' names, the typographic ones, the full and the PostScript name by their OpenType
    number; `weight_class` and `width_class` are None without OS/2; `angle` in degrees from upright; `axes` the ranges
    of a variable font's axes by tag, `places` where STAT says that a static font stands on its family's axes;
    `optical_size` in points, from OS/2.
    """

    path: str
    names: dict[int, str]
    weight_class: int | None
    width_class: int | None
    bold: bool
    italic: bool
    oblique: bool
    angle: float
    axes: dict[str, tuple[float, float]]
    places: dict[str, float]
    optical_size: tuple[float, float] | None

    @property
    def stem(self) -> str:
        """The file's name without its suffix."""
        return PurePath(self.path).stem

    def name(self, *numbers: int) -> str:
        """The first of these names that there is, or ''."""
        return next((self.names[number] for number in numbers if number in self.names), "")


_NAMES = (
    *(FAMILY, SUBFAMILY, FULL_NAME, POSTSCRIPT_NAME, TYPOGRAPHIC_FAMILY, TYPOGRAPHIC_SUBFAMILY),
    *(WWS_FAMILY, WWS_SUBFAMILY),
)


def testimony(font: Font) -> Testimony:
    """Read what the font says. Tables that are missing say nothing."""
    name, os2, post, fvar = font.find(Name), font.find(OS2), font.find(Post), font.find(Fvar)
    found = {number: name.get(number) for number in _NAMES} if name is not None else {}
    stat = _stat(font) if fvar is None else None
    selection = os2.fs_selection if os2 is not None else 0
    mac_style = font.table(Head).mac_style
    return Testimony(
        font.path,
        # Names wiped to a dot or less are none.
        {number: text for number, text in found.items() if text and any(c.isalnum() for c in text)},
        os2.weight_class if os2 is not None else None,
        os2.width_class if os2 is not None else None,
        bool(selection & BOLD or mac_style & MAC_BOLD),
        bool(selection & (ITALIC | OBLIQUE) or mac_style & MAC_ITALIC),
        bool(selection & OBLIQUE),
        abs(post.italic_degrees) if post is not None else 0.0,
        {axis.tag: axis.range for axis in fvar.axes} if fvar is not None else {},
        {tag: place for tag in stat.values if (place := stat.place(tag)) is not None} if stat is not None else {},
        _optical_size(os2),
    )


def _stat(font: Font) -> Stat | None:
    """STAT, if it is there and sound; browsers do without it, so a damaged one is no fault."""
    try:
        return font.find(Stat)
    except FontError:
        return None


def _optical_size(os2: OS2 | None) -> tuple[float, float] | None:
    """The range in points that OS/2 version 5 says the font is made for (stored in twentieths of a point)."""
    if os2 is None or os2.lower_optical_point_size is None or os2.upper_optical_point_size is None:
        return None
    low, high = os2.lower_optical_point_size / 20, os2.upper_optical_point_size / 20
    return (low, high) if 0 < high < 3000 and (low, high) != (0, 3276.75) else None


@dataclass(slots=True, frozen=True)
class NameReading:
    """What the names add up to: the family, the style they say, and `said`, the text that tells the weight.

    `variant` is what the style name says besides weight, width and slant: an optical size, "Outline".
    """

    family: str
    style: StyleWords
    said: str
    variant: str


def read_names(told: Testimony) -> NameReading:
    """Typographic names before the four-style ones before PostScript and file name."""
    typographic, plain = told.name(TYPOGRAPHIC_FAMILY, WWS_FAMILY), told.name(FAMILY)
    subfamily = told.name(TYPOGRAPHIC_SUBFAMILY, WWS_SUBFAMILY, SUBFAMILY)
    postscript = told.name(POSTSCRIPT_NAME)
    extra = StyleWords()
    if typographic:
        family = typographic
    elif plain:
        family, extra = split_family(plain)
    else:
        # No family name at all: the full, PostScript or file name has to do.
        family, extra = split_family(
            told.name(FULL_NAME) or (postscript or told.stem).replace("-", " ").replace("_", " ")
        )
    style, said = read_style(subfamily), subfamily
    if extra.weight is not None and style.weight is not None and _nearer(told.weight_class or 0, extra, style):
        # In the old scheme "Penyu Semi Bold" may be the bold of its own small family.
        style.weight, style.elastic, said = extra.weight, extra.elastic, plain
    for other, text in (
        (extra, plain),
        (_behind_hyphen(postscript), postscript),
        (_behind_hyphen(told.stem), told.stem),
    ):
        style.plain = style.plain or other.plain
        if other.rest:
            continue
        if style.weight is None and other.weight is not None:
            style.weight, style.elastic, said = other.weight, other.elastic, text
        if style.width is None:
            style.width, style.exact_width = other.width, other.exact_width
        style.slant = style.slant or other.slant
    return NameReading(family or "Unnamed", style, said, " ".join(style.rest))


def _nearer(stored: int, first: StyleWords, second: StyleWords) -> bool:
    return stored > 0 and abs((first.weight or 0) - stored) < abs((second.weight or 0) - stored)


def _behind_hyphen(name: str) -> StyleWords:
    """The style in a PostScript or file name, which stands behind the last hyphen."""
    stem, _, style = name.rpartition("-")
    return read_style(style) if stem else StyleWords()


def evidence(told: Testimony, reading: NameReading) -> tuple[Evidence, ...]:
    """The pieces, one by one, for whoever wants to judge for themselves."""
    found = [
        Evidence("family", label, told.names[number])
        for number, label in (
            (TYPOGRAPHIC_FAMILY, "typographic family name"),
            (WWS_FAMILY, "WWS family name"),
            (FAMILY, "family name"),
        )
        if number in told.names
    ]
    if told.weight_class is not None:
        found.append(Evidence("weight", "OS/2", str(told.weight_class)))
    if told.bold:
        found.append(Evidence("weight", "bold mark", "bold"))
    if reading.style.weight is not None:
        found.append(Evidence("weight", f"name {reading.said!r}", str(reading.style.weight)))
    if told.italic:
        found.append(Evidence("style", "italic mark", "oblique" if told.oblique else "italic"))
    if told.angle:
        found.append(Evidence("style", "italic angle", f"{told.angle:g}°"))
    if reading.style.slant is not None:
        found.append(Evidence("style", "names", reading.style.slant))
    if told.width_class is not None:
        found.append(Evidence("width", "OS/2", str(told.width_class)))
    if reading.style.width is not None:
        found.append(Evidence("width", "names", f"{reading.style.width:g}%"))
    found += [
        Evidence(_AXES[tag], f"axis {tag}", f"{low:g} to {high:g}")
        for tag, (low, high) in told.axes.items()
        if tag in _AXES
    ]
    found += [
        Evidence(_AXES[tag], f"STAT axis {tag}", f"{place:g}") for tag, place in told.places.items() if tag in _AXES
    ]
    if told.optical_size is not None:
        low, high = told.optical_size
        found.append(Evidence("optical size", "OS/2", f"{low:g} to {high:g} points"))
    if reading.variant:
        found.append(Evidence("variant", "names", reading.variant))
    return tuple(found)


_AXES: dict[str, Aspect] = {"wght": "weight", "wdth": "width", "slnt": "style", "ital": "style"}
