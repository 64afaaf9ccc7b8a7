"""Names that a licence reserves for the unchanged font, as some free licences let makers do.

A font that is cut down is a changed one, and may not bear such a name.
"""

from __future__ import annotations

import re
from collections.abc import Iterable

from msgspec import Struct

from aksara.tables.name import clean

_CLAUSE = re.compile(
    r"with\s+(?:the\s+)?Reserved\s+Font\s+Names?\s*(?:[:,]\s*)?(?P<names>[^\n]{1,200}(?:\n(?!\s*\n)[^\n]{1,200})?)",
    re.IGNORECASE,
)
_QUOTED = re.compile(r"[\"“‘']([^\"”’'\n]{1,60})[\"”’']")
_UNQUOTED = re.compile(r"\s*,\s*|\s+and\s+|\s+or\s+")
#: What ends a list of names that are not in quotes.
_END = re.compile(r"[.;()<>\n]|\s-\s|https?:")
_MOST = 20


class ReservedName(Struct, frozen=True):
    """A name, the words that reserve it, and where they stand."""

    name: str
    clause: str
    source: str

    def is_in(self, family: str) -> bool:
        """Whether a family is called so, or partly so."""
        words = re.escape(self.name.casefold()).replace(r"\ ", r"[\s_-]*")
        return re.search(rf"(?<!\w){words}(?!\w)", family.casefold()) is not None


def reserved_names(texts: Iterable[tuple[str, str]]) -> list[ReservedName]:
    """The names reserved by these texts, each once; each text comes with its name."""
    by_name: dict[str, ReservedName] = {}
    for source, text in texts:
        for match in _CLAUSE.finditer(text):
            listed = match["names"]
            names = _QUOTED.findall(listed) or _UNQUOTED.split(_END.split(listed.strip(), maxsplit=1)[0])
            for name in (clean(name).strip(" .,") for name in names):
                if 1 < len(name) <= 60 and len(by_name) < _MOST:
                    clause = clean(
                        match[0]
                        if _QUOTED.search(listed)
                        else f"{match[0][: match.start('names') - match.start()]}{name}"
                    )
                    by_name.setdefault(name.casefold(), ReservedName(name, _shortened(clause), source))
    return list(by_name.values())


def _shortened(text: str) -> str:
    return text if len(text) <= 120 else f"{text[:119]}…"
