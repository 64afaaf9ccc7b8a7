"""The error types: every failure that Aksara foresees is one of these.

A message says what is wrong, where, and what to do, in that order. The
class says whose fault it is, and owns the exit status that the command line
gives for it.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager


class AksaraError(Exception):
    """Base of all errors that Aksara raises on purpose."""

    exit_status = 3


class RequestError(AksaraError):
    """The caller asked for something that cannot be: a wrong option, a folder that is a file."""

    exit_status = 2


class InputError(AksaraError):
    """What was given could not be read, or was refused."""


class OutputError(AksaraError):
    """What was made could not be written."""


class FontError(InputError):
    """The font's data is damaged.

    `file`, `table` and `offset` (in bytes, from the start of the table or,
    with no table, of the file) are filled in by whoever knows them, from the
    innermost reader outwards; see `located`.
    """

    advice = "ask its maker for an undamaged copy"

    def __init__(
        self, problem: str, *, file: str | None = None, table: str | None = None, offset: int | None = None
    ) -> None:
        super().__init__(problem)
        self.problem = problem
        self.file = file
        self.table = table
        self.offset = offset

    def __str__(self) -> str:
        place = f" in table '{self.table}'" if self.table else ""
        if self.offset is not None:
            place += f" at byte {self.offset}"
        where = f"{self.file}: " if self.file else ""
        return f"{where}the font is damaged{place}: {self.problem}; {self.advice}"


class UnsupportedFont(InputError):
    """The font is of a kind that Aksara does not handle (yet)."""

    def __init__(self, kind: str, *, file: str | None = None) -> None:
        super().__init__(kind)
        self.kind = kind
        self.file = file

    def __str__(self) -> str:
        where = f"{self.file}: " if self.file else ""
        return f"{where}{self.kind}"


@contextmanager
def located(*, file: str | None = None, table: str | None = None) -> Iterator[None]:
    """Add the file and table to font errors raised inside, unless an inner reader already named them."""
    try:
        yield
    except FontError as error:
        error.file = error.file or file
        error.table = error.table or table
        raise
    except UnsupportedFont as error:
        error.file = error.file or file
        raise
