"""Small fonts of icons."""

from __future__ import annotations

from attacks import layout_table
from fonts import box, small_font, words

NAMES = ("home", "search", "house", "see")


_LETTERS = sorted(set("".join(NAMES)))


_GLYPH_OF = {letter: number for number, letter in enumerate(_LETTERS, 1)}


_ICON_OF = {name: len(_LETTERS) + 1 + number for number, name in enumerate(NAMES)}


def icon_font(*, ligatures: bool = True, private: bool = True, letters: bytes = b"") -> bytes:
    """Letters that draw nothing, unless they are given an outline, and icons that they spell; "see" has no character of
    its own, the others have, if `private` says so."""
    characters = {ord(letter): glyph for letter, glyph in _GLYPH_OF.items()}
    characters |= {0xE000 + number: _ICON_OF[name] for number, name in enumerate(NAMES[:-1]) if private}
    glyphs = [letters] * (1 + len(_LETTERS)) + [box(100 * (3 + n))[0] for n in range(len(NAMES))]
    return small_font(characters, glyphs, extra={"GSUB": _ligatures()} if ligatures else {"post": _names()})


def _ligatures() -> bytes:
    by_first: dict[int, list[bytes]] = {}
    for name, icon in sorted(_ICON_OF.items(), key=lambda each: -len(each[0])):
        parts = [_GLYPH_OF[letter] for letter in name]
        by_first.setdefault(parts[0], []).append(words(icon, len(parts), *parts[1:]))
    firsts = sorted(by_first)
    coverage = words(1, len(firsts), *firsts)
    head = 6 + 2 * len(firsts)
    sets, at, offsets = b"", head + len(coverage), []
    for first in firsts:
        offsets.append(at + len(sets))
        places, body = [], b""
        for each in by_first[first]:
            places.append(2 + 2 * len(by_first[first]) + len(body))
            body += each
        sets += words(len(places), *places) + body
    return layout_table(4, words(1, head, len(firsts), *offsets) + coverage + sets, b"liga")


def _names() -> bytes:
    """'post' of version 2.0, with a name for each glyph of an icon."""
    count = 1 + len(_LETTERS) + len(NAMES)
    numbers = [0] * (1 + len(_LETTERS)) + [258 + n for n in range(len(NAMES))]
    texts = b"".join(bytes([len(name)]) + name.encode() for name in NAMES)
    return words(2, 0) + bytes(28) + words(count, *numbers) + texts
