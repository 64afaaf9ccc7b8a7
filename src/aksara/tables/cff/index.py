"""INDEX data: arrays of byte strings (Adobe Technical Note 5176, section 5)."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np

from aksara.binary import Reader
from aksara.errors import FontError


def read_index(reader: Reader, *, wide_count: bool = False) -> list[bytes]:
    """The strings of the INDEX at the cursor, which moves past it; counts have 32 bits in CFF2."""
    start = reader.position
    count = reader.u32() if wide_count else reader.u16()
    if not count:
        return []
    reader.work.spend_numbers(count)
    size = reader.u8()
    if not 1 <= size <= 4:
        raise FontError(f"an INDEX with offsets of {size} bytes", offset=start)
    stored = np.frombuffer(reader.take(size * (count + 1), "offsets of an INDEX"), np.uint8).reshape(-1, size)
    offsets = stored.astype(np.int64) @ (256 ** np.arange(size - 1, -1, -1))
    base = reader.position - 1
    if offsets[0] != 1 or (np.diff(offsets) < 0).any():
        raise FontError("the offsets of an INDEX run backwards", offset=start)
    bounds = (offsets + base).tolist()
    if bounds[-1] > len(reader.data):
        raise FontError("an INDEX runs past the end of the table", offset=start)
    reader.position = bounds[-1]
    data = reader.data
    return [data[a:b] for a, b in itertools.pairwise(bounds)]


def write_index(strings: Sequence[bytes], *, wide_count: bool = False) -> bytes:
    """The bytes of an INDEX, with offsets as short as possible; counts have 32 bits in CFF2."""
    count = len(strings).to_bytes(4 if wide_count else 2, "big")
    if not strings:
        return count
    offsets = np.cumsum([1, *map(len, strings)])
    size = (int(offsets[-1]).bit_length() + 7) // 8
    stored = offsets.astype(">u4").tobytes()
    columns = np.frombuffer(stored, np.uint8).reshape(-1, 4)[:, 4 - size :]
    return b"".join((count, bytes((size,)), columns.tobytes(), *strings))


def index_overhead(count: int, size: int) -> int:
    """Bytes that an INDEX takes besides its strings, of which there are `count`, of `size` bytes together."""
    return 3 + (count + 1) * ((size + 1).bit_length() + 7) // 8 if count else 2
