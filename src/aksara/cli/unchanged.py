"""A build that would do what the last one did: said without doing it, nor importing what builds need."""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Sequence
from pathlib import Path

import click

from aksara.cli.streams import escaped_json, visible
from aksara.observing import Observed
from aksara.receipts import Outcome, Receipts

#: The name under which the command line notes the arguments of a build.
ARGUMENTS = "aksara.arguments"


def unchanged_build(ctx: click.Context, arguments: Sequence[str]) -> click.Command | None:
    """A command that tells of the last build with these arguments, if nothing has changed since; else None."""
    ctx.meta[ARGUMENTS] = tuple(arguments)
    # Whoever wants details wants to see them.
    if ctx.params.get("verbose"):
        return None
    try:
        outcome = Receipts(arguments).last()
    except OSError:
        return None
    return _Unchanged(outcome) if outcome is not None else None


def keep_outcome(ctx: click.Context, observed: Observed, written: Sequence[Path], outcome: Outcome) -> None:
    """Keep what the build that is running looked at and said, for the next one with the same arguments."""
    Receipts(ctx.meta[ARGUMENTS]).keep(observed, written, outcome)


class _Unchanged(click.Command):
    def __init__(self, outcome: Outcome) -> None:
        super().__init__("build", context_settings={"ignore_unknown_options": True, "allow_extra_args": True})
        self._outcome = outcome

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        # They are those of the last build, which were right.
        return []

    def invoke(self, ctx: click.Context) -> int:
        settings = ctx.parent.params if ctx.parent is not None else {}
        if not settings.get("quiet"):
            for where, text in self._outcome.notices:
                _say("Note ", f"{where}: " if where else "", text, colour=str(settings.get("colour")))
        if self._outcome.manifests:
            documents = [json.loads(Path(path).read_bytes()) for path in self._outcome.manifests]
            text = json.dumps(
                documents[0] if len(documents) == 1 else {"outputs": documents}, indent=1, ensure_ascii=False
            )
            print(escaped_json(text, sys.stdout.encoding or "utf-8"))
        elif not settings.get("quiet"):
            print(visible("\n".join(self._outcome.said)))
        return self._outcome.status


def _say(mark: str, where: str, text: str, *, colour: str) -> None:
    coloured = colour == "always" or (colour == "auto" and sys.stderr.isatty() and not os.environ.get("NO_COLOR"))
    parts = (click.style(mark, fg="yellow", bold=True), click.style(visible(where), bold=True), visible(text))
    line = "".join(parts) if coloured else f"{mark}{visible(where)}{visible(text)}"
    sys.stderr.write(line + "\n")
