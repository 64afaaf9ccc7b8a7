"""The names that a style sheet gives to icons: classes whose `::before` writes a character for private use."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence

import tinycss2

from aksara.limits import MAX_ICON_SHEET_LENGTH
from aksara.site.css.values import Token, block_items, readable
from aksara.text.sequences import ICON_NAME, is_private_use

#: A prefix of at least this share of all names is not part of them, as "icon-" in "icon-home".
_SHARED = 0.8


def icon_names(text: str) -> dict[str, int]:
    """The names, as the classes are written and without what nearly all of them start with, and their characters."""
    found: dict[str, int] = {}
    for rule in tinycss2.parse_stylesheet(
        readable(text[:MAX_ICON_SHEET_LENGTH]), skip_comments=True, skip_whitespace=True
    ):
        if rule.type == "qualified-rule" and (code := _character(rule.content)) is not None:
            for name in _classes(rule.prelude):
                found.setdefault(name, code)
    starts = Counter(name.partition("-")[0] for name in found if "-" in name)
    start, count = next(iter(starts.most_common(1)), ("", 0))
    if count >= _SHARED * len(found):
        for name, code in list(found.items()):
            bare = name.removeprefix(f"{start}-")
            if ICON_NAME.fullmatch(bare):
                found.setdefault(bare, code)
    return found


def _character(content: Sequence[Token]) -> int | None:
    """The only character that a rule writes, if it is one for private use."""
    for node in block_items(content):
        if node.type == "declaration" and node.lower_name == "content":
            strings = [token.value for token in node.value if token.type == "string"]
            if len(strings) == 1 and len(strings[0]) == 1 and is_private_use(ord(strings[0])):
                return ord(strings[0])
    return None


def _classes(prelude: Sequence[Token]) -> Iterator[str]:
    """The classes right before `::before` or `::after`."""
    for index, token in enumerate(prelude):
        if token.type == "ident" and index and _is(prelude[index - 1], ".") and ICON_NAME.fullmatch(token.value):
            rest = [other for other in prelude[index + 1 : index + 4] if not _is(other, ":")]
            behind = rest[0] if rest and _is(prelude[index + 1], ":") else None
            if behind is not None and behind.type == "ident" and behind.lower_value in ("before", "after"):
                yield token.value


def _is(token: Token, character: str) -> bool:
    return token.type == "literal" and token.value == character
