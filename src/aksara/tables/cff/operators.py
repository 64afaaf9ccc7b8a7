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
#: Strings and numbers of the Top DICT that nobody needs on the web: version, names, notices (kept in 'name'), old IDs.
NAMES = frozenset((0, 1, 2, 3, 4, 13, 14, 0x0C00, 0x0C15, 0x0C16))
#: Operators whose operands are offsets, which are written anew.
OFFSETS = frozenset((CHARSET, ENCODING, CHARSTRINGS, PRIVATE, FD_ARRAY, FD_SELECT))
