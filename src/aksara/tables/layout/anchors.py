"""Anchors: points by which glyphs attach to one another (OpenType 1.9.1, "GPOS", "Anchor tables")."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from aksara.offsets import Block, OffsetReader
from aksara.tables.layout.devices import Device, DeviceChange, device_block, parse_device


class Anchor(Struct, frozen=True):
    """A point in font units: perhaps also a point of the glyph's outline, or devices."""

    x: int
    y: int
    point: int | None = None
    x_device: Device | None = None
    y_device: Device | None = None

    def changed(self, change: DeviceChange) -> Anchor:
        """The anchor with both its values and their devices changed."""
        if self.x_device is None and self.y_device is None:
            return self
        x, x_device = change(self.x, self.x_device)
        y, y_device = change(self.y, self.y_device)
        return Anchor(x, y, self.point, x_device, y_device)

    def block(self) -> Block:
        """The anchor table, in the smallest format."""
        if self.x_device is not None or self.y_device is not None:
            block = Block().u16(3).i16(self.x, self.y)
            return block.offset16(device_block(self.x_device)).offset16(device_block(self.y_device))
        if self.point is not None:
            return Block().u16(2).i16(self.x, self.y).u16(self.point)
        return Block().u16(1).i16(self.x, self.y)


def parse_anchor(reader: OffsetReader | None) -> Anchor | None:
    """The anchor at the reader; None for a null offset."""
    return reader.once(_anchor) if reader is not None else None


def _anchor(reader: OffsetReader) -> Anchor:
    anchor_format = reader.u16()
    x, y = reader.i16s(2)
    if anchor_format == 2:
        return Anchor(x, y, reader.u16())
    if anchor_format == 3:
        return Anchor(x, y, None, parse_device(reader.offset16()), parse_device(reader.offset16()))
    return Anchor(x, y) if anchor_format == 1 else Anchor(0, 0)


def anchor_blocks() -> Callable[[Anchor | None], Block | None]:
    """A function that gives an anchor's block, the same one each time: subtables repeat few anchors many times."""
    known: dict[Anchor, Block] = {}

    def block_of(anchor: Anchor | None) -> Block | None:
        if anchor is None:
            return None
        if anchor not in known:
            known[anchor] = anchor.block()
        return known[anchor]

    return block_of
