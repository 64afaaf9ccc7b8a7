"""Values of CSS: custom properties put in place, and numbers worked out (CSS Variables 1, CSS Values 4)."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from functools import lru_cache

import tinycss2
from tinycss2 import ast
from tinycss2.ast import (
    AtRule,
    Comment,
    CurlyBracketsBlock,
    Declaration,
    DimensionToken,
    FunctionBlock,
    LiteralToken,
    NumberToken,
    ParenthesesBlock,
    ParseError,
    PercentageToken,
    QualifiedRule,
    SquareBracketsBlock,
    WhitespaceToken,
)

from aksara.limits import MAX_VALUE_DEPTH, MAX_VALUE_LENGTH

#: A component value, as tinycss2 has them (CSS Syntax 3, section 5.4.8).
Token = (
    ast.ParseError | ast.Comment | ast.WhitespaceToken | ast.LiteralToken | ast.IdentToken | ast.AtKeywordToken
    | ast.HashToken | ast.StringToken | ast.URLToken | ast.UnicodeRangeToken | ast.NumberToken | ast.PercentageToken
    | ast.DimensionToken | ast.ParenthesesBlock | ast.SquareBracketsBlock | ast.CurlyBracketsBlock | ast.FunctionBlock
)  # fmt: skip
#: What stands in the block of a rule, without white space and comments.
BlockItem = Declaration | QualifiedRule | AtRule | ParseError


_LONG_NUMBER = re.compile(r"[0-9]{300,}")
_LARGEST = 1e9


def readable(css: str) -> str:
    """The text with numbers cut that have more digits than Python makes a number of."""
    return _LONG_NUMBER.sub(lambda digits: digits[0][:300], css)


def whole(number: float) -> int:
    """A whole number, as large as browsers' own at the most; 0 for none."""
    return 0 if math.isnan(number) else int(max(-_LARGEST, min(number, _LARGEST)))


@lru_cache(maxsize=8192)
def tokens_of(text: str) -> tuple[Token, ...]:
    """The component values of a text, without comments."""
    return tuple(tinycss2.parse_component_value_list(readable(text), skip_comments=True))


def block_items(block: str | Sequence[Token] | None) -> list[BlockItem]:
    """The declarations and rules of a block (None for a rule without one); numbers beyond Python's are cut."""
    source = readable(block) if isinstance(block, str) else block or ()
    items = tinycss2.parse_blocks_contents(source, skip_comments=True, skip_whitespace=True)
    return [item for item in items if not isinstance(item, Comment | WhitespaceToken)]


def meaningful(tokens: Sequence[Token]) -> list[Token]:
    """The tokens without white space and comments."""
    return [token for token in tokens if token.type not in ("whitespace", "comment")]


def value_text(tokens: Sequence[Token]) -> str:
    """A declaration's value as text, by which it is parsed and cached; "" for brackets nested beyond all bounds."""
    try:
        return str(tinycss2.serialize(tokens)).strip()
    except RecursionError:
        return ""


def split_at_commas(tokens: Sequence[Token]) -> list[list[Token]]:
    """The parts between commas."""
    parts: list[list[Token]] = [[]]
    for token in tokens:
        if isinstance(token, LiteralToken) and token.value == ",":
            parts.append([])
        else:
            parts[-1].append(token)
    return parts


def variable_names(tokens: Sequence[Token], depth: int = 0) -> set[str]:
    """The custom properties that the tokens refer to."""
    names: set[str] = set()
    if depth > MAX_VALUE_DEPTH:
        return names
    for token in tokens:
        if token.type == "function":
            if token.lower_name == "var":
                names |= {argument.value for argument in meaningful(token.arguments)[:1] if argument.type == "ident"}
            names |= variable_names(token.arguments, depth + 1)
        elif isinstance(token, ParenthesesBlock | SquareBracketsBlock | CurlyBracketsBlock):
            names |= variable_names(token.content, depth + 1)
    return names


def substitute(text: str, custom: Mapping[str, str], depth: int = 0) -> str | None:
    """The text with `var()` replaced; None where it is invalid at computed-value time."""
    parts: list[str] = []
    length = 0
    for token in tokens_of(text):
        part = _substituted(token, custom, depth)
        if part is None:
            return None
        length += len(part)
        if length > MAX_VALUE_LENGTH:
            return None
        parts.append(part)
    return "".join(parts)


def _substituted(token: Token, custom: Mapping[str, str], depth: int) -> str | None:
    if depth > MAX_VALUE_DEPTH:
        return None
    if token.type == "function" and token.lower_name == "var":
        name, comma, fallback = _var_parts(token.arguments)
        if name in custom:
            return custom[name]
        return substitute(fallback.strip(), custom, depth + 1) if comma else None
    if token.type == "function":
        inner = substitute(tinycss2.serialize(token.arguments), custom, depth + 1)
        return None if inner is None else f"{token.name}({inner})"
    if token.type == "() block":
        inner = substitute(tinycss2.serialize(token.content), custom, depth + 1)
        return None if inner is None else f"({inner})"
    return token.serialize()


def _var_parts(arguments: Sequence[Token]) -> tuple[str, bool, str]:
    """Name, whether a fallback follows, and the fallback."""
    for index, token in enumerate(arguments):
        if token.type == "literal" and token.value == ",":
            return _name(arguments[:index]), True, tinycss2.serialize(arguments[index + 1 :])
    return _name(arguments), False, ""


def _name(tokens: Sequence[Token]) -> str:
    return next((str(token.value) for token in tokens if token.type == "ident"), "")


def resolve_custom(declared: Mapping[str, str], inherited: Mapping[str, str]) -> dict[str, str]:
    """The custom properties of an element, each with its own variables in place.

    One in a cycle, or that grows too long, does not exist at all.
    """
    result = dict(inherited)
    resolving: list[str] = []
    done: set[str] = set()

    def resolve(name: str) -> None:
        if name in done or name not in declared:
            return
        if name in resolving or len(resolving) > MAX_VALUE_DEPTH:
            # All of the cycle is invalid, as if nothing had been declared (section 2.3).
            for variable in [*resolving[resolving.index(name) if name in resolving else 0 :], name]:
                result.pop(variable, None)
                done.add(variable)
            return
        resolving.append(name)
        text = declared[name]
        for used in sorted(variable_names(tokens_of(text))):
            resolve(used)
        resolving.pop()
        if name in done:
            return
        done.add(name)
        if (word := text.strip().lower()) in ("inherit", "unset", "revert", "revert-layer"):
            return
        value = None if word == "initial" else substitute(text, result)
        if value is None:
            result.pop(name, None)
        else:
            result[name] = value

    for name in declared:
        resolve(name)
    return result


#: A number with its unit: "" for numbers, "%" for percentages, else lower case.
Quantity = tuple[float, str]
_ANGLES = {"deg": 1.0, "grad": 0.9, "rad": 180 / math.pi, "turn": 360.0}


def quantity(token: Token, depth: int = 0) -> Quantity | None:
    """The value of a number or a mathematical function; None for anything else. Angles are in degrees."""
    if isinstance(token, NumberToken):
        return float(token.value), ""
    if isinstance(token, PercentageToken):
        return float(token.value), "%"
    if isinstance(token, DimensionToken):
        unit = token.lower_unit
        return (float(token.value) * _ANGLES[unit], "deg") if unit in _ANGLES else (float(token.value), unit)
    if depth > MAX_VALUE_DEPTH:
        return None
    if isinstance(token, ParenthesesBlock):
        return _sum(meaningful(token.content), depth + 1)
    if isinstance(token, FunctionBlock):
        return _function(token, depth + 1)
    return None


def _function(token: FunctionBlock, depth: int) -> Quantity | None:
    name = token.lower_name
    if name in ("calc", "-webkit-calc"):
        return _sum(meaningful(token.arguments), depth)
    if name not in ("min", "max", "clamp", "round"):
        return None
    values = [_sum(part, depth) for part in split_at_commas(meaningful(token.arguments))]
    numbers = [value[0] for value in values if value is not None]
    if len(numbers) < len(values) or values[0] is None or len({value[1] for value in values if value}) > 1:
        return None
    if name == "clamp":
        return (max(numbers[0], min(numbers[1], numbers[2])), values[0][1]) if len(numbers) == 3 else None
    if name == "round":
        step = numbers[1] if len(numbers) > 1 else 1
        return (round(numbers[0] / step) * step if step else numbers[0], values[0][1])
    return ((min if name == "min" else max)(numbers), values[0][1])


def _sum(tokens: Sequence[Token], depth: int) -> Quantity | None:
    """Terms that are added or subtracted (CSS Values 4, section 10.8)."""
    total: Quantity | None = None
    sign = 1.0
    term: list[Token] = []
    for token in [*tokens, None]:
        if token is None or (isinstance(token, LiteralToken) and token.value in "+-"):
            value = _product(term, depth)
            if value is None or (total is not None and value[1] != total[1]):
                return None
            total = (sign * value[0] + (total[0] if total is not None else 0), value[1])
            sign = -1.0 if token is not None and token.value == "-" else 1.0
            term = []
        else:
            term.append(token)
    return total


def _product(tokens: Sequence[Token], depth: int) -> Quantity | None:
    if not tokens or len(tokens) % 2 == 0:
        return None
    result = quantity(tokens[0], depth)
    for operator, token in zip(tokens[1::2], tokens[2::2], strict=True):
        value = quantity(token, depth)
        if result is None or value is None or not isinstance(operator, LiteralToken):
            return None
        if operator.value == "*" and "" in (result[1], value[1]):
            result = (result[0] * value[0], result[1] or value[1])
        elif operator.value == "/" and not value[1] and value[0]:
            result = (result[0] / value[0], result[1])
        else:
            return None
    return result if result is not None and math.isfinite(result[0]) else None
