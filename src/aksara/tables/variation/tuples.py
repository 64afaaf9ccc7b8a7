"""Tuple variation stores: the variations of one glyph's points, or of the control values (OpenType 1.9.1, "Tuple
variation store")."""

from __future__ import annotations

import struct
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct

from aksara.binary import Reader, Writer
from aksara.errors import FontError
from aksara.records import ComparedByField
from aksara.tables.variation.packed import read_deltas, read_points, write_points
from aksara.tables.variation.regions import EVERYWHERE, AxisRegion, Region, around, peak_of
from aksara.truetype.points import Ints

_SHARED_POINTS, _COUNT = 0x8000, 0x0FFF
_EMBEDDED_PEAK, _INTERMEDIATE, _PRIVATE_POINTS, _INDEX = 0x8000, 0x4000, 0x2000, 0x0FFF
#: Peaks that tuples may share, by the bits of the index.
MAX_SHARED_PEAKS = _INDEX + 1

#: Bytes of one tuple variation's data.
_LARGEST = 0xFFFF
#: Bytes of a delta once it is read; stored, 64 of them may take one.
_DELTA = 8

#: The peak of a region: a coordinate for each axis.
Peak = tuple[int, ...]


class TupleVariation(ComparedByField, Struct, frozen=True):
    """How points (or control values) move in a region: `points` are their numbers, rising, or None for all.

    `deltas` (numbers by dimensions: x and y of points, one of control values) are in font units.
    """

    region: Region
    points: Ints | None
    deltas: Ints

    @property
    def peak(self) -> Peak:
        """The peak of the region."""
        return peak_of(self.region)

    def over(self, count: int) -> Ints:
        """The deltas of all `count` points, 0 for those that it does not name."""
        if self.points is None:
            return self.deltas
        full = np.zeros((count, self.deltas.shape[1]), np.int64)
        full[self.points] = self.deltas
        return full


def parse_tuples(
    reader: Reader, start: int, axes: int, count: int, dimensions: int, shared_peaks: Sequence[Peak] = ()
) -> tuple[TupleVariation, ...]:
    """The tuple variations whose header is at the cursor, without those that move nothing; `start` is where their
    offsets count from.

    `count` is how many points there are. Raises `FontError` for data that break the format.
    """
    header, data_offset = reader.u16(), reader.u16()
    data, position = reader.data, start + data_offset
    shared: list[int] | None = None
    if header & _SHARED_POINTS:
        shared, position = read_points(data, position)
    found: list[tuple[Region, list[int] | None, Ints | None, int]] = []
    # The deltas of all tuples, one behind the other: an array for each would take longer than all else.
    deltas: list[int] = []
    whole = memoryview(data)
    for _ in range(header & _COUNT):
        size, index = reader.u16(), reader.u16()
        region = _region(reader, axes, index, shared_peaks)
        end = position + size
        if end > len(data):
            raise FontError("the data of its variations run past its end", offset=position)
        part = whole[:end]
        points, position = read_points(part, position) if index & _PRIVATE_POINTS else (shared, position)
        numbers = _distinct(points, count)
        size = count if points is None else len(points)
        # Runs of zeros take a byte for many of them.
        reader.work.spend_bulk(_DELTA * dimensions * size)
        for _ in range(dimensions):
            position = read_deltas(part, position, size, deltas)
        found.append((region, points, numbers, size))
        position = end
    flat = np.array(deltas, np.int64)
    variations = []
    position = 0
    for region, points, numbers, size in found:
        start, position = position, position + dimensions * size
        if not any(deltas[start:position]):
            continue
        table = flat[start:position].reshape(dimensions, -1).T
        if points is not None and numbers is not None and len(numbers) < len(points):
            table = _summed(points, numbers, table)
        variations.append(TupleVariation(region, numbers, table))
    return tuple(variations)


def _region(reader: Reader, axes: int, index: int, shared_peaks: Sequence[Peak]) -> Region:
    if index & _EMBEDDED_PEAK:
        peak = tuple(reader.i16() for _ in range(axes))
    elif (peak_index := index & _INDEX) < len(shared_peaks):
        peak = shared_peaks[peak_index]
    else:
        raise FontError(
            f"it names shared tuple {peak_index}, but there are {len(shared_peaks)}", offset=reader.position
        )
    if not index & _INTERMEDIATE:
        return around(peak)
    starts = [reader.i16() for _ in range(axes)]
    ends = [reader.i16() for _ in range(axes)]
    # An axis whose peak is the default has no effect, whatever its other values.
    return tuple(AxisRegion(s, p, e) if p else EVERYWHERE for s, p, e in zip(starts, peak, ends, strict=True))


def _distinct(points: list[int] | None, count: int) -> Ints | None:
    if points is None:
        return None
    if points and max(points) >= count:
        raise FontError(f"it moves point {max(points)}, but there are {count}")
    numbers = np.array(points, np.int64)
    return numbers if (numbers[1:] > numbers[:-1]).all() else np.unique(numbers)


def _summed(points: list[int], numbers: Ints, deltas: Ints) -> Ints:
    """The deltas of points, some of which are named more than once: renderers add them up."""
    total = np.zeros((len(numbers), deltas.shape[1]), np.int64)
    np.add.at(total, np.searchsorted(numbers, points), deltas)
    return total


def compile_tuples(
    variations: Sequence[TupleVariation], shared_peaks: Mapping[Peak, int], deltas: Sequence[bytes], start: int = 0
) -> bytes:
    """The tuple variations as `parse_tuples` reads them, `start` bytes after the origin of their offsets.

    `deltas` are the packed deltas of each. Point numbers are shared where that is worth it.
    """
    numbers = [b"\0" if variation.points is None else write_points(variation.points) for variation in variations]
    shared = _worth_sharing(numbers)
    headers, body = bytearray(), bytearray(shared or b"")
    for varied, points, data in zip(variations, numbers, deltas, strict=True):
        own = points if points != shared else b""
        index, peak = _PRIVATE_POINTS if own else 0, varied.peak
        coordinates: list[int] = []
        if peak in shared_peaks:
            index |= shared_peaks[peak]
        else:
            index |= _EMBEDDED_PEAK
            coordinates += peak
        if varied.region != around(peak):
            index |= _INTERMEDIATE
            coordinates += [axis.start for axis in varied.region] + [axis.end for axis in varied.region]
        if len(own) + len(data) > _LARGEST:
            raise OverflowError("the variations of a glyph do not fit 16 bits")
        headers += struct.pack(f">HH{len(coordinates)}h", len(own) + len(data), index, *coordinates)
        body += own + data
    flags = _SHARED_POINTS if shared is not None else 0
    head = Writer().u16(len(variations) | flags, start + 4 + len(headers))
    return bytes(head) + bytes(headers) + bytes(body)


def _worth_sharing(numbers: Sequence[bytes]) -> bytes | None:
    """The point numbers that take the most bytes if each tuple that has them repeats them; None if none repeats."""
    uses: dict[bytes, int] = {}
    for packed in numbers:
        uses[packed] = uses.get(packed, 0) + 1
    best = max(uses, key=lambda points: (uses[points] - 1) * len(points), default=None)
    return best if best is not None and uses[best] > 1 else None
