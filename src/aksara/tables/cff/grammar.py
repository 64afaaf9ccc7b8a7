"""Whether charstrings are as they must be (Adobe Technical Note 5177, "Charstring operators", "Charstring encoding").

Renderers make something of most charstrings; browsers refuse the whole font for one whose operators have numbers that
they cannot take. What is checked are charstrings without calls, as `Runner` writes them.
"""

from __future__ import annotations

import re
from collections.abc import Iterable

from aksara.errors import FontError

#: Stems of one glyph (Appendix B).
MAX_STEMS = 96

#: The bytes of a number.
NUMBER = rb"(?:[\x20-\xf6]|[\xf7-\xfe].|\x1c..|\xff....)"
NUMBERS = re.compile(NUMBER, re.DOTALL)
# What is read as one: operators of one or two bytes, and numbers, which are written as n.
_TOKEN = re.compile(rb"\x0c.|" + NUMBER + rb"|[\x00-\x1b\x1d-\x1f]", re.DOTALL)
_SHORT_INTEGER, _LEAST_NUMBER = 0x1C, 0x20
# Where no number ends in the byte that operators of two bytes start with, it takes half the time.
_DOUBTFUL = re.compile(rb"(?:[\xf7-\xfe]|\x1c.|\xff...)\x0c", re.DOTALL)
_NUMBER = re.compile(rb"(?<!\x0c)" + NUMBER, re.DOTALL)

# Of a stack of 48.
_STEMS = rb"(?:nn){1,24}[\x01\x03\x12\x17]"
_MASKS = rb"(?:nn){0,24}[\x13\x14]"
_MOVES = rb"(?:nn\x15|n[\x04\x16])"
_LINES = rb"(?:nn){1,24}\x05|n{1,48}[\x06\x07]"
_CURVES = (
    rb"n{6}(?:n{6}){0,7}\x08|n{8}(?:n{6}){0,6}\x18|n{8}(?:nn){0,20}\x19|n?n{4}(?:n{4}){0,10}[\x1a\x1b]"
    rb"|(?:n{4}|n{8})(?:n{8}){0,5}n?[\x1e\x1f]"
)
_FLEXES = rb"n{13}\x0c\x23|n{7}\x0c\x22|n{9}\x0c\x24|n{11}\x0c\x25"
_ANY = rb"(?:" + rb"|".join((_MOVES, _LINES, _CURVES, _FLEXES, _STEMS, _MASKS, rb"\x0c\x00")) + rb")"
# The first operator that empties the stack may have the glyph's width before its numbers.
_FIRST = rb"n?(?:" + rb"|".join((_MOVES, _STEMS, _MASKS)) + rb")"
_GLYPH = re.compile(rb"(?:" + _FIRST + _ANY + rb"*+)?+(?:n{0,5}\x0e)", re.DOTALL)
#: Arithmetic and conditional operators (sections 4.4 and 4.6): how many numbers each takes and leaves. Of those that
#: the section has besides (put, get, random, index, roll) browsers take none.
_ARITHMETIC = {
    **dict.fromkeys((3, 4, 10, 11, 12, 15, 24), (2, 1)),
    **dict.fromkeys((5, 9, 14, 26), (1, 1)),
    **{18: (1, 0), 22: (4, 1), 27: (1, 2), 28: (2, 2)},
}
_RECKONING = re.compile(rb"\x0c([^\x00\x22-\x25])", re.DOTALL)


def check_charstring(charstring: bytes, masks: Iterable[tuple[int, int]], stems: int) -> None:
    """Raise `FontError` for a charstring that browsers refuse.

    `masks` are where the bytes of its hint masks start and end, `stems` is how many stems it has.
    """
    if stems > MAX_STEMS:
        raise FontError(f"it has {stems} stems; {MAX_STEMS} are allowed")
    parts, offset = [], 0
    for start, end in masks:
        parts.append(charstring[offset:start])
        offset = end
    # A number never stands across a mask, so the parts can be put together before they are read.
    joined = b"".join((*parts, charstring[offset:]))
    plain = _NUMBER.sub(b"n", joined) if _DOUBTFUL.search(joined) is None else _with_plain_numbers(joined)
    if parts and not stems:
        raise FontError("it has a hint mask, but no stems")
    if _RECKONING.search(plain) is not None:
        plain = _reckoned(plain)
    if _GLYPH.fullmatch(plain) is None:
        raise FontError("an operator of its outline does not have the numbers that it takes")


def _reckoned(plain: bytes) -> bytes:
    """The charstring with the numbers that its arithmetic operators leave in place of those that they take."""
    out = bytearray()
    offset = 0
    for match in _RECKONING.finditer(plain):
        out += plain[offset : match.start()]
        offset = match.end()
        takes, leaves = _ARITHMETIC.get(match[1][0], (-1, 0))
        if takes < 0:
            raise FontError(f"it has the operator 12 {match[1][0]}, which browsers do not support")
        if not out.endswith(b"n" * takes):
            raise FontError("an operator of its outline does not have the numbers that it takes")
        del out[len(out) - takes :]
        out += b"n" * leaves
    return bytes(out) + plain[offset:]


def _with_plain_numbers(charstring: bytes) -> bytes:
    """The charstring with n for each number; as it is where it does not end with a whole one."""
    tokens = _TOKEN.findall(charstring)
    if sum(map(len, tokens)) != len(charstring):
        return charstring
    return b"".join([b"n" if token[0] >= _LEAST_NUMBER or token[0] == _SHORT_INTEGER else token for token in tokens])
