"""The information that tables get for subsetting."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from types import MappingProxyType
from typing import TypeVar, cast

from msgspec import Struct

from aksara.errors import located
from aksara.tables.base import FontTables, Table
from aksara.tables.glyph_map import GlyphMap

T = TypeVar("T", bound=Table)
V = TypeVar("V")


class SubsetScope(Struct, frozen=True):
    """What is known before the kept glyphs are: table tags, kept characters, and whether hints stay."""

    tags: Collection[str]
    characters: Collection[int]
    hints: bool = True


class SubsetContext:
    """All that a table may need to cut itself down.

    `source` is the font as it was, `glyphs` old glyph ID → new, `characters` the kept code points → old glyph ID,
    `features` the tags of the kept OpenType features, `hints` whether hints stay, `licence_text` whether the licence's
    own words do. `prepared` are tables that are taken in place of the
    source's. `dropped` are the tags of tables that
    are left out whatever is in them; `classes` the known tables by tag (the registry's).
    """

    __slots__ = (
        "_classes",
        "_memory",
        "_prepared",
        "characters",
        "dropped",
        "features",
        "glyphs",
        "hints",
        "licence_text",
        "source",
    )

    def __init__(
        self,
        source: FontTables,
        glyphs: GlyphMap,
        characters: Mapping[int, int],
        features: frozenset[str],
        *,
        hints: bool = True,
        licence_text: bool = True,
        prepared: Collection[Table] = (),
        dropped: Collection[str] = (),
        classes: Mapping[str, type[Table]] = MappingProxyType({}),
    ) -> None:
        self.source = source
        self.glyphs = glyphs
        self.characters = characters
        self.features = features
        self.hints = hints
        self.licence_text = licence_text
        self.dropped = frozenset(dropped)
        self._classes = classes
        self._prepared = {type(table): table for table in prepared}
        self._memory: dict[object, object] = {}

    def original(self, table_class: type[T]) -> T | None:
        """The table of that class as it was; None if the font has none, or it is dropped."""
        if table_class.TAG in self.dropped:
            return None
        return cast(T, self._prepared[table_class]) if table_class in self._prepared else self.source.find(table_class)

    def subset(self, table_class: type[T]) -> T | None:
        """What becomes of the table of that class: a table's contents may depend on those of another."""

        def cut() -> T | None:
            table = self.original(table_class)
            with located(table=table_class.TAG):
                return table.subset(self) if table is not None else None

        return self.once(table_class, cut)

    def original_by_tag(self, tag: str) -> Table | None:
        """As `original`, for a table whose module imports the asking one."""
        return self.original(self._classes[tag]) if tag in self._classes else None

    def subset_by_tag(self, tag: str) -> Table | None:
        """As `subset`, for a table whose module imports the asking one."""
        return self.subset(self._classes[tag]) if tag in self._classes else None

    def once(self, key: object, make: Callable[[], V]) -> V:
        """What `make` gives, which is asked just once for each key."""
        if key not in self._memory:
            self._memory[key] = make()
        return cast(V, self._memory[key])
