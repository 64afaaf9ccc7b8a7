"""Bits of 'OS/2' that claim Unicode ranges and code pages (OpenType 1.9.1, "ulUnicodeRange", "ulCodePageRange")."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Collection, Sequence, Set
from functools import cache

# The bits of ulUnicodeRange, 0 to 127, and the first and last code points of each (OpenType 1.9.1, 'OS/2'). Bits that
# are not listed are reserved, or, as 57, not about single blocks.
_RANGES = (
    "0:0-7F 1:80-FF 2:100-17F 3:180-24F 4:250-2AF,1D00-1DBF 5:2B0-2FF,A700-A71F 6:300-36F,1DC0-1DFF 7:370-3FF "
    "8:2C80-2CFF 9:400-52F,2DE0-2DFF,A640-A69F 10:530-58F 11:590-5FF 12:A500-A63F 13:600-6FF,750-77F 14:7C0-7FF "
    "15:900-97F 16:980-9FF 17:A00-A7F 18:A80-AFF 19:B00-B7F 20:B80-BFF 21:C00-C7F 22:C80-CFF 23:D00-D7F 24:E00-E7F "
    "25:E80-EFF 26:10A0-10FF,2D00-2D2F 27:1B00-1B7F 28:1100-11FF 29:1E00-1EFF,2C60-2C7F,A720-A7FF 30:1F00-1FFF "
    "31:2000-206F,2E00-2E7F 32:2070-209F 33:20A0-20CF 34:20D0-20FF 35:2100-214F 36:2150-218F "
    "37:2190-21FF,27F0-27FF,2900-297F,2B00-2BFF 38:2200-22FF,2A00-2AFF,27C0-27EF,2980-29FF 39:2300-23FF 40:2400-243F "
    "41:2440-245F 42:2460-24FF 43:2500-257F 44:2580-259F 45:25A0-25FF 46:2600-26FF 47:2700-27BF 48:3000-303F "
    "49:3040-309F 50:30A0-30FF,31F0-31FF 51:3100-312F,31A0-31BF 52:3130-318F 53:A840-A87F 54:3200-32FF 55:3300-33FF "
    "56:AC00-D7AF 58:10900-1091F 59:4E00-9FFF,2E80-2FDF,2FF0-2FFF,3400-4DBF,20000-2A6DF,3190-319F 60:E000-F8FF "
    "61:31C0-31EF,F900-FAFF,2F800-2FA1F 62:FB00-FB4F 63:FB50-FDFF 64:FE20-FE2F 65:FE10-FE1F,FE30-FE4F 66:FE50-FE6F "
    "67:FE70-FEFF 68:FF00-FFEF 69:FFF0-FFFF 70:F00-FFF 71:700-74F 72:780-7BF 73:D80-DFF 74:1000-109F "
    "75:1200-137F,1380-139F,2D80-2DDF 76:13A0-13FF 77:1400-167F 78:1680-169F 79:16A0-16FF 80:1780-17FF,19E0-19FF "
    "81:1800-18AF 82:2800-28FF 83:A000-A48F,A490-A4CF 84:1700-177F 85:10300-1032F 86:10330-1034F 87:10400-1044F "
    "88:1D000-1D24F 89:1D400-1D7FF 90:F0000-FFFFD,100000-10FFFD 91:FE00-FE0F,E0100-E01EF 92:E0000-E007F 93:1900-194F "
    "94:1950-197F 95:1980-19DF 96:1A00-1A1F 97:2C00-2C5F 98:2D30-2D7F 99:4DC0-4DFF 100:A800-A82F "
    "101:10000-1013F 102:10140-1018F 103:10380-1039F 104:103A0-103DF 105:10450-1047F 106:10480-104AF 107:10800-1083F "
    "108:10A00-10A5F 109:1D300-1D35F 110:12000-123FF,12400-1247F 111:1D360-1D37F 112:1B80-1BBF 113:1C00-1C4F "
    "114:1C50-1C7F 115:A880-A8DF 116:A900-A92F 117:A930-A95F 118:AA00-AA5F 119:10190-101CF 120:101D0-101FF "
    "121:102A0-102DF,10280-1029F,10920-1093F 122:1F030-1F09F,1F000-1F02F"
)
#: Bit 57: at least one character beyond 16 bits.
_BEYOND_BMP = 57
# The bits of ulCodePageRange, 0 to 63, and the names of Python's codecs for them.
_CODE_PAGES = {
    **{0: "cp1252", 1: "cp1250", 2: "cp1251", 3: "cp1253", 4: "cp1254", 5: "cp1255", 6: "cp1256", 7: "cp1257"},
    **{8: "cp1258", 16: "cp874", 17: "cp932", 18: "gbk", 19: "cp949", 20: "cp950", 21: "johab"},
    **{29: "mac_roman", 48: "cp869", 49: "cp866", 50: "cp865", 51: "cp864", 52: "cp863", 53: "cp862", 54: "cp861"},
    **{55: "cp860", 56: "cp857", 57: "cp855", 58: "cp852", 59: "cp775", 60: "cp737", 62: "cp850", 63: "cp437"},
}
_LATIN_1 = 0


def true_unicode_ranges(claimed: int, kept: Collection[int]) -> int:
    """The declared Unicode ranges (128 bits) of which some characters are kept."""
    codes = sorted(kept)
    for bit, ranges in _ranges().items():
        if claimed >> bit & 1 and not any(_has_any(codes, first, last) for first, last in ranges):
            claimed &= ~(1 << bit)
    if not any(code > 0xFFFF for code in kept):
        claimed &= ~(1 << _BEYOND_BMP)
    return claimed


def _has_any(codes: Sequence[int], first: int, last: int) -> bool:
    """Whether any of these code points, which are sorted, is in a range."""
    offset = bisect_left(codes, first)
    return offset < len(codes) and codes[offset] <= last


@cache
def _ranges() -> dict[int, list[tuple[int, int]]]:
    ranges = {}
    for entry in _RANGES.split():
        bit, blocks = entry.split(":")
        bounds = (block.split("-") for block in blocks.split(","))
        ranges[int(bit)] = [(int(first, 16), int(last, 16)) for first, last in bounds]
    return ranges


def true_code_pages(claimed: int, before: Collection[int], kept: Set[int]) -> int:
    """The claimed code pages (64 bits) that have lost no character; Latin 1, as long as there are Latin letters.

    `before` are the characters of the font as it was.
    """
    for bit, codec in _CODE_PAGES.items():
        if not claimed >> bit & 1 or (bit == _LATIN_1 and any(0x41 <= code <= 0x7A for code in kept)):
            continue
        if any(code not in kept and _is_encoded(code, codec) for code in before):
            claimed &= ~(1 << bit)
    return claimed


def _is_encoded(code: int, codec: str) -> bool:
    try:
        chr(code).encode(codec)
    except (UnicodeEncodeError, ValueError):
        return False
    return True
