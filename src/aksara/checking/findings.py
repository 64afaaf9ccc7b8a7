"""`Finding`: what is wrong, where, what readers see because of it, and what to do."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from aksara.checking.kinds import KINDS, LEVELS, Level
from aksara.text import format_ranges

if TYPE_CHECKING:
    from aksara.site.usage import Origin

#: Longest part of a style sheet that a sentence quotes.
_QUOTED = 80


class Place(Struct, frozen=True):
    """A file or an address as users know it, a line (0: the whole file), and the rule or selector there."""

    path: str
    line: int = 0
    rule: str = ""

    def __str__(self) -> str:
        where = f"{self.path}:{self.line}" if self.line else self.path
        return f"{where}, {self.rule}" if self.rule else where


def place_of(origin: Origin) -> Place:
    """The place where text asks for its face."""
    if origin.sheet:
        return Place(origin.sheet, origin.sheet_line, origin.selector)
    return Place(origin.page, origin.line, origin.selector)


class Finding(Struct, frozen=True, kw_only=True):
    """A finding of a kind in the table of `kinds`, as sentences without a full stop and as data."""

    kind: str
    level: Level
    place: Place
    problem: str
    #: What readers see because of it.
    effect: str
    #: What to do.
    remedy: str
    #: The first page on which it shows, if that is known.
    page: str = ""
    family: str = ""
    #: The face's label ("Bold Italic").
    face: str = ""
    #: Code points that it is about.
    characters: tuple[int, ...] = ()
    #: The URL that it is about, as it is written.
    address: str = ""

    def as_json(self) -> dict[str, Any]:
        """For JSON outputs (docs/checking.md)."""
        return {
            "kind": self.kind,
            "level": self.level,
            "file": self.place.path,
            "line": self.place.line,
            "rule": self.place.rule,
            "page": self.page,
            "family": self.family,
            "face": self.face,
            "characters": format_ranges(self.characters) if self.characters else "",
            "address": self.address,
            "problem": self.problem,
            "effect": self.effect,
            "remedy": self.remedy,
        }


def finding(
    kind: str,
    place: Place,
    case: str = "",
    *,
    page: str = "",
    family: str = "",
    face: str = "",
    characters: Iterable[int] = (),
    address: str = "",
    **values: object,
) -> Finding:
    """A finding with the sentences of its kind, or of a `case` of it, in which `values` and the data are put in."""
    described = KINDS[kind].case(case)
    said = {"family": family, "face": face, "address": shortened(address), "page": page, **values}
    return Finding(
        kind=kind,
        level=described.level,
        place=place,
        problem=described.problem.format_map(said),
        effect=described.effect.format_map(said),
        remedy=described.remedy.format_map(said),
        page=page,
        family=family,
        face=face,
        characters=tuple(characters),
        address=address,
    )


def most_harmful_first(findings: Iterable[Finding]) -> list[Finding]:
    """Each once, by level, in the order in which they were found."""
    return sorted(dict.fromkeys(findings), key=lambda finding_: LEVELS.index(finding_.level))


def shortened(text: str) -> str:
    """A piece of a style sheet, short enough for a sentence."""
    return text if len(text) <= _QUOTED else f"{text[:60]}…{text[-15:]}"
