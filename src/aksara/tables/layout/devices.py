"""Device tables: what corrects a value at single sizes, or by the axes of a variable font (OpenType 1.9.1, "Device and
VariationIndex tables")."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec import Struct

from aksara.offsets import Block, OffsetReader
from aksara.tables.variation.item_variation_store import ItemVariationStore, VariationIndex
from aksara.tables.variation.store_packing import pack_store

_VARIATION_INDEX = 0x8000


class SizeDevice(Struct, frozen=True):
    """Corrections in pixels for each size from the first to the last (in pixels per em), in 2, 4 or 8 bits each.

    `delta_format` is 1, 2 or 3; `words` are the packed corrections, which subsetting does not change.
    """

    first: int
    last: int
    delta_format: int
    words: tuple[int, ...]


#: A device table of either kind: the same field holds both; their format says which.
Device = SizeDevice | VariationIndex
#: What becomes of a value (in font units) and its device.
DeviceChange = Callable[[int, Device | None], tuple[int, Device | None]]


def parse_device(reader: OffsetReader | None) -> Device | None:
    """The device table at the reader; None for a null offset or an unknown format."""
    return reader.once(_device) if reader is not None else None


def _device(reader: OffsetReader) -> Device | None:
    first, last, delta_format = reader.u16(), reader.u16(), reader.u16()
    if delta_format == _VARIATION_INDEX:
        return VariationIndex(first, last)
    if delta_format in (1, 2, 3) and first <= last:
        bits = (last - first + 1) << delta_format
        return SizeDevice(first, last, delta_format, reader.u16s((bits + 15) // 16))
    return None


def device_blocks() -> Callable[[Device | None], Block | None]:
    """A function that gives a device's block, the same one each time: subtables repeat few devices many times."""
    known: dict[Device, Block | None] = {}

    def block_of(device: Device | None) -> Block | None:
        if device is None:
            return None
        if device not in known:
            known[device] = device_block(device)
        return known[device]

    return block_of


def device_block(device: Device | None) -> Block | None:
    """The block of the device table; None if there is none."""
    if device is None:
        return None
    if isinstance(device, VariationIndex):
        return Block().u16(device.outer, device.inner, _VARIATION_INDEX)
    return Block().u16(device.first, device.last, device.delta_format, *device.words)


class PackedVariations(Struct, frozen=True):
    """A store in few bytes, and where what was used of the one before is in it."""

    store: ItemVariationStore | None
    places: Mapping[VariationIndex, VariationIndex | None]

    def change(self, value: int, device: Device | None) -> tuple[int, Device | None]:
        """The value as it is, its device under the new index; none for one that changes nothing."""
        return value, self.places[device] if isinstance(device, VariationIndex) else device


class UsedVariations:
    """The rows of a store that values vary by: `note` sees each value, and leaves it as it is."""

    def __init__(self) -> None:
        self._indices: dict[VariationIndex, None] = {}

    def note(self, value: int, device: Device | None) -> tuple[int, Device | None]:
        """Take down which row the value varies by."""
        if isinstance(device, VariationIndex):
            self._indices[device] = None
        return value, device

    @property
    def indices(self) -> list[VariationIndex]:
        """The rows that were noted, each once."""
        return list(self._indices)

    def packed(self, store: ItemVariationStore) -> PackedVariations:
        """The used rows of the store."""
        indices = self.indices
        packed, new_indices = pack_store(store.axis_count, store.regions, store.rows(indices))
        return PackedVariations(packed, dict(zip(indices, new_indices, strict=True)))
