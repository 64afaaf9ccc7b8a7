"""Operators of the dictionaries of CFF (Adobe Technical Note 5176, sections 9, 15 and 18).

Operators of two bytes are 12 << 8 | second byte.
"""

from __future__ import annotations

# Top DICT.
CHARSET, ENCODING, CHARSTRINGS, PRIVATE = 15, 16, 17, 18
CHARSTRING_TYPE, ROS, CID_COUNT, FD_ARRAY, FD_SELECT = 0x0C06, 0x0C1E, 0x0C22, 0x0C24, 0x0C25
FONT_NAME = 0x0C26
# Top DICT of CFF2.
VARIATION_STORE = 24
# Private DICT.
SUBRS = 19
DEFAULT_WIDTH, NOMINAL_WIDTH = 20, 21
# Private DICT of CFF2.
VARIATION_DATA, BLEND = 22, 23
#: Hints for the whole font: alignment zones, stem widths and how they are used.
HINTS = frozenset((6, 7, 8, 9, 10, 11, *(0x0C00 | n for n in (9, 10, 11, 12, 13, 14, 15, 17, 18))))
_ANY_NUMBER, _PAIRS = range(1, 25), range(0, 15, 2)
_ONE = range(1, 2)
#: What of a Top or Font DICT a web font needs, with how many operands it may have: how glyphs are drawn. The others are
#: names and notices (kept in 'name'), old IDs, and what other tables say.
KEPT = {5: range(4, 5), 0x0C05: _ONE, 0x0C07: range(6, 7), 0x0C08: _ONE}
#: What a Private DICT can hold, with how many operands.
PRIVATE_OPERATORS = {
    **dict.fromkeys((6, 7, 8, 9), _PAIRS),
    **dict.fromkeys((0x0C0C, 0x0C0D), _ANY_NUMBER),
    **dict.fromkeys((10, 11, *(0x0C00 | n for n in (9, 10, 11, 14, 17, 18, 19)), DEFAULT_WIDTH, NOMINAL_WIDTH), _ONE),
}
#: Operators whose operands are offsets, which are written again.
OFFSETS = frozenset((CHARSET, ENCODING, CHARSTRINGS, PRIVATE, FD_ARRAY, FD_SELECT))
