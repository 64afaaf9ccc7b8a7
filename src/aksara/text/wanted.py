"""The characters that a site needs, from all that its owner can say: texts, ranges, languages, scripts."""

from __future__ import annotations

from collections.abc import Iterable

from aksara.text.languages import find_language
from aksara.text.ranges import parse_ranges
from aksara.text.scripts import script_characters


def wanted_characters(
    *,
    texts: Iterable[str] = (),
    ranges: Iterable[str] = (),
    languages: Iterable[str] = (),
    scripts: Iterable[str] = (),
) -> frozenset[int]:
    """Everything added up. Languages and scripts may be lists with commas. Control characters and surrogates go.

    Raises `RequestError` for a range, language or script that does not exist.
    """
    codes = {ord(character) for text in texts for character in text}
    for text in ranges:
        codes |= parse_ranges(text)
    for tag in _listed(languages):
        codes |= find_language(tag).characters
    for code in _listed(scripts):
        codes |= script_characters(code)
    return frozenset(
        code for code in codes if code >= 0x20 and not 0x7F <= code < 0xA0 and not 0xD800 <= code <= 0xDFFF
    )


def _listed(values: Iterable[str]) -> list[str]:
    return [part.strip() for value in values for part in value.split(",") if part.strip()]
