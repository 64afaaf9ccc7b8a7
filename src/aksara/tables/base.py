"""What every table class has in common."""

from __future__ import annotations

from typing import ClassVar, Protocol, Self, TypeVar


class Font(Protocol):
    """What a table may ask of the font that it is part of: its sibling tables."""

    def table(self, kind: type[T]) -> T:
        """The parsed table of that class."""
        ...


class Table(Protocol):
    """A table of a font. Parsing and compiling are inverse to each other.

    `parse` raises `FontError` for data that breaks the format.
    """

    TAG: ClassVar[str]

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self: ...

    def compile(self) -> bytes: ...


T = TypeVar("T", bound=Table)
