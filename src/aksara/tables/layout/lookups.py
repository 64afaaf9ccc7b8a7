"""The lookup list: lookups of all types, as GSUB and GPOS share them (OpenType 1.9.1, "Lookup list table")."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import FontError, TableUnread
from aksara.offsets import Block, OffsetOverflow, OffsetReader, serialize, total_size
from aksara.offsets.serializing import REACH
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.contexts import Context
from aksara.tables.layout.devices import DeviceChange
from aksara.tables.layout.subtable import Subtable, SubtableParser

USE_MARK_FILTERING_SET = 0x0010
_EXTENSION_HEADER = 8


class Lookup(Struct, frozen=True):
    """`lookup_type` is never the one for extension, which is only a way to write a lookup."""

    lookup_type: int
    flags: int
    subtables: tuple[Subtable, ...]
    mark_set: int | None = None

    @property
    def contexts(self) -> list[Context]:
        """Its contextual subtables."""
        return [subtable for subtable in self.subtables if isinstance(subtable, Context)]

    def called(self) -> set[int]:
        """The lookups that its rules call."""
        return {lookup_index for context in self.contexts for lookup_index in context.lookups()}

    def subset(self, glyphs: GlyphMap) -> Lookup:
        """With its subtables subset to the kept glyphs."""
        subtables = (subtable.subset(glyphs) for subtable in self.subtables)
        return replace(self, subtables=tuple(subtable for subtable in subtables if subtable is not None))

    def changed(self, change: DeviceChange) -> Lookup:
        """With the values of its subtables and their devices changed."""
        return replace(self, subtables=tuple(subtable.changed(change) for subtable in self.subtables))

    def renumbered(self, new_indices: Mapping[int, int]) -> Lookup:
        """With new indices (old → new) of the lookups that its rules call; calls of dropped lookups are removed."""
        subtables = tuple(
            subtable.renumbered(new_indices) if isinstance(subtable, Context) else subtable
            for subtable in self.subtables
        )
        return replace(self, subtables=subtables)


class LookupFormat(Struct, frozen=True):
    """How GSUB or GPOS writes lookups: the type that means extension, and what reads the subtables of each type."""

    tag: str
    extension: int
    parsers: Mapping[int, SubtableParser]


def parse_lookups(reader: OffsetReader, layout: LookupFormat, defects: list[str]) -> list[Lookup]:
    """All lookups; subtables that are damaged are left out, as renderers do, and listed in `defects`."""
    return [
        _parse_lookup(target, layout, defects, lookup_index)
        for lookup_index, target in enumerate(reader.offsets16(reader.u16()))
    ]


def _parse_lookup(reader: OffsetReader | None, layout: LookupFormat, defects: list[str], lookup_index: int) -> Lookup:
    if reader is None:
        return Lookup(0, 0, ())
    lookup_type, flags, count = reader.u16s(3)
    starts = reader.offsets16(count)
    mark_set = reader.u16() if flags & USE_MARK_FILTERING_SET else None
    extended = lookup_type == layout.extension
    subtables = []
    for index, target in enumerate(starts):
        try:
            if target is None:
                continue
            subtable_type = lookup_type
            if extended:
                _, subtable_type = target.u16s(2)
                lookup_type = subtable_type if lookup_type == layout.extension else lookup_type
                target = target.offset32() or target  # noqa: PLW2901
            if subtable_type == lookup_type and subtable_type in layout.parsers:
                subtables.append(target.once(layout.parsers[subtable_type]))
        except FontError as error:
            error.lookup, error.subtable, error.table = lookup_index, index, layout.tag
            if isinstance(error, TableUnread):
                raise
            defects.append(f"{error.where} is damaged ({error.problem}) and left out")
    return Lookup(lookup_type, flags, tuple(subtables), mark_set)


def lookups_that_work(lookups: Mapping[int, Lookup]) -> set[int]:
    """The lookups (by index) that can do something: themselves, or by a rule that calls one that can."""
    callers: dict[int, list[int]] = {}
    for lookup_index, lookup in lookups.items():
        for called in lookup.called():
            callers.setdefault(called, []).append(lookup_index)
    pending = [lookup_index for lookup_index, lookup in lookups.items() if lookup.subtables and not lookup.contexts]
    working = set(pending)
    while pending:
        new = [lookup_index for lookup_index in callers.get(pending.pop(), ()) if lookup_index not in working]
        working.update(new)
        pending += new
    return working


class LookupListWriter:
    """Lookups in the making: subtables too large for their own offsets are halved."""

    def __init__(self, lookups: Sequence[Lookup], layout: LookupFormat) -> None:
        self._layout = layout
        self._lookups = lookups
        self._subtables = [blocks_in_reach(lookup) for lookup in lookups]

    def block(self, extended: Set[int] = frozenset()) -> Block:
        """The lookup list; the lookups of these indices are written as extension lookups."""
        return Block().offsets16(
            self._lookup(lookup, blocks, extended=lookup_index in extended)
            for lookup_index, (lookup, blocks) in enumerate(zip(self._lookups, self._subtables, strict=True))
        )

    def too_far(self) -> set[int]:
        """The fewest lookups without which the others, and headers for these, stay in reach of one another."""
        sizes = [sum(map(total_size, blocks)) for blocks in self._subtables]
        left, chosen = sum(sizes), set()
        for lookup_index in sorted(range(len(sizes)), key=lambda lookup_index: -sizes[lookup_index]):
            if left + _EXTENSION_HEADER * len(sizes) <= REACH // 2:
                break
            chosen.add(lookup_index)
            left -= sizes[lookup_index]
        return chosen

    def _lookup(self, lookup: Lookup, blocks: Sequence[Block], *, extended: bool) -> Block:
        block = Block().u16(self._layout.extension if extended else lookup.lookup_type, lookup.flags)
        if extended:
            blocks = [Block().u16(1, lookup.lookup_type).offset32(subtable) for subtable in blocks]
        block.offsets16(blocks)
        return block.u16(lookup.mark_set) if lookup.mark_set is not None else block


def blocks_in_reach(lookup: Lookup) -> list[Block]:
    """The subtables in the making, those that are too large for their own offsets in parts."""
    blocks: list[Block] = []
    pending = list(reversed(lookup.subtables))
    while pending:
        subtable = pending.pop()
        block = subtable.block()
        try:
            if total_size(block) > REACH:
                serialize(block)
            blocks.append(block)
        except OffsetOverflow:
            pending += reversed(subtable.halves())
    return blocks
