"""`GlyphSet`: which glyphs a position of a rule allows, each set held once however many rules name it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Set
from itertools import pairwise

from msgspec import Struct


class GlyphSet(Struct, frozen=True, eq=False):
    """The glyphs `listed`, or all others. Equal ones that one `GlyphSets` gave are the same object."""

    listed: frozenset[int]
    others: bool = False

    def meets(self, glyphs: Set[int]) -> bool:
        """Whether any of these glyphs is in the set."""
        return not glyphs <= self.listed if self.others else not self.listed.isdisjoint(glyphs)

    def among(self, glyphs: Set[int]) -> Set[int]:
        """Those of these glyphs that are in the set."""
        return glyphs - self.listed if self.others else self.listed & glyphs


def common_glyphs(named: Mapping[int, object], glyphs: Set[int]) -> Iterator[int]:
    """The glyphs of a set that a mapping names, in as many steps as the smaller of both has glyphs.

    `named.keys() & glyphs` goes through all of a frozenset, however few the names.
    """
    if len(named) <= len(glyphs):
        return (glyph for glyph in named if glyph in glyphs)
    return (glyph for glyph in glyphs if glyph in named)


#: How a table divides the glyphs: by the number of the part that each is of, glyphs that are not named being of one
#: part; or into two parts, the first of which this is.
Division = Mapping[int, int] | Set[int]

#: Glyphs that may come to look otherwise where one of the first set stands in front of one of the second.
Join = tuple[GlyphSet, GlyphSet]


class Form(Struct, frozen=True):
    """What `glyph` can become, or a part of it; whether `form` stands where the glyph's text `starts`, and `ends`."""

    glyph: int
    form: int
    starts: bool = True
    ends: bool = True


def joins_of(positions: Iterable[GlyphSet]) -> Iterator[Join]:
    """The joins of a rule whose positions follow one another."""
    return pairwise(positions)


class GlyphSets:
    """The sets of one table; the members of a class table's classes are found once, though many subtables use it."""

    def __init__(self) -> None:
        self._known: dict[tuple[frozenset[int], bool], GlyphSet] = {}
        # By the identity of the class table, which is kept so that no other takes it.
        self._classes: dict[int, tuple[Mapping[int, int], dict[int, GlyphSet]]] = {}

    def of(self, listed: frozenset[int], *, others: bool = False) -> GlyphSet:
        """The set of these glyphs, or of all others."""
        key = listed, others
        if key not in self._known:
            self._known[key] = GlyphSet(listed, others)
        return self._known[key]

    def of_class(self, classes: Mapping[int, int], value: int) -> GlyphSet:
        """The glyphs of a class; those of class 0 are all that the class table does not mention."""
        if id(classes) not in self._classes:
            members: dict[int, list[int]] = {}
            for glyph, glyph_class in classes.items():
                members.setdefault(glyph_class, []).append(glyph)
            sets = {glyph_class: self.of(frozenset(glyphs)) for glyph_class, glyphs in members.items()}
            sets[0] = self.of(frozenset(classes), others=True)
            self._classes[id(classes)] = classes, sets
        return self._classes[id(classes)][1].get(value) or self.of(frozenset())
