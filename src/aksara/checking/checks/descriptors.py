"""What browsers understand of the descriptors of `@font-face` (CSS Fonts 4, section 4; CSS Fonts 5, section 4)."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence

from aksara.site.css.face_rules import Descriptor
from aksara.site.css.values import Token, meaningful, quantity

_DISPLAYS = ("auto", "block", "swap", "fallback", "optional")
_WEIGHTS = ("normal", "bold", "auto")
_WIDTHS = frozenset(
    "normal ultra-condensed extra-condensed condensed semi-condensed semi-expanded expanded extra-expanded "
    "ultra-expanded auto".split()
)
_RANGE = re.compile(r"u\+(?:[0-9a-f]{1,6}(?:-[0-9a-f]{1,6})?|[0-9a-f]{0,5}\?{1,6})", re.IGNORECASE)
_DEFAULTS = {"font-weight": "400", "font-style": "normal", "font-stretch": "normal"}
#: Descriptors whose values are not looked at.
_UNCHECKED = (
    "font-family", "src", "size-adjust", "ascent-override", "descent-override", "line-gap-override",
    "font-feature-settings", "font-variation-settings", "font-language-override", "font-named-instance",
    "subscript-position-override", "superscript-position-override", "subscript-size-override",
    "superscript-size-override",
)  # fmt: skip


def why_ignored(descriptor: Descriptor) -> str:
    """Why browsers ignore a descriptor; "" if they do not."""
    if descriptor.name.startswith("--") or descriptor.name in _UNCHECKED:
        return ""
    if not is_descriptor(descriptor.name):
        return "is not a descriptor of @font-face"
    is_right, reason = _CHECKS[descriptor.name]
    return "" if is_right(meaningful(descriptor.value)) else reason


def is_descriptor(name: str) -> bool:
    """Whether `@font-face` has a descriptor of that name."""
    return name in _CHECKS or name in _UNCHECKED


def default_of(name: str) -> str:
    """What browsers assume where they ignore a descriptor."""
    return f" and take the face for {_DEFAULTS[name]}" if name in _DEFAULTS else ""


def _keyword(token: Token) -> str:
    return str(token.lower_value) if token.type == "ident" else ""


def _is_weight(words: Sequence[Token]) -> bool:
    return 1 <= len(words) <= 2 and all(
        _keyword(word) in _WEIGHTS or (word.type == "number" and 1 <= word.value <= 1000) for word in words
    )


def _is_style(words: Sequence[Token]) -> bool:
    first = _keyword(words[0]) if words else ""
    if first == "oblique":
        return len(words) <= 3 and all(quantity(word) is not None for word in words[1:])
    return len(words) == 1 and first in ("normal", "italic", "auto")


def _is_width(words: Sequence[Token]) -> bool:
    return 1 <= len(words) <= 2 and all(_keyword(word) in _WIDTHS or word.type == "percentage" for word in words)


def _is_display(words: Sequence[Token]) -> bool:
    return len(words) == 1 and _keyword(words[0]) in _DISPLAYS


def _is_range(words: Sequence[Token]) -> bool:
    parts = "".join(word.serialize() for word in words).split(",")
    return all(_RANGE.fullmatch(part.replace(" ", "")) for part in parts)


_WIDTH = _is_width, "is not the width of a face: write a percentage, or a keyword such as condensed"
_CHECKS: Mapping[str, tuple[Callable[[Sequence[Token]], bool], str]] = {
    "font-weight": (_is_weight, "is not the weight of a face: write 1 to 1000, normal, bold, or two of these"),
    "font-style": (_is_style, "is not the style of a face: write normal, italic, oblique, or oblique with angles"),
    "font-stretch": _WIDTH,
    "font-width": _WIDTH,
    "font-display": (_is_display, f"is none of {', '.join(_DISPLAYS)}"),
    "unicode-range": (_is_range, "is not a list of ranges: write U+20-7E, U+A0"),
}
