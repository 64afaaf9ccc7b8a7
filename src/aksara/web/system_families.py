"""System families that could be measured: `data/system_families.json`.

The data are made by tools/make_system_families.py, which says in which font each family was measured.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from functools import cache, cached_property
from importlib.resources import files
from itertools import chain
from typing import Any, Literal, get_args

from msgspec import Struct

from aksara.faces import Generic

#: What a style sheet is read on, in the order in which families for them are chosen.
Platform = Literal["windows", "macos", "ios", "android", "linux"]
PLATFORMS: tuple[Platform, ...] = get_args(Platform)
DIGITS = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz_."
_UNITS = 2048
_MISSING, _NEGATIVE = "--", "-"
#: Units in a step of negative widths, which marks have that make the letter before them narrower.
_STEP = 16
# Two digits → ems, or one behind a minus sign; `_MISSING` stands for a character that the font lacks.
_WIDTHS = {a + b: (64 * i + j) / _UNITS for i, a in enumerate(DIGITS) for j, b in enumerate(DIGITS)} | {
    _NEGATIVE + digit: -(index + 1) * _STEP / _UNITS for index, digit in enumerate(DIGITS)
}
_MOST_UNITS = len(DIGITS) ** 2 - 1


#: Characters that stand for many in the data, since all of these are as wide: ideographs, and syllables of Hangul.
ALIKE: Mapping[int, tuple[range, ...]] = {
    0x4E00: (range(0x3400, 0x4DC0), range(0x4E00, 0xA000), range(0xF900, 0xFB00)),
    0xAC00: (range(0xAC00, 0xD7A4),),
}


class SystemFace(Struct, frozen=True, dict=True):
    """One style: the names by which `local()` finds it or fonts of the same widths, and its advances.

    `codes` are the characters that were measured, `row` two digits for each.
    """

    bold: bool
    italic: bool
    local: tuple[str, ...]
    codes: tuple[int, ...]
    row: str

    @cached_property
    def widths(self) -> Mapping[int, float]:
        """Advances in ems of the characters that the fonts have."""
        pairs = (self.row[index : index + 2] for index in range(0, len(self.row), 2))
        widths = {code: _WIDTHS[pair] for code, pair in zip(self.codes, pairs, strict=True) if pair != _MISSING}
        for first in ALIKE.keys() & widths.keys():
            widths |= dict.fromkeys(chain.from_iterable(ALIKE[first]), widths[first])
        return widths


class SystemFamily(Struct, frozen=True, eq=False):
    """`x_height` in ems; `scripts` are those that it is for, () for a family that has Latin, Greek and Cyrillic.
    `language` is that in whose forms it draws ideographs ("" if it has none)."""

    name: str
    generic: Generic
    platforms: frozenset[Platform]
    x_height: float
    faces: tuple[SystemFace, ...]
    scripts: tuple[str, ...] = ()
    language: str = ""

    def face(self, *, bold: bool, italic: bool) -> SystemFace:
        """The nearest style; weight matters more than slant."""
        return max(self.faces, key=lambda face: (face.bold == bold, face.italic == italic))


def mean_width(widths: Mapping[int, float], frequencies: Mapping[int, float], codes: Iterable[int]) -> float:
    """The mean width of these characters in running text; 0 if none of them occurs."""
    weights = {code: frequencies.get(code, 0.0) for code in codes}
    total = sum(weights.values())
    return sum(weight * widths[code] for code, weight in weights.items()) / total if total else 0.0


def widths_row(widths: Mapping[int, float], codes: Iterable[int]) -> str:
    """The widths of these characters, in ems, as `SystemFace.row` has them."""
    return "".join(_digits(round(widths[code] * _UNITS)) if code in widths else _MISSING for code in codes)


def _digits(units: int) -> str:
    base = len(DIGITS)
    if units <= -_STEP // 2:
        return _NEGATIVE + DIGITS[min(max(round(-units / _STEP), 1), base) - 1]
    units = min(max(units, 0), _MOST_UNITS)
    return DIGITS[units // base] + DIGITS[units % base]


def all_system_families(measured: Sequence[SystemFamily] = ()) -> tuple[SystemFamily, ...]:
    """All that are known; those that were `measured` on somebody's computer take the place of ours."""
    return tuple((_by_name() | {family.name.casefold(): family for family in measured}).values())


def find_system_family(name: str, measured: Sequence[SystemFamily] = ()) -> SystemFamily | None:
    """The family of that name, ignoring case; None if it was not measured."""
    own = next((family for family in measured if family.name.casefold() == name.casefold()), None)
    return own or _by_name().get(name.casefold())


@cache
def _by_name() -> dict[str, SystemFamily]:
    data: dict[str, Any] = json.loads(files("aksara.data").joinpath("system_families.json").read_text(encoding="utf-8"))
    codes = tuple(map(ord, data["characters"]))
    return {entry["family"].casefold(): _family(entry, codes) for entry in data["families"]}


def _family(entry: dict[str, Any], codes: tuple[int, ...]) -> SystemFamily:
    codes = tuple(map(ord, entry["characters"])) if "characters" in entry else codes
    faces = tuple(
        SystemFace("Bold" in style, "Italic" in style, tuple(face["local"]), codes, face["widths"])
        for style, face in entry["faces"].items()
    )
    return SystemFamily(
        entry["family"],
        entry["generic"],
        frozenset(entry["platforms"]),
        entry["x_height"],
        faces,
        tuple(entry.get("scripts", ())),
        entry.get("language", ""),
    )
