"""`Finding`: what is wrong, where, what a reader sees because of it, and what to do."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, Literal, get_args

from msgspec import Struct
from msgspec.structs import asdict

from aksara.site.usage import Origin

Level = Literal["error", "warning", "hint"]
LEVELS: tuple[Level, ...] = get_args(Level)


class Place(Struct, frozen=True):
    """Where it is: a file or an address as users know it, a line (0: the whole), and the rule or selector."""

    path: str
    line: int = 0
    rule: str = ""

    def __str__(self) -> str:
        where = f"{self.path}:{self.line}" if self.line else self.path
        return f"{where}, {self.rule}" if self.rule else where


def place_of(origin: Origin) -> Place:
    """Where text asks for its face."""
    if origin.sheet:
        return Place(origin.sheet, origin.sheet_line, origin.selector)
    return Place(origin.page, origin.line, origin.selector)


class Finding(Struct, frozen=True, kw_only=True):
    """`kind` names what it is ("font-missing"), `problem`, `effect` and `advice` are sentences without a full stop."""

    kind: str
    level: Level
    place: Place
    problem: str
    effect: str
    advice: str

    def as_json(self) -> dict[str, Any]:
        """For JSON outputs (docs/formats.md)."""
        return {
            "kind": self.kind,
            "level": self.level,
            **asdict(self.place),
            "problem": self.problem,
            "effect": self.effect,
            "advice": self.advice,
        }


def most_harmful_first(findings: Iterable[Finding]) -> list[Finding]:
    """Each once, by level, in the order in which they were found."""
    return sorted(dict.fromkeys(findings), key=lambda finding: LEVELS.index(finding.level))
