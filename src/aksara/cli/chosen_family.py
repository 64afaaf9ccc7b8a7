"""The command that builds a family which was chosen in a trial."""

from __future__ import annotations

from collections.abc import Iterator

from aksara.cli.shells import in_lines, typed
from aksara.trying import Candidate, TriedPage
from aksara.trying.instructions import Instructions, project_lines, replaced_families

#: Characters from which on a command stands on several lines.
_LONG = 100


def instructions(candidate: Candidate, page: TriedPage) -> Instructions:
    """How the candidate is built for the page."""
    return Instructions(shell_command(candidate, page), project_lines(candidate, page))


def shell_command(candidate: Candidate, page: TriedPage) -> str:
    """The command that builds the family for the page."""
    parts = ["aksara", "build", *(path.as_posix() for path in candidate.fonts.paths)]
    if page.copy is None:
        parts += ["--for-text", page.text]
    else:
        parts += ["--for-site", page.place]
    for name in replaced_families(page):
        parts += ["--replaces", name]
    line = typed(parts)
    return line if len(line) <= _LONG else in_lines([parts[:2], *_with_values(parts[2:])])


def _with_values(parts: list[str]) -> Iterator[list[str]]:
    """The arguments, options together with their values."""
    rest = iter(parts)
    for part in rest:
        yield [part, next(rest)] if part.startswith("--") else [part]
