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
    """An offset is too large for its field, in any order of the blocks."""


class Sharing:
    """Replaces blocks with equal bytes and targets by one; results are cached."""

    def __init__(self) -> None:
        self._known: dict[Hashable, Block] = {}
        # By the identity of blocks, which are kept so that no other takes it.
        self._done: dict[int, tuple[Block, Block]] = {}

    def shared(self, block: Block) -> Block:
        """The one for this block, which stays as it is."""
        done = self._done.get(id(block))
        if done is not None:
            return done[1]
        if block.links:
            known = self._shared_with_targets(block)
        else:  # as most
            known = self._known.setdefault(bytes(block.data), block)
        self._done[id(block)] = block, known
        return known

    def _shared_with_targets(self, block: Block) -> Block:
        links = [Link(position, size, self.shared(target)) for position, size, target in block.links]
        places = [part for position, size, target in links for part in (position, size, id(target))]
        key = (bytes(block.data), *places)
        known = self._known.get(key)
        if known is None:
            known = block
            if any(old is not new for (_, _, old), (_, _, new) in zip(block.links, links, strict=True)):
                known = Block(block.data)
                known.links = links
            self._known[key] = known
        return known


def serialize(root: Block, sharing: Sharing | None = None) -> bytes:
    """The bytes of all blocks that the root leads to, the root first; equal ones are written once.

    `sharing` is worth giving where much of a graph was serialized before. Raises `OffsetOverflow` where an offset
    cannot reach.
    """
    root = (sharing or Sharing()).shared(root)
    blocks = _reachable([root])
    is_near = any(link.size in _NEAR for block in blocks for link in block.links)
    if not is_near or sum(len(block.data) for block in blocks) <= REACH:
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
    return sum(len(part.data) for part in _reachable([block])) if block.links else len(block.data)


def _reachable(roots: Sequence[Block], sizes: tuple[int, ...] = _ALL) -> list[Block]:
    """The blocks that offsets of these sizes lead to, the roots first, in order of discovery (breadth first)."""
    reachable = {id(root): root for root in roots}
    pending = list(roots)
    for block in pending:
        for _, size, target in block.links:
            if id(target) not in reachable and size in sizes:
                reachable[id(target)] = target
                if target.links:
                    pending.append(target)
    return list(reachable.values())


def _grouped(roots: Sequence[Block]) -> list[list[Block]]:
    """Roots that follow one another and together fit into the reach of an offset share a space, and blocks in it."""
    groups: list[list[Block]] = []
    held: set[int] = set()
    size = 0
    for root in roots:
        own = {id(block): len(block) for block in _reachable([root], sizes=_NEAR)}
        more = sum(length for block, length in own.items() if block not in held)
        if groups and size + more <= REACH:
            groups[-1].append(root)
            held |= own.keys()
            size += more
        else:
            groups.append([root])
            held, size = set(own), sum(own.values())
    return groups


def _ordered(
    blocks: Sequence[Block], weight: Callable[[Block], int] | None = None, targets: _Targets | None = None
) -> list[Block]:
    """Each block behind all that point at it; among those that may come next, as found, or lightest first."""
    targets = targets or _targets(blocks)
    pointing = [0] * len(blocks)
    for links in targets:
        for target in links:
            pointing[target] += 1
    count = len(blocks)
    # A weight and a number as one number; blocks without a weight are as heavy as the roots.
    ranks = [weight(block) * count + index for index, block in enumerate(blocks)] if weight else range(count)
    ready = [index for index, pointers in enumerate(pointing) if not pointers]
    heapq.heapify(ready)
    order: list[Block] = []
    while ready:
        index = heapq.heappop(ready) % count
        order.append(blocks[index])
        for target in targets[index]:
            pointing[target] -= 1
            if not pointing[target]:
                heapq.heappush(ready, ranks[target])
    return order


#: For each of some blocks which of them its offsets lead to.
_Targets = Sequence[Sequence[int]]


def _targets(blocks: Sequence[Block]) -> _Targets:
    inside = {id(block): index for index, block in enumerate(blocks)}
    return [
        [inside[id(target)] for _, _, target in block.links if id(target) in inside] if block.links else ()
        for block in blocks
    ]


def _fitted(space: Sequence[Block]) -> list[Block]:
    """An order of the blocks in which all 16-bit offsets reach."""
    orders: tuple[Callable[[Block], int] | None, ...] = (None, len, lambda block: -len(block.links))
    targets = _targets(space)
    for weight in orders:
        order = _ordered(space, weight, targets)
        starts, end = _starts(order, 0)
        if end <= REACH or all(
            starts[id(target)] - starts[id(block)] <= REACH
            for block in order
            for _, size, target in block.links
            if size in _NEAR
        ):
            return order
    raise OffsetOverflow


def _starts(blocks: Sequence[Block], offset: int) -> tuple[dict[int, int], int]:
    """Where each block starts, by its identity, the first at `offset`; and where the last ends."""
    starts = {}
    for block in blocks:
        starts[id(block)] = offset
        offset += len(block.data)
    return starts, offset


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
            out[start : start + len(block.data)] = block.data
            for position, size, target in block.links:
                offset = (starts[id(target)] if size in _NEAR else anywhere[id(target)]) - start
                if not 0 <= offset < 1 << 8 * size:
                    raise OffsetOverflow
                out[start + position : start + position + size] = offset.to_bytes(size, "big")
    return bytes(out)
