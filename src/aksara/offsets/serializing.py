"""Laying blocks out one behind the other, so that every offset reaches, and filling the offsets in."""

from __future__ import annotations

import heapq
from collections.abc import Callable, Hashable, Sequence

from aksara.offsets.blocks import Block, Link

#: The farthest that an Offset16 reaches.
REACH = 0xFFFF
#: Offset16s must find their targets near; those of 24 and 32 bits reach across the whole table.
_NEAR = (2,)
_ALL = (2, 3, 4)


class OffsetOverflow(Exception):
    """An offset does not reach with its bits, in whatever order the blocks stand."""


def serialize(root: Block) -> bytes:
    """The bytes of all blocks that the root leads to, the root first; equal ones are written once.

    Raises `OffsetOverflow` where an offset cannot reach.
    """
    root = _shared(root)
    blocks = _reachable([root])
    if sum(len(block) for block in blocks) <= REACH:
        return _laid_out([_ordered(blocks)])
    # Behind an offset of more than 16 bits starts a space of its own: what it holds need not be near anything else.
    spaces = [_reachable([root], sizes=_NEAR)]
    far = {id(link.target) for block in blocks for link in block.links if link.size not in _NEAR}
    # In this order no long offset has to lead backwards either.
    for group in _grouped([block for block in _ordered(blocks) if id(block) in far]):
        spaces.append(_reachable(group, sizes=_NEAR))
    return _laid_out([_fitted(space) for space in spaces])


def total_size(block: Block) -> int:
    """Bytes of the block and of all that it leads to; at most, since equal blocks will be shared."""
    return sum(len(part) for part in _reachable([block]))


def _shared(root: Block) -> Block:
    """The same graph with one block for all that are equal, bytes and targets."""
    known: dict[Hashable, Block] = {}
    done: dict[int, Block] = {}

    def shared(block: Block) -> Block:
        if id(block) in done:
            return done[id(block)]
        links = [Link(position, size, shared(target)) for position, size, target in block.links]
        key = (bytes(block), tuple((position, size, id(target)) for position, size, target in links))
        found = known.get(key)
        if found is None:
            found = known[key] = Block(block.data)
            found.links = links
        done[id(block)] = found
        return found

    return shared(root)


def _reachable(roots: Sequence[Block], sizes: tuple[int, ...] = _ALL) -> list[Block]:
    """The blocks that offsets of these sizes lead to, the roots first, in order of discovery (breadth first)."""
    found = list(roots)
    seen = {id(block) for block in roots}
    for block in found:
        for link in block.links:
            if link.size in sizes and id(link.target) not in seen:
                seen.add(id(link.target))
                found.append(link.target)
    return found


def _grouped(roots: Sequence[Block]) -> list[list[Block]]:
    """Roots that follow one another and together fit into the reach of an offset share a space, and blocks in it."""
    groups: list[list[Block]] = []
    held: dict[int, int] = {}
    for root in roots:
        own = {id(block): len(block) for block in _reachable([root], sizes=_NEAR)}
        union = held | own
        if groups and sum(union.values()) <= REACH:
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
        for link in block.links:
            if id(link.target) in inside:
                pointing[id(link.target)] += 1
    ready = [(0, number) for number, block in enumerate(blocks) if not pointing[id(block)]]
    heapq.heapify(ready)
    order: list[Block] = []
    while ready:
        _, number = heapq.heappop(ready)
        block = blocks[number]
        order.append(block)
        for _, _, target in block.links:
            if id(target) in inside:
                pointing[id(target)] -= 1
                if not pointing[id(target)]:
                    heapq.heappush(ready, (weight(target) if weight else 0, inside[id(target)]))
    return order


def _fitted(space: Sequence[Block]) -> list[Block]:
    """An order of the blocks in which all 16-bit offsets reach."""
    orders: tuple[Callable[[Block], int] | None, ...] = (None, len, lambda block: -len(block.links))
    for weight in orders:
        order = _ordered(space, weight)
        starts, end = _starts(order, 0)
        if end <= REACH or all(
            starts[id(target)] - starts[id(block)] <= REACH
            for block in order
            for _, size, target in block.links
            if size in _NEAR
        ):
            return order
    raise OffsetOverflow


def _starts(blocks: Sequence[Block], at: int) -> tuple[dict[int, int], int]:
    """Where each block starts, by its identity, the first at `at`; and where the last ends."""
    starts = {}
    for block in blocks:
        starts[id(block)] = at
        at += len(block)
    return starts, at


def _laid_out(spaces: Sequence[Sequence[Block]]) -> bytes:
    """The spaces one after the other, their offsets filled in."""
    # A block may stand in several spaces; 16-bit offsets find it in their own, long ones in the last (its root's).
    inside: list[dict[int, int]] = []
    end = 0
    for space in spaces:
        starts, end = _starts(space, end)
        inside.append(starts)
    anywhere = {block: start for starts in inside for block, start in starts.items()}
    out = bytearray(end)
    for space, starts in zip(spaces, inside, strict=True):
        for block in space:
            start = starts[id(block)]
            out[start : start + len(block)] = block.data
            for position, size, target in block.links:
                offset = (starts[id(target)] if size in _NEAR else anywhere[id(target)]) - start
                if not 0 <= offset < 1 << 8 * size:
                    raise OffsetOverflow
                out[start + position : start + position + size] = offset.to_bytes(size, "big")
    return bytes(out)
