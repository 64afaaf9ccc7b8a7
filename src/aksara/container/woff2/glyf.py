"""The WOFF2 transform of 'glyf' and 'loca' (section 5.1).

The fields of all glyphs are sorted by kind into streams, since like compresses
best with like: contour counts, points per contour, flags, coordinates,
components, boxes, instructions. A simple glyph's bounding box is stored only
where it differs from what its points say.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator, Mapping, Sequence
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.container.woff2.directory import FIRST_CODE, encode_255, read_255
from aksara.container.woff2.triplets import TRIPLET_BYTES, decode_triplets, encode_triplets
from aksara.errors import FontError
from aksara.records import FixedRecord
from aksara.truetype import glyph_data
from aksara.truetype.components import split_composite, take_records
from aksara.truetype.points import (
    Ints,
    Points,
    decode_simple,
    encode_simple,
    extremes,
    running_sum,
    segment_sums,
)

_OVERLAP_BITMAP = 0x0001
_AT_ONCE = 1024
#: The streams of the transformed table, and which of them has the boxes.
_STREAMS, _BOXES = 7, 5
#: Readers lay rebuilt glyphs out at multiples of four, as most fonts have them.
_ALIGNMENT = 4


class _Header(FixedRecord, frozen=True):
    """The first fields of the transformed table; the sizes of its streams follow."""

    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">HHHH")

    reserved: int
    option_flags: int
    glyph_count: int
    index_format: int


def transform(tables: Mapping[str, bytes]) -> tuple[bytes, NDArray[np.int64]]:
    """The transformed 'glyf', and the bounding box of every glyph (G by 4, as its header has it)."""
    glyphs, index_format = _split(tables)
    count = len(glyphs)
    # Some thousands at a time: the points of a large font would take a hundred times its size.
    parts = [_Part(glyphs[start : start + _AT_ONCE], start) for start in range(0, count, _AT_ONCE)]
    explicit = np.concatenate([part.explicit for part in parts]) if parts else np.zeros(0, bool)
    overlap = np.concatenate([part.overlap for part in parts]) if parts else np.zeros(0, bool)
    boxes = np.concatenate([part.boxes for part in parts]) if parts else np.zeros((0, 4), np.int64)
    streams = [b"".join(part.streams[n] for part in parts) for n in range(_STREAMS)]
    bitmap = np.packbits(np.pad(explicit, (0, -count % 32))).tobytes()
    streams[_BOXES] = bitmap + streams[_BOXES]
    overlap_bitmap = np.packbits(overlap).tobytes() if overlap.any() else b""
    header = _Header(0, _OVERLAP_BITMAP if overlap_bitmap else 0, count, index_format).compile()
    sizes = np.array([len(stream) for stream in streams], ">u4").tobytes()
    return b"".join((header, sizes, *streams, overlap_bitmap)), boxes


class _Part:
    """The streams of consecutive glyphs, the first of which has the number `first`.

    `explicit` tells which have their box stored, `overlap` which have the flag for overlapping contours.
    """

    def __init__(self, glyphs: list[bytes], first: int) -> None:
        count = len(glyphs)
        contours = np.array([glyph_data.contour_count(glyph) for glyph in glyphs], np.int64)
        boxes = glyph_data.bounding_boxes(glyphs)
        # A glyph of no contours has nothing to draw; the format has no place for its box.
        boxes[contours == 0] = 0
        simple, composite = np.flatnonzero(contours > 0), np.flatnonzero(contours < 0)
        points = decode_simple([glyphs[i] for i in simple.tolist()], (simple + first).tolist())
        flags, triplets, triplet_sizes = encode_triplets(points)
        components = {i: split_composite(glyphs[i], first + i) for i in composite.tolist()}

        # The glyph stream interleaves each glyph's triplets with the size of its program.
        programs: list[bytes] = [b""] * count
        has_program = contours > 0
        for i, program in zip(simple.tolist(), points.instructions, strict=True):
            programs[i] = program
        for i, (_, program_or_none) in components.items():
            if program_or_none is not None:
                programs[i], has_program[i] = program_or_none, True
        of_glyph = np.zeros(count, np.int64)
        of_glyph[simple] = segment_sums(triplet_sizes, points.per_glyph)
        coded, coded_sizes = encode_255(np.array([len(programs[i]) for i in np.flatnonzero(has_program)], np.int64))
        glyph_stream: list[bytes] = []
        triplet_at = code_at = 0
        owners = np.flatnonzero(has_program)
        for size, code_size in zip(of_glyph[owners].tolist(), coded_sizes.tolist(), strict=True):
            glyph_stream += (triplets[triplet_at : triplet_at + size], coded[code_at : code_at + code_size])
            triplet_at, code_at = triplet_at + size, code_at + code_size

        self.explicit = contours < 0
        self.explicit[simple] = (_boxes(points) != boxes[simple]).any(axis=1)
        self.boxes = boxes
        self.overlap = np.zeros(count, bool)
        self.overlap[simple] = points.overlap
        self.streams = (
            np.where(contours < 0, -1, contours).astype(">i2").tobytes(),
            encode_255(points.counts)[0],
            flags,
            b"".join(glyph_stream),
            b"".join(stream for stream, _ in components.values()),
            boxes[self.explicit].astype(">i2").tobytes(),
            b"".join(programs),
        )


def rebuild(data: bytes) -> tuple[bytes, bytes, int]:
    """'glyf', 'loca', and the format of 'loca' (0 short, 1 long) from the transformed table."""
    return _join(_Rebuilding(data).glyphs())


class _Rebuilding:
    """The streams of a transformed table, and the glyphs that they make."""

    def __init__(self, data: bytes) -> None:
        reader = Reader(data)
        header = _Header.read(reader, "the transformed table's header")
        self._count = count = header.glyph_count
        sizes = reader.array(np.uint32, _STREAMS, "sizes of streams").tolist()
        streams = [Reader(reader.take(size, "a stream")) for size in sizes]
        contour_stream, count_stream, flag_stream, glyph_stream, self._components, box_stream, programs = streams
        self._overlap = np.zeros(count, bool)
        if header.option_flags & _OVERLAP_BITMAP:
            self._overlap = _bits(reader.take((count + 7) // 8, "the overlap bitmap"), count)
        self._contours = contour_stream.array(np.int16, count, "contour counts").astype(np.int64)
        if count and self._contours.min() < -1:
            raise FontError(f"it has {int(self._contours.min())} contours", glyph=int(self._contours.argmin()))
        self._explicit, self._boxes = _stored_boxes(box_stream, self._contours)
        self._simple = np.flatnonzero(self._contours > 0)
        self._counts = _point_counts(count_stream, int(self._contours[self._simple].sum()))
        self._per_glyph = segment_sums(self._counts, self._contours[self._simple])
        self._flags = flag_stream.array(np.uint8, int(self._counts.sum()), "point flags")
        self._triplet_sizes = segment_sums(TRIPLET_BYTES[self._flags & 0x7F], self._per_glyph)
        self._steps = _GlyphStream(glyph_stream, programs, self._triplet_sizes)

    def glyphs(self) -> list[bytes]:
        """Every glyph's bytes."""
        bodies: dict[int, bytes] = {}
        for i in np.flatnonzero(self._contours != 0).tolist():
            if self._contours[i] > 0:
                self._steps.take_simple()
            else:
                bodies[i] = self._composite(i)
        for some, points in self._simple_points():
            self._boxes[some] = np.where(self._explicit[some, None], self._boxes[some], _boxes(points))
            if (np.abs(self._boxes[some]) > 32767).any():
                raise FontError("a glyph's points lie outside the coordinates that a font can have")
            bodies.update(zip(some.tolist(), encode_simple(points, self._boxes[some]), strict=True))
        return [bodies.get(i, b"") for i in range(self._count)]

    def _composite(self, i: int) -> bytes:
        if not self._explicit[i]:
            raise FontError("it is made of others, but has no bounding box", glyph=i)
        records, has_program = take_records(self._components, i)
        if has_program:
            program = self._steps.take_program()
            records += len(program).to_bytes(2, "big") + program
        box: bytes = self._boxes[i].astype(">i2").tobytes()
        return b"\xff\xff" + box + records

    def _simple_points(self) -> Iterator[tuple[Ints, Points]]:
        """Simple glyphs (their IDs) and their points, some thousands at a time."""
        triplets, contours = self._steps.triplets, self._contours[self._simple]
        contour_at, point_at, triplet_at = (
            np.concatenate(([0], np.cumsum(counts))).tolist()
            for counts in (contours, self._per_glyph, self._triplet_sizes)
        )
        for first in range(0, len(self._simple), _AT_ONCE):
            last = min(first + _AT_ONCE, len(self._simple))
            some, own = self._simple[first:last], self._flags[point_at[first] : point_at[last]]
            yield (
                some,
                Points(
                    contours[first:last],
                    self._counts[contour_at[first] : contour_at[last]],
                    (own & 0x80) == 0,
                    *decode_triplets(own, triplets[triplet_at[first] : triplet_at[last]]),
                    self._overlap[some],
                    self._steps.programs[first:last],
                ),
            )


def _point_counts(stream: Reader, contours: int) -> Ints:
    """The number of points of each contour."""
    if contours > stream.remaining:  # each takes a byte at least
        raise FontError("it claims more contours than it has bytes for")
    start = stream.position
    counts = stream.array(np.uint8, contours, "counts of points").astype(np.int64)
    if len(counts) and counts.max() >= FIRST_CODE:
        stream.position = start
        counts = np.array([read_255(stream) for _ in range(contours)], np.int64)
    if len(counts) and counts.min() < 1:
        raise FontError("a contour has no points")
    return counts


def _stored_boxes(stream: Reader, contours: Ints) -> tuple[NDArray[np.bool_], Ints]:
    """Which glyphs have their box stored, and these boxes (G by 4), zeros for the others."""
    count = len(contours)
    explicit = _bits(stream.take((count + 31) // 32 * 4, "the bitmap of boxes"), count)
    if (explicit & (contours == 0)).any():
        raise FontError("an empty glyph has a bounding box")
    boxes = np.zeros((count, 4), np.int64)
    boxes[explicit] = stream.array(np.int16, 4 * int(explicit.sum()), "boxes").reshape(-1, 4)
    return explicit, boxes


class _GlyphStream:
    """Walks the glyph stream, in which triplets and program sizes of the glyphs follow each other."""

    def __init__(self, stream: Reader, program_stream: Reader, sizes: Ints) -> None:
        """`sizes`: the bytes of each simple glyph's triplets."""
        self._stream, self._program_stream = stream, program_stream
        self._sizes = iter(sizes.tolist())
        self._parts: list[bytes] = []
        self.programs: list[bytes] = []

    def take_simple(self) -> None:
        self._parts.append(self._stream.take(next(self._sizes), "a glyph's points"))
        self.programs.append(self.take_program())

    def take_program(self) -> bytes:
        return self._program_stream.take(read_255(self._stream), "a glyph's program")

    @property
    def triplets(self) -> bytes:
        return b"".join(self._parts)


def aligned(tables: Mapping[str, bytes]) -> dict[str, bytes]:
    """The tables with every glyph at a multiple of four.

    So readers lay the glyphs out that rebuild them, and they trust what the directory says of the size of 'glyf', and
    the format of 'loca', to be those of the result.
    """
    glyf, loca, index_format = _join(_split(tables)[0])
    return {**tables, "glyf": glyf, "loca": loca, "head": with_index_format(tables["head"], index_format)}


def with_index_format(head: bytes, index_format: int) -> bytes:
    """'head' with the format of 'loca' (0 short, 1 long) in it; one that is too short for that stays as it is."""
    return head[:50] + index_format.to_bytes(2, "big") + head[52:] if len(head) >= 52 else head


def _split(tables: Mapping[str, bytes]) -> tuple[list[bytes], int]:
    """Each glyph's bytes, and the format of 'loca'."""
    index_format = Reader(tables["head"], 50).u16()
    count = Reader(tables["maxp"], 4).u16()
    offsets = glyph_data.read_offsets(tables["loca"], count, long=bool(index_format))
    return glyph_data.split(tables["glyf"], offsets), index_format


def _join(glyphs: Sequence[bytes]) -> tuple[bytes, bytes, int]:
    """'glyf', 'loca' and its format."""
    data, offsets = glyph_data.join(glyphs, _ALIGNMENT)
    long = glyph_data.needs_long_offsets(int(offsets[-1]))
    return data, glyph_data.write_offsets(offsets, long=long), int(long)


def _bits(data: bytes, count: int) -> NDArray[np.bool_]:
    return np.unpackbits(np.frombuffer(data, np.uint8), count=count).astype(bool)


def _boxes(points: Points) -> NDArray[np.int64]:
    """Bounding box of each glyph's points, on and off the curve."""
    per_glyph = points.per_glyph
    x_min, x_max = extremes(running_sum(points.dx, per_glyph), per_glyph)
    y_min, y_max = extremes(running_sum(points.dy, per_glyph), per_glyph)
    return np.column_stack((x_min, y_min, x_max, y_max))
