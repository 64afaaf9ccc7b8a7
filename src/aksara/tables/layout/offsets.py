"""Offsets: reading tables that point at tables, and packing them again (OpenType 1.9.1, "Offsets").

All tables of OpenType Layout, and 'MATH', are graphs: a table holds offsets,
counted from its own start, to others. `Place` follows them when reading.
When writing, each table becomes a `Block`, which names the blocks it points
at; `pack` then shares the equal ones, orders them so that every offset
reaches, and fills the offsets in.
"""

from __future__ import annotations

import heapq
import struct
from collections.abc import Callable, Hashable, Iterable, Sequence
from typing import Any, Self, TypeVar

from aksara.binary import Reader
from aksara.errors import FontError

T = TypeVar("T")

#: Records of one table; the largest real ones have about 400,000. Offsets may lead to one place a thousand times, so
#: that a small file can claim far more than it holds.
_MAX_RECORDS = 4_000_000
_REACH = 0xFFFF


class _Budget:
    __slots__ = ("left",)

    def __init__(self) -> None:
        self.left = _MAX_RECORDS


class Place(Reader):
    """A reader at the start of a table (`origin`), from which the table's offsets count.

    What it leads to shares a budget of records, and a memory of what was read already.
    """

    __slots__ = ("_budget", "_memory", "origin")

    def __init__(self, data: bytes, position: int = 0, parent: Place | None = None) -> None:
        super().__init__(data, position)
        self.origin = position
        self._budget: _Budget = parent._budget if parent else _Budget()
        self._memory: dict[Hashable, Any] = parent._memory if parent else {}

    def there(self, offset: int) -> Place:
        """The table at that offset from this one's start."""
        return Place(self.data, self.origin + offset, self)

    def version(self) -> int:
        """The version at the cursor, as 16.16; of all these tables there is only 1 and what has been added to it."""
        version = self.u32()
        if version >> 16 != 1:
            raise FontError(f"its version is {version >> 16}, but only 1 exists", offset=self.origin)
        return version

    def u16s(self, count: int) -> tuple[int, ...]:
        """The next numbers."""
        self.spend(count)
        return struct.unpack_from(f">{count}H", self.data, self._advance(2 * count, f"{count} numbers"))

    def i16s(self, count: int) -> tuple[int, ...]:
        """The next signed numbers."""
        self.spend(count)
        return struct.unpack_from(f">{count}h", self.data, self._advance(2 * count, f"{count} numbers"))

    def link(self) -> Place | None:
        """Where the next Offset16 leads; None for a null offset."""
        offset = self.u16()
        return self.there(offset) if offset else None

    def link32(self) -> Place | None:
        offset = self.u32()
        return self.there(offset) if offset else None

    def links(self, count: int) -> list[Place | None]:
        """Where the next Offset16s lead."""
        return [self.there(offset) if offset else None for offset in self.u16s(count)]

    def required(self) -> Place:
        """Where the next Offset16 leads; a null offset is an error."""
        start = self.position
        place = self.link()
        if place is None:
            raise FontError("an offset that must lead somewhere is null", offset=start)
        return place

    def once(self, read: Callable[[Place], T]) -> T:
        """What `read` makes of this place; it is read once, however many offsets lead here."""
        key = (read, self.origin)
        if key not in self._memory:
            self._memory[key] = read(self)
        found: T = self._memory[key]
        return found

    def spend(self, records: int) -> None:
        """Count records against the budget, before they are read."""
        self._budget.left -= records
        if self._budget.left < 0:
            raise FontError("it holds more records than any real font", offset=self.origin)


class OffsetOverflow(Exception):
    """An offset does not reach with its 16 bits, in whatever order the blocks stand."""


class Block:
    """The bytes of one table, and the blocks that its offsets lead to."""

    __slots__ = ("data", "links")

    def __init__(self, data: bytes | bytearray = b"") -> None:
        self.data = bytearray(data)
        self.links: list[tuple[int, int, Block]] = []  # place of the offset, its size in bytes, its target

    def u16(self, *values: int) -> Self:
        self.data += struct.pack(f">{len(values)}H", *values)
        return self

    def i16(self, *values: int) -> Self:
        self.data += struct.pack(f">{len(values)}h", *values)
        return self

    def u32(self, value: int) -> Self:
        self.data += struct.pack(">I", value)
        return self

    def tag(self, tag: str) -> Self:
        self.data += tag.encode("latin-1")
        return self

    def bytes(self, data: bytes) -> Self:
        self.data += data
        return self

    def link(self, target: Block | None) -> Self:
        """An Offset16; null if there is no target."""
        return self._link(target, 2)

    def link32(self, target: Block | None) -> Self:
        return self._link(target, 4)

    def _link(self, target: Block | None, size: int) -> Self:
        if target is not None:
            self.links.append((len(self.data), size, target))
        self.data += bytes(size)
        return self

    def array(self, targets: Iterable[Block | None]) -> Self:
        """A count and as many Offset16s."""
        listed = list(targets)
        self.u16(len(listed))
        for target in listed:
            self.link(target)
        return self


def pack(root: Block) -> bytes:
    """The bytes of all blocks that the root leads to, the root first.

    Raises `OffsetOverflow` where a 16-bit offset cannot reach.
    """
    root = _share(root)
    blocks = _reachable([root])
    if sum(len(block.data) for block in blocks) <= _REACH:
        return _fill([_ordered(blocks)])
    # Behind a 32-bit offset stands a space of its own: what it holds need not be near anything else.
    near = _reachable([root], sizes=(2,))
    spaces = [near]
    far = {id(target) for block in blocks for _, size, target in block.links if size == 4}
    # In this order no 32-bit offset has to lead backwards either.
    for group in _grouped([block for block in _ordered(blocks) if id(block) in far]):
        spaces.append(_reachable(group, sizes=(2,)))
    return _fill([_fitted(space) for space in spaces])


def size_of(block: Block) -> int:
    """Bytes of the block and of all that it leads to; at most, since equal blocks will be shared."""
    return sum(len(part.data) for part in _reachable([block]))


def _share(root: Block) -> Block:
    """The same graph with one block for all that are equal, bytes and targets."""
    known: dict[Hashable, Block] = {}
    done: dict[int, Block] = {}

    def shared(block: Block) -> Block:
        if id(block) in done:
            return done[id(block)]
        links = [(place, size, shared(target)) for place, size, target in block.links]
        key = (bytes(block.data), tuple((place, size, id(target)) for place, size, target in links))
        found = known.get(key)
        if found is None:
            found = known[key] = Block(block.data)
            found.links = links
        done[id(block)] = found
        return found

    return shared(root)


def _reachable(roots: Sequence[Block], sizes: tuple[int, ...] = (2, 4)) -> list[Block]:
    """The blocks that links of these sizes lead to, the roots first, in order of discovery (breadth first)."""
    found = list(roots)
    seen = {id(block) for block in roots}
    for block in found:
        for _, size, target in block.links:
            if size in sizes and id(target) not in seen:
                seen.add(id(target))
                found.append(target)
    return found


def _grouped(roots: Sequence[Block]) -> list[list[Block]]:
    """Roots that follow one another and together fit into the reach of an offset share a space, and blocks in it."""
    groups: list[list[Block]] = []
    held: dict[int, int] = {}
    for root in roots:
        own = {id(block): len(block.data) for block in _reachable([root], sizes=(2,))}
        union = held | own
        if groups and sum(union.values()) <= _REACH:
            groups[-1].append(root)
            held = union
        else:
            groups.append([root])
            held = own
    return groups


def _ordered(blocks: Sequence[Block], weight: Callable[[Block], int] | None = None) -> list[Block]:
    """Each block behind all that point at it; among those that may come next, as found, or lightest first."""
    inside = {id(block): number for number, block in enumerate(blocks)}
    pointing = dict.fromkeys(inside, 0)
    for block in blocks:
        for _, _, target in block.links:
            if id(target) in inside:
                pointing[id(target)] += 1
    by_number = list(blocks)
    ready = [(0, number) for number, block in enumerate(blocks) if not pointing[id(block)]]
    heapq.heapify(ready)
    order: list[Block] = []
    while ready:
        _, number = heapq.heappop(ready)
        block = by_number[number]
        order.append(block)
        for _, _, target in block.links:
            if id(target) in inside:
                pointing[id(target)] -= 1
                if not pointing[id(target)]:
                    heapq.heappush(ready, (weight(target) if weight else 0, inside[id(target)]))
    return order


def _fitted(space: Sequence[Block]) -> list[Block]:
    """An order of the blocks in which all 16-bit offsets reach."""
    orders: tuple[Callable[[Block], int] | None, ...] = (None, lambda b: len(b.data), lambda b: -len(b.links))
    for weight in orders:
        order = _ordered(space, weight)
        places, at = {}, 0
        for block in order:
            places[id(block)] = at
            at += len(block.data)
        if at <= _REACH or all(
            places[id(target)] - places[id(block)] <= _REACH
            for block in order
            for _, size, target in block.links
            if size == 2
        ):
            return order
    raise OffsetOverflow


def _fill(spaces: Sequence[Sequence[Block]]) -> bytes:
    """The spaces one after the other, their offsets filled in."""
    # A block may stand in several spaces; 16-bit offsets find it in their own, 32-bit ones in the last (its root's).
    starts: list[dict[int, int]] = []
    at = 0
    for space in spaces:
        places = {}
        for block in space:
            places[id(block)] = at
            at += len(block.data)
        starts.append(places)
    anywhere: dict[int, int] = {}
    for places in starts:
        anywhere.update(places)
    out = bytearray(at)
    for space, places in zip(spaces, starts, strict=True):
        for block in space:
            start = places[id(block)]
            out[start : start + len(block.data)] = block.data
            for place, size, target in block.links:
                goal = places[id(target)] if size == 2 else anywhere[id(target)]
                out[start + place : start + place + size] = (goal - start).to_bytes(size, "big")
    return bytes(out)
