"""Findings that a project accepts, each with its reason, and some until a day."""

from __future__ import annotations

import fnmatch
from collections.abc import Iterable, Sequence
from datetime import date
from typing import Any

from msgspec import Struct

from aksara.checking.findings import Finding, Place, finding
from aksara.text import format_ranges


class Acceptance(Struct, frozen=True, kw_only=True):
    """A table `[[check.accept]]`. A missing key matches anything."""

    #: The kind of finding.
    finding: str
    reason: str
    #: A path or a pattern of paths, as findings show them; the end of a path is enough.
    file: str = ""
    family: str = ""
    characters: frozenset[int] = frozenset()
    #: The last day on which it holds.
    until: date | None = None
    #: Where it is written.
    place: Place = Place("")

    def fits(self, candidate: Finding) -> bool:
        """Whether it is about a finding."""
        return (
            candidate.kind == self.finding
            and (not self.file or _fits_path(self.file, candidate.place.path))
            and (not self.family or candidate.family.casefold() == self.family.casefold())
            and (not self.characters or (bool(candidate.characters) and self.characters >= set(candidate.characters)))
        )


class Accepted(Struct, frozen=True):
    """The remaining findings, and the accepted ones."""

    left: tuple[Finding, ...]
    accepted: tuple[tuple[Finding, Acceptance], ...]


def accept(findings: Iterable[Finding], acceptances: Sequence[Acceptance], today: date) -> Accepted:
    """Part the findings; an acceptance whose time is over, or that fits nothing any more, is a finding of its own."""
    left: list[Finding] = []
    accepted: list[tuple[Finding, Acceptance]] = []
    used: set[int] = set()
    holding = [acceptance for acceptance in acceptances if acceptance.until is None or acceptance.until >= today]
    for candidate in findings:
        fitting = next((acceptance for acceptance in holding if acceptance.fits(candidate)), None)
        if fitting is None:
            left.append(candidate)
        else:
            used.add(id(fitting))
            accepted.append((candidate, fitting))
    for acceptance in acceptances:
        if acceptance not in holding:
            problem = f"the acceptance of {acceptance.finding} ended on {acceptance.until}"
            left.append(finding("acceptance-unused", acceptance.place, "over", problem=problem))
        elif id(acceptance) not in used:
            problem = f"nothing that {acceptance.finding} is accepted for was found"
            left.append(finding("acceptance-unused", acceptance.place, problem=problem))
    return Accepted(tuple(left), tuple(accepted))


def acceptances_of(findings: Iterable[Finding], reason: str) -> list[Acceptance]:
    """Acceptances of these findings, as narrow as they can be said, each once."""
    acceptances = (
        Acceptance(
            finding=finding.kind,
            reason=reason,
            file=finding.place.path,
            family=finding.family,
            characters=frozenset(finding.characters),
        )
        for finding in findings
    )
    return list(dict.fromkeys(acceptances))


def written_acceptance(acceptance: Acceptance) -> dict[str, Any]:
    """Its keys and values as a project file has them, without empty ones."""
    values = {
        "finding": acceptance.finding,
        "file": acceptance.file,
        "family": acceptance.family,
        "characters": format_ranges(acceptance.characters) if acceptance.characters else "",
        "reason": acceptance.reason,
    }
    return {name: value for name, value in values.items() if value}


def _fits_path(pattern: str, path: str) -> bool:
    return path == pattern or path.endswith(f"/{pattern}") or fnmatch.fnmatchcase(path, pattern)
