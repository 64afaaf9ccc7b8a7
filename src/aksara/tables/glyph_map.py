"""`GlyphMap`: which glyphs a subset keeps, and under which glyph IDs."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from typing import Self, TypeVar

import numpy as np
from numpy.typing import NDArray

V = TypeVar("V")
_ALL_IDS = 0x10000


class GlyphMap(Mapping[int, int]):
    """Old glyph ID → new, of the kept glyphs.

    `order` has the old ID of each new glyph, None for an empty one that is there only so that others keep their IDs.
    """

    __slots__ = ("_new_ids", "order")

    def __init__(self, order: Sequence[int | None]) -> None:
        self.order = tuple(order)
        self._new_ids = {old: new for new, old in enumerate(self.order) if old is not None}

    @classmethod
    def identity(cls, glyphs: Iterable[int]) -> Self:
        """The map that keeps these glyphs, each under the ID that it has."""
        identity_map = cls(())
        listed = tuple(glyphs)
        identity_map._new_ids = dict(zip(listed, listed, strict=True))
        return identity_map

    def __getitem__(self, glyph: int) -> int:
        return self._new_ids[glyph]

    def __iter__(self) -> Iterator[int]:
        return iter(self._new_ids)

    def __len__(self) -> int:
        return len(self._new_ids)

    def __contains__(self, glyph: object) -> bool:
        return glyph in self._new_ids

    def keys_of(self, values: Mapping[int, V]) -> dict[int, V]:
        """The values of the kept glyphs, by their new IDs."""
        new_ids = self._new_ids
        if len(values) > len(new_ids):
            return {new: values[glyph] for glyph, new in new_ids.items() if glyph in values}
        return {new_ids[glyph]: value for glyph, value in values.items() if glyph in new_ids}

    def pairs_of(self, glyphs: Mapping[int, int]) -> dict[int, int]:
        """Glyph → glyph, as far as both are kept."""
        new_ids = self._new_ids
        if len(glyphs) > len(new_ids):
            return {new: new_ids[glyphs[a]] for a, new in new_ids.items() if a in glyphs and glyphs[a] in new_ids}
        return {new_ids[a]: new_ids[b] for a, b in glyphs.items() if a in new_ids and b in new_ids}

    def set_of(self, glyphs: Iterable[int]) -> frozenset[int]:
        """Those of the glyphs that are kept."""
        new_ids = self._new_ids
        if isinstance(glyphs, Set) and len(glyphs) > len(new_ids):
            return frozenset(new for glyph, new in new_ids.items() if glyph in glyphs)
        return frozenset(new_ids[glyph] for glyph in glyphs if glyph in new_ids)

    def all_of(self, glyphs: Sequence[int]) -> tuple[int, ...] | None:
        """The glyphs in their order; None if one of them is not kept."""
        try:
            return tuple(map(self._new_ids.__getitem__, glyphs))
        except KeyError:
            return None

    def sequences_of(self, sequences: Mapping[int, Sequence[int]]) -> dict[int, tuple[int, ...]]:
        """Glyph → glyphs, where all of them are kept."""
        mapped = {glyph: self.all_of(sequence) for glyph, sequence in self.keys_of(sequences).items()}
        return {glyph: sequence for glyph, sequence in mapped.items() if sequence is not None}

    def array(self) -> NDArray[np.int64]:
        """The new ID of each old one (65,536), -1 for a glyph that is not kept."""
        ids = np.full(_ALL_IDS, -1, np.int64)
        ids[list(self._new_ids)] = list(self._new_ids.values())
        return ids

    def old_ids(self) -> NDArray[np.int64]:
        """The old ID of each new glyph; 0 for those that are empty (see `is_kept`)."""
        return np.array([old or 0 for old in self.order], np.int64)

    def is_kept(self) -> NDArray[np.bool_]:
        """Whether each new glyph is one of the old ones."""
        return np.array([old is not None for old in self.order], bool)
