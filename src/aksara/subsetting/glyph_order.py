"""The order of glyphs in a web font.

Nobody sees it, but many tables are written in runs of glyphs that follow one another: 'cmap' of characters that
do, too; class and coverage tables of glyphs that are treated alike. In the order of their characters 'cmap' is
shortest; where kerning and features divide the glyphs in many ways, an order in which those treated alike stand
together saves more than 'cmap' loses. Which of the two it is, is reckoned.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence, Set
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from aksara.tables.layout.glyph_sets import Division

#: Compressed bytes of a run of glyphs in a class or coverage table, and of a run of characters in 'cmap': in 16-bit
#: codes alone, and where codes beyond these need a second subtable.
_DIVIDED, _IN_16_BITS, _IN_BOTH = 0.7, 2.5, 5.7
#: What grouping may save by such reckoning before it is believed.
_LEAST_GAIN = 80.0
#: Comparisons of glyphs that finding the best order may take; a twentieth of a second.
_MOST_COMPARISONS = 40_000_000

#: Parts that are looked at: divisions by glyphs. Each takes two bytes, several times over.
_MOST_PARTS = 15_000_000

_Numbers = NDArray[np.int64]
_Values = NDArray[np.uint16]


#: 'characters': in the order of their characters; 'groups': those treated alike together; 'reckoned': as seems smaller.
GlyphOrder = Literal["reckoned", "characters", "groups"]


def ordered_glyphs(
    glyphs: Set[int],
    characters: Mapping[int, int],
    divisions: Iterable[Division],
    order: GlyphOrder = "reckoned",
) -> list[int]:
    """The glyphs by new ID, .notdef first.

    `characters` is code point → glyph ID; `divisions` are how tables divide glyphs.
    """
    encoded = dict.fromkeys(glyph for _, glyph in sorted(characters.items()) if glyph in glyphs)
    plain = np.array(list(dict.fromkeys([0, *encoded, *sorted(glyphs)])), np.int64)
    parts = _parts(plain, divisions if order != "characters" else ())
    grouped = _grouped(plain, parts, _codes(plain, characters))
    if grouped is None:
        return list(map(int, plain))
    if order == "groups":
        return list(map(int, plain[grouped]))
    weight = _weight(characters)

    def cost(order: _Numbers) -> float:
        divided = parts[:, order]
        return _DIVIDED * int((divided[:, 1:] != divided[:, :-1]).sum()) + weight * _character_runs(
            plain[order], characters
        )

    as_they_are = np.arange(len(plain))
    best = grouped if cost(as_they_are) - cost(grouped) > _LEAST_GAIN else as_they_are
    return list(map(int, plain[best]))


def _weight(characters: Mapping[int, int]) -> float:
    return _IN_BOTH if max(characters, default=0) > 0xFFFF else _IN_16_BITS


def _parts(glyphs: _Numbers, divisions: Iterable[Division]) -> _Values:
    """For each division that differs from the others the part of each glyph; 0 for those that it does not name."""
    index = {glyph: position for position, glyph in enumerate(glyphs.tolist())}
    # As a set: of this and another the smaller one is gone through.
    kept = set(index)
    rows: dict[bytes, _Values] = {}
    for division in divisions:
        # Of a large font most glyphs are gone.
        named = kept & (division.keys() if isinstance(division, Mapping) else division)
        if named:
            row = np.zeros(len(glyphs), np.uint16)
            row[[index[glyph] for glyph in named]] = (
                [division[glyph] for glyph in named] if isinstance(division, Mapping) else 1
            )
            # Most are repeated.
            rows.setdefault(row.tobytes(), row)
            if len(rows) * len(glyphs) > _MOST_PARTS:
                # No real font divides its glyphs so often; what would group them takes too much.
                return np.zeros((0, len(glyphs)), np.uint16)
    return np.array(list(rows.values()), np.uint16).reshape(len(rows), len(glyphs))


def _codes(glyphs: _Numbers, characters: Mapping[int, int]) -> _Numbers:
    """The first character of each glyph; -1 if it has none."""
    first = {glyph: code for code, glyph in sorted(characters.items(), reverse=True)}
    return np.array([first.get(glyph, -1) for glyph in glyphs.tolist()], np.int64)


def _character_runs(glyphs: _Numbers, characters: Mapping[int, int]) -> int:
    """How often characters that follow one another have glyphs that do not."""
    index = {glyph: position for position, glyph in enumerate(glyphs.tolist())}
    distance = [code - index[glyph] for code, glyph in sorted(characters.items()) if glyph in index]
    return int(np.count_nonzero(np.diff(distance)))


def _grouped(glyphs: _Numbers, parts: _Values, codes: _Numbers) -> _Numbers | None:
    """The places of the glyphs so that those of the same parts stand together, and groups beside the most similar ones;
    None where there is nothing to gain, or too much to compare."""
    groups: dict[bytes, list[int]] = {}
    columns = np.ascontiguousarray(parts.T)
    if columns.size and columns.max() < 0x100:
        columns = columns.astype(np.uint8)
    for position in range(1, len(glyphs)):
        groups.setdefault(columns[position].tobytes(), []).append(position)
    count = len(groups)
    if len(parts) < 1 or count < 2 or count * count * len(parts) > _MOST_COMPARISONS:
        return None
    members: Sequence[list[int]] = list(groups.values())
    distances = _distances(columns[[group[0] for group in members]])
    first, last = (codes[[group[index] for group in members]].tolist() for index in (0, -1))
    group_at = {code: number for number, code in enumerate(first) if code >= 0}
    # A group whose first character does not follow the last one costs a run in 'cmap'; one that is placed is out.
    more = np.array([_IN_16_BITS / _DIVIDED if code >= 0 else 0.0 for code in first])
    order, current = [0], 0
    more[0] = np.inf
    for _ in range(count - 1):
        distance = distances[current] + more
        following = group_at.get(last[current] + 1) if last[current] >= 0 else None
        if following is not None and more[following] < np.inf:
            distance[following] = distances[current, following]
        current = int(np.argmin(distance))
        more[current] = np.inf
        order.append(current)
    return np.array([0, *(position for group in order for position in members[group])], np.int64)


def _distances(kinds: NDArray[np.unsignedinteger]) -> NDArray[np.uint32]:
    """In how many parts (columns) each two groups (rows) differ."""
    count, parts = kinds.shape
    distances = np.zeros((count, count), np.uint32)
    for start in range(0, parts, 0xFF):
        # Counted in bytes, which is several times as fast.
        some = np.zeros((count, count), np.uint8)
        for part in np.ascontiguousarray(kinds[:, start : start + 0xFF].T):
            some += (part[:, None] != part).view(np.uint8)
        distances += some
    return distances
