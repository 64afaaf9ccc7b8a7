"""Kinds of characters that pages differ by: scripts, signs of running text, symbols."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Set
from functools import cache

from aksara.text.scripts import COMMON, script_name, script_of

CORE, CJK, HANGUL, SYMBOLS, EMOJI, LATIN = "core", "cjk", "hangul", "symbols", "emoji", "latin"
_SCRIPTS = {"Latn": LATIN, "Hani": CJK, "Hira": CJK, "Kana": CJK, "Bopo": CJK, "Hang": HANGUL}
# Blocks of characters that East Asian scripts share.
_EAST_ASIAN = (range(0x2E80, 0x3400), range(0xFE10, 0xFE20), range(0xFE30, 0xFE50), range(0xFF00, 0xFFF0))
_FIRST_EMOJI = 0x1F000
_MARKS = range(0x300, 0x370)
_LATIN_1 = range(0x20, 0x100)


@cache
def kind_of(code: int, signs: Set[int] = frozenset()) -> str:
    """The kind, as the name of a slice has it; `signs` are those of the languages in question."""
    script = script_of(code)
    if script in _SCRIPTS:
        return _SCRIPTS[script]
    if script != COMMON:
        return re.sub("[^a-z0-9]+", "-", script_name(script).lower())
    if any(code in span for span in _EAST_ASIAN):
        return CJK
    if code in _LATIN_1 or code in signs:
        return CORE
    if unicodedata.category(chr(code)) == "Mn":
        # A mark that several scripts use stands in Unicode behind those of the one that it was made for.
        return kind_of(
            next((before for before in range(code, _MARKS[-1], -1) if script_of(before) != COMMON), 0x41), signs
        )
    return EMOJI if code >= _FIRST_EMOJI else SYMBOLS
