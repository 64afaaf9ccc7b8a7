"""Where style sheets, pages and scripts still name a family that this build replaces: lines for the user to edit."""

from __future__ import annotations

import os
import re
from bisect import bisect
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from itertools import islice
from pathlib import Path
from typing import Literal
from urllib.parse import unquote_plus

from msgspec import Struct

from aksara.errors import InputError
from aksara.limits import MAX_OLD_NAMES, MAX_PAGE_SIZE
from aksara.site.access.decoding import decode_page
from aksara.site.findings import unread_sheets
from aksara.site.usage import SiteUse
from aksara.site.web_addresses import path_of
from aksara.sources import printable, read_file, resolved
from aksara.web.marks import MarkedFile, MarksError

_DECLARATION = re.compile(r"(?:font-family|font|(?<![\w-])--[\w-]{1,80})\s*:\s*([^;{}]*)", re.IGNORECASE)
# Links and imports of style sheets on another host, whose addresses name the families that they bring.
_HOSTED = re.compile(
    r"(?:<link\b[^<>]{0,200}?\bhref\s*+=\s*+[\"']?|@import\s++(?:url\(\s*+)?+[\"']?)((?:https?:)?//[^\"'\s<>)]{1,2000})",
    re.IGNORECASE,
)
_RULE = re.compile(r"@font-face\s*+\{[^{}]*+\}", re.IGNORECASE)
_COMMENT = re.compile(r"/\*.*?(?:\*/|\Z)|<!--.*?(?:-->|\Z)", re.DOTALL)


class OldName(Struct, frozen=True):
    """A line that names a family which is replaced: the file, the line, and that family; and whether it asks for the
    family, or is of an `@font-face` rule for it or of a link that fetches it from elsewhere, which nobody needs any
    more."""

    path: str
    line: int
    family: str
    kind: Literal["name", "rule", "link"] = "name"


def hosted_families(families: Iterable[str], site: SiteUse) -> set[str]:
    """Those families that pages of the site fetch from another host, by the addresses of style sheets there."""
    addresses = [address for address, _ in unread_sheets(site.pages)]
    return {
        family
        for family, pattern in _patterns(families).items()
        if any(_is_fetched_by(address, pattern) for address in addresses)
    }


def _patterns(families: Iterable[str]) -> dict[str, re.Pattern[str]]:
    """Patterns that find each family but not longer names: Arial, but not Arial Black."""
    return {
        family: re.compile(rf"(?<![\w-]){re.escape(family)}(?![\w-]| \w)", re.IGNORECASE) for family in sorted(families)
    }


def _is_fetched_by(address: str, pattern: re.Pattern[str]) -> bool:
    """Whether the address of a style sheet names the family, in whichever form; not one whose name ends like it."""
    text = unquote_plus(address)
    return any(not re.match(r"\w ", text[max(match.start() - 2, 0) :]) for match in pattern.finditer(text))


def find_old_names(
    families: Iterable[str], site: SiteUse, own: Path, changed: Mapping[Path, bytes]
) -> tuple[OldName, ...]:
    """All of them, in the order of the site. `own` is the style sheet that this build writes, `changed` has the user's
    files in which it keeps something, as they will be."""
    patterns = _patterns(families)
    old_names: list[OldName] = []
    addresses = dict.fromkeys(address for page in site.pages for address in (page.address, *page.sheets))
    for address in addresses:
        path = path_of(address) if address.startswith("file:") else None
        if path is None or len(old_names) >= MAX_OLD_NAMES:
            continue
        with suppress(InputError):
            old_names += islice(_in_file(path, patterns, own, changed), MAX_OLD_NAMES)
    for font in site.script_fonts:
        if family := next((pattern for pattern in patterns if pattern.casefold() == font.family.casefold()), ""):
            old_names.append(OldName(font.path, font.line, family))
    return tuple(dict.fromkeys(old_names[:MAX_OLD_NAMES]))


def _in_file(
    path: Path, patterns: Mapping[str, re.Pattern[str]], own: Path, changed: Mapping[Path, bytes]
) -> Iterator[OldName]:
    data = changed.get(path)
    if data is None:
        if path == resolved(own):
            return
        data = read_file(path, limit=MAX_PAGE_SIZE)
    text = _without_ours(data, path.name) if b"aksara:" in data else decode_page(data)
    text = _COMMENT.sub(lambda match: re.sub(r"[^\n]", " ", match[0]), text)
    shown = printable(os.path.relpath(path))
    rules = [match.span() for match in _RULE.finditer(text)]
    starts = [start for start, _ in rules]
    line, last = 1, 0
    for match in _DECLARATION.finditer(text):
        line += text.count("\n", last, match.start())
        last = match.start()
        before = bisect(starts, last) - 1
        kind: Literal["name", "rule"] = "rule" if before >= 0 and last < rules[before][1] else "name"
        for family, pattern in patterns.items():
            if pattern.search(match[1]):
                yield OldName(shown, line, family, kind)
    for match in _HOSTED.finditer(text):
        for family, pattern in patterns.items():
            if _is_fetched_by(match[1], pattern):
                yield OldName(shown, text.count("\n", 0, match.start()) + 1, family, "link")


def _without_ours(data: bytes, name: str) -> str:
    """A file's text without what is between marks, with the same line numbers."""
    try:
        file = MarkedFile.of(data, name)
        start, end = file.marked or (0, 0)
    except MarksError:
        return decode_page(data)
    lines = re.sub(r"[^\n]", " ", file.text[start:end])
    return file.meaning_of(file.text[:start]) + lines + file.meaning_of(file.text[end:])
