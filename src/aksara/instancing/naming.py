"""The font's description at the new default: weight, width and slant in 'OS/2', 'head', 'post', and names."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from aksara.font import Font
from aksara.instancing.limits import AxisChange
from aksara.tables import OS2, Fvar, Head, Name, Post, Table
from aksara.tables.head import MAC_BOLD, MAC_ITALIC
from aksara.tables.name import (
    FAMILY,
    FULL_NAME,
    POSTSCRIPT_NAME,
    SUBFAMILY,
    TYPOGRAPHIC_FAMILY,
    TYPOGRAPHIC_SUBFAMILY,
    NameRecord,
)
from aksara.tables.os2 import BOLD, ITALIC, OBLIQUE, REGULAR
from aksara.tables.platforms import MACINTOSH

_FIXED = 0x10000
#: Percent of the normal width → class of 'OS/2' (OpenType 1.9.1, "usWidthClass").
_WIDTHS = (50.0, 62.5, 75.0, 87.5, 100.0, 112.5, 125.0, 150.0, 200.0)
#: A font is marked bold where its weight is that of CSS's `bold`.
_BOLD_WEIGHT = 700


def new_identity(font: Font, tables: Sequence[Table], changes: Sequence[AxisChange]) -> list[Table]:
    """'OS/2', 'head' and 'post', in `tables` or as they were, and 'name', as they are true at the new default."""
    locations = {change.after.tag: change.after.default / _FIXED for change in changes}
    moved = {change.after.tag for change in changes if change.after.default != change.before.default}
    if not moved:
        return []
    by_tag = {table.TAG: table for table in tables}
    head, os2, post = (by_tag.get(table.TAG) or font.find(table) for table in (Head, OS2, Post))
    assert isinstance(head, Head)
    leaning = _leaning(locations) if moved & {"slnt", "ital"} else None
    changed: list[Table] = []
    mac_style = head.mac_style
    if isinstance(os2, OS2):
        os2 = _new_os2(os2, locations, moved, leaning)
        changed.append(os2)
        mac_style = mac_style & ~(MAC_BOLD | MAC_ITALIC)
        mac_style |= MAC_BOLD * bool(os2.fs_selection & BOLD) | MAC_ITALIC * bool(os2.fs_selection & ITALIC)
    changed.append(replace(head, mac_style=mac_style))
    if isinstance(post, Post) and "slnt" in moved:
        angle = round(locations["slnt"] * _FIXED)
        changed.append(replace(post, header=replace(post.header, italic_angle=angle)))
    name, fvar = font.find(Name), font.table(Fvar)
    label = _instance_name(fvar, name, changes)
    if name is not None and label:
        changed.append(_renamed(name, label))
    return changed


def _leaning(locations: Mapping[str, float]) -> bool:
    # 'slnt' is negative where glyphs lean to the right.
    return locations.get("slnt", 0) != 0 or locations.get("ital", 0) >= 0.5


def _new_os2(os2: OS2, locations: Mapping[str, float], moved: set[str], leaning: bool | None) -> OS2:
    selection = os2.fs_selection
    if leaning is not None:
        selection &= ~(ITALIC | OBLIQUE)
        selection |= ITALIC * leaning | OBLIQUE * (leaning and "ital" not in locations and os2.version >= 4)
    if "wght" in moved:
        weight = min(max(round(locations["wght"]), 1), 1000)
        os2 = replace(os2, weight_class=weight)
        selection = selection | BOLD if weight == _BOLD_WEIGHT else selection & ~BOLD
    if "wdth" in moved:
        nearest = min(_WIDTHS, key=lambda width: abs(width - locations["wdth"]))
        os2 = replace(os2, width_class=_WIDTHS.index(nearest) + 1)
    plain = not selection & (ITALIC | BOLD)
    selection = selection | REGULAR if plain and os2.weight_class == 400 else selection & ~REGULAR
    return replace(os2, fs_selection=selection)


def _instance_name(fvar: Fvar, name: Name | None, changes: Sequence[AxisChange]) -> str | None:
    """The font's own name for the new default."""
    location = tuple(change.after.default for change in changes)
    ids = (instance.name_id for instance in fvar.instances if instance.coordinates == location)
    return next((text for name_id in ids if name is not None and (text := name.get(name_id))), None)


def _renamed(name: Name, style: str) -> Name:
    """The names of family and style with the new style in them; the four styles of old programs keep their family."""
    family = name.get(TYPOGRAPHIC_FAMILY) or name.get(FAMILY) or ""
    postscript = (name.get(POSTSCRIPT_NAME) or family).partition("-")[0].replace(" ", "")
    texts = {
        FAMILY: family if style in _FOUR_STYLES else f"{family} {style}",
        SUBFAMILY: style if style in _FOUR_STYLES else "Regular",
        FULL_NAME: f"{family} {style}",
        POSTSCRIPT_NAME: f"{postscript}-{style.replace(' ', '')}",
        TYPOGRAPHIC_FAMILY: family,
        TYPOGRAPHIC_SUBFAMILY: style,
    }
    there = {record.name_id for record in name.records}
    model = next((record for record in name.records if record.name_id in (FAMILY, TYPOGRAPHIC_FAMILY)), None)
    if model is None:
        return name
    records = [
        replace(record, text=_encoded(record, texts[record.name_id])) if record.name_id in texts else record
        for record in name.records
    ]
    if style not in _FOUR_STYLES:
        records += [
            replace(model, name_id=number, text=_encoded(model, texts[number]))
            for number in (TYPOGRAPHIC_FAMILY, TYPOGRAPHIC_SUBFAMILY)
            if number not in there
        ]
    ordered = sorted(records, key=lambda record: (record.platform, record.encoding, record.language, record.name_id))
    return replace(name, records=tuple(ordered))


_FOUR_STYLES = ("Regular", "Italic", "Bold", "Bold Italic")


def _encoded(record: NameRecord, text: str) -> bytes:
    if record.platform == MACINTOSH:
        return text.encode("mac_roman", "replace")
    return text.encode("utf-16-be", "surrogatepass")
