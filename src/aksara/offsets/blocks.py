"""`Block`: one table or subtable in the making, and the blocks that its offsets lead to."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple, Self

from aksara.binary import Writer


class Link(NamedTuple):
    """An offset in a block: its position, its size in bytes (2, 3 or 4), and the block it points to."""

    position: int
    size: int
    target: Block


class Block(Writer):
    """The bytes of one table, with zeros in place of its offsets."""

    __slots__ = ("links",)

    def __init__(self, data: bytes | bytearray = b"") -> None:
        self.data = bytearray(data)  # as `Writer`, without the call: there are tens of thousands
        self.links: list[Link] = []

    def offset16(self, target: Block | None) -> Self:
        """An Offset16; null if there is no target."""
        return self._offset(target, 2)

    def offset24(self, target: Block | None) -> Self:
        """An Offset24; null if there is no target."""
        return self._offset(target, 3)

    def offset32(self, target: Block | None) -> Self:
        """An Offset32; null if there is no target."""
        return self._offset(target, 4)

    def offsets16(self, targets: Iterable[Block | None]) -> Self:
        """A count, followed by that many Offset16s."""
        listed = list(targets)
        return self.u16(len(listed)).all16(listed)

    def all16(self, targets: Sequence[Block | None]) -> Self:
        """Offset16s without a count before them."""
        offset = self.reserve(2 * len(targets))
        positions = range(offset, offset + 2 * len(targets), 2)
        self.links += [Link(offset, 2, to) for offset, to in zip(positions, targets, strict=True) if to is not None]
        return self

    def link16(self, position: int, target: Block | None) -> None:
        """Make the two zeros at a position an Offset16."""
        if target is not None:
            self.links.append(Link(position, 2, target))

    def _offset(self, target: Block | None, size: int) -> Self:
        position = self.reserve(size)
        if target is not None:
            self.links.append(Link(position, size, target))
        return self
