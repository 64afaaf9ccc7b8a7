"""`Subtable`: the base class of the subtables of all lookup types."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable, Iterable, Iterator
from typing import Self

from aksara.offsets import Block, OffsetOverflow, OffsetReader
from aksara.records import AbstractStruct
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.devices import DeviceChange
from aksara.tables.layout.glyph_sets import Division, GlyphSets, Join


class Subtable(AbstractStruct, frozen=True):
    """A subtable of a lookup of GSUB or GPOS."""

    @abstractmethod
    def subset(self, glyphs: GlyphMap) -> Self | None:
        """For the kept glyphs; None if nothing is left."""

    @abstractmethod
    def block(self) -> Block:
        """The subtable in the making."""

    def changed(self, change: DeviceChange) -> Self:
        """With its values and their devices changed; most have none."""
        return self

    def divisions(self) -> Iterable[Division]:
        """How its coverage and class tables divide the glyphs."""
        return ()

    def joins(self, sets: GlyphSets) -> Iterator[Join]:
        """Which glyphs it draws differently next to each other than on their own."""
        return iter(())

    @property
    def span(self) -> int:
        """How many glyphs it looks at together, from the first of its input on."""
        return 1

    def halves(self) -> tuple[Self, Self]:
        """Two subtables that, one behind the other, do the same. Raises `OffsetOverflow` if it has no halves."""
        raise OffsetOverflow


#: What reads a subtable, whose start is the reader's origin.
SubtableParser = Callable[[OffsetReader], Subtable]
