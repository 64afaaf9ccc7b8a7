"""The information in a font by which its face is identified, piece by piece."""

from __future__ import annotations

from pathlib import PurePath

from msgspec import Struct

from aksara.errors import FontError
from aksara.faces.face import Aspect, Evidence
from aksara.faces.style_names import StyleName, read_style_name, split_family_name
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


class FaceFacts(Struct, frozen=True, kw_only=True):
    """Everything that bears on the face, read out of the tables but not weighed.

    `names` are the four styles' names, the typographic ones, the full and the PostScript name by their OpenType
    number; `weight_class` and `width_class` are None without OS/2; `angle` in degrees from upright; `axes` the
    ranges of a variable font's axes by tag, `defaults` where it stands on them, `positions` where STAT says that a
    static font stands on its family's axes; `optical_size` in points, from OS/2.
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
    defaults: dict[str, float]
    positions: dict[str, float]
    optical_size: tuple[float, float] | None

    @property
    def stem(self) -> str:
        """The file's name without its suffix."""
        return PurePath(self.path).stem

    def name(self, *numbers: int) -> str:
        """The first of these names that there is, or ''."""
        return next((self.names[name_id] for name_id in numbers if name_id in self.names), "")


_NAMES = (
    *(FAMILY, SUBFAMILY, FULL_NAME, POSTSCRIPT_NAME, TYPOGRAPHIC_FAMILY, TYPOGRAPHIC_SUBFAMILY),
    *(WWS_FAMILY, WWS_SUBFAMILY),
)


def facts_of(font: Font) -> FaceFacts:
    """Read the font's own information. Missing tables are skipped."""
    name, os2, post, fvar = font.find(Name), font.find(OS2), font.find(Post), font.find(Fvar)
    found = {name_id: name.get(name_id) for name_id in _NAMES} if name is not None else {}
    stat = _stat(font) if fvar is None else None
    selection = os2.fs_selection if os2 is not None else 0
    mac_style = font.table(Head).mac_style
    return FaceFacts(
        path=font.path,
        # Names reduced to a dot or nothing are ignored.
        names={name_id: text for name_id, text in found.items() if text and any(c.isalnum() for c in text)},
        weight_class=os2.weight_class if os2 is not None else None,
        width_class=os2.width_class if os2 is not None else None,
        bold=bool(selection & BOLD or mac_style & MAC_BOLD),
        italic=bool(selection & (ITALIC | OBLIQUE) or mac_style & MAC_ITALIC),
        oblique=bool(selection & OBLIQUE),
        angle=abs(post.italic_degrees) if post is not None else 0.0,
        axes={axis.tag: axis.range for axis in fvar.axes} if fvar is not None else {},
        defaults={axis.tag: axis.default_value for axis in fvar.axes} if fvar is not None else {},
        positions=(
            {tag: value for tag in stat.values if (value := stat.value(tag)) is not None} if stat is not None else {}
        ),
        optical_size=_optical_size(os2),
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


class NameReading(Struct, frozen=True):
    """The result of the names: the family, the style, and `said`, the text that names the weight.

    `variant` is what the style name says besides weight, width and slant: an optical size, "Outline".
    """

    family: str
    style: StyleName
    said: str
    variant: str


def read_names(facts: FaceFacts) -> NameReading:
    """Typographic names before the four-style ones before PostScript and file name."""
    typographic, plain = facts.name(TYPOGRAPHIC_FAMILY, WWS_FAMILY), facts.name(FAMILY)
    subfamily = facts.name(TYPOGRAPHIC_SUBFAMILY, WWS_SUBFAMILY, SUBFAMILY)
    postscript = facts.name(POSTSCRIPT_NAME)
    extra = StyleName()
    if typographic:
        family = typographic
    elif plain:
        family, extra = split_family_name(plain)
    else:
        # No family name at all: the full, PostScript or file name has to do.
        family, extra = split_family_name(
            facts.name(FULL_NAME) or (postscript or facts.stem).replace("-", " ").replace("_", " ")
        )
    style, said = read_style_name(subfamily), subfamily
    if extra.weight is not None and style.weight is not None and _nearer(facts.weight_class or 0, extra, style):
        # In the old scheme "Penyu Semi Bold" may be the bold of its own small family.
        style.weight, style.elastic, said = extra.weight, extra.elastic, plain
    for other, text in (
        (extra, plain),
        (_behind_hyphen(postscript), postscript),
        (_behind_hyphen(facts.stem), facts.stem),
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


def _nearer(stored: int, first: StyleName, second: StyleName) -> bool:
    return stored > 0 and abs((first.weight or 0) - stored) < abs((second.weight or 0) - stored)


def _behind_hyphen(name: str) -> StyleName:
    """The style in a PostScript or file name, which stands behind the last hyphen."""
    stem, _, style = name.rpartition("-")
    return read_style_name(style) if stem else StyleName()


def collect_evidence(facts: FaceFacts, reading: NameReading) -> tuple[Evidence, ...]:
    """The pieces of evidence, one by one, for people who want to judge for themselves."""
    found = [
        Evidence("family", label, facts.names[name_id])
        for name_id, label in (
            (TYPOGRAPHIC_FAMILY, "typographic family name"),
            (WWS_FAMILY, "WWS family name"),
            (FAMILY, "family name"),
        )
        if name_id in facts.names
    ]
    if facts.weight_class is not None:
        found.append(Evidence("weight", "OS/2", str(facts.weight_class)))
    if facts.bold:
        found.append(Evidence("weight", "bold mark", "bold"))
    if reading.style.weight is not None:
        found.append(Evidence("weight", f"name {reading.said!r}", str(reading.style.weight)))
    if facts.italic:
        found.append(Evidence("style", "italic mark", "oblique" if facts.oblique else "italic"))
    if facts.angle:
        found.append(Evidence("style", "italic angle", f"{facts.angle:g}°"))
    if reading.style.slant is not None:
        found.append(Evidence("style", "names", reading.style.slant))
    if facts.width_class is not None:
        found.append(Evidence("width", "OS/2", str(facts.width_class)))
    if reading.style.width is not None:
        found.append(Evidence("width", "names", f"{reading.style.width:g}%"))
    found += [
        Evidence(_AXES[tag], f"axis {tag}", f"{low:g} to {high:g}")
        for tag, (low, high) in facts.axes.items()
        if tag in _AXES
    ]
    found += [
        Evidence(_AXES[tag], f"STAT axis {tag}", f"{value:g}") for tag, value in facts.positions.items() if tag in _AXES
    ]
    if facts.optical_size is not None:
        low, high = facts.optical_size
        found.append(Evidence("optical size", "OS/2", f"{low:g} to {high:g} points"))
    if reading.variant:
        found.append(Evidence("variant", "names", reading.variant))
    return tuple(found)


_AXES: dict[str, Aspect] = {"wght": "weight", "wdth": "width", "slnt": "style", "ital": "style"}
