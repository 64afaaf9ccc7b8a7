"""`Sequences`: texts that a font may draw as one picture: sequences of emoji, and words that name icons."""

from __future__ import annotations

import re
from collections.abc import Iterable

from msgspec import Struct

from aksara.text.emoji import emoji_sequences

#: What names of icons are made of.
ICON_NAME = re.compile(r"[a-z0-9][a-z0-9_-]{1,62}", re.IGNORECASE)
_WORD = re.compile(r"[A-Za-z0-9][A-Za-z0-9_-]{1,62}")


def is_private_use(code: int) -> bool:
    """Whether a character has no meaning of its own, like most icons (Unicode, "Private-Use Characters")."""
    # Asked of every character of a font: compared, not looked for in a list.
    return 0xE000 <= code < 0xF900 or 0xF0000 <= code < 0xFFFFE or 0x100000 <= code < 0x10FFFE


class Sequences(Struct, frozen=True):
    """Which sequences are asked for: these, and all that are made of `free` characters.

    `icons_alone`: icons that are not asked for go also from fonts of which none is.
    """

    asked: frozenset[str] = frozenset()
    free: frozenset[int] = frozenset()
    icons_alone: bool = False

    def __or__(self, other: Sequences) -> Sequences:
        return Sequences(self.asked | other.asked, self.free | other.free, self.icons_alone or other.icons_alone)

    def has_free(self, sequence: str) -> bool:
        """Whether all of its characters are free."""
        return self.free.issuperset(map(ord, sequence))


NO_SEQUENCES = Sequences()


def sequences_in(texts: Iterable[str], *, words: bool) -> frozenset[str]:
    """The sequences of emoji in texts; and the texts that are one word, or, with `words`, all of their words."""
    found: set[str] = set()
    for text in texts:
        found |= emoji_sequences(text)
        if words:
            found.update(match[0] for match in _WORD.finditer(text))
        elif ICON_NAME.fullmatch(bare := text.strip()):
            found.add(bare)
    return frozenset(found)
