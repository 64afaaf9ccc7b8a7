"""Which characters text that is written later may need: those of the languages that a face shows now.

A face that shows a letter of a language gets the letters, digits and usual punctuation of that language, so that a new
headline is whole. Of languages with thousands of letters these come only where a page without them does not fetch them.
"""

from __future__ import annotations

import unicodedata
from collections import Counter
from collections.abc import Collection, Mapping

from msgspec import Struct

from aksara.errors import RequestError
from aksara.text import find_language
from aksara.text.scripts import script_of

#: Characters in a language from which on it is a language of a face's text, and not a name or a link; less text is in a
#: language of its own if this share of it is.
OF_A_LANGUAGE, MAIN_SHARE = 30, 0.2
#: Different letters of a script from which on text is in one of its languages, whatever the markup says.
_OF_A_SCRIPT = 8
#: What figures stand among: signs of currencies, percentages, sums, dates and times.
_FIGURES = frozenset(map(ord, "0123456789 .,:;/()+-−–×=%‰°$€£¥#№\N{NO-BREAK SPACE}\N{NARROW NO-BREAK SPACE}"))
#: What people type that no language's list has.
_TYPED = frozenset(map(ord, " $€£%&+=@\N{NO-BREAK SPACE}"))
#: Letters from which on a language has thousands.
_THOUSANDS = 500
#: The language of a script where nothing says one: the one of most text in it.
_OF_SCRIPTS = {
    "Latn": "en", "Cyrl": "ru", "Grek": "el", "Hebr": "he", "Arab": "ar", "Deva": "hi", "Beng": "bn", "Taml": "ta",
    "Telu": "te", "Thai": "th", "Geor": "ka", "Armn": "hy", "Ethi": "am", "Gujr": "gu", "Guru": "pa", "Knda": "kn",
    "Mlym": "ml", "Sinh": "si", "Khmr": "km", "Laoo": "lo", "Mymr": "my", "Hang": "ko", "Hira": "ja", "Kana": "ja",
}  # fmt: skip


class ExpectedLetters(Struct, frozen=True):
    """The letters of a face, and the languages of which it gets only the everyday letters."""

    letters: frozenset[int]
    partly: frozenset[str] = frozenset()


class _OwnLetters(Struct, frozen=True):
    """All letters of a language, and those that a face gets; `partly` if these are only the everyday ones."""

    all: frozenset[int]
    expected: frozenset[int]
    partly: frozenset[str] = frozenset()


def letters_to_expect(
    languages: Mapping[str, int],
    shown: frozenset[int],
    otherwise: Collection[str] = (),
    *,
    thousands: bool = False,
) -> ExpectedLetters:
    """What text that is written later may need in a face that shows these characters.

    `languages` maps tags to the number of characters that are in them, "" where nothing says the language: then it is
    `otherwise`, the site's, or the language that most text of the script is in. With `thousands` all letters of
    ideographic languages count.
    """
    scripts = Counter(script_of(code) for code in shown if unicodedata.category(chr(code)).startswith(("L", "M")))
    if not scripts:
        has_figures = any(unicodedata.category(chr(code)).startswith(("N", "Sc")) for code in shown)
        return ExpectedLetters(_FIGURES if has_figures else frozenset())
    total = sum(languages.values())
    tags = {tag for tag, count in languages.items() if count >= min(OF_A_LANGUAGE, MAIN_SHARE * total)}
    letters: set[int] = set()
    partly: set[str] = set()
    covered: set[str] = set()
    for tag in sorted(tags | (set(otherwise) if "" in tags else set())):
        own = _of_language(tag, thousands=thousands)
        # A language of another script than the text is one that the markup says by mistake.
        if own is None or not own.all & shown:
            continue
        letters |= own.expected
        partly |= own.partly
        covered |= {script_of(code) for code in own.all}
    # Words that say no language are often in that of the people who wrote the template; a face made of smileys is not.
    of_site = max(1, min(_OF_A_SCRIPT, round(MAIN_SHARE * sum(scripts.values()))))
    least = of_site if "" in tags else _OF_A_SCRIPT
    main = scripts.most_common(1)[0][0] if not letters else ""
    for script, count in scripts.items():
        if (count >= least or script == main) and (script not in covered or "" in tags) and script in _OF_SCRIPTS:
            own = _of_language(_OF_SCRIPTS[script], thousands=thousands)
            if own is not None:
                letters |= own.expected
                partly |= own.partly
    return ExpectedLetters(frozenset(letters), frozenset(partly))


def _of_language(tag: str, *, thousands: bool) -> _OwnLetters | None:
    """Letters, digits and punctuation of a language; None for an unknown tag."""
    try:
        language = find_language(tag) if tag else None
    except RequestError:
        return None
    if language is None:
        return None
    letters, signs = language.letters, language.signs | _TYPED
    if len(letters) < _THOUSANDS or thousands:
        return _OwnLetters(letters, letters | signs)
    everyday = frozenset(code for code in letters | signs if not _is_one_of_thousands(code))
    return _OwnLetters(letters, everyday, frozenset((tag,)))


def _is_one_of_thousands(code: int) -> bool:
    """Ideographs and syllables of Hangul."""
    return script_of(code) == "Hani" or 0xAC00 <= code <= 0xD7A3
