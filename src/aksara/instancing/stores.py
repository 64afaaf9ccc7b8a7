"""Item variation stores from the new default on."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from aksara.instancing.rebasing import Rebasing, rounded
from aksara.tables.layout.devices import Device, UsedVariations
from aksara.tables.variation.item_variation_store import ItemVariationStore, VariationIndex
from aksara.tables.variation.store_packing import Rows, pack_store


def rebased_store(
    store: ItemVariationStore, rows: Sequence[Rows], rebasing: Rebasing
) -> tuple[ItemVariationStore, list[Rows]]:
    """Rows of the store (values by regions, in several groups) expressed by the new regions of the returned store.

    What they add to the new default is not in them.
    """
    rebased = rebasing.of(store.regions)
    new = [_rounded_rows(row, rebasing, store) for row in rows]
    return ItemVariationStore(rebasing.axis_count, rebased.regions, ()), new


def _rounded_rows(rows: Rows, rebasing: Rebasing, store: ItemVariationStore) -> Rows:
    rebased = rebasing.of(store.regions)
    to_default = rows @ rebased.to_default
    return rounded(rows @ rebased.to_regions, to_default - np.rint(to_default), rebased.overlaps)


class RebasedValues:
    """What becomes of values that vary by a store: `note` sees them all, then `change` gives them again."""

    def __init__(self, store: ItemVariationStore, rebasing: Rebasing) -> None:
        self._old = store
        self._rebasing = rebasing
        self._used = UsedVariations()
        self.note = self._used.note
        #: The new store, once `work_out` was called; None if nothing varies any more.
        self.store: ItemVariationStore | None = None
        self._steps: dict[VariationIndex, int] = {}
        self._places: dict[VariationIndex, VariationIndex | None] = {}

    def work_out(self) -> None:
        """Work out the new numbers of the values that were seen."""
        indices = self._used.indices
        rows = self._old.rows(indices)
        steps = np.rint(rows @ self._rebasing.of(self._old.regions).to_default).astype(np.int64)
        self._steps = dict(zip(indices, steps.tolist(), strict=True))
        if self._rebasing.axis_count:
            store, (new,) = rebased_store(self._old, [rows], self._rebasing)
            self.store, places = pack_store(store.axis_count, store.regions, new)
            self._places = dict(zip(indices, places, strict=True))

    def change(self, value: int, device: Device | None) -> tuple[int, Device | None]:
        """The value at the new default, and its device from there on."""
        if not isinstance(device, VariationIndex):
            return value, device
        return value + self._steps[device], self._places.get(device)
