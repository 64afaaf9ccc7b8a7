"""What all commands print with: a console for results, one for messages, tables that fit the terminal."""

from __future__ import annotations

import json
import os
import sys
import unicodedata
from collections.abc import Collection, Iterable, Iterator
from typing import Any, Literal

import click
from rich import box
from rich.console import Console, ConsoleOptions, RenderableType, RenderResult
from rich.measure import Measurement
from rich.segment import Segment
from rich.table import Column, Table
from rich.text import Text

from aksara.cli.streams import escaped_json, visible
from aksara.cli.wording import notice_text
from aksara.notices import Notice, grouped_notices

#: The width without a terminal: wide enough for tables in a log.
_PIPE_WIDTH = 160
#: Below this there is room for a name or two in a line, and no more.
_NARROW = 80


class Screen:
    """Results go to standard output, messages to standard error."""

    def __init__(self, *, quiet: bool = False, verbose: bool = False, colour: str = "auto") -> None:
        self.quiet = quiet
        self.verbose = verbose
        never = colour == "never" or (colour == "auto" and bool(os.environ.get("NO_COLOR")))
        force = True if colour == "always" else None
        self.out = _console(sys.stdout, force, never)
        self.messages = _console(sys.stderr, force, never)

    @classmethod
    def of(cls, ctx: click.Context) -> Screen:
        return cls(**(ctx.obj or {}))

    @property
    def is_narrow(self) -> bool:
        """Whether results go to a terminal, where long names have to be shortened."""
        return self.out.width < _NARROW

    def print(self, *lines: str | Text | Table) -> None:
        """A result. Plain strings are shown as they are: a font's name is no markup."""
        for line in lines:
            self.out.print(line, markup=False, highlight=False, emoji=False, soft_wrap=isinstance(line, str))

    def say(self, line: str | Text) -> None:
        """A message, unless --quiet."""
        if not self.quiet:
            self.tell(line)

    def tell(self, line: str | Text) -> None:
        """A message that --quiet does not silence: wrapped between words on a terminal, else in one line."""
        whole = not self.messages.is_terminal
        self.messages.print(line, markup=False, highlight=False, emoji=False, soft_wrap=whole)

    def notify(self, notices: Iterable[Notice]) -> None:
        """Notices of a build or an inspection, behind what was printed before them, also where that goes through a
        pipe."""
        self.out.file.flush()
        for notice in grouped_notices(notices):
            text = Text("Note ", style="bold yellow")
            text.append(f"{notice.where}: " if notice.where else "", style="bold")
            text.append(notice_text(notice))
            self.say(text)

    def json(self, data: Any) -> str:
        """Print the one JSON document of --json; its text."""
        text = json.dumps(data, indent=1, ensure_ascii=False)
        print(escaped_json(text, self.out.encoding), file=sys.stdout)
        return text

    def table(self, *headings: str) -> Table:
        """An empty table; a heading that starts with ">" is of a column of numbers, one with "?" of a column that is
        left out where there is no room for all, the last first."""
        table = _FittingTable()
        for heading in headings:
            is_number = heading.startswith(">")
            name = heading.lstrip(">?")
            table.add_column(name, justify="right" if is_number else "left", overflow="fold", no_wrap=is_number)
            if "?" in heading.removesuffix(name):
                table.optional.append(table.columns[-1])
        return table


class _FittingTable(Table):
    """A table without those `optional` columns that there is no room for."""

    def __init__(self) -> None:
        super().__init__(box=box.SIMPLE_HEAD, pad_edge=False, header_style="bold", show_edge=False)
        self.optional: list[Column] = []

    def __rich_console__(self, console: Console, options: ConsoleOptions) -> RenderResult:
        boundless = options.update_width(_PIPE_WIDTH * 10)
        optional = [*self.optional]
        table: Table = self
        while optional and Measurement.get(console, boundless, table).maximum > options.max_width:
            optional.pop()
            table = self._without([column for column in self.optional if column not in optional])
        yield from Table.__rich_console__(table, console, options)

    def _without(self, left_out: Collection[Column]) -> Table:
        kept = [column for column in self.columns if column not in left_out]
        table = Table(box=self.box, pad_edge=False, header_style=self.header_style, show_edge=False)
        for column in kept:
            table.add_column(
                column.header, justify=column.justify, overflow=column.overflow, no_wrap=column.no_wrap,
                min_width=column.min_width,
            )  # fmt: skip
        for row, cells in zip(self.rows, zip(*(column.cells for column in kept), strict=True), strict=True):
            table.add_row(*cells, style=row.style, end_section=row.end_section)
        return table


def on_circle(character: str) -> str:
    """A combining mark on a dotted circle, so that it can be seen; anything else as it is."""
    return ("\u25cc" if unicodedata.combining(character) else "") + character


class _SafeConsole(Console):
    """A console on which texts are shown, and never obeyed; colours are added after this."""

    def render(self, renderable: RenderableType, options: ConsoleOptions | None = None) -> Iterator[Segment]:
        for segment in super().render(renderable, options):
            yield segment if segment.control else Segment(visible(segment.text), segment.style)


def _console(stream: Any, force: bool | None, never: bool) -> Console:
    # Without a colour system there is nothing but text: no bold either.
    colours: Literal["auto"] | None = None if never else "auto"
    console = _SafeConsole(
        file=stream, force_terminal=force, no_color=never, color_system=colours, highlight=False, emoji=False
    )
    if not stream.isatty() and "COLUMNS" not in os.environ:
        console.width = _PIPE_WIDTH
    return console
