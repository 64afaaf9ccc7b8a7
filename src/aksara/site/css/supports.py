"""`@supports`, settled as browsers of today would (CSS Conditional 5)."""

from __future__ import annotations

from collections.abc import Sequence

from aksara.limits import MAX_SUPPORTS_DEPTH
from aksara.site.css.declarations import parse_declaration
from aksara.site.css.properties import LONGHANDS
from aksara.site.css.selector_parsing import parse_selectors
from aksara.site.css.values import Token, meaningful

# Prefixed properties that browsers have as such, apart from those that stand for plain ones.
_FOREIGN = ("-moz-", "-ms-", "-o-", "-khtml-", "-apple-")
_ONLY_PHONES = frozenset(("-webkit-touch-callout", "-webkit-overflow-scrolling"))


def is_supported(tokens: Sequence[Token], depth: int = 0) -> bool:
    """Whether a condition holds. Properties are taken to be known unless their prefix is another browser's."""
    parts = meaningful(tokens)
    if not parts or depth > MAX_SUPPORTS_DEPTH:
        return False
    if _word(parts[0]) == "not":
        return len(parts) == 2 and not _holds(parts[1], depth)
    if len(parts) > 1 and parts[0].type == "ident" and parts[1].type == "literal":
        return _declares(parts)
    verdicts = [_holds(part, depth) for part in parts[::2]]
    joints = {_word(part) for part in parts[1::2]}
    if joints == {"or"}:
        return any(verdicts)
    return joints <= {"and"} and all(verdicts)


def _word(token: Token) -> str:
    return str(token.lower_value) if token.type == "ident" else ""


def _holds(token: Token, depth: int) -> bool:
    if token.type == "() block":
        return is_supported(token.content, depth + 1)
    if token.type == "function":
        if token.lower_name == "selector":
            return bool(parse_selectors(token.arguments))
        return token.lower_name in ("font-tech", "font-format")
    return False


def _declares(parts: Sequence[Token]) -> bool:
    property_token = parts[0]
    if property_token.type != "ident":
        return False
    is_custom = property_token.value.startswith("--")
    name = property_token.value if is_custom else property_token.lower_value
    if name.startswith(_FOREIGN) or name in _ONLY_PHONES:
        return False
    if name in LONGHANDS:
        return bool(parse_declaration(name, "".join(f"{part.serialize()} " for part in parts[2:]).strip()))
    value = " ".join(part.serialize() for part in parts[2:])
    return bool(value) and not value.startswith(_FOREIGN)
