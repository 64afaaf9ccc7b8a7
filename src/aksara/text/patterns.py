"""Reading the compact sets of characters in `data/languages.json` (UnicodeSet patterns, UTS 35 part 1)."""

from __future__ import annotations

import re

_TOKEN = re.compile(r"\{(?:\\.|[^}\\])*\}|\\.|.", re.DOTALL)


def read_pattern(pattern: str) -> frozenset[str]:
    """The strings of a pattern of single characters, ranges `a-z` and sequences `{ch}`; a backslash escapes."""
    found: set[str] = set()
    tokens = _TOKEN.findall(pattern)
    index = 0
    while index < len(tokens):
        token = tokens[index]
        if token.startswith("{"):
            found.add(re.sub(r"\\(.)", r"\1", token[1:-1]))
        elif index + 2 < len(tokens) and tokens[index + 1] == "-":
            first, last = ord(token[-1]), ord(tokens[index + 2][-1])
            found.update(map(chr, range(first, last + 1)))
            index += 2
        else:
            found.add(token[-1])
        index += 1
    return frozenset(found)
