"""The classes that a style sheet has rules for, and those whose rules name a font."""

from __future__ import annotations

import re

from aksara.limits import MAX_CLASS_SHEET_LENGTH, MAX_FONT_CLASSES
from aksara.site.spans import find_spans, without

_BLOCK = re.compile(r"\{([^{}]*)\}")
_COMMENTS = (("/*", "*/"),)
_CLASS = re.compile(r"\.(-?[A-Za-z_][\w-]*)")
_FAMILY = re.compile(r"(?<![\w-])font(?:-family)?\s*:", re.IGNORECASE)


def classes_in(sheet: str) -> frozenset[str]:
    """All classes in its selectors; what else looks like one does no harm."""
    found: set[str] = set()
    for match in _CLASS.finditer(sheet[:MAX_CLASS_SHEET_LENGTH]):
        found.add(match[1])
        if len(found) > MAX_FONT_CLASSES:
            break
    return frozenset(found)


def font_classes_in(sheet: str, first_line: int = 1) -> dict[str, int]:
    """The last classes in selectors of rules that name a font, with the lines of these rules."""
    found: dict[str, int] = {}
    sheet = without(sheet[:MAX_CLASS_SHEET_LENGTH], find_spans(sheet[:MAX_CLASS_SHEET_LENGTH], _COMMENTS))
    line, end = first_line, 0
    for match in _BLOCK.finditer(sheet):
        line += sheet.count("\n", end, match.start())
        prelude, end = sheet[end : match.start()], match.start()
        if not _FAMILY.search(match[1]):
            continue
        for selector in re.split(r"[{};]", prelude)[-1].split(","):
            last = selector.split()[-1] if selector.split() else ""
            if (name := _CLASS.search(last)) is not None and len(found) < MAX_FONT_CLASSES:
                found.setdefault(name[1], line)
    return found
