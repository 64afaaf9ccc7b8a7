"""'COLR': glyphs in colour, in layers (version 0) and by graphs of paints (version 1) (OpenType 1.9.1)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import ClassVar, Self

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from aksara.errors import FontError
from aksara.limits import MAX_COLOUR_LAYERS
from aksara.offsets import Block, OffsetReader, serialize
from aksara.tables.base import FontTables
from aksara.tables.colour.cpal import Cpal, Painted
from aksara.tables.colour.paints import (
    FOREGROUND,
    LayerPlaces,
    Paint,
    PaintReader,
    PaintWriter,
    changed_values,
    rebuilt,
    walk,
)
from aksara.tables.layout.devices import DeviceChange
from aksara.tables.subsetting import SubsetContext
from aksara.tables.variation.index_map import index_map_block, parse_index_map
from aksara.tables.variation.item_variation_store import ItemVariationStore, VariationIndex
from aksara.tables.variation.store_packing import pack_store

_BOX = 4


class ClipBox(Struct, frozen=True):
    """The box that a glyph is clipped to, in font units: left, bottom, right, top, with the rows that these vary by."""

    edges: tuple[int, ...]
    rows: tuple[VariationIndex | None, ...] = (None,) * _BOX

    def changed(self, change: DeviceChange) -> Self:
        """With its edges changed."""
        return type(self)(*changed_values(self.edges, self.rows, change))


class Clips(Struct, frozen=True):
    """Glyphs from `first` to `last` that are clipped to one box."""

    first: int
    last: int
    box: ClipBox


class Colr(Painted, frozen=True):
    """`layers` of glyphs, each a glyph and a palette entry, from the lowest on; `paints` of glyphs, for
    renderers that know these; the boxes that glyphs are clipped to, and the `store` by which values vary."""

    TAG: ClassVar[str] = "COLR"
    OPTIONAL: ClassVar[bool] = True

    layers: Mapping[int, tuple[tuple[int, int], ...]] = field(default_factory=dict)
    paints: Mapping[int, Paint] = field(default_factory=dict)
    clips: tuple[Clips, ...] = ()
    store: ItemVariationStore | None = None

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        version, count = reader.u16s(2)
        bases, layers_at, layer_count = reader.offset32(), reader.offset32(), reader.u16()
        layers = _parse_layers(bases, count, layers_at, layer_count)
        if version == 0:
            return cls(layers)
        glyphs, listed, clips, index_map, store = (reader.offset32() for _ in range(5))
        paints = PaintReader(
            LayerPlaces.parse(listed) if listed is not None else None,
            index_map.once(parse_index_map) if index_map is not None else None,
        )
        return cls(
            layers,
            _parse_paints(glyphs, paints) if glyphs is not None else {},
            tuple(_parse_clips(clips, paints)) if clips is not None else (),
            store.once(ItemVariationStore.parse) if store is not None else None,
        )

    @property
    def version(self) -> int:
        """0 for layers alone, 1 where there are paints."""
        return 1 if self.paints else 0

    @property
    def needs_paints(self) -> bool:
        """Whether some glyph has paints but no layers, so that renderers need version 1."""
        return not self.paints.keys() <= self.layers.keys()

    def compile(self) -> bytes:
        bases, records = Block(), Block()
        count = 0
        for glyph, layers in sorted(self.layers.items()):
            bases.u16(glyph, count, len(layers))
            for layer, colour in layers:
                records.u16(layer, colour)
            count += len(layers)
        root = Block().u16(self.version, len(self.layers))
        root.offset32(bases if self.layers else None).offset32(records if count else None).u16(count)
        if self.version:
            self._write_paints(root)
        return serialize(root)

    def _write_paints(self, root: Block) -> None:
        writer = PaintWriter()
        listed = Block().u32(len(self.paints))
        for glyph, paint in sorted(self.paints.items()):
            listed.u16(glyph).offset32(writer.block(paint))
        clips = Block().u8(1).u32(len(self.clips))
        for clip in self.clips:
            box = Block().u8(2 if any(clip.box.rows) else 1).i16(*clip.box.edges)
            clips.u16(clip.first, clip.last).offset24(
                box.u32(writer.first(clip.box.rows)) if any(clip.box.rows) else box
            )
        shared = writer.layers()
        layers = Block().u32(len(shared))
        for block in shared:
            layers.offset32(block)
        root.offset32(listed).offset32(layers if shared else None).offset32(clips if self.clips else None)
        varies = bool(writer.rows) and self.store is not None
        nothing = _nowhere(self.store)
        root.offset32(index_map_block([row or nothing for row in writer.rows]) if varies else None)
        root.offset32(self.store.block() if varies and self.store is not None else None)

    def component_closure(self, glyphs: set[int]) -> set[int]:
        """These glyphs, those in their layers and paints, and those that their paints refer to."""
        reached, waiting = set(glyphs), list(glyphs)
        while waiting:
            glyph = waiting.pop()
            shown = {layer for layer, _ in self.layers.get(glyph, ())}
            if glyph in self.paints:
                shown |= {paint.glyph for paint in walk([self.paints[glyph]]) if paint.glyph is not None}
            new = shown - reached
            reached |= new
            waiting += new
        return reached

    def colours_of(self, glyphs: Iterable[int]) -> set[int]:
        """See `Painted`."""
        kept = list(glyphs)
        colours = {colour for glyph in kept for _, colour in self.layers.get(glyph, ())}
        for paint in walk([self.paints[glyph] for glyph in kept if glyph in self.paints]):
            colours |= paint.own_colours()
        return colours - {FOREGROUND}

    def subset(self, context: SubsetContext) -> Self | None:
        if context.original(Cpal) is None and self.colours_of(context.glyphs):
            # Renderers take no colours from a palette that does not exist.
            return None
        glyphs = context.glyphs

        def renumbered(paint: Paint) -> Paint:
            return replace(paint, glyph=glyphs[paint.glyph]) if paint.glyph is not None else paint

        layers = {
            glyph: tuple((glyphs[layer], colour) for layer, colour in found)
            for glyph, found in glyphs.keys_of(self.layers).items()
        }
        tops = glyphs.keys_of(self.paints)
        paints = dict(zip(tops, rebuilt(list(tops.values()), renumbered), strict=True))
        if not layers and not paints:
            return None
        return replace(self, layers=layers, paints=paints, clips=self._clips_of(glyphs, paints)).with_used_rows()

    def _clips_of(self, glyphs: Mapping[int, int], paints: Mapping[int, Paint]) -> tuple[Clips, ...]:
        boxes: dict[int, ClipBox] = {}
        for clips in self.clips:
            for old in range(clips.first, clips.last + 1):
                if old in glyphs and glyphs[old] in paints:
                    boxes.setdefault(glyphs[old], clips.box)
        made: list[Clips] = []
        for glyph in sorted(boxes):
            last = made[-1] if made else None
            if last is not None and last.last == glyph - 1 and last.box == boxes[glyph]:
                made[-1] = replace(last, last=glyph)
            else:
                made.append(Clips(glyph, glyph, boxes[glyph]))
        return tuple(made)

    def changed(self, change: DeviceChange) -> Self:
        """With every value that varies changed: `change` gets it, and the row that it varies by."""
        tops = list(self.paints.values())
        paints = dict(zip(self.paints, rebuilt(tops, lambda paint: paint.changed(change)), strict=True))
        return replace(
            self, paints=paints, clips=tuple(replace(clip, box=clip.box.changed(change)) for clip in self.clips)
        )

    def with_used_rows(self) -> Self:
        """With a store of the rows alone that values vary by."""
        if self.store is None:
            return self
        rows = list(dict.fromkeys(row for paint in walk(list(self.paints.values())) for row in paint.own_rows()))
        rows = list(dict.fromkeys([*rows, *(row for clip in self.clips for row in clip.box.rows if row is not None)]))
        if not rows:
            return replace(self, store=None)
        # A row of its own for what does not vary, which stands between others that do.
        values = np.concatenate((self.store.rows(rows), np.zeros((1, len(self.store.regions)), np.int64)))
        store, indices = pack_store(self.store.axis_count, self.store.regions, values, keep_zeros=True)
        where = dict(zip(rows, indices, strict=False))
        moved = self.changed(lambda value, row: (value, where[row] if isinstance(row, VariationIndex) else None))
        return replace(moved, store=store)


def _nowhere(store: ItemVariationStore | None) -> VariationIndex:
    """A row that leads nowhere, which means that nothing varies."""
    return VariationIndex(len(store.data) if store is not None else 0, 0)


def _parse_layers(
    bases: OffsetReader | None, count: int, records: OffsetReader | None, layer_count: int
) -> dict[int, tuple[tuple[int, int], ...]]:
    if bases is None or not count:
        return {}
    if records is None and layer_count:
        raise FontError("it has no layers", offset=8)
    numbers = records.u16s(2 * layer_count) if records is not None else ()
    stored = list(zip(numbers[::2], numbers[1::2], strict=True))
    found: dict[int, tuple[tuple[int, int], ...]] = {}
    total = 0
    for _ in range(count):
        glyph, first, own = bases.u16s(3)
        if first + own > layer_count:
            raise FontError(f"glyph {glyph} has layers that do not exist", offset=bases.position)
        total += own
        if total > MAX_COLOUR_LAYERS:
            raise FontError("its glyphs have more layers than any real font's", offset=bases.position)
        found.setdefault(glyph, tuple(stored[first : first + own]))
    return found


class PaintsOnDemand(Mapping[int, Paint]):
    """The paints of glyphs, each read on demand: emoji fonts have tens of thousands, sites use few.

    Asking raises `FontError` where a paint is damaged.
    """

    def __init__(self, readers: Mapping[int, OffsetReader], paints: PaintReader) -> None:
        self._places = readers
        self._paints = paints

    def __getitem__(self, glyph: int) -> Paint:
        return self._paints.read(self._places[glyph])

    def __iter__(self) -> Iterator[int]:
        return iter(self._places)

    def __len__(self) -> int:
        return len(self._places)

    def __contains__(self, glyph: object) -> bool:
        return glyph in self._places


def _parse_paints(reader: OffsetReader, paints: PaintReader) -> PaintsOnDemand:
    count = reader.u32()
    reader.work.spend_numbers(count)
    readers: dict[int, OffsetReader] = {}
    for _ in range(count):
        glyph, position = reader.u16(), reader.offset32()
        if position is None:
            raise FontError(f"glyph {glyph} has no paint", offset=reader.position)
        readers.setdefault(glyph, position)
    return PaintsOnDemand(readers, paints)


def _parse_clips(reader: OffsetReader, paints: PaintReader) -> Iterable[Clips]:
    if (clip_format := reader.u8()) != 1:
        raise FontError(f"a list of clips of format {clip_format}; only 1 exists", offset=reader.origin)
    count = reader.u32()
    reader.work.spend_numbers(count)
    boxes: dict[int, ClipBox] = {}
    for _ in range(count):
        first, last, position = reader.u16(), reader.u16(), reader.offset24()
        if position is None:
            continue
        if position.origin not in boxes:
            boxes[position.origin] = _parse_box(position, paints)
        yield Clips(first, last, boxes[position.origin])


def _parse_box(reader: OffsetReader, paints: PaintReader) -> ClipBox:
    box_format = reader.u8()
    if box_format not in (1, 2):
        raise FontError(f"a clip box of format {box_format}; only 1 and 2 exist", offset=reader.origin)
    edges = reader.i16s(_BOX)
    return ClipBox(edges, paints.rows(reader, _BOX)) if box_format > 1 else ClipBox(edges)
