"""`Substitution`: subtables that put glyphs in the place of others."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterable, Mapping, Set

from aksara.tables.layout.glyph_sets import Form
from aksara.tables.layout.subtable import Subtable


class Substitution(Subtable, frozen=True):
    """A subtable of GSUB that is not contextual."""

    @property
    @abstractmethod
    def inputs(self) -> Set[int]:
        """The glyphs that it can make something of."""

    @abstractmethod
    def made(self, inputs: Set[int], glyphs: Set[int]) -> set[int]:
        """What it can make of `inputs` where all glyphs in the text are among `glyphs`."""

    @abstractmethod
    def forms(self) -> Iterable[Form]:
        """What glyphs can become by it."""

    def awaited(self) -> Mapping[int, Set[int]]:
        """Glyph → those of the inputs that can only be made something of where it, too, is in the text."""
        return {}
