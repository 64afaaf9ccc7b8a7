"""How often Chinese, Japanese and Korean use each of their thousands of characters."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from itertools import pairwise

_PARTS = 10_000_000
#: What the rarest characters of the counted texts are written, those have that no text had: of the standard's common
#: characters, and of its others.
_COMMON, _OTHER = 1 / 2, 1 / 10
# The national standards, and where the lead bytes of their common characters end. In that of Korea all are common.
_STANDARDS = {"zh": ("gb2312", 0xD8), "zh-Hant": ("big5", 0xC9), "ja": ("euc_jp", 0xD0), "ko": ("euc_kr", 0xCA)}
_FIRST = 0x3000


@cache
def ideograph_shares(tag: str) -> Mapping[int, float]:
    """Code point → its share of a text in the language, of those that only East Asian languages use; {} for others."""
    if tag not in _data():
        return {}
    characters, parts = _data()[tag]
    ranks = _ranks(len(characters))
    shares: dict[int, float] = {}
    for (low, high), (first, last) in zip(_pairs(ranks), _pairs(parts), strict=True):
        for rank in range(low, high + 1):
            # Between two ranks that are known shares fall as in Zipf's law.
            way = math.log((rank + 1) / (low + 1)) / math.log((high + 1) / (low + 1))
            shares[ord(characters[rank])] = first * (last / first) ** way / _PARTS
    least = parts[-1] / _PARTS
    encoding, end = _STANDARDS[tag]
    for code in range(_FIRST, 0x10000):
        if code not in shares and (lead := _lead_byte(chr(code), encoding)):
            shares[code] = least * (_COMMON if lead < end else _OTHER)
    return shares


def _lead_byte(character: str, encoding: str) -> int:
    """The first byte of a character in a standard's encoding; 0 where it has none."""
    try:
        encoded = character.encode(encoding)
    except UnicodeEncodeError:
        return 0
    return encoded[0] if len(encoded) == 2 else 0


def _ranks(count: int) -> list[int]:
    """The ranks whose shares are listed: as in tools/make_ideographs.py."""
    found, rank = [], 0
    while rank < count - 1:
        found.append(rank)
        rank = max(rank + 1, rank * 6 // 5)
    return [*found, count - 1]


def _pairs(values: list[int]) -> list[tuple[int, int]]:
    return list(pairwise(values))


@cache
def _data() -> dict[str, tuple[str, list[int]]]:
    loaded: dict[str, tuple[str, list[int]]] = json.loads(
        files("aksara.data").joinpath("ideographs.json").read_text(encoding="utf-8")
    )
    return loaded
