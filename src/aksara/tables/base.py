"""What every table class has in common."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence, Set
from typing import TYPE_CHECKING, ClassVar, Protocol, Self, TypeVar

from aksara.records import AbstractStruct

if TYPE_CHECKING:
    from aksara.tables.layout.glyph_sets import Division, Form, Join
    from aksara.tables.subsetting import SubsetContext, SubsetScope


class Table(AbstractStruct, frozen=True):
    """A table of a font.

    `parse` and `compile` are inverse to each other; `subset` cuts the table down. A table that says nothing of glyphs
    or characters has nothing to override but these first two.
    """

    TAG: ClassVar[str]
    #: Browsers ignore the table where it is damaged; it is dropped, with a notice.
    OPTIONAL: ClassVar[bool] = False
    #: It belongs to the programs that hint TrueType outlines.
    IS_HINTING: ClassVar[bool] = False

    @classmethod
    @abstractmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        """The table from its bytes. Raises `FontError` for data that break the format."""

    @abstractmethod
    def compile(self) -> bytes:
        """The table's bytes."""

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        """Why a web font of this scope does without the table, in words; None if it may need it."""
        if cls.IS_HINTING and not scope.hints:
            return "hints are dropped"
        return None

    def subset(self, context: SubsetContext) -> Self | None:
        """The table for the kept glyphs, characters and features; None if nothing of it is needed."""
        return self

    def substitution_closure(self, glyphs: set[int], features: Collection[str]) -> set[int]:
        """These glyphs, and those that text of them can show with these features by way of this table."""
        return glyphs

    def component_closure(self, glyphs: set[int]) -> set[int]:
        """These glyphs, and those that this table draws them with."""
        return glyphs

    def forget(self) -> None:
        """Drop what was worked out of the table on the side; where that is needed again it is worked out again."""

    def alternatives(self) -> tuple[Self, ...]:
        """Equivalent forms of the table, one of which may compress better."""
        return ()

    def defects_found(self) -> Sequence[str]:
        """What was damaged and left out when the table was parsed, in words."""
        return ()


class ShapingTable(Table, frozen=True):
    """A table that positions or substitutes glyphs by context: layout tables and 'kern'."""

    def prepared(self, glyphs: Set[int], features: Collection[str]) -> Self:
        """The table written so that it can be cut down to the fewest bytes, for these glyphs and features alone.

        It says the same of these. Glyphs have the IDs that they had.
        """
        return self

    def divisions(self, features: Collection[str]) -> Iterable[Division]:
        """How the table, with these features, divides the glyphs. Tables are smaller where glyphs of one part stand
        together."""
        return ()

    def joins(self, features: Collection[str], *, kerning: bool) -> Iterator[Join]:
        """The glyphs that the table, with these features, draws differently next to each other.

        `kerning`: those that only stand closer or wider; else those that take other forms, join, or are marks.
        """
        return iter(())

    def forms(self, features: Collection[str]) -> Iterator[Form]:
        """What glyphs can become, with these features."""
        return iter(())


T = TypeVar("T", bound=Table)


class FontTables(Protocol):
    """The parts of a font that its tables may use."""

    def table(self, table_class: type[T]) -> T:
        """The parsed table of that class. Raises `FontError` if it is missing or damaged."""
        ...

    def find(self, table_class: type[T]) -> T | None:
        """The parsed table of that class, or None if the font has none."""
        ...

    def raw(self, tag: str) -> bytes:
        """The bytes of a table; KeyError if there is none."""
        ...

    def __contains__(self, tag: str) -> bool: ...

    @property
    def characters(self) -> Mapping[int, int]:
        """Code point → glyph ID."""
        ...
