"""Help that fits: the options of a command under the question that each answers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import click

#: The title of what every command has.
GENERAL = "General"


class GroupedCommand(click.Command):
    """A command whose options stand in groups; `groups` has their names by the title of each."""

    def __init__(self, *args: Any, groups: Mapping[str, Sequence[str]] | None = None, **more: Any) -> None:
        super().__init__(*args, **more)
        self.groups = dict(groups or {})

    def format_options(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Write the options group by group; those of no group come last."""
        records = {
            param.name: record
            for param in self.get_params(ctx)
            if isinstance(param, click.Option) and (record := param.get_help_record(ctx)) is not None
        }
        for title, names in self.groups.items():
            listed = [records.pop(name) for name in names if name in records]
            _write(formatter, title, listed)
        _write(formatter, GENERAL, list(records.values()))


#: Columns that names of options take; longer ones have a line of their own.
_WIDEST = 30


def _write(formatter: click.HelpFormatter, title: str, listed: list[tuple[str, str]]) -> None:
    if listed:
        formatter.write_paragraph()
        formatter.write(f"{title}\n")
        with formatter.indentation():
            # All groups have their second column in one place.
            first, words = listed[0]
            formatter.write_dl([(first.ljust(_WIDEST), words), *listed[1:]], col_max=_WIDEST)
