"""'GSUB': glyph substitution (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Set
from functools import cached_property
from typing import ClassVar, Self

from aksara.tables.layout.contexts import parse_chained_context, parse_context
from aksara.tables.layout.glyph_sets import Form, GlyphSet, Join
from aksara.tables.layout.gsub.closure import Closure
from aksara.tables.layout.gsub.graph import SubstitutionGraph
from aksara.tables.layout.gsub.ligature import LigatureSubstitution
from aksara.tables.layout.gsub.reverse import ReverseSubstitution
from aksara.tables.layout.gsub.sequences import AlternateSubstitution, MultipleSubstitution
from aksara.tables.layout.gsub.single import SingleSubstitution
from aksara.tables.layout.gsub.types import (
    ALTERNATE,
    CHAINED_CONTEXT,
    CONTEXT,
    EXTENSION,
    LIGATURE,
    MULTIPLE,
    REVERSE,
    SINGLE,
)
from aksara.tables.layout.layout_table import LayoutTable, features_kept_empty, has_complex_text
from aksara.tables.layout.lookups import LookupFormat
from aksara.tables.subsetting import SubsetContext

__all__ = [
    "ALTERNATE",
    "CHAINED_CONTEXT",
    "CONTEXT",
    "EXTENSION",
    "LIGATURE",
    "MULTIPLE",
    "REVERSE",
    "SINGLE",
    "AlternateSubstitution",
    "Gsub",
    "LigatureSubstitution",
    "MultipleSubstitution",
    "ReverseSubstitution",
    "SingleSubstitution",
]


_JOINING = frozenset({"isol", "init", "medi", "med2", "fina", "fin2", "fin3"})


class Gsub(LayoutTable, frozen=True):
    """Substitutions: type 7, extension, is only another way to write the others."""

    TAG: ClassVar[str] = "GSUB"
    LOOKUPS: ClassVar = LookupFormat(
        "GSUB",
        EXTENSION,
        {
            SINGLE: SingleSubstitution.parse,
            MULTIPLE: MultipleSubstitution.parse,
            ALTERNATE: AlternateSubstitution.parse,
            LIGATURE: LigatureSubstitution.parse,
            CONTEXT: parse_context,
            CHAINED_CONTEXT: parse_chained_context,
            REVERSE: ReverseSubstitution.parse,
        },
    )

    @cached_property
    def _graph(self) -> SubstitutionGraph:
        return SubstitutionGraph(self.lookups)

    def closure(self, glyphs: Set[int], features: Collection[str] | None = None) -> Closure:
        """These glyphs and all that text of them can turn into with these features (None: all)."""
        # A lookup that is only called by rules applies where these match, not everywhere.
        return Closure(self._graph, glyphs, sorted(self.lookups_applied(features)))

    def substitution_closure(self, glyphs: set[int], features: Collection[str] | None = None) -> set[int]:
        return self.closure(glyphs, features).glyphs

    def joins(self, features: Collection[str], *, kerning: bool) -> Iterator[Join]:
        yield from super().joins(features, kerning=kerning)
        # Shapers choose these forms by the letters around.
        for tag in () if kerning else sorted(_JOINING & set(features)):
            letters = frozenset().union(
                *(self._graph.node(lookup_index).inputs for lookup_index in self.lookups_of({tag}))
            )
            yield GlyphSet(letters), GlyphSet(letters)

    def forms(self, features: Collection[str]) -> Iterator[Form]:
        for lookup_index in sorted(self.lookups_reached(features)):
            for subtable in self._graph.node(lookup_index).substitutions:
                yield from subtable.forms()

    def cut(self, context: SubsetContext) -> Self | None:
        always = features_kept_empty(context.characters)
        cut = self.cut_down(context.glyphs, context.features, always)
        return cut if cut.features or has_complex_text(context.characters) else None
