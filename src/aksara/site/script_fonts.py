"""Families that scripts name: in style properties, in canvas fonts, in options of chart libraries."""

from __future__ import annotations

import re
from collections.abc import Iterator

from aksara.limits import MAX_SCRIPT_FAMILIES
from aksara.site.css.properties import LONGHANDS
from aksara.site.css.values import meaningful, tokens_of
from aksara.site.findings import is_common
from aksara.site.usage import ScriptFont

#: A property or option that is given a family or a canvas font as a string.
_NAMED = re.compile(
    r"(?:\bfont-?family[\"']?\s*[:=]|\(\s*[\"']font-?family[\"']\s*,|\.font\s*=(?!=)|\bnew\s+FontFace\s*\()"
    r"\s*(?:\"([^\"\n]{1,200})\"|'([^'\n]{1,200})')",
    re.IGNORECASE,
)
_SIZE = re.compile(r".*?\b\d[\d.]*(?:px|pt|em|rem|%|vw|vh)(?:/\S+)?\s+", re.IGNORECASE)
_NAME = re.compile(r"[A-Za-z][\w .-]*")


def fonts_in_script(source: str, path: str, first_line: int = 1) -> Iterator[ScriptFont]:
    """The families in a script's text, each once, but for those that computers have."""
    told: set[str] = set()
    for match in _NAMED.finditer(source):
        text = match[1] or match[2]
        listed = LONGHANDS["font-family"].parse(meaningful(tokens_of(_SIZE.sub("", text, count=1))))
        family = listed[0] if isinstance(listed, tuple) and listed else ""
        if not _NAME.fullmatch(family) or is_common(family) or family.casefold() in told:
            continue
        told.add(family.casefold())
        yield ScriptFont(family, path, first_line + source.count("\n", 0, match.start()))
        if len(told) >= MAX_SCRIPT_FAMILIES:
            return
