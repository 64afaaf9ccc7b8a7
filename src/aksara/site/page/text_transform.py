"""`text-transform`, which depends on the language (CSS Text 3, section 2.1; Unicode SpecialCasing)."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable

_WORD = re.compile(r"[^\W_][\w'\u2019\u00ad\u0300-\u036f]*")


def transform_text(text: str, keywords: tuple[str, ...], language: str, before: str = "") -> str:
    """The text as the keywords of the property make it; `before` is the character in front of it in its line."""
    primary = language.lower().partition("-")[0]
    for keyword in keywords:
        if keyword == "uppercase":
            text = _upper(text, primary)
        elif keyword == "lowercase":
            text = _lower(text, primary)
        elif keyword == "capitalize":
            text = _capitals(text, primary, before)
        elif keyword == "full-width":
            text = "".join(map(_wide, text))
        elif keyword == "full-size-kana":
            text = text.translate(_KANA)
        elif keyword == "math-auto" and len(text.strip()) == 1:
            text = _MATHEMATICAL.get(text.strip(), text)
    return text


def _capitals(text: str, language: str, before: str) -> str:
    """With a capital at the start of each word, but for the first if its start stands before."""
    begun = bool(before) and _WORD.fullmatch("a" + before) is not None
    return _WORD.sub(lambda word: word[0] if begun and not word.start() else _capitalized(word[0], language), text)


def _upper(text: str, language: str) -> str:
    special = _UPPER.get(language)
    return text.upper() if special is None else special(text)


def _upper_turkish(text: str) -> str:
    return text.replace("i", "İ").upper()


def _upper_lithuanian(text: str) -> str:
    # The dot that stands above a lower-case i with an accent goes.
    return unicodedata.normalize("NFC", re.sub("(?<=[iįjIĮJ])\u0307", "", text).upper())


def _upper_greek(text: str) -> str:
    """Without accents, but with the dialytika that their absence makes necessary, and with ή "or" as it is."""
    decomposed = unicodedata.normalize("NFD", re.sub(r"(?<!\w)ή(?!\w)", "\ue000", text))
    decomposed = re.sub("([αεοΑΕΟ])\u0301([ιυΙΥ])(?!\u0308)", "\\1\\2\u0308", decomposed)
    plain = re.sub("(?<=[\u0370-\u03ff\u1f00-\u1fff\u0308])[\u0300\u0301\u0342\u0313\u0314]+", "", decomposed)
    return unicodedata.normalize("NFC", plain.upper()).replace("\ue000", "Ή")


def _upper_armenian(text: str) -> str:
    return text.replace("և", "ԵՎ").upper()


_UPPER: dict[str, Callable[[str], str]] = {
    "tr": _upper_turkish,
    "az": _upper_turkish,
    "lt": _upper_lithuanian,
    "el": _upper_greek,
    "hy": _upper_armenian,
}


def _lower(text: str, language: str) -> str:
    if language in ("tr", "az"):
        text = text.replace("İ", "i").replace("I\u0307", "i").replace("I", "ı")
    elif language == "lt":
        text = re.sub("([IJĮ])(?=[\u0300\u0301\u0303])", lambda match: match[0].lower() + "\u0307", text)
    return text.lower()


def _capitalized(word: str, language: str) -> str:
    first = word[0]
    if language == "nl" and word[:2].lower() == "ij":
        return "IJ" + word[2:]
    if language in ("tr", "az") and first == "i":
        return "İ" + word[1:]
    # A letter that is one with its neighbour, as ǆ, has a form of its own in titles; ß becomes Ss.
    return first.title() + word[1:]


def _wide(character: str) -> str:
    code = ord(character)
    if 0x21 <= code <= 0x7E:
        return chr(code + 0xFEE0)
    return "\u3000" if code == 0x20 else character


_KANA = str.maketrans(
    "ぁぃぅぇぉっゃゅょゎゕゖァィゥェォヵヶッャュョヮ", "あいうえおつやゆよわかけアイウエオカケツヤユヨワ"
)

# Single letters of formulas are set in italics of their own (MathML Core, section 4.2).
_MATHEMATICAL = (
    {chr(0x41 + n): chr(0x1D434 + n) for n in range(26)}
    | {chr(0x61 + n): chr(0x1D44E + n) for n in range(26)}
    | {chr(0x391 + n): chr(0x1D6E2 + n) for n in range(25) if n != 17}
    | {chr(0x3B1 + n): chr(0x1D6FC + n) for n in range(25)}
    | {"h": "\u210e", "ı": "\U0001d6a4", "ȷ": "\U0001d6a5", "∂": "\U0001d715", "ϵ": "\U0001d716"}
)


def small_capitals(text: str) -> str:
    """The capitals that replace small capitals where a font has none (CSS Fonts 4, section 6.6)."""
    return text.upper()
