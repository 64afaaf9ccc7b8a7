"""The error types: every failure that Aksara foresees is one of these.

A message says what is wrong, where, and what to do, in that order. The class says whose fault it is, and owns the exit
status that the command line gives for it. No message speaks of an interface: an error about a request names its
parameter, and an interface finds its own words for that.

    AksaraError
    ├── RequestError              the caller asked for something that cannot be
    ├── InputError                what was given cannot be read, or must not be used
    │   ├── FontDataError         something in the font's data, at a place in it
    │   │   ├── FontError         it is damaged
    │   │   └── BeyondBounds      reading it would take more work or memory than any real font does
    │   ├── UnsupportedFont       the font is of a kind that cannot be handled
    │   └── EmbeddingNotPermitted the font itself forbids what was asked for
    └── OutputError               what was made cannot be written, or is not as it must be
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import NamedTuple, TypeVar

E = TypeVar("E", bound=Exception)


class AksaraError(Exception):
    """Base of all errors that Aksara raises on purpose.

    `remedy` is the parameter of a request that would settle the matter (`"FamilyRequest.overrides"`), or ''.
    """

    exit_status = 3

    def __init__(self, problem: str, *, remedy: str = "") -> None:
        super().__init__(problem)
        self.problem = problem
        self.remedy = remedy


class Location(NamedTuple):
    """Where the value of a parameter is written: a file, a line (from 1), and the key that holds it ('' for none)."""

    file: str
    line: int
    key: str = ""

    def __str__(self) -> str:
        return f"{self.file}, line {self.line}" + (f": {self.key}" if self.key else "")


class RequestError(AksaraError):
    """The caller asked for something impossible: a wrong value, a folder that is a file.

    `parameter` is the class and field that hold the value (`"BuildRequest.folder"`), or ''; `family` the index in
    `BuildRequest.families` where it is one of a family; `location` where the value is written, if it is in a file.
    """

    exit_status = 2

    def __init__(
        self,
        problem: str,
        *,
        parameter: str = "",
        family: int | None = None,
        location: Location | None = None,
        remedy: str = "",
    ) -> None:
        super().__init__(problem, remedy=remedy)
        self.parameter = parameter
        self.family = family
        self.location = location

    def __str__(self) -> str:
        where = str(self.location) if self.location else self.parameter
        return f"{where}: {self.problem}" if where else self.problem


class InputError(AksaraError):
    """An input could not be read, or was refused. `location` is where a project file names it, if one does."""

    def __init__(self, problem: str, *, remedy: str = "", location: Location | None = None) -> None:
        super().__init__(problem, remedy=remedy)
        self.location = location

    def __str__(self) -> str:
        return f"{self.location}: {self.problem}" if self.location else self.problem


class InputErrors(InputError):
    """Several inputs that cannot be used, all reported at once, one message a line."""

    def __init__(self, errors: Sequence[InputError]) -> None:
        super().__init__("\n".join(map(str, errors)), remedy=next((e.remedy for e in errors if e.remedy), ""))
        self.errors = tuple(errors)

    def __reduce__(self) -> tuple[type[InputErrors], tuple[tuple[InputError, ...]]]:
        # It travels between processes with its parts, not with its message.
        return type(self), (self.errors,)


class NothingDrawn(InputError):
    """The font has no outlines for any of the characters asked for."""


class OutputError(AksaraError):
    """What was made could not be written, or does not read back as it must."""


class FontDataError(InputError):
    """Something is wrong with the font's data, at a place in it.

    `file`, `table`, `glyph` (its ID), `lookup` and `subtable` (their indices) and `offset` (in bytes, from the start of
    the table or, with no table, of the file) are filled in by whoever knows them, from the innermost reader outwards;
    see `located`.
    """

    advice = "ask its maker for an undamaged copy"
    verdict = "the font is damaged"

    def __init__(
        self,
        problem: str,
        *,
        file: str | None = None,
        table: str | None = None,
        glyph: int | None = None,
        lookup: int | None = None,
        subtable: int | None = None,
        offset: int | None = None,
    ) -> None:
        super().__init__(problem)
        self.file = file
        self.table = table
        self.glyph = glyph
        self.lookup = lookup
        self.subtable = subtable
        self.offset = offset

    @property
    def where(self) -> str:
        """Where in the font: "table 'GSUB', lookup 3, subtable 1, byte 20", as far as it is known."""
        parts = [f"table '{self.table}'"] if self.table else []
        parts += [
            f"{name} {number}"
            for name, number in (("glyph", self.glyph), ("lookup", self.lookup), ("subtable", self.subtable))
            if number is not None
        ]
        return ", ".join([*parts, *([f"byte {self.offset}"] if self.offset is not None else [])])

    def __str__(self) -> str:
        file = f"{self.file}: " if self.file else ""
        where = f" in {self.where}" if self.table or self.glyph is not None else f" at {self.where}" * bool(self.where)
        return f"{file}{self.verdict}{where}: {self.problem}; {self.advice}"


class FontError(FontDataError):
    """The font's data is damaged. A damaged table that browsers do without is dropped instead."""


class TableUnread(FontError):
    """A table that text engines ignore as a whole because of one of its parts."""


class BeyondBounds(FontDataError):
    """Reading the font would take more work or memory than any real font does.

    Never about one table that can be dropped: treat the font as malicious.
    """

    advice = "do not use it: it is broken beyond repair, or was made to do harm"
    verdict = "the font is beyond all bounds"

    def __init__(
        self, problem: str = "reading it would take more work than any real font does", *, offset: int | None = None
    ) -> None:
        super().__init__(problem, offset=offset)


class UnsupportedFont(InputError):
    """The font is of a kind that Aksara does not handle (yet)."""

    def __init__(self, reason: str, *, file: str | None = None) -> None:
        super().__init__(reason)
        self.reason = reason
        self.file = file

    def __str__(self) -> str:
        where = f"{self.file}: " if self.file else ""
        return f"{where}{self.reason}"


class EmbeddingNotPermitted(InputError):
    """The font's own embedding permission forbids web use, and no web licence was stated. `files` are its fonts."""

    def __init__(self, problem: str, *, files: Sequence[str]) -> None:
        super().__init__(problem, remedy="WebLicence.stated")
        self.files = tuple(files)


def without_frames(error: E) -> E:
    """The error without the frames that it came through: as long as it is kept, so is all that these hold."""
    error.__traceback__ = error.__cause__ = error.__context__ = None
    return error


@contextmanager
def located(
    *,
    file: str | None = None,
    table: str | None = None,
    glyph: int | None = None,
    lookup: int | None = None,
    subtable: int | None = None,
) -> Iterator[None]:
    """Add the location to font errors raised in the block, unless an inner reader has already done so."""
    try:
        yield
    except FontDataError as error:
        error.file = error.file or file
        error.table = error.table or table
        error.glyph = glyph if error.glyph is None else error.glyph
        error.lookup = lookup if error.lookup is None else error.lookup
        error.subtable = subtable if error.subtable is None else error.subtable
        raise
    except UnsupportedFont as error:
        error.file = error.file or file
        raise
