"""Families that computers come with, as far as they could be measured: `data/system_families.json`.

The data are made by tools/make_system_families.py, which says in which font each family was measured.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Any

from aksara.faces import Generic

#: What a style sheet is read on, in the order in which families for them are chosen.
PLATFORMS = ("windows", "macos", "ios", "android", "linux")
_DIGITS = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz_."
_UNITS = 2048


@dataclass(slots=True, frozen=True)
class SystemFace:
    """One style: the names by which `local()` finds it or fonts of the same widths, and its advances in ems."""

    bold: bool
    italic: bool
    local: tuple[str, ...]
    widths: Mapping[int, float] = field(repr=False)


@dataclass(slots=True, frozen=True, eq=False)
class SystemFamily:
    """`x_height` in ems."""

    name: str
    generic: Generic
    platforms: frozenset[str]
    x_height: float
    faces: tuple[SystemFace, ...]

    def face(self, *, bold: bool, italic: bool) -> SystemFace:
        """The style that stands in for such text; the weight counts more than the slant."""
        return max(self.faces, key=lambda face: (face.bold == bold, face.italic == italic))


def mean_width(widths: Mapping[int, float], frequencies: Mapping[int, float], codes: Iterable[int]) -> float:
    """How wide a letter of running text is on average, over these characters; 0 if none of them occurs."""
    weights = {code: frequencies.get(code, 0.0) for code in codes}
    total = sum(weights.values())
    return sum(weight * widths[code] for code, weight in weights.items()) / total if total else 0.0


def system_families() -> tuple[SystemFamily, ...]:
    """All that were measured."""
    return tuple(_by_name().values())


def find_system_family(name: str) -> SystemFamily | None:
    """The family of that name, whatever its case; None if it was not measured."""
    return _by_name().get(name.casefold())


@cache
def _by_name() -> dict[str, SystemFamily]:
    data: dict[str, Any] = json.loads(files("aksara.data").joinpath("system_families.json").read_text(encoding="utf-8"))
    codes = [ord(character) for character in data["characters"]]
    return {entry["family"].casefold(): _family(entry, codes) for entry in data["families"]}


def _family(entry: dict[str, Any], codes: list[int]) -> SystemFamily:
    faces = tuple(
        SystemFace("Bold" in style, "Italic" in style, tuple(face["local"]), _widths(face["widths"], codes))
        for style, face in entry["faces"].items()
    )
    return SystemFamily(entry["family"], entry["generic"], frozenset(entry["platforms"]), entry["x_height"], faces)


def _widths(row: str, codes: list[int]) -> dict[int, float]:
    """Two digits a character, in 1/2048 em; "--" is a character that the font lacks."""
    pairs = (row[index : index + 2] for index in range(0, len(row), 2))
    return {
        code: (_DIGITS.index(pair[0]) * len(_DIGITS) + _DIGITS.index(pair[1])) / _UNITS
        for code, pair in zip(codes, pairs, strict=True)
        if pair != "--"
    }
