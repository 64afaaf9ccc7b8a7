"""The description of a kind of finding: its name, levels and texts.

Sentences have no full stop. What stands in braces is put in by `findings.finding`.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, get_args

from msgspec import UNSET, Struct, UnsetType, field

#: The most harmful first.
Level = Literal["error", "warning", "note"]
LEVELS: tuple[Level, ...] = get_args(Level)
Group = Literal["rules", "files", "use", "server", "project"]


class Case(Struct, frozen=True, kw_only=True):
    """The texts that a special case of a kind overrides."""

    level: Level | UnsetType = UNSET
    problem: str | UnsetType = UNSET
    effect: str | UnsetType = UNSET
    remedy: str | UnsetType = UNSET


class Description(Struct, frozen=True):
    """The texts of a finding, with braces for its values."""

    level: Level
    problem: str
    effect: str
    remedy: str


class Kind(Struct, frozen=True, kw_only=True):
    """A kind of finding."""

    name: str
    group: Group
    level: Level
    #: One line for the documentation.
    what: str
    problem: str
    effect: str
    remedy: str
    cases: Mapping[str, Case] = field(default_factory=dict)

    def case(self, name: str = "") -> Description:
        """The texts for a case; "" is the ordinary one."""
        special = self.cases[name] if name else Case()
        return Description(
            self.level if special.level is UNSET else special.level,
            self.problem if special.problem is UNSET else special.problem,
            self.effect if special.effect is UNSET else special.effect,
            self.remedy if special.remedy is UNSET else special.remedy,
        )

    @property
    def levels(self) -> list[Level]:
        """The levels that it can have, the most harmful first."""
        own = {self.level, *(case.level for case in self.cases.values() if case.level is not UNSET)}
        return sorted(own, key=LEVELS.index)


#: What many findings say that readers see.
OTHER_FONT = "text in {family} is shown in another font"
NOTHING = "nothing"
