"""Which characters to keep, from all that a site's owner can say: texts, ranges, languages, scripts, pages."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from msgspec import Struct, field

from aksara.text.frequencies import Frequencies, language_frequencies, text_frequencies
from aksara.text.languages import find_language
from aksara.text.ranges import parse_ranges
from aksara.text.scripts import script_characters
from aksara.text.sequences import NO_SEQUENCES, Sequences, sequences_in


class CharacterSelection(Struct, frozen=True):
    """`characters` to keep (None: all); `languages` the tags asked for; `frequencies` how often each one is written.

    No frequencies: nothing is known of the text. `not_for_languages` are the characters that are kept for other reasons
    than the languages. `sequences` are those asked for (None: all).
    """

    characters: frozenset[int] | None = None
    languages: tuple[str, ...] = ()
    frequencies: Frequencies = field(default_factory=dict)
    not_for_languages: frozenset[int] = frozenset()
    sequences: Sequences | None = None

    def without(self, language: str) -> frozenset[int]:
        """The characters without those of that language."""
        return self.not_for_languages | named_characters(languages=[tag for tag in self.languages if tag != language])


def select_characters(
    *,
    texts: Iterable[str] = (),
    ranges: Iterable[str] = (),
    languages: Iterable[str] = (),
    scripts: Iterable[str] = (),
    written: Mapping[int, int] | None = None,
    sequences: Sequences = NO_SEQUENCES,
) -> CharacterSelection:
    """Everything added up; nothing said at all keeps all characters. Languages and scripts may be lists with commas.

    `written` are the characters of pages, each with how often it stands there (None: there are no pages), `sequences`
    those of pages. Raises `RequestError` for a range, language or script that does not exist.
    """
    texts, ranges, tags, scripts = list(texts), list(ranges), _listed(languages), _listed(scripts)
    others = named_characters(texts=texts, ranges=ranges, scripts=scripts) | _drawable(written or ())
    codes = others | named_characters(languages=tags)
    known = text_frequencies(written or {}) or language_frequencies(map(find_language, tags))
    if not (texts or ranges or tags or scripts or written is not None):
        return CharacterSelection(None, (), known, others)
    free = named_characters(ranges=ranges, languages=tags, scripts=scripts)
    asked = sequences | Sequences(sequences_in(texts, words=True), free)
    return CharacterSelection(codes, tuple(dict.fromkeys(tags)), known, others, asked)


def named_characters(
    *,
    texts: Iterable[str] = (),
    ranges: Iterable[str] = (),
    languages: Iterable[str] = (),
    scripts: Iterable[str] = (),
) -> frozenset[int]:
    """The characters, without control characters and surrogates."""
    codes = {ord(character) for text in texts for character in text}
    for text in ranges:
        codes |= parse_ranges(text)
    for tag in _listed(languages):
        codes |= find_language(tag).characters
    for code in _listed(scripts):
        codes |= script_characters(code)
    return _drawable(codes)


def _drawable(codes: Iterable[int]) -> frozenset[int]:
    return frozenset(
        code for code in codes if code >= 0x20 and not 0x7F <= code < 0xA0 and not 0xD800 <= code <= 0xDFFF
    )


def _listed(values: Iterable[str]) -> list[str]:
    return [part.strip() for value in values for part in value.split(",") if part.strip()]
