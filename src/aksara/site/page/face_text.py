"""The text set in one face of a page, collected during the walk."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from msgspec import Struct, field

from aksara.site.css.styles import FaceKey
from aksara.site.tree import Element
from aksara.text.neighbours import pairs_in
from aksara.text.sequences import sequences_in

#: Languages of which a text is kept, and how long one is at most.
_SAMPLED_LANGUAGES, _SAMPLE = 4, 160
#: What stands in no page: HTML has no way to write it.
_BETWEEN = "\0"
#: Tags of axes with values, sorted.
Variations = tuple[tuple[str, float], ...]


class FaceText(Struct):
    """The text in one face: characters and languages with their counts, requested features, and locations
    on axes (`font-variation-settings`).

    `hidden`: the page does not show it as it is. `element` is the first that asks for the face; `in_headings` counts
    the characters that stand in headings. `joints` are the last character of a text and the first of the next one, in
    the same line.
    """

    face: FaceKey
    hidden: bool
    element: Element
    texts: dict[str, list[str]] = field(default_factory=dict)
    possible: set[str] = field(default_factory=set)
    features: set[str] = field(default_factory=set)
    variations: set[Variations] = field(default_factory=set)
    in_headings: int = 0
    joints: set[str] = field(default_factory=set)

    def neighbours(self) -> frozenset[str]:
        """Every pair of adjacent characters."""
        texts = {text for texts in self.texts.values() for text in texts}
        # At once, with something between them that no text has.
        pairs = pairs_in(_BETWEEN.join(texts | self.joints))
        return frozenset(pair for pair in pairs if _BETWEEN not in pair)

    def sequences(self) -> frozenset[str]:
        """Sequences that a font may draw as one glyph."""
        return sequences_in({text for texts in self.texts.values() for text in texts}, words=False)

    def samples(self) -> tuple[tuple[str, str], ...]:
        """A text in each of the languages that most is in: its tag as written, and the text."""
        count = self.languages()
        languages = sorted(self.texts, key=lambda language: -count[language])[:_SAMPLED_LANGUAGES]
        texts = ((language, best_sample(self.texts[language])) for language in languages)
        return tuple((language, text) for language, text in texts if text)

    def characters(self) -> Counter[str]:
        """The count of each character; those that only might appear count once."""
        counts = Counter("".join(text for texts in self.texts.values() for text in texts))
        for character in self.possible:
            counts[character] = max(counts[character], 1)
        for character in [count for count in counts if not _is_drawn(count)]:
            del counts[character]
        return counts

    def languages(self) -> Counter[str]:
        """How many characters are in each language, by its tag as written; "" where none is said."""
        return Counter({language: sum(map(len, texts)) for language, texts in self.texts.items()})


def best_sample(texts: Iterable[str]) -> str:
    """The text that shows most of a face in one or two lines: the first of the longest, no more of it than that."""
    best = ""
    for text in texts:
        words = " ".join(text.split())
        if len(best) < min(len(words), _SAMPLE):
            best = words[:_SAMPLE] if len(words) <= _SAMPLE else words[:_SAMPLE].rpartition(" ")[0] or words[:_SAMPLE]
            if len(words) >= _SAMPLE:
                break
    return best


def _is_drawn(character: str) -> bool:
    code = ord(character)
    return code >= 0x20 and not 0x7F <= code < 0xA0 and not 0xD800 <= code <= 0xDFFF
