"""Writing 'cmap' format 4: 16-bit codes in segments (OpenType, "Segment mapping to delta values").

A segment costs 8 bytes. Its glyphs either follow the codes at a fixed
distance (a delta), or are listed, 2 bytes each. The cheapest division into
segments is found by dynamic programming over the runs of constant distance.
"""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise

import numpy as np
from msgspec import Struct

_SEGMENT, _LISTED = 8, 2
_MAX_LENGTH = 0xFFFF
#: The last segment must be this code alone.
_END_MARK = 0xFFFF


class _Run(Struct):
    """Codes first..last whose glyphs all lie `delta` away."""

    first: int
    last: int
    delta: int


def compile(mapping: Mapping[int, int], language: int = 0) -> bytes | None:
    """The subtable, or None where it would not fit its own 16-bit length."""
    segments = [segment for chain in _chains(_runs(mapping)) for segment in _cheapest(chain)]
    # A font without a glyph for it maps it to glyph 0, with delta 1.
    if not segments or segments[-1][-1].last != _END_MARK:
        segments.append([_Run(_END_MARK, _END_MARK, 1)])
    count = len(segments)
    deltas: list[int] = []
    ranges: list[int] = []
    listed: list[int] = []
    for index, runs in enumerate(segments):
        if len(runs) == 1:
            deltas.append(runs[0].delta & 0xFFFF)
            ranges.append(0)
            continue
        deltas.append(0)
        # Counted in bytes from where this range offset stands to the first glyph listed.
        ranges.append(2 * (count - index + len(listed)))
        listed += [code + run.delta for run in runs for code in range(run.first, run.last + 1)]
    power = count.bit_length() - 1
    search = 2 << power
    length = 16 + _SEGMENT * count + 2 * len(listed)
    if length > _MAX_LENGTH:
        return None
    numbers = [4, length, language, 2 * count, search, power, 2 * count - search]
    numbers += [runs[-1].last for runs in segments]
    numbers += [0, *(runs[0].first for runs in segments), *deltas, *ranges, *listed]
    return np.array(numbers, np.int64).astype(">u2").tobytes()


def _runs(mapping: Mapping[int, int]) -> list[_Run]:
    runs: list[_Run] = []
    for code in sorted(mapping):
        delta = mapping[code] - code
        if runs and runs[-1].last == code - 1 and runs[-1].delta == delta and code != _END_MARK:
            runs[-1].last = code
        else:
            runs.append(_Run(code, code, delta))
    return runs


def _chains(runs: list[_Run]) -> list[list[_Run]]:
    """Runs that touch, so that they may share a segment. The end mark stays alone."""
    chains: list[list[_Run]] = [runs[:1]] if runs else []
    for before, run in pairwise(runs):
        if run.first == before.last + 1 and run.first != _END_MARK:
            chains[-1].append(run)
        else:
            chains.append([run])
    return chains


def _cheapest(chain: list[_Run]) -> list[list[_Run]]:
    """The chain cut into segments: of one run (by delta), or of several (listed)."""
    # Costs of the best division of the runs so far: `closed` with all segments ended,
    # `open_` with a listed segment that may go on. `cut_*` tell where the last segment starts.
    closed, cuts = [0], [0]
    open_cost, open_start = float("inf"), 0
    for index, run in enumerate(chain):
        listed = _LISTED * (run.last - run.first + 1)
        begin = closed[index] + _SEGMENT
        if begin < open_cost:
            open_cost, open_start = begin, index
        open_cost += listed
        alone = closed[index] + _SEGMENT
        if alone <= open_cost:
            closed.append(alone)
            cuts.append(index)
        else:
            closed.append(int(open_cost))
            cuts.append(open_start)
    segments: list[list[_Run]] = []
    end = len(chain)
    while end:
        segments.append(chain[cuts[end] : end])
        end = cuts[end]
    return segments[::-1]
