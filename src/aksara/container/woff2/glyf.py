"""The WOFF2 transform of 'glyf' and 'loca' (section 5.1).

The fields of all glyphs are sorted by kind into streams, since like packs
best with like: contour counts, points per contour, flags, coordinates,
components, boxes, instructions. A simple glyph's bounding box is stored only
where it differs from what its points say.
"""

from __future__ import annotations

import itertools
import struct
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader, pad4
from aksara.container.woff2.directory import pack_255, read_255
from aksara.errors import FontError
from aksara.truetype import (
    Ints,
    Points,
    decode_simple,
    encode_simple,
    extremes,
    running_sum,
    segment_sums,
    starts_of,
    take_components,
)

_HEADER = struct.Struct(">HHHHIIIIIII")
_OVERLAP_BITMAP = 0x0001
_EMPTY_BOX = (0, 0, 0, 0)
_AT_ONCE = 4096
#: The streams of the transformed table, and which of them has the boxes.
_STREAMS, _BOXES = 7, 5


def transform(tables: Mapping[str, bytes]) -> tuple[bytes, NDArray[np.int64]]:
    """The transformed 'glyf', and the bounding box of every glyph (G by 4, as its header has it)."""
    glyphs, index_format = _split(tables)
    count = len(glyphs)
    # Some thousands at a time: the points of a large font would take a hundred times its size.
    parts = [_Part(glyphs[at : at + _AT_ONCE], at) for at in range(0, count, _AT_ONCE)]
    explicit = np.concatenate([part.explicit for part in parts]) if parts else np.zeros(0, bool)
    overlap = np.concatenate([part.overlap for part in parts]) if parts else np.zeros(0, bool)
    boxes = np.concatenate([part.boxes for part in parts]) if parts else np.zeros((0, 4), np.int64)
    streams = [b"".join(part.streams[n] for part in parts) for n in range(_STREAMS)]
    bitmap = np.packbits(np.pad(explicit, (0, -count % 32))).tobytes()
    streams[_BOXES] = bitmap + streams[_BOXES]
    overlap_bitmap = np.packbits(overlap).tobytes() if overlap.any() else b""
    header = _HEADER.pack(
        0, _OVERLAP_BITMAP if overlap_bitmap else 0, count, index_format, *(len(stream) for stream in streams)
    )
    return b"".join((header, *streams, overlap_bitmap)), boxes


class _Part:
    """The streams of consecutive glyphs, the first of which has the number `first`.

    `explicit` tells which have their box stored, `overlap` which have the flag for overlapping contours.
    """

    def __init__(self, glyphs: list[bytes], first: int) -> None:
        count = len(glyphs)
        contours = np.array([int.from_bytes(g[:2], "big", signed=True) for g in glyphs], np.int64)
        boxes = np.array([struct.unpack_from(">4h", g, 2) if len(g) >= 10 else _EMPTY_BOX for g in glyphs], np.int64)
        # A glyph of no contours has nothing to draw; the format has no place for its box.
        boxes[contours == 0] = 0
        simple, composite = np.flatnonzero(contours > 0), np.flatnonzero(contours < 0)
        points = decode_simple([glyphs[i] for i in simple.tolist()], (simple + first).tolist())
        flags, triplets, triplet_sizes = _pack_triplets(points)
        components = {i: _components(glyphs[i], first + i) for i in composite.tolist()}

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
        coded, coded_sizes = pack_255(np.array([len(programs[i]) for i in np.flatnonzero(has_program)], np.int64))
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
            pack_255(points.counts)[0],
            flags,
            b"".join(glyph_stream),
            b"".join(stream for stream, _ in components.values()),
            boxes[self.explicit].astype(">i2").tobytes(),
            b"".join(programs),
        )


def rebuild(data: bytes) -> tuple[bytes, bytes, int]:
    """'glyf', 'loca', and the format of 'loca' (0 short, 1 long) from the transformed table."""
    reader = Reader(data)
    _, options, count, _, *sizes = reader.unpack(_HEADER, "the transformed table's header")
    streams = [Reader(reader.take(size, "a stream")) for size in sizes]
    contour_stream, count_stream, flag_stream, glyph_stream, component_stream, box_stream, program_stream = streams
    overlap = np.zeros(count, bool)
    if options & _OVERLAP_BITMAP:
        overlap = _bits(reader.take((count + 7) // 8, "the overlap bitmap"), count)
    contours = contour_stream.array(np.int16, count, "contour counts").astype(np.int64)
    if len(contours) and contours.min() < -1:
        raise FontError(f"glyph {int(contours.argmin())} has {int(contours.min())} contours")
    explicit, boxes = _stored_boxes(box_stream, contours)
    simple = np.flatnonzero(contours > 0)
    total_contours = int(contours[simple].sum())
    if total_contours > count_stream.remaining:  # each takes a byte at least
        raise FontError("it claims more contours than it has bytes for")
    counts = np.array([read_255(count_stream) for _ in range(total_contours)], np.int64)
    if len(counts) and counts.min() < 1:
        raise FontError("a contour has no points")
    per_glyph = segment_sums(counts, contours[simple])
    flags = flag_stream.array(np.uint8, int(counts.sum()), "point flags")
    sizes_of_triplets = segment_sums(_TRIPLET_BYTES[flags & 0x7F], per_glyph)
    steps = _GlyphStream(glyph_stream, program_stream, sizes_of_triplets)

    bodies: dict[int, bytes] = {}
    for i in np.flatnonzero(contours != 0).tolist():
        if contours[i] > 0:
            steps.take_simple()
            continue
        if not explicit[i]:
            raise FontError(f"composite glyph {i} has no bounding box")
        stream, has_program = take_components(component_stream, i)
        if has_program:
            program = steps.take_program()
            stream += len(program).to_bytes(2, "big") + program
        bodies[i] = b"\xff\xff" + boxes[i].astype(">i2").tobytes() + stream
    triplets = steps.triplets
    contour_at, point_at, triplet_at = (
        np.concatenate(([0], np.cumsum(each))).tolist() for each in (contours[simple], per_glyph, sizes_of_triplets)
    )
    for first in range(0, len(simple), _AT_ONCE):
        last = min(first + _AT_ONCE, len(simple))
        some, own = simple[first:last], flags[point_at[first] : point_at[last]]
        points = Points(
            contours[some],
            counts[contour_at[first] : contour_at[last]],
            (own & 0x80) == 0,
            *_unpack_triplets(own, triplets[triplet_at[first] : triplet_at[last]]),
            overlap[some],
            steps.programs[first:last],
        )
        boxes[some] = np.where(explicit[some, None], boxes[some], _boxes(points))
        if (np.abs(boxes[some]) > 32767).any():
            raise FontError("a glyph's points lie outside the coordinates that a font can have")
        bodies.update(zip(some.tolist(), encode_simple(points, boxes[some]), strict=True))
    return _join([bodies.get(i, b"") for i in range(count)])


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
    head = tables["head"]
    return {**tables, "glyf": glyf, "loca": loca, "head": head[:50] + index_format.to_bytes(2, "big") + head[52:]}


def _split(tables: Mapping[str, bytes]) -> tuple[list[bytes], int]:
    """Each glyph's bytes, and the format of 'loca'."""
    index_format = Reader(tables["head"], 50).u16()
    count = Reader(tables["maxp"], 4).u16()
    reader = Reader(tables["loca"])
    kind = np.dtype(np.uint32) if index_format else np.dtype(np.uint16)
    offsets = reader.array(kind, count + 1, "glyph offsets").astype(np.int64) * (1 if index_format else 2)
    data = tables["glyf"]
    if (np.diff(offsets) < 0).any() or (len(offsets) and offsets[-1] > len(data)):
        raise FontError("glyph offsets run backwards or beyond 'glyf'", table="loca")
    bounds = offsets.tolist()
    glyphs = [data[start:end] for start, end in itertools.pairwise(bounds)]
    for number, glyph in enumerate(glyphs):
        if 0 < len(glyph) < 10:
            raise FontError(f"glyph {number} is cut short", table="glyf", offset=bounds[number])
    return glyphs, index_format


def _join(glyphs: list[bytes]) -> tuple[bytes, bytes, int]:
    """'glyf', 'loca' and its format; glyphs start at multiples of four, as most fonts have them."""
    padded = [pad4(glyph) for glyph in glyphs]
    offsets = np.cumsum([0, *map(len, padded)])
    short = offsets[-1] <= 0x1FFFE
    loca = (offsets // 2).astype(">u2") if short else offsets.astype(">u4")
    return b"".join(padded), loca.tobytes(), 0 if short else 1


def _bits(data: bytes, count: int) -> NDArray[np.bool_]:
    return np.unpackbits(np.frombuffer(data, np.uint8), count=count).astype(bool)


def _boxes(points: Points) -> NDArray[np.int64]:
    """Bounding box of each glyph's points, on and off the curve."""
    per_glyph = points.per_glyph
    x_min, x_max = extremes(running_sum(points.dx, per_glyph), per_glyph)
    y_min, y_max = extremes(running_sum(points.dy, per_glyph), per_glyph)
    return np.column_stack((x_min, y_min, x_max, y_max))


def _components(glyph: bytes, number: int) -> tuple[bytes, bytes | None]:
    """A composite glyph's component records, and the program behind them if they announce one."""
    reader = Reader(glyph, 10)
    records, has_program = take_components(reader, number)
    if not has_program:
        return records, None
    try:
        return records, reader.take(reader.u16(), "a program")
    except FontError as error:
        raise FontError(f"glyph {number}: its program runs past its end") from error


# Triplets (section 5.2): a flag that tells the sizes and signs of a step's two parts, and their low bits.
# Seven bands of flags; each gives the bits of dx and dy, what is added to each, and the bytes they take.

_TRIPLET_BYTES = np.repeat(np.array([1, 2, 3, 4], np.int64), [84, 36, 4, 4])
_SIGN_X, _SIGN_Y = 1, 2


def _pack_triplets(points: Points) -> tuple[bytes, bytes, Ints]:
    """Flags, the bytes of all triplets, and the bytes that each takes."""
    dx, dy = points.dx, points.dy
    x, y = np.abs(dx), np.abs(dy)
    signs = np.where(dx >= 0, _SIGN_X, 0) | np.where(dy >= 0, _SIGN_Y, 0)
    bands = [
        (dx == 0) & (y < 1280),
        (dy == 0) & (x < 1280),
        (x < 65) & (y < 65),
        (x < 769) & (y < 769),
        (x < 4096) & (y < 4096),
    ]
    # Where x or y is 0, another band has been chosen before x - 1 or y - 1 could matter.
    u, v = x - 1, y - 1
    flags = np.select(
        bands,
        [
            ((y & 0xF00) >> 7) + (dy >= 0),
            10 + ((x & 0xF00) >> 7) + (dx >= 0),
            20 + (u & 0x30) + ((v & 0x30) >> 2) + signs,
            84 + 12 * ((u & 0x300) >> 8) + ((v & 0x300) >> 6) + signs,
            120 + signs,
        ],
        124 + signs,
    )
    zero = np.zeros_like(x)
    lanes = [
        np.select(bands, [y, x, (u & 15) << 4 | v & 15, u, x >> 4], x >> 8),
        np.select(bands[3:], [v, (x & 15) << 4 | y >> 8], x),
        np.select(bands[4:], [y], y >> 8),
        np.where(bands[4], zero, y),
    ]
    sizes = _TRIPLET_BYTES[flags]
    grid = (np.column_stack(lanes) & 0xFF).astype(np.uint8)
    data = grid[np.arange(4) < sizes[:, None]]
    coded = flags | np.where(points.on_curve, 0, 0x80)
    return coded.astype(np.uint8).tobytes(), data.tobytes(), sizes


def _unpack_triplets(coded: NDArray[np.uint8], data: bytes) -> tuple[Ints, Ints]:
    flags = (coded & 0x7F).astype(np.int64)
    sizes = _TRIPLET_BYTES[flags]
    raw = np.frombuffer(data + bytes(3), np.uint8).astype(np.int64)
    at = starts_of(sizes)
    a, b, c, d = (raw[np.minimum(at + lane, len(raw) - 1)] for lane in range(4))
    bands = [flags < 10, flags < 20, flags < 84, flags < 120, flags < 124]
    third, fourth = flags - 20, flags - 84
    zero = np.zeros_like(flags)
    x = np.select(
        bands,
        [
            zero,
            ((flags - 10 & 14) << 7) + a,
            (third & 0x30) + 1 + (a >> 4),
            (fourth // 12 << 8) + 1 + a,
            (a << 4) + (b >> 4),
        ],
        (a << 8) + b,
    )
    y = np.select(
        bands,
        [
            ((flags & 14) << 7) + a,
            zero,
            ((third & 0x0C) << 2) + 1 + (a & 15),
            ((fourth % 12 >> 2) << 8) + 1 + b,
            ((b & 15) << 8) + c,
        ],
        (c << 8) + d,
    )
    # In the first two bands, and in the others counted from their start, bit 0 is the sign of what there is
    # (dx before dy), bit 1 the sign of dy. Bands start at even numbers, and those of two signs at multiples of 4.
    x_positive = flags & 1
    y_positive = np.where(flags < 10, flags & 1, flags >> 1 & 1)
    return np.where(x_positive, x, -x), np.where(y_positive, y, -y)
