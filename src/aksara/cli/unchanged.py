"""Repeating the last report of a command whose inputs have not changed, without importing the pipeline."""

from __future__ import annotations

import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TextIO

import click

from aksara.cli.streams import escaped_json, visible
from aksara.observing import Observed
from aksara.receipts import Outcome, Receipts, forget_oldest

#: The commands of which outcomes are kept.
_KEPT = ("build", "check")
#: The name under which the command line notes the arguments of a command.
_ARGUMENTS = "aksara.arguments"
_GENERAL = frozenset(("-q", "--quiet", "-v", "--verbose", "--colour", "--color"))


def unchanged_command(ctx: click.Context, arguments: Sequence[str]) -> click.Command | None:
    """A command that prints the last result for these arguments again; None if something has changed."""
    ctx.meta[_ARGUMENTS] = tuple(arguments)
    # Whoever wants details wants to see them; the options of the program behind the command are read by the command.
    if ctx.params.get("verbose") or arguments[0] not in _KEPT or not _GENERAL.isdisjoint(arguments):
        return None
    try:
        outcome = Receipts(arguments).last()
    except OSError:
        return None
    return _Unchanged(arguments[0], outcome) if outcome is not None else None


def keep_outcome(ctx: click.Context, observed: Observed, written: Sequence[Path], outcome: Outcome) -> None:
    """Store what this command read and printed, for the next run with the same arguments."""
    Receipts(ctx.meta[_ARGUMENTS]).keep(observed, written, outcome)
    forget_oldest()


class _Unchanged(click.Command):
    def __init__(self, name: str, outcome: Outcome) -> None:
        super().__init__(name)
        self._outcome = outcome

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        # They are those of the last run, which were right.
        return []

    def invoke(self, ctx: click.Context) -> int:
        settings = ctx.parent.params if ctx.parent is not None else {}
        colour, quiet = str(settings.get("colour")), bool(settings.get("quiet"))
        for where, text in () if quiet else self._outcome.notices:
            segments = (("Note ", "bold yellow"), (f"{where}: " if where else "", "bold"), (text, ""))
            _print(segments, sys.stderr, colour)
        if self._outcome.document:
            print(escaped_json(self._outcome.document, sys.stdout.encoding or "utf-8"))
        else:
            for line in self._outcome.said:
                if not quiet or line.always:
                    _print(line.segments, sys.stdout, colour)
        return self._outcome.status


def _print(segments: Sequence[tuple[str, str]], stream: TextIO, colour: str) -> None:
    coloured = colour == "always" or (colour == "auto" and stream.isatty() and not os.environ.get("NO_COLOR"))
    print("".join(_styled(visible(text), style if coloured else "") for text, style in segments), file=stream)


def _styled(text: str, style: str) -> str:
    words = style.split()
    return click.style(text, fg=next((word for word in words if word != "bold"), None), bold=True) if words else text
