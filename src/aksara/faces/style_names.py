"""The words that font makers use for weight, width and slant, glued or spaced, long or short."""

from __future__ import annotations

import re

from msgspec import Struct, field

from aksara.faces.style import Style

_WEIGHTS = {
    "thin": 100,
    "hairline": 100,
    "extralight": 200,
    "ultralight": 200,
    "xlight": 200,
    "light": 300,
    "regular": 400,
    "normal": 400,
    "roman": 400,
    "book": 400,
    "medium": 500,
    "semibold": 600,
    "demibold": 600,
    "demi": 600,
    "bold": 700,
    "extrabold": 800,
    "ultrabold": 800,
    "xbold": 800,
    "black": 900,
    "heavy": 900,
    "extrablack": 950,
    "ultrablack": 950,
    "ultra": 900,
    "poster": 900,
    "fat": 900,
    # Abbreviations, as in PostScript and file names.
    "th": 100,
    "xlt": 200,
    "lt": 300,
    "rg": 400,
    "md": 500,
    "smbd": 600,
    "bd": 700,
    "xbd": 800,
    "blk": 900,
}
_WIDTHS = {
    "ultracondensed": 50.0,
    "extracondensed": 62.5,
    "condensed": 75.0,
    "cond": 75.0,
    "cn": 75.0,
    "narrow": 75.0,
    "compressed": 62.5,
    "semicondensed": 87.5,
    "semiexpanded": 112.5,
    "expanded": 125.0,
    "extended": 125.0,
    "wide": 125.0,
    "extraexpanded": 150.0,
    "ultraexpanded": 200.0,
}
_SLANTS: dict[str, Style] = {
    "italic": "italic",
    "ital": "italic",
    "it": "italic",
    "kursiv": "italic",
    "cursive": "italic",
    "oblique": "oblique",
    "obl": "oblique",
    "slanted": "oblique",
    "inclined": "oblique",
}
#: Words for the ends of the scale, which makers order as they like.
_ELASTIC = frozenset(
    {"thin", "hairline", "extralight", "ultralight", "heavy", "black", "extrabold", "ultrabold", "extrablack", "ultra"}
)
#: What makes a word for the width an exact one.
_EXACT = ("ultra", "extra", "semi")
#: Words that say nothing but that nothing else is said.
_PLAIN = frozenset({"regular", "normal", "roman", "rg", "upright"})
#: Words that as often belong to the family ("Penyu Roman", "Penyu Book") as to the style.
_AMBIGUOUS = frozenset({"regular", "normal", "roman", "book", "it", "th", "md", "lt"})
# Too short to be read out of the middle of a glued word.
_GLUED = sorted((w for w in {**_WEIGHTS, **_WIDTHS, **_SLANTS} if len(w) > 2), key=len, reverse=True)
_GLUED_SHORT = ("bd", "lt", "it", "md", "rg", "th")
_PART = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|\d+|[^\W\d_a-zA-Z]+")


class StyleName(Struct):
    """The style in a name; None for what it does not mention.

    `plain`: it says "Regular" or the like; `elastic`: its word for the weight may mean the next step as well;
    `exact_width`: its word for the width is one of CSS's own and not just "Condensed" or the like;
    `rest` is what remains, in its own spelling.
    """

    weight: int | None = None
    width: float | None = None
    slant: Style | None = None
    plain: bool = False
    elastic: bool = False
    exact_width: bool = False
    rest: list[str] = field(default_factory=list)

    def take(self, word: str) -> bool:
        """Take the word in if it is one of style; the first of each kind counts."""
        if word in _PLAIN:
            self.plain = True
        elif word in _WEIGHTS:
            self.elastic = self.elastic or (self.weight is None and word in _ELASTIC)
            self.weight = self.weight or _WEIGHTS[word]
        elif word in _WIDTHS:
            self.exact_width = self.exact_width or (self.width is None and word.startswith(_EXACT))
            self.width = self.width or _WIDTHS[word]
        elif word in _SLANTS:
            self.slant = self.slant or _SLANTS[word]
        else:
            return False
        return True


def read_style_name(text: str) -> StyleName:
    """All style words in a style name, in any position."""
    result = StyleName()
    words = _words(text)
    index = 0
    while index < len(words):
        pair = "".join(words[index : index + 2]).lower()
        if pair in _WEIGHTS or pair in _WIDTHS:  # "Extra Light", "Semi-Bold", "SmBd"
            result.take(pair)
            index += 2
            continue
        if not result.take(words[index].lower()) and not _take_glued(words[index].lower(), result):
            result.rest.append(words[index])
        index += 1
    return result


def split_family_name(text: str) -> tuple[str, StyleName]:
    """A family name without the style words at its end, and these: "Penyu Sans Light" → "Penyu Sans", 300.

    The first word always stays: a family has a name.
    """
    words = text.split()
    best, style = text, StyleName()
    for start in range(len(words) - 1, 0, -1):
        tail = read_style_name(" ".join(words[start:]))
        if tail.rest or words[start].lower() in _AMBIGUOUS:
            break
        best, style = " ".join(words[:start]), tail
    stem, _, behind = text.rpartition("-")
    if stem and style == StyleName() and not (tail := read_style_name(behind)).rest:
        best, style = stem, tail
    return best.rstrip(" -"), style


def _words(text: str) -> list[str]:
    """Words, taken apart at blanks, hyphens and inner capitals; "BdIt" gives Bd, It."""
    return _PART.findall(text)


def _take_glued(word: str, result: StyleName) -> bool:
    """A word made only of style words, as "bolditalic"; all or nothing."""
    parts, rest = [], word
    while rest:
        part = next((w for w in (*_GLUED, *_GLUED_SHORT) if rest.startswith(w)), None)
        if part is None:
            return False
        parts.append(part)
        rest = rest[len(part) :]
    for part in parts:
        result.take(part)
    return True
