"""Delta-set index maps: which row of a store each glyph or palette entry varies by (OpenType 1.9.1, "Associating target
items to variation data", "DeltaSetIndexMap")."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader
from aksara.tables.variation.item_variation_store import VariationIndex

_LONG_COUNT = 1
_INNER_BITS = 0x0F


def parse_index_map(reader: OffsetReader) -> tuple[VariationIndex, ...]:
    """The entries; what lies beyond the last one is the same as it."""
    map_format, entry_format = reader.u8(), reader.u8()
    if map_format > _LONG_COUNT:
        raise FontError(f"an index map of format {map_format}; only 0 and 1 exist", offset=reader.origin)
    count = reader.u32() if map_format == _LONG_COUNT else reader.u16()
    inner_bits = (entry_format & _INNER_BITS) + 1
    size = (entry_format >> 4 & 3) + 1
    reader.work.spend_numbers(count)
    stored = np.frombuffer(reader.take(size * count, "index map entries"), np.uint8).reshape(-1, size)
    entries = stored.astype(np.int64) @ (256 ** np.arange(size - 1, -1, -1))
    inner = entries & (1 << inner_bits) - 1
    return tuple(map(VariationIndex, (entries >> inner_bits).tolist(), inner.tolist()))


def index_map_block(entries: Sequence[VariationIndex]) -> Block:
    """The map in the making, with entries as short as they can be, and none that only repeat the one before."""
    listed = list(entries)
    while len(listed) > 1 and listed[-1] == listed[-2]:
        listed.pop()
    inner = np.array([entry.inner for entry in listed], np.int64)
    outer = np.array([entry.outer for entry in listed], np.int64)
    inner_bits = max(int(inner.max()).bit_length(), 1)
    packed: NDArray[np.int64] = outer << inner_bits | inner
    size = max(-(-int(packed.max()).bit_length() // 8), 1)
    block = Block()
    if len(listed) > 0xFFFF:
        block.u8(1, size - 1 << 4 | inner_bits - 1).u32(len(listed))
    else:
        block.u8(0, size - 1 << 4 | inner_bits - 1).u16(len(listed))
    stored = np.frombuffer(packed.astype(">u4").tobytes(), np.uint8).reshape(-1, 4)[:, 4 - size :]
    return block.append(stored.tobytes())
