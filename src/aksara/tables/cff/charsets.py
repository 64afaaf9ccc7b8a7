"""Charsets: what names each glyph of a CFF font (Adobe Technical Note 5176, section 13 and appendices A to C)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby

from aksara.binary import Reader
from aksara.errors import FontError

#: Strings that every reader knows (appendix A); those of the font's own String INDEX are numbered behind them.
STANDARD_STRINGS = range(391)

#: Character code → SID of the standard encoding (appendix B), 0 where there is none.
STANDARD_ENCODING = [0] * 256
for _codes, _first in (
    *(
        (range(32, 127), 1),
        (range(161, 176), 96),
        (range(177, 181), 111),
        (range(182, 190), 115),
        (range(191, 192), 123),
    ),
    *((range(193, 201), 124), (range(202, 204), 132), (range(205, 209), 134), (range(225, 226), 138)),
    *((range(227, 228), 139), (range(232, 236), 140), (range(241, 242), 144), (range(245, 246), 145)),
    (range(248, 252), 146),
):
    for _code in _codes:
        STANDARD_ENCODING[_code] = _first + _code - _codes.start

_ISO_ADOBE = list(range(229))
# Appendix C.
_EXPERT = [
    *(0, 1, *range(229, 239), 13, 14, 15, 99, *range(239, 249), 27, 28, *range(249, 267), 109, 110, *range(267, 319)),
    *(158, 155, 163, *range(319, 327), 150, 164, 169, *range(327, 379)),
]
_EXPERT_SUBSET = [
    *(0, 1, 231, 232, *range(235, 239), 13, 14, 15, 99, *range(239, 249), 27, 28, 249, 250, 251, *range(253, 267)),
    *(109, 110, *range(267, 271), 272, 300, 301, 302, 305, 314, 315, 158, 155, 163, *range(320, 327)),
    *(150, 164, 169, *range(327, 347)),
]
_PREDEFINED = (_ISO_ADOBE, _EXPERT, _EXPERT_SUBSET)


def read_charset(reader: Reader, offset: int, glyphs: int, *, cid_keyed: bool) -> list[int]:
    """The SID or CID of each glyph. `offset` is that of the Top DICT, or the number of a predefined charset."""
    if 0 <= offset < len(_PREDEFINED):
        known = [] if cid_keyed else _PREDEFINED[offset][:glyphs]
        return known + list(range(len(known), glyphs))
    part = reader.at(offset)
    charset_format = part.u8()
    charset = [0]
    if charset_format == 0:
        while len(charset) < glyphs:
            charset.append(part.u16())
    elif charset_format in (1, 2):
        while len(charset) < glyphs:
            first, more = part.u16(), part.u8() if charset_format == 1 else part.u16()
            charset += range(first, first + more + 1)
    else:
        raise FontError(f"a charset of format {charset_format}; only 0 to 2 exist", offset=offset)
    return charset[:glyphs]


def write_charset(charset: Sequence[int], *, cid_keyed: bool) -> bytes | None:
    """The charset in the smallest of its formats; None where the one that readers assume is right."""
    if not cid_keyed and list(charset) == _ISO_ADOBE[: len(charset)]:
        return None
    listed = b"\0" + b"".join(name.to_bytes(2, "big") for name in charset[1:])
    runs = list(_runs(charset[1:]))
    wide = b"\2" + b"".join(first.to_bytes(2, "big") + more.to_bytes(2, "big") for first, more in runs)
    short = [(first + start, min(255, more - start)) for first, more in runs for start in range(0, more + 1, 256)]
    narrow = b"\1" + b"".join(first.to_bytes(2, "big") + bytes((more,)) for first, more in short)
    return min(listed, narrow, wide, key=len)


def _runs(names: Sequence[int]) -> Iterator[tuple[int, int]]:
    """First of each run of consecutive names, and how many follow it."""
    for _, group in groupby(enumerate(names), key=lambda item: item[1] - item[0]):
        run = [name for _, name in group]
        yield run[0], len(run) - 1


def standard_names(codes: tuple[int, int] | None) -> list[int]:
    """The SIDs of characters of the standard encoding."""
    return [STANDARD_ENCODING[code] for code in codes or () if 0 <= code < 256 and STANDARD_ENCODING[code]]
