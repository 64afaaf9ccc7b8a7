"""Declarations: shorthands taken apart, keywords that every property takes, and what waits for variables.

CSS Fonts 4 (`font`, `font-variant`), CSS Lists 3 (`list-style`), CSS Cascade 5 (`all`).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache

from aksara.site.css.properties import (
    CAPS,
    EAST_ASIAN,
    LIGATURES,
    LONGHANDS,
    NUMERIC,
    WIDTHS,
    Declared,
    Pending,
    Value,
    Wide,
    keyword_of,
    parse_family,
    parse_list_style_type,
    parse_style,
    parse_weight,
)
from aksara.site.css.values import Token, meaningful, quantity, tokens_of, variable_names

_ALIASES = {
    "font-width": "font-stretch",
    "-webkit-hyphens": "hyphens",
    "line-clamp": "-webkit-line-clamp",
    "white-space-collapse": "white-space",
    "-webkit-font-feature-settings": "font-feature-settings",
}

# The longhands that each shorthand sets.
_SHORTHANDS: dict[str, tuple[str, ...]] = {
    "font": tuple(name for name in LONGHANDS if name.startswith("font-")),
    "font-variant": tuple(name for name in LONGHANDS if name.startswith("font-variant-")),
    "list-style": ("list-style-type",),
    "all": tuple(LONGHANDS),
}

#: Properties whose declarations are read; custom properties besides.
RELEVANT = frozenset(LONGHANDS) | frozenset(_ALIASES) | frozenset(_SHORTHANDS)

_SYSTEM_FONTS = frozenset("caption icon menu message-box small-caption status-bar".split())
#: The family of the fonts that `font: menu` and the like stand for.
SYSTEM_FAMILY = ("Arial",)
_SIZES = frozenset(
    "xx-small x-small small medium large x-large xx-large xxx-large -webkit-xxx-large larger smaller math".split()
)


def _initial(names: Sequence[str]) -> Declared:
    return {name: LONGHANDS[name].initial for name in names}


def _font(tokens: Sequence[Token]) -> Declared | None:
    """The `font` shorthand (CSS Fonts 4, section 2.7)."""
    result = _initial(_SHORTHANDS["font"])
    if (word := keyword_of(tokens)) in _SYSTEM_FONTS or word.startswith("-webkit-"):
        return result | {"font-family": SYSTEM_FAMILY}
    rest = list(tokens)
    while rest and not _is_size(rest[0]):
        if keyword_of(rest[:1]) != "normal" and not (taken := _font_part(rest, result)):
            return None
        del rest[: 1 if keyword_of(rest[:1]) == "normal" else taken]
    if not rest:
        return None
    del rest[0]
    if rest and rest[0].type == "literal" and rest[0].value == "/":
        del rest[:2]
    family = parse_family(rest) if rest else None
    return None if family is None else result | {"font-family": family}


def _font_part(rest: Sequence[Token], result: Declared) -> int:
    """The number of tokens in front that are style, weight, width or capitals; they are added to the result."""
    angle = quantity(rest[1]) if keyword_of(rest[:1]) == "oblique" and len(rest) > 1 else None
    if angle is not None and angle[1] == "deg":
        result["font-style"] = parse_style(rest[:2])
        return 2 if result["font-style"] else 0
    if keyword_of(rest[:1]) == "small-caps":
        result["font-variant-caps"] = "small-caps"
        return 1
    word = keyword_of(rest[:1])
    for name, parse in (("font-style", parse_style), ("font-weight", parse_weight)):
        value = parse(rest[:1])
        if value is not None:
            result[name] = value
            return 1
    if word in WIDTHS:
        result["font-stretch"] = WIDTHS[word]
        return 1
    return 0


def _is_size(token: Token) -> bool:
    if token.type == "ident":
        return token.lower_value in _SIZES
    if token.type == "number":
        return bool(token.value == 0)
    number = quantity(token)
    return token.type in ("dimension", "percentage") or (
        token.type == "function" and (number is None or bool(number[1]))
    )


def _font_variant(tokens: Sequence[Token]) -> Declared | None:
    """The `font-variant` shorthand (CSS Fonts 4, section 6.11)."""
    result = _initial(_SHORTHANDS["font-variant"])
    word = keyword_of(tokens)
    if word == "normal":
        return result
    if word == "none":
        return result | {"font-variant-ligatures": ("none",)}
    parts: dict[str, list[Token]] = {}
    for token in tokens:
        name = "font-variant-alternates"
        if token.type == "ident":
            keyword = token.lower_value
            name = next((name for name, words in _VARIANT_WORDS.items() if keyword in words), name)
        parts.setdefault(name, []).append(token)
    for name, part in parts.items():
        value = LONGHANDS[name].parse(part)
        if value is None:
            return None
        result[name] = value
    return result


_VARIANT_WORDS: dict[str, frozenset[str]] = {
    "font-variant-caps": frozenset(CAPS),
    "font-variant-ligatures": frozenset(word for group in LIGATURES for word in group),
    "font-variant-numeric": frozenset(word for group in NUMERIC for word in group),
    "font-variant-east-asian": frozenset(word for group in EAST_ASIAN for word in group),
    "font-variant-position": frozenset(("sub", "super")),
}


def _list_style(tokens: Sequence[Token]) -> Declared | None:
    """The `list-style` shorthand; images are ignored (CSS Lists 3, section 3.4)."""
    style: Value = None
    nones = 0
    for token in tokens:
        if token.type == "ident" and token.lower_value in ("inside", "outside"):
            continue
        if token.type == "url" or (token.type == "function" and token.lower_name != "symbols"):
            continue
        if token.type == "ident" and token.lower_value == "none":
            nones += 1
            continue
        if style is not None or (style := parse_list_style_type([token])) is None:
            return None
    if style is None:
        style = "none" if nones else "disc"
    return {"list-style-type": style}


_PARSE_SHORTHAND: Mapping[str, Callable[[Sequence[Token]], Declared | None]] = {
    "font": _font,
    "font-variant": _font_variant,
    "list-style": _list_style,
}


@lru_cache(maxsize=16384)
def parse_declaration(name: str, text: str) -> Declared:
    """The longhands that a declaration sets, by its property's name in lower case; {} where it is invalid."""
    name = _ALIASES.get(name, name)
    names = _SHORTHANDS.get(name, (name,))
    tokens = tokens_of(text)
    if variable_names(tokens):
        return dict.fromkeys(names, Pending(name, text))
    tokens = tuple(meaningful(tokens))
    word = keyword_of(tokens)
    for wide in Wide:
        if word == wide.value:
            return dict.fromkeys(names, wide)
    if name in _PARSE_SHORTHAND:
        return (tokens and _PARSE_SHORTHAND[name](tokens)) or {}
    if name == "all" or not tokens:
        return {}
    value = LONGHANDS[name].parse(tokens)
    return {} if value is None else {name: value}


def parse_pending(pending: Pending, longhand: str, text: str) -> Value | None:
    """The value of a longhand once variables are in place; None where it is invalid at computed-value time."""
    return parse_declaration(pending.name, text).get(longhand)
