"""All characters of a family by block, with how often the site writes each, and its slice."""

from __future__ import annotations

import unicodedata
from collections.abc import Mapping, Sequence

from msgspec import Struct

from aksara.proof.content import FamilyProof
from aksara.proof.samples import some_letters
from aksara.text.blocks import by_block
from aksara.web.model import WebFace, WebFamily

#: Characters shown of one family; the page must stay usable for fonts of tens of thousands.
MAX_SHOWN = 3_000


class Cell(Struct, frozen=True):
    """A character as it is shown: what to hover for, its slice's colour (None: it has none), whether pages write it,
    and the place of the face that it is shown in, if the one for running text lacks it."""

    text: str
    code: int
    title: str
    hue: int | None
    is_written: bool
    place: int | None


class CharacterBlock(Struct, frozen=True):
    """Characters of a Unicode block, of `total` that there are."""

    name: str
    cells: list[Cell]
    total: int


class Slice(Struct, frozen=True):
    """A slice of a family: of the faces that have it together; `letters` are some of it, `hue` its colour."""

    name: str
    share: float | None
    count: int
    size: int
    letters: str
    hue: int


def blocks_of(proof: FamilyProof, text_face: WebFace) -> list[CharacterBlock]:
    """The characters that can be seen, by block, up to `MAX_SHOWN`."""
    family = proof.web
    elsewhere = {
        code: place
        for place, web in reversed(list(enumerate(family.faces)))
        for code in web.characters - text_face.characters
    }
    names = slice_names(family)
    hues = dict(zip(names, hues_of(len(names)), strict=True))
    slice_of = {code: part.name for web in family.faces for part in web.slices for code in part.characters}
    room, result = MAX_SHOWN, []
    for name, codes in by_block(characters_of(family)).items():
        seen = [code for code in codes if unicodedata.category(chr(code))[0] not in "CZ"]
        shown = seen[: max(room, 0)]
        room -= len(shown)
        if seen:
            cells = [
                Cell(
                    shown_as(code),
                    code,
                    _title(code, slice_of.get(code, "") if names else "", proof.counts),
                    hues.get(slice_of.get(code, "")),
                    bool(proof.counts.get(code)),
                    elsewhere.get(code),
                )
                for code in shown
            ]
            result.append(CharacterBlock(name, cells, len(seen)))
    return result


def characters_of(family: WebFamily) -> frozenset[int]:
    """Those that any of its faces serves."""
    return frozenset().union(*(web.characters for web in family.faces))


def slices_of(family: WebFamily) -> list[Slice]:
    """The slices of a family, in their order."""
    found = []
    names = slice_names(family)
    for name, hue in zip(names, hues_of(len(names)), strict=True):
        parts = [part for web in family.faces for part in web.slices if part.name == name]
        codes = frozenset[int]().union(*(part.characters for part in parts))
        size = sum(part.best_size for part in parts)
        share = parts[0].share if parts else None
        found.append(Slice(name, share, len(codes), size, some_letters(codes), hue))
    return found


def slice_names(family: WebFamily) -> Sequence[str]:
    """The names of a family's slices; none if it is not cut."""
    return family.cut.names if family.cut is not None else ()


def hues_of(count: int) -> list[int]:
    """Angles on the colour wheel, neighbours far from each other."""
    return [index * 137 % 360 for index in range(count)]


def shown_as(code: int) -> str:
    """The character; a combining mark sits on a dotted circle, and what only steers others is not written itself."""
    character = chr(code)
    if unicodedata.category(character)[0] in "CZ":
        return ""
    return ("\u25cc" if unicodedata.combining(character) else "") + character


def name_of(code: int) -> str:
    """U+00E9 latin small letter e with acute."""
    return f"U+{code:04X} {unicodedata.name(chr(code), '').lower()}".strip()


def _title(code: int, part: str, counts: Mapping[int, int]) -> str:
    title = name_of(code) + (f", in {part}" if part else "")
    count = counts.get(code, 0)
    return title + (f", written {count:,} time{'s' * (count != 1)}" if count else "")
