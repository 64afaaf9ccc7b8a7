"""What a variable font can vary: its axes, named instances, and what changes along the axes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from aksara.errors import FontError
from aksara.font import Font
from aksara.tables import Fvar, Gdef, Gsub, Name
from aksara.tables.fvar import NamedInstance

#: The registered axes (OpenType 1.9.1, "Registered axis tags"), for fonts that leave their names out.
_REGISTERED = {"ital": "Italic", "opsz": "Optical Size", "slnt": "Slant", "wdth": "Width", "wght": "Weight"}
#: What varies where the font has one of these tables.
_VARYING_TABLES = {
    "outlines": ("gvar", "CFF2"),
    "advances": ("gvar", "HVAR"),  # without HVAR, renderers take advances from the points of 'gvar'
    "vertical advances": ("VVAR",),
    "line metrics": ("MVAR",),
    "hinting": ("cvar",),
}


class FontAxis(Struct, frozen=True, kw_only=True):
    """An axis: `name` is the font's own or the registered one; numbers are in the axis's own units.

    `hidden`: the maker asks programs not to offer it to people.
    """

    tag: str
    name: str
    minimum: float
    default: float
    maximum: float
    hidden: bool


class FontInstance(Struct, frozen=True):
    """A location with a name of its own: "Bold", {"wght": 700}."""

    name: str
    location: Mapping[str, float]


class FontVariation(Struct, frozen=True):
    """`varies` says in words what changes along the axes: "outlines", "advances", …"""

    axes: tuple[FontAxis, ...]
    instances: tuple[FontInstance, ...]
    varies: tuple[str, ...]

    def as_json(self) -> dict[str, Any]:
        """The same in the terms of JSON."""
        return {
            "axes": [
                {
                    "tag": axis.tag,
                    "name": axis.name,
                    "minimum": axis.minimum,
                    "default": axis.default,
                    "maximum": axis.maximum,
                    "hidden": axis.hidden,
                }
                for axis in self.axes
            ],
            "instances": [{"name": instance.name, "location": dict(instance.location)} for instance in self.instances],
            "varies": list(self.varies),
        }


def font_variation(font: Font) -> FontVariation | None:
    """What can be varied in the font; None for a static one. Raises `FontError` for a damaged 'fvar'."""
    fvar, names = font.find(Fvar), font.find(Name)
    if fvar is None:
        return None

    def name_of(name_id: int) -> str:
        return (names.get(name_id) if names is not None else None) or ""

    def instance_name(instance: NamedInstance) -> str:
        named = name_of(instance.name_id)
        return named or ", ".join(f"{tag} {value:g}" for tag, value in instance.location(fvar.axes).items())

    axes = tuple(
        FontAxis(
            tag=axis.tag,
            name=name_of(axis.name_id) or _REGISTERED.get(axis.tag, ""),
            minimum=axis.range[0],
            default=axis.default_value,
            maximum=axis.range[1],
            hidden=axis.is_hidden,
        )
        for axis in fvar.axes
    )
    instances = tuple(
        FontInstance(instance_name(instance), instance.location(fvar.axes)) for instance in fvar.instances
    )
    return FontVariation(axes, instances, tuple(_varying(font)))


def _varying(font: Font) -> list[str]:
    """What changes, as the font's tables say."""
    varying = [words for words, tags in _VARYING_TABLES.items() if any(tag in font for tag in tags)]
    try:
        gdef, gsub = font.find(Gdef), font.find(Gsub)
    except FontError:
        return varying  # browsers leave out damaged layout, and so does a build
    # GPOS varies by the store in GDEF, and nothing but carets does so besides.
    if "GPOS" in font and gdef is not None and gdef.variations is not None:
        varying.append("kerning and mark positions")
    return [*varying, *(["substitutions"] if gsub is not None and gsub.variations else [])]
