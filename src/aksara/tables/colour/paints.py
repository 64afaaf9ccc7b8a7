"""Paints: the nodes of the graphs that colour glyphs are drawn by (OpenType 1.9.1, "COLR", "Paint tables").

All 32 formats are described by one table: which fields each has, in order. Formats that vary have the fields of the one
before them, and then the first of the rows that these vary by.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Self

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from aksara.errors import FontError
from aksara.limits import MAX_PAINT_DEPTH
from aksara.offsets import Block, OffsetReader
from aksara.tables.layout.devices import DeviceChange
from aksara.tables.variation.item_variation_store import VariationIndex

#: The colour of the text around.
FOREGROUND = 0xFFFF
#: No variation.
_NO_ROWS = 0xFFFFFFFF
_TOO_DEEP = f"its paints are nested more than {MAX_PAINT_DEPTH} deep"

#: Fields: P paint, L colour line, T transform, g glyph, c palette entry, b, h, H, u numbers of 8, 16, 16 and 32 bits.
#: Then how many of the numbers vary, from the first on.
_FORMATS: dict[int, tuple[str, int]] = {
    1: ("bu", 0),
    2: ("ch", 1),
    4: ("Lhhhhhh", 6),
    6: ("LhhHhhH", 6),
    8: ("Lhhhh", 4),
    10: ("Pg", 0),
    11: ("g", 0),
    12: ("PT", 0),
    14: ("Phh", 2),
    16: ("Phh", 2),
    18: ("Phhhh", 4),
    20: ("Ph", 1),
    22: ("Phhh", 3),
    24: ("Ph", 1),
    26: ("Phhh", 3),
    28: ("Phh", 2),
    30: ("Phhhh", 4),
    32: ("PbP", 0),
}
LAYERS, TRANSFORM = 1, 12
#: Where a paint of layers has the number of the first of them.
_FIRST_LAYER = 2


class Stop(Struct, frozen=True):
    """A colour on a line: its place and its opacity (2.14), each with the row that it varies by, and its entry."""

    place: int
    colour: int
    alpha: int
    rows: tuple[VariationIndex | None, ...] = (None, None)


class ColourLine(Struct, frozen=True):
    """Colours that run into one another; `extend` says how it goes on beyond its ends."""

    extend: int
    stops: tuple[Stop, ...]


class Paint(Struct, frozen=True):
    """A node: `kind` is its format without variations, `numbers` its values in order (font units, 2.14 or 16.16), each
    with the row that it varies by. `inner` are the paints that it is made of: of layers all, from the lowest on.
    """

    kind: int
    numbers: tuple[int, ...] = ()
    rows: tuple[VariationIndex | None, ...] = ()
    glyph: int | None = None
    colour: int | None = None
    inner: tuple[Paint, ...] = ()
    line: ColourLine | None = None

    def changed(self, change: DeviceChange) -> Paint:
        """With its own values changed, not those inside."""
        numbers, rows = changed_values(self.numbers, self.rows, change)
        line = self.line
        if line is not None:
            stops = []
            for stop in line.stops:
                values, offsets = changed_values((stop.place, stop.alpha), stop.rows, change)
                stops.append(replace(stop, place=values[0], alpha=values[1], rows=offsets))
            line = replace(line, stops=tuple(stops))
        return replace(self, numbers=numbers, rows=rows, line=line)

    def own_colours(self) -> set[int]:
        """The palette entries that it names itself."""
        colours = {stop.colour for stop in self.line.stops} if self.line is not None else set()
        return colours | ({self.colour} if self.colour is not None else set())

    def own_rows(self) -> Iterator[VariationIndex]:
        """The rows that its own values vary by."""
        stops = self.line.stops if self.line is not None else ()
        for row in (*self.rows, *(row for stop in stops for row in stop.rows)):
            if row is not None:
                yield row


def changed_values(
    numbers: Sequence[int], rows: Sequence[VariationIndex | None], change: DeviceChange
) -> tuple[tuple[int, ...], tuple[VariationIndex | None, ...]]:
    """Values and the rows that they vary by, changed."""
    pairs = [change(number, row) for number, row in zip(numbers, rows, strict=True)]
    return (
        tuple(number for number, _ in pairs),
        tuple(row if isinstance(row, VariationIndex) else None for _, row in pairs),
    )


def walk(tops: Sequence[Paint]) -> Iterator[Paint]:
    """All paints that these consist of, each once."""
    seen: set[int] = set()
    waiting = list(reversed(tops))
    while waiting:
        paint = waiting.pop()
        if id(paint) not in seen:
            seen.add(id(paint))
            yield paint
            waiting += reversed(paint.inner)


def rebuilt(tops: Sequence[Paint], change: Callable[[Paint], Paint]) -> list[Paint]:
    """The paints with each node in them changed, shared ones once; `change` need not look inside."""
    done: dict[int, Paint] = {}

    def build(paint: Paint) -> Paint:
        if id(paint) not in done:
            done[id(paint)] = replace(change(paint), inner=tuple(map(build, paint.inner)))
        return done[id(paint)]

    return [build(paint) for paint in tops]


class LayerPlaces(Struct, frozen=True):
    """Where the shared layers are: offsets from the start of their list, 0 for none."""

    list_start: OffsetReader
    offsets: NDArray[np.uint32]

    @classmethod
    def parse(cls, reader: OffsetReader) -> Self:
        """The list of layers."""
        return cls(reader, reader.array(np.uint32, reader.u32(), "places of layers"))

    def of(self, first: int, count: int) -> list[OffsetReader]:
        """The layers from that number on."""
        return [self.list_start.at_offset(offset) for offset in self.offsets[first : first + count].tolist() if offset]


class PaintReader:
    """Reads paints of one table. `layers` are the places of the shared layers, `index_map` says which row of the store
    each number of a row means (None: that very row)."""

    def __init__(self, layers: LayerPlaces | None, index_map: Sequence[VariationIndex] | None) -> None:
        self._layers = layers
        self._index_map = index_map
        self._known: dict[int, Paint] = {}
        #: How deep paints are nested, by their identity; all of them stay known.
        self._depths: dict[int, int] = {}
        self._open: set[int] = set()

    def read(self, reader: OffsetReader) -> Paint:
        """The paint at the reader. Raises `FontError` for an invalid paint, and for circular references."""
        position = reader.origin
        if position in self._known:
            return self._known[position]
        if position in self._open:
            raise FontError("its paints go in a circle", offset=position)
        if len(self._open) >= MAX_PAINT_DEPTH:
            raise FontError(_TOO_DEEP, offset=position)
        self._open.add(position)
        try:
            # From its start, though an earlier look at it may have ended midway.
            paint = self._known[position] = self._read(reader.at_offset(0))
        finally:
            self._open.discard(position)
        depth = self._depths[id(paint)] = 1 + max((self._depths[id(inner)] for inner in paint.inner), default=0)
        if depth > MAX_PAINT_DEPTH:
            raise FontError(_TOO_DEEP, offset=position)
        return paint

    def _read(self, reader: OffsetReader) -> Paint:
        paint_format = reader.u8()
        varies = paint_format not in _FORMATS
        kind = paint_format - 1 if varies else paint_format
        if kind not in _FORMATS or (varies and not _varies(kind)):
            raise FontError(f"a paint of format {paint_format}; only 1 to 32 exist", offset=reader.origin)
        inner: list[Paint] = []
        numbers: list[int] = []
        glyph: int | None = None
        colour: int | None = None
        line: ColourLine | None = None
        for code in _FORMATS[kind][0]:
            if code == "P":
                inner.append(self.read(_required(reader.offset24(), reader)))
            elif code == "L":
                line = self._line(_required(reader.offset24(), reader), varies=varies)
            elif code == "T":
                numbers, rows = self._transform(_required(reader.offset24(), reader), varies=varies)
                return Paint(kind, tuple(numbers), rows, inner=tuple(inner))
            elif code == "g":
                glyph = reader.u16()
            elif code == "c":
                colour = reader.u16()
            else:
                numbers.append(_READ[code](reader))
        if kind == LAYERS:
            count, first = numbers
            return self._of_layers(reader, first, count)
        rows = self._rows(reader, _FORMATS[kind][1], varies=varies)
        rows += (None,) * (len(numbers) - len(rows))
        return Paint(kind, tuple(numbers), rows, glyph, colour, tuple(inner), line)

    def _of_layers(self, reader: OffsetReader, first: int, count: int) -> Paint:
        if self._layers is None or first + count > len(self._layers.offsets):
            raise FontError("a paint names layers that do not exist", offset=reader.origin)
        reader.work.spend(count)
        inner = tuple(self.read(target) for target in self._layers.of(first, count))
        return Paint(LAYERS, inner=inner)

    def _line(self, reader: OffsetReader, *, varies: bool) -> ColourLine:
        extend, count = reader.u8(), reader.u16()
        stops = []
        for _ in range(count):
            stop_offset, colour, alpha = reader.i16(), reader.u16(), reader.i16()
            rows = self._rows(reader, 2, varies=varies)
            stops.append(Stop(stop_offset, colour, alpha, rows or (None, None)))
        return ColourLine(extend, tuple(stops))

    def _transform(self, reader: OffsetReader, *, varies: bool) -> tuple[list[int], tuple[VariationIndex | None, ...]]:
        numbers = [reader.i32() for _ in range(6)]
        return numbers, self._rows(reader, 6, varies=varies) or (None,) * 6

    def rows(self, reader: OffsetReader, count: int) -> tuple[VariationIndex | None, ...]:
        """The rows that as many values vary by, from the one whose number is at the cursor on."""
        return self._rows(reader, count, varies=True)

    def _rows(self, reader: OffsetReader, count: int, *, varies: bool) -> tuple[VariationIndex | None, ...]:
        if not varies:
            return ()
        first = reader.u32()
        if first == _NO_ROWS:
            return (None,) * count
        return tuple(self._row(first + index) for index in range(count))

    def _row(self, offset_in_data: int) -> VariationIndex:
        if self._index_map is None:
            return VariationIndex(offset_in_data >> 16, offset_in_data & 0xFFFF)
        # What lies beyond the last entry is the same as it.
        return (
            self._index_map[min(offset_in_data, len(self._index_map) - 1)] if self._index_map else VariationIndex(0, 0)
        )


def _varies(kind: int) -> bool:
    return _FORMATS[kind][1] > 0 or kind == TRANSFORM


def _required(reader: OffsetReader | None, parent: OffsetReader) -> OffsetReader:
    if reader is None:
        raise FontError("a paint is incomplete", offset=parent.origin)
    return reader


_READ: Mapping[str, Callable[[OffsetReader], int]] = {
    "b": OffsetReader.u8, "h": OffsetReader.i16, "H": OffsetReader.u16, "u": OffsetReader.u32,
}  # fmt: skip


class PaintWriter:
    """Writes paints of one table: equal ones once. `rows` are those that values vary by, in the order in which they are
    numbered."""

    def __init__(self) -> None:
        self.rows: list[VariationIndex | None] = []
        self._firsts: dict[tuple[VariationIndex | None, ...], int] = {}
        self._runs: list[tuple[Block, list[Block]]] = []
        self._known: dict[int, Block] = {}
        # Equal paints are one block, so that layers that are drawn alike are found.
        self._equal: dict[object, Block] = {}

    def block(self, paint: Paint) -> Block:
        """The paint in the making."""
        if id(paint) not in self._known:
            self._known[id(paint)] = self._of_layers(paint) if paint.kind == LAYERS else self._write(paint)
        return self._known[id(paint)]

    def layers(self) -> list[Block]:
        """The layers that all paints share, once every paint is in the making: runs that lie within others are not
        written again."""
        layers: list[Block] = []
        positions: dict[int, list[int]] = {}
        for block, run in sorted(self._runs, key=lambda item: -len(item[1])):
            size = len(run)
            candidates = positions.get(id(run[0]), ()) if run else (0,)
            first = next((index for index in candidates if layers[index : index + size] == run), len(layers))
            if first == len(layers):
                for index, layer in enumerate(run, first):
                    positions.setdefault(id(layer), []).append(index)
                layers += run
            block.patch(_FIRST_LAYER, 4, first)
        return layers

    def _of_layers(self, paint: Paint) -> Block:
        run = [self.block(layer) for layer in paint.inner]
        key = (LAYERS, *map(id, run))
        if key not in self._equal:
            self._equal[key] = block = Block().u8(LAYERS, len(run)).u32(0)
            self._runs.append((block, run))
        return self._equal[key]

    def _write(self, paint: Paint) -> Block:
        line_varies = paint.line is not None and any(any(stop.rows) for stop in paint.line.stops)
        varies = any(paint.rows) or line_varies
        block = Block().u8(paint.kind + varies)
        inner, numbers = iter(paint.inner), iter(paint.numbers)
        for code in _FORMATS[paint.kind][0]:
            if code == "P":
                block.offset24(self.block(next(inner)))
            elif code == "L" and paint.line is not None:
                block.offset24(self._shared(self._line(paint.line, varies=varies)))
            elif code == "T":
                matrix = Block().i32(*paint.numbers)
                block.offset24(self._shared(matrix.u32(self.first(paint.rows)) if varies else matrix))
            elif code == "g" and paint.glyph is not None:
                block.u16(paint.glyph)
            elif code == "c" and paint.colour is not None:
                block.u16(paint.colour)
            else:
                _WRITE[code](block, next(numbers))
        if varies and paint.kind != TRANSFORM:
            block.u32(self.first(paint.rows[: _FORMATS[paint.kind][1]]))
        key = (bytes(block), *((link.position, id(link.target)) for link in block.links))
        return self._equal.setdefault(key, block)

    def _shared(self, block: Block) -> Block:
        return self._equal.setdefault(bytes(block), block)

    def _line(self, line: ColourLine, *, varies: bool) -> Block:
        block = Block().u8(line.extend).u16(len(line.stops))
        for stop in line.stops:
            block.i16(stop.place).u16(stop.colour).i16(stop.alpha)
            if varies:
                block.u32(self.first(stop.rows))
        return block

    def first(self, rows: tuple[VariationIndex | None, ...]) -> int:
        """The number of the first of these rows, which follow one another."""
        if not any(rows):
            return _NO_ROWS
        if rows not in self._firsts:
            self._firsts[rows] = len(self.rows)
            self.rows += rows
        return self._firsts[rows]


_WRITE: Mapping[str, Callable[[Block, int], Block]] = {
    "b": Block.u8, "h": Block.i16, "H": Block.u16, "u": Block.u32,
}  # fmt: skip
