"""Device tables: what corrects a value at single sizes, or by the axes of a variable font (OpenType 1.9.1, "Device and
VariationIndex tables")."""

from __future__ import annotations

from dataclasses import dataclass

from aksara.offsets import Block, OffsetReader
from aksara.tables.variation.item_variation_store import VariationIndex

_VARIATION_INDEX = 0x8000


@dataclass(slots=True, frozen=True)
class SizeDevice:
    """Corrections in pixels for each size from the first to the last (in pixels per em), in 2, 4 or 8 bits each.

    `delta_format` is 1, 2 or 3; `words` are the packed corrections, which subsetting does not change.
    """

    first: int
    last: int
    delta_format: int
    words: tuple[int, ...]


#: A device table of either kind: the same field holds both, told apart by their format.
Device = SizeDevice | VariationIndex


def parse_device(reader: OffsetReader | None) -> Device | None:
    """The device table there; None if there is none, or one that renderers do not know."""
    return reader.once(_device) if reader is not None else None


def _device(reader: OffsetReader) -> Device | None:
    first, last, delta_format = reader.u16(), reader.u16(), reader.u16()
    if delta_format == _VARIATION_INDEX:
        return VariationIndex(first, last)
    if delta_format in (1, 2, 3) and first <= last:
        bits = (last - first + 1) << delta_format
        return SizeDevice(first, last, delta_format, reader.u16s((bits + 15) // 16))
    return None


def device_block(device: Device | None) -> Block | None:
    """The device table in the making; None if there is none."""
    if device is None:
        return None
    if isinstance(device, VariationIndex):
        return Block().u16(device.outer, device.inner, _VARIATION_INDEX)
    return Block().u16(device.first, device.last, device.delta_format, *device.words)
