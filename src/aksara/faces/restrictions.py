"""Words that restrict what a font may be used for, as people write them into fonts and into texts beside them."""

from __future__ import annotations

import re

from aksara.font import Font
from aksara.tables import Name
from aksara.tables.name import COPYRIGHT, DESCRIPTION, LICENCE, TRADEMARK

#: Phrases of trial and free fonts; a whole licence says "non-commercial" of other things, too, so they are whole ones.
_PHRASE = re.compile(
    r"free\s+for\s+(?:personal|private|non-?commercial)\b|(?:personal|private|non-?commercial)\s+use\s+only|"
    r"only\s+for\s+(?:personal|private|non-?commercial)\s+(?:use|projects?)|for\s+personal\s+use\b(?!\s+or\b)|"
    r"not\s+(?:be\s+used\s+)?for\s+commercial\s+(?:use|purposes|projects?)|no\s+commercial\s+use|"
    r"\b(?:demo|trial|evaluation|test)\s+(?:version|font|licen[cs]e)\b|for\s+(?:evaluation|testing|trial)\s+(?:purposes\s+)?only|"
    r"(?:desktop|print)\s+(?:use|licen[cs]e)\s+only|no\s+web\s*(?:font\s+)?(?:use|embedding)|"
    r"not\s+(?:be\s+)?(?:embedded|used)\s+(?:in|on)\s+(?:web\s*sites?|the\s+web|web\s*pages?)|"
    r"contact\s+(?:me|us)\s+for\s+(?:a\s+)?commercial",
    re.IGNORECASE,
)
#: Characters on either side of a phrase that are quoted, and of a text that are searched.
_AROUND, _SEARCHED = 60, 200_000
_FIELDS = {LICENCE: "licence", COPYRIGHT: "copyright", DESCRIPTION: "description", TRADEMARK: "trademark"}


def restricting_words(text: str) -> str:
    """The first phrase that restricts use, with what stands around it in its line; "" if there is none.

    >>> restricting_words("Penyu Sans. Free for personal use; for others write to us.")
    'Penyu Sans. Free for personal use; for others write to us.'
    """
    match = _PHRASE.search(text[:_SEARCHED])
    if match is None:
        return ""
    before = re.split(r"[\r\n]", text[max(match.start() - _AROUND, 0) : match.start()])[-1]
    after = re.split(r"[\r\n]", text[match.end() : match.end() + _AROUND])[0]
    return " ".join(f"{before}{match[0]}{after}".split())


def restrictions_in(font: Font) -> tuple[tuple[str, str], ...]:
    """The fields of a font's names that restrict its use, each with its words."""
    names = font.find(Name)
    restrictions = (
        ((field, restricting_words(names.get(name_id) or "")) for name_id, field in _FIELDS.items()) if names else ()
    )
    return tuple((field, words) for field, words in restrictions if words)
