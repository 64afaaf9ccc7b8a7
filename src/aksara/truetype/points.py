"""Packed points of simple glyphs, many glyphs at once ('glyf', "Simple glyph description").

Glyph by glyph that is slow in Python, so here a whole font's points are held in flat NumPy arrays, one element a
point.
"""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from aksara.errors import BeyondBounds, FontError
from aksara.limits import MAX_REPEATED_POINTS
from aksara.records import ComparedByField

ON_CURVE = 0x01
X_SHORT = 0x02
Y_SHORT = 0x04
REPEAT = 0x08
X_SAME_OR_POSITIVE = 0x10
Y_SAME_OR_POSITIVE = 0x20
OVERLAP_SIMPLE = 0x40
_X, _Y = (X_SHORT, X_SAME_OR_POSITIVE), (Y_SHORT, Y_SAME_OR_POSITIVE)


Ints = NDArray[np.int64]
Bytes = NDArray[np.uint8]


class Points(ComparedByField, Struct):
    """The points of G simple glyphs with P points in C contours.

    `contours` (G) and `counts` (C, points of each contour) give the shape;
    `on_curve` (P) and the steps `dx`, `dy` (P, from the point before, the
    first from the origin) the points; `overlap` (G) the overlap flag;
    `instructions` (G) the glyph programs.
    """

    contours: Ints
    counts: Ints
    on_curve: NDArray[np.bool_]
    dx: Ints
    dy: Ints
    overlap: NDArray[np.bool_]
    instructions: list[bytes]

    @property
    def per_glyph(self) -> Ints:
        """Points of each glyph (G)."""
        return segment_sums(self.counts, self.contours)


def starts_of(sizes: Ints) -> Ints:
    """Where each of the consecutive segments of the given sizes starts."""
    return np.cumsum(sizes) - sizes


def segment_sums(values: Ints, sizes: Ints) -> Ints:
    """Sums over consecutive segments; an empty segment sums to 0."""
    total = np.concatenate(([0], np.cumsum(values)))
    ends = np.cumsum(sizes)
    return np.asarray(total[ends] - total[ends - sizes], np.int64)


def ramp(starts: Ints, sizes: Ints) -> Ints:
    """start, start+1, … for each segment, one after the other: the indices that gather the segments."""
    return np.repeat(starts - starts_of(sizes), sizes) + np.arange(int(sizes.sum()))


def running_sum(values: Ints, sizes: Ints) -> Ints:
    """Cumulative sums that start afresh at every segment."""
    total = np.cumsum(values)
    starts = starts_of(sizes)
    before = np.where(starts > 0, total[np.maximum(starts, 1) - 1], 0) if len(total) else starts
    return np.asarray(total - np.repeat(before, sizes), np.int64)


def extremes(values: Ints, sizes: Ints) -> tuple[Ints, Ints]:
    """Minimum and maximum of each segment; every segment must have at least one element."""
    if not len(sizes):
        return sizes, sizes
    starts = starts_of(sizes)
    return np.minimum.reduceat(values, starts), np.maximum.reduceat(values, starts)


def decode_simple(glyphs: list[bytes], glyph_ids: list[int]) -> Points:
    """Unpack simple glyphs, each given as its bytes in 'glyf' (header included).

    `glyph_ids` are for error messages. Raises `FontError`
    when a glyph ends before its points do or its contours run backwards, `BeyondBounds`
    where glyphs have more
    points than real ones of their size.
    """
    sizes = np.array([len(g) for g in glyphs], np.int64)
    data = np.frombuffer(b"".join(glyphs) + bytes(2), np.uint8)
    base = starts_of(sizes)
    contours, counts, flag_starts = _shapes(data, base, sizes, glyph_ids)
    per_glyph = segment_sums(counts, contours)
    if len(counts) and int(per_glyph.sum()) > MAX_REPEATED_POINTS + len(data):
        raise BeyondBounds("its glyphs have more points than bytes")
    flags, flag_ends = _read_flags(data, base, sizes, flag_starts, per_glyph, glyph_ids)

    x_sizes = _packed_sizes(flags, X_SHORT, X_SAME_OR_POSITIVE)
    y_sizes = _packed_sizes(flags, Y_SHORT, Y_SAME_OR_POSITIVE)
    x_total, y_total = segment_sums(x_sizes, per_glyph), segment_sums(y_sizes, per_glyph)
    _refuse(flag_ends + x_total + y_total > sizes, glyph_ids, "its points run past its end")
    x_starts = base + flag_ends
    dx = _unpack_steps(data, flags, np.repeat(x_starts, per_glyph) + running_sum(x_sizes, per_glyph) - x_sizes, _X)
    y_starts = x_starts + x_total
    dy = _unpack_steps(data, flags, np.repeat(y_starts, per_glyph) + running_sum(y_sizes, per_glyph) - y_sizes, _Y)
    overlap = np.zeros(len(glyphs), bool)
    drawn = per_glyph > 0
    overlap[drawn] = (flags[starts_of(per_glyph)[drawn]] & OVERLAP_SIMPLE) != 0
    header = (10 + 2 * contours).tolist()
    instructions = [g[h + 2 : f] for g, h, f in zip(glyphs, header, flag_starts.tolist(), strict=True)]
    return Points(contours, counts, (flags & ON_CURVE) != 0, dx, dy, overlap, instructions)


def _refuse(bad: NDArray[np.bool_], glyph_ids: list[int], problem: str) -> None:
    """Raise for the first glyph that is bad."""
    where = np.flatnonzero(bad)
    if len(where):
        raise FontError(problem, glyph=glyph_ids[int(where[0])])


def _shapes(data: Bytes, base: Ints, sizes: Ints, glyph_ids: list[int]) -> tuple[Ints, Ints, Ints]:
    """Contours of each glyph, points of each contour, and where in each glyph its flags start."""
    _refuse(sizes < 12, glyph_ids, "its outline is cut short")
    contours = _words(data, base)
    header = 10 + 2 * contours
    _refuse(header + 2 > sizes, glyph_ids, "its list of contours runs past its end")
    last_points = _words(data, ramp(base + 10, 2 * contours)[::2])
    counts = np.diff(last_points, prepend=0)
    # A glyph may have a header and no contour.
    first = starts_of(contours)[contours > 0]
    counts[first] = last_points[first] + 1
    if len(counts) and counts.min() <= 0:
        # A contour of no points can be neither drawn nor coded.
        bad = int(np.searchsorted(np.cumsum(contours), int(np.argmin(counts)), side="right"))
        raise FontError("its contours run backwards", glyph=glyph_ids[bad])
    return contours, counts, header + 2 + _words(data, base + header)


def _read_flags(
    data: Bytes, base: Ints, sizes: Ints, starts: Ints, wanted: Ints, glyph_ids: list[int]
) -> tuple[Bytes, Ints]:
    """The flag of every point, repeats written out, and where in each glyph its flags end.

    `base` is where the glyphs start in the data, `starts` where in each its flags do, `wanted` how many points it has.
    """
    past_end = "its points run past its end"
    _refuse(starts >= sizes, glyph_ids, past_end)
    if not len(sizes):
        return np.zeros(0, np.uint8), starts
    first = starts_of(sizes - starts)
    here = data[ramp(base + starts, sizes - starts)]
    # The byte behind a flag that repeats is a count, whatever bits it has: of consecutive bytes with that bit
    # the first, the third and so on are flags.
    has_bit = (here & REPEAT) != 0
    opens = has_bit.copy()
    opens[1:] &= ~has_bit[:-1]
    opens[first] = has_bit[first]
    number = np.arange(len(here), dtype=np.int32)
    repeats = has_bit & ((number - np.maximum.accumulate(np.where(opens, number, 0))) % 2 == 0)
    is_count = np.zeros(len(here), bool)
    is_count[1:] = repeats[:-1]
    is_count[first] = False
    points = np.where(is_count, 0, 1)
    points[:-1] += np.where(repeats[:-1], here[1:], 0)
    reached = np.cumsum(points)
    target = reached[first] - points[first] + wanted
    last = np.searchsorted(reached, target)
    _refuse(last >= first + sizes - starts, glyph_ids, past_end)
    _refuse(reached[last] != target, glyph_ids, "its flags repeat beyond its last point")
    ends = starts + last - first + 1 + repeats[last]
    _refuse(ends > sizes, glyph_ids, past_end)
    used = ramp(first, last - first + 1)
    used = used[~is_count[used]]
    return np.repeat(here[used], points[used]), ends


def encode_simple(points: Points, boxes: NDArray[np.int64]) -> list[bytes]:
    """Each glyph in its shortest form; `boxes` (G by 4) are xMin, yMin, xMax, yMax. The inverse of `decode_simple`."""
    per_glyph = points.per_glyph
    x_flags, x_bytes, x_sizes = _pack_steps(points.dx, X_SHORT, X_SAME_OR_POSITIVE)
    y_flags, y_bytes, y_sizes = _pack_steps(points.dy, Y_SHORT, Y_SAME_OR_POSITIVE)
    flags = (points.on_curve * np.uint8(ON_CURVE)) | x_flags | y_flags
    first = starts_of(per_glyph)
    if len(flags):
        flags[first] |= (points.overlap * np.uint8(OVERLAP_SIMPLE)).astype(np.uint8)
    coded, coded_sizes = _repeat_flags(flags, per_glyph)

    ends = (running_sum(points.counts, points.contours) - 1).astype(">u2").tobytes()
    heads = np.column_stack((points.contours, boxes)).astype(">i2").tobytes()
    glyphs, end_at, flag_at, x_at, y_at = [], 0, 0, 0, 0
    x_total, y_total = segment_sums(x_sizes, per_glyph).tolist(), segment_sums(y_sizes, per_glyph).tolist()
    for index, (contours, flag_size) in enumerate(zip(points.contours.tolist(), coded_sizes.tolist(), strict=True)):
        program = points.instructions[index]
        glyphs.append(
            b"".join(
                (
                    heads[10 * index : 10 * index + 10],
                    ends[end_at : end_at + 2 * contours],
                    len(program).to_bytes(2, "big"),
                    program,
                    coded[flag_at : flag_at + flag_size],
                    x_bytes[x_at : x_at + x_total[index]],
                    y_bytes[y_at : y_at + y_total[index]],
                )
            )
        )
        end_at, flag_at = end_at + 2 * contours, flag_at + flag_size
        x_at, y_at = x_at + x_total[index], y_at + y_total[index]
    return glyphs


def points_of(shape: Points, coordinates: Ints) -> Points:
    """The same glyphs with their points at other places (P by 2, one glyph's behind the other's)."""
    steps = np.diff(coordinates, axis=0, prepend=0)
    first = starts_of(shape.per_glyph)
    steps[first] = coordinates[first]
    return replace(shape, dx=steps[:, 0], dy=steps[:, 1], overlap=shape.overlap.copy())


def _words(data: Bytes, offsets: Ints) -> Ints:
    return data[offsets].astype(np.int64) << 8 | data[offsets + 1]


def _packed_sizes(flags: Bytes, short: int, same: int) -> Ints:
    """Bytes that each point's coordinate takes: 1 if short, 0 if the same as before, else 2."""
    return np.where(flags & short, 1, np.where(flags & same, 0, 2)).astype(np.int64)


def _unpack_steps(data: Bytes, flags: Bytes, offsets: Ints, axis: tuple[int, int]) -> Ints:
    """The steps whose bytes are at `offsets`; `axis` is its two flags."""
    short, same = axis
    first = data[offsets].astype(np.int64)
    long = (first << 8 | data[offsets + 1]).astype(np.uint16).view(np.int16).astype(np.int64)
    signed = np.where(flags & same, first, -first)
    return np.asarray(np.where(flags & short, signed, np.where(flags & same, 0, long)), np.int64)


def _pack_steps(steps: Ints, short: int, same: int) -> tuple[Bytes, bytes, Ints]:
    """Flags, bytes, and the bytes that each step takes."""
    # Differences of 16-bit coordinates wrap, as every renderer's arithmetic does.
    steps = steps.astype(np.int16).astype(np.int64)
    size = np.abs(steps)
    is_short = (size < 256) & (size > 0)
    flags = np.where(is_short, short, 0) | np.where((steps == 0) | (is_short & (steps > 0)), same, 0)
    sizes = np.where(steps == 0, 0, np.where(is_short, 1, 2)).astype(np.int64)
    out = np.zeros(int(sizes.sum()), np.uint8)
    starts = starts_of(sizes)
    out[starts[is_short]] = size[is_short]
    long = sizes == 2
    out[starts[long]] = (steps[long] >> 8) & 0xFF
    out[starts[long] + 1] = steps[long] & 0xFF
    return flags.astype(np.uint8), out.tobytes(), sizes


def _repeat_flags(flags: Bytes, per_glyph: Ints) -> tuple[bytes, Ints]:
    """Run-length coded flags, and the bytes that each glyph's take. A run of two costs the same either way."""
    if not len(flags):
        return b"", np.zeros(len(per_glyph), np.int64)
    glyph = np.repeat(np.arange(len(per_glyph)), per_glyph)
    new = np.ones(len(flags), bool)
    new[1:] = (flags[1:] != flags[:-1]) | (glyph[1:] != glyph[:-1])
    indices = np.flatnonzero(new)
    runs = np.diff(indices, append=len(flags))
    while runs.max() > 256:  # a repeat count is one byte
        indices = np.sort(np.concatenate((indices, indices[runs > 256] + 256)))
        runs = np.diff(indices, append=len(flags))
    value, owner, coded = flags[indices], glyph[indices], np.where(runs > 1, 2, 1).astype(np.int64)
    out = np.zeros(int(coded.sum()), np.uint8)
    offsets = starts_of(coded)
    out[offsets] = np.where(runs > 1, value | REPEAT, value)
    out[offsets[runs > 1] + 1] = runs[runs > 1] - 1
    sizes = np.zeros(len(per_glyph), np.int64)
    np.add.at(sizes, owner, coded)
    return out.tobytes(), sizes
