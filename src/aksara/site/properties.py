"""The properties that say which face a text is set in, and what text there is: how their values are read.

CSS Fonts 4, CSS Text 3 and 4, CSS Lists 3, CSS Generated Content 3, CSS Display 3. All others are passed over.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from functools import lru_cache
from typing import Any

import tinycss2

from aksara.site.values import Token, meaningful, quantity, split_at_commas, tokens_of, variable_names

#: A parsed value; what it is depends on the property.
Value = Any
#: Longhand → value, in which CSS-wide keywords and what waits for variables may stand.
Declared = dict[str, Value]


class Wide(Enum):
    """The keywords that every property takes (CSS Cascade 5, section 7.3)."""

    INITIAL = "initial"
    INHERIT = "inherit"
    UNSET = "unset"
    REVERT = "revert"
    REVERT_LAYER = "revert-layer"


@dataclass(slots=True, frozen=True)
class Pending:
    """A value with `var()` in it, which is parsed once they are in place; `name` is the property it was given for."""

    name: str
    text: str


@dataclass(slots=True, frozen=True)
class Longhand:
    """`parse` gives the value, or None where it is invalid."""

    initial: Value
    inherited: bool
    parse: Callable[[Sequence[Token]], Value | None]


def _keywords(*allowed: str) -> Callable[[Sequence[Token]], Value | None]:
    def parse(tokens: Sequence[Token]) -> Value | None:
        word = _ident(tokens)
        return word if word in allowed else None

    return parse


def _several(none: str, groups: Sequence[Sequence[str]]) -> Callable[[Sequence[Token]], Value | None]:
    """`normal`, or one keyword at most of each group, in any order; gives the keywords sorted."""

    def parse(tokens: Sequence[Token]) -> Value | None:
        if _ident(tokens) == none:
            return ()
        words = [token.lower_value if token.type == "ident" else "" for token in tokens]
        places = [next((n for n, group in enumerate(groups) if word in group), -1) for word in words]
        if not words or -1 in places or len(set(places)) < len(places):
            return None
        return tuple(sorted(words))

    return parse


def _ident(tokens: Sequence[Token]) -> str:
    """The keyword that is the whole value, else ""."""
    return str(tokens[0].lower_value) if len(tokens) == 1 and tokens[0].type == "ident" else ""


#: Families that the browser stands in for (CSS Fonts 4, section 2.1.2); they are written without quotes.
_GENERIC = frozenset(
    "serif sans-serif monospace cursive fantasy system-ui ui-serif ui-sans-serif ui-monospace ui-rounded math "
    "fangsong emoji".split()
)


def _family(tokens: Sequence[Token]) -> Value | None:
    names = []
    for part in split_at_commas(tokens):
        if len(part) == 1 and part[0].type == "string":
            names.append(" ".join(part[0].value.split()))
        elif part and all(token.type == "ident" for token in part):
            name = " ".join(token.value for token in part)
            names.append(name.lower() if name.lower() in _GENERIC else name)
        elif len(part) == 1 and part[0].type == "function" and part[0].lower_name == "generic":
            names.append(part[0].serialize())
        else:
            return None
    return tuple(names)


_WEIGHTS = {"normal": 400.0, "bold": 700.0}


def _weight(tokens: Sequence[Token]) -> Value | None:
    word = _ident(tokens)
    if word in ("bolder", "lighter"):
        return word
    if word in _WEIGHTS:
        return _WEIGHTS[word]
    number = quantity(tokens[0]) if len(tokens) == 1 else None
    if number is None or number[1]:
        return None
    if tokens[0].type == "function":
        return min(max(number[0], 1.0), 1000.0)
    return number[0] if 1 <= number[0] <= 1000 else None


def _style(tokens: Sequence[Token]) -> Value | None:
    """`normal`, `italic`, or `oblique` with an angle in degrees."""
    word = _ident(tokens[:1])
    if word == "oblique" and len(tokens) == 2:
        angle = quantity(tokens[1])
        if angle is None or (angle[1] != "deg" and (angle[1] or angle[0])) or abs(angle[0]) > 90:
            return None
        return f"oblique {angle[0]:g}deg" if angle[0] else "normal"
    if len(tokens) != 1 or word not in ("normal", "italic", "oblique"):
        return None
    return word


_WIDTHS = {
    "ultra-condensed": 50.0,
    "extra-condensed": 62.5,
    "condensed": 75.0,
    "semi-condensed": 87.5,
    "normal": 100.0,
    "semi-expanded": 112.5,
    "expanded": 125.0,
    "extra-expanded": 150.0,
    "ultra-expanded": 200.0,
}


def _width(tokens: Sequence[Token]) -> Value | None:
    if (word := _ident(tokens)) in _WIDTHS:
        return _WIDTHS[word]
    number = quantity(tokens[0]) if len(tokens) == 1 else None
    return number[0] if number is not None and number[1] == "%" and number[0] >= 0 else None


def _settings(tokens: Sequence[Token]) -> Value | None:
    """Tags with their values."""
    if _ident(tokens) == "normal":
        return ()
    found: dict[str, float] = {}
    for part in split_at_commas(tokens):
        if not part or part[0].type != "string" or len(part[0].value) != 4 or len(part) > 2:
            return None
        value = 1.0
        if len(part) == 2:
            word, number = _ident(part[1:]), quantity(part[1])
            if word in ("on", "off"):
                value = float(word == "on")
            elif number is not None and not number[1]:
                value = number[0]
            else:
                return None
        found[part[0].value] = value
    return tuple(sorted(found.items()))


def _alternates(tokens: Sequence[Token]) -> Value | None:
    """Names with their arguments: `(("styleset", ("round",)), ("historical-forms", ()))`."""
    if _ident(tokens) == "normal":
        return ()
    found = []
    for token in tokens:
        if token.type == "ident" and token.lower_value == "historical-forms":
            found.append(("historical-forms", ()))
        elif token.type == "function":
            names = tuple(each.value for each in token.arguments if each.type == "ident")
            found.append((token.lower_name, names))
        else:
            return None
    return tuple(found)


def _quotes(tokens: Sequence[Token]) -> Value | None:
    """ "auto", or pairs of marks, outermost first."""
    if (word := _ident(tokens)) in ("auto", "none", "match-parent"):
        return () if word == "none" else "auto"
    if not tokens or len(tokens) % 2 or any(token.type != "string" for token in tokens):
        return None
    marks = [token.value for token in tokens]
    return tuple(zip(marks[::2], marks[1::2], strict=True))


def _white_space(tokens: Sequence[Token]) -> Value | None:
    """How white space collapses (CSS Text 4, `white-space-collapse`)."""
    modes = {"normal": "collapse", "nowrap": "collapse", "pre": "preserve", "pre-wrap": "preserve",
             "pre-line": "preserve-breaks", "break-spaces": "preserve", "collapse": "collapse", "preserve": "preserve",
             "preserve-breaks": "preserve-breaks", "wrap": "collapse", "-moz-pre-wrap": None}  # fmt: skip
    words = [token.lower_value if token.type == "ident" else "" for token in tokens]
    found = [modes.get(word) for word in words]
    if not words or None in found:
        return None
    return next((mode for mode in found if mode != "collapse"), "collapse")


def _list_style_type(tokens: Sequence[Token]) -> Value | None:
    """The name of a counter style, in lower case, or a text in quotes as `("text",)`."""
    if len(tokens) != 1:
        return None
    token = tokens[0]
    if token.type == "string":
        return (token.value,)
    if token.type == "function" and token.lower_name == "symbols":
        return ("".join(each.value for each in token.arguments if each.type == "string"),)
    return token.value if token.type == "ident" else None


def _counters(initial: int) -> Callable[[Sequence[Token]], Value | None]:
    """Names with their numbers."""

    def parse(tokens: Sequence[Token]) -> Value | None:
        if _ident(tokens) == "none":
            return ()
        found: list[tuple[str, int]] = []
        for token in tokens:
            if token.type == "ident":
                found.append((token.value, initial))
            elif token.type == "function" and token.lower_name == "reversed":
                found += [(each.value, initial) for each in token.arguments if each.type == "ident"]
            elif found and (number := quantity(token)) is not None and not number[1]:
                found[-1] = (found[-1][0], int(max(-1e9, min(number[0], 1e9))))
            else:
                return None
        return tuple(found)

    return parse


#: A part of generated content: its kind (`text`, `attr`, `counter`, `counters`, or a keyword for quotes), and what
#: goes with it.
ContentPart = tuple[str, tuple[str, ...]]


def _content(tokens: Sequence[Token]) -> Value | None:
    """ "normal", "none", or the parts of generated content (CSS Generated Content 3, section 1)."""
    if (word := _ident(tokens)) in ("normal", "none"):
        return word
    parts: list[ContentPart] = []
    for token in tokens:
        if token.type == "literal" and token.value == "/":
            break  # what follows is for screen readers
        if token.type == "string":
            parts.append(("text", (token.value,)))
        elif token.type == "ident" and token.lower_value in (
            "open-quote", "close-quote", "no-open-quote", "no-close-quote", "contents"
        ):  # fmt: skip
            parts.append((token.lower_value, ()))
        elif token.type == "function" and token.lower_name in ("attr", "counter", "counters"):
            part = _content_function(token)
            if part is None:
                return None
            parts.append(part)
        elif token.type in ("url", "function"):
            parts.append(("image", ()))
        else:
            return None
    return tuple(parts) if parts else None


def _content_function(token: Token) -> ContentPart | None:
    name = token.lower_name
    arguments = [meaningful(part) for part in split_at_commas(token.arguments)]
    if not arguments[0] or arguments[0][0].type != "ident":
        return None
    words = [arguments[0][0].value]
    if name == "attr":
        rest = arguments[1] if len(arguments) > 1 else []
        words += [rest[0].value] if rest and rest[0].type == "string" else []
        return name, tuple(words)
    if name == "counters":
        if len(arguments) < 2 or not arguments[1] or arguments[1][0].type != "string":
            return None
        words.append(arguments[1][0].value)
    last = arguments[2:] if name == "counters" else arguments[1:]
    style = _list_style_type(last[0]) if last else "decimal"
    words.append(style if isinstance(style, str) else "decimal")
    return name, tuple(words)


def _display(tokens: Sequence[Token]) -> Value | None:
    words = [token.lower_value if token.type == "ident" else "" for token in tokens]
    return " ".join(words) if words and all(words) else None


def _text_overflow(tokens: Sequence[Token]) -> Value | None:
    """What marks text that was cut at its end; "" for nothing."""
    if not 1 <= len(tokens) <= 2:
        return None
    token = tokens[-1]
    if token.type == "string":
        return token.value
    word = token.lower_value if token.type == "ident" else ""
    return {"clip": "", "ellipsis": "…", "fade": ""}.get(word)


def _line_clamp(tokens: Sequence[Token]) -> Value | None:
    """Whether text may be cut after some lines."""
    if _ident(tokens) == "none":
        return False
    return True if any(quantity(token) for token in tokens) else None


_LIGATURES = (
    ("common-ligatures", "no-common-ligatures"),
    ("discretionary-ligatures", "no-discretionary-ligatures"),
    ("historical-ligatures", "no-historical-ligatures"),
    ("contextual", "no-contextual"),
    ("none",),
)
_NUMERIC = (
    ("lining-nums", "oldstyle-nums"),
    ("proportional-nums", "tabular-nums"),
    ("diagonal-fractions", "stacked-fractions"),
    ("ordinal",),
    ("slashed-zero",),
)
_EAST_ASIAN = (
    ("jis78", "jis83", "jis90", "jis04", "simplified", "traditional"),
    ("full-width", "proportional-width"),
    ("ruby",),
)
_CAPS = ("small-caps", "all-small-caps", "petite-caps", "all-petite-caps", "unicase", "titling-caps")
_TRANSFORMS = (("capitalize", "uppercase", "lowercase", "math-auto"), ("full-width",), ("full-size-kana",))

#: Every longhand that is cascaded.
LONGHANDS: dict[str, Longhand] = {
    # What browsers set text in where nothing else is said.
    "font-family": Longhand(("Times New Roman",), True, _family),
    "font-weight": Longhand(400.0, True, _weight),
    "font-style": Longhand("normal", True, _style),
    "font-stretch": Longhand(100.0, True, _width),
    "font-variant-caps": Longhand("normal", True, _keywords("normal", *_CAPS)),
    "font-variant-ligatures": Longhand((), True, _several("normal", _LIGATURES)),
    "font-variant-numeric": Longhand((), True, _several("normal", _NUMERIC)),
    "font-variant-east-asian": Longhand((), True, _several("normal", _EAST_ASIAN)),
    "font-variant-position": Longhand("normal", True, _keywords("normal", "sub", "super")),
    "font-variant-alternates": Longhand((), True, _alternates),
    "font-feature-settings": Longhand((), True, _settings),
    "font-variation-settings": Longhand((), True, _settings),
    "text-transform": Longhand((), True, _several("none", _TRANSFORMS)),
    "quotes": Longhand("auto", True, _quotes),
    "hyphens": Longhand("manual", True, _keywords("none", "manual", "auto")),
    "white-space": Longhand("collapse", True, _white_space),
    "list-style-type": Longhand("disc", True, _list_style_type),
    "-webkit-text-security": Longhand("none", True, _keywords("none", "disc", "circle", "square")),
    "display": Longhand("inline", False, _display),
    "content": Longhand("normal", False, _content),
    "counter-reset": Longhand((), False, _counters(0)),
    "counter-increment": Longhand((), False, _counters(1)),
    "counter-set": Longhand((), False, _counters(0)),
    "text-overflow": Longhand("", False, _text_overflow),
    "-webkit-line-clamp": Longhand(False, False, _line_clamp),
}

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
    if (word := _ident(tokens)) in _SYSTEM_FONTS or word.startswith("-webkit-"):
        return result | {"font-family": SYSTEM_FAMILY}
    rest = list(tokens)
    while rest and not _is_size(rest[0]):
        if _ident(rest[:1]) != "normal" and not (taken := _font_part(rest, result)):
            return None
        del rest[: 1 if _ident(rest[:1]) == "normal" else taken]
    if not rest:
        return None
    del rest[0]
    if rest and rest[0].type == "literal" and rest[0].value == "/":
        del rest[:2]
    family = _family(rest) if rest else None
    return None if family is None else result | {"font-family": family}


def _font_part(rest: Sequence[Token], result: Declared) -> int:
    """How many tokens the style, weight, width or capitals in front take; they go into the result."""
    angle = quantity(rest[1]) if _ident(rest[:1]) == "oblique" and len(rest) > 1 else None
    if angle is not None and angle[1] == "deg":
        result["font-style"] = _style(rest[:2])
        return 2 if result["font-style"] else 0
    if _ident(rest[:1]) == "small-caps":
        result["font-variant-caps"] = "small-caps"
        return 1
    word = _ident(rest[:1])
    for name, parse in (("font-style", _style), ("font-weight", _weight)):
        value = parse(rest[:1])
        if value is not None:
            result[name] = value
            return 1
    if word in _WIDTHS:
        result["font-stretch"] = _WIDTHS[word]
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
    word = _ident(tokens)
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
    for name, each in parts.items():
        value = LONGHANDS[name].parse(each)
        if value is None:
            return None
        result[name] = value
    return result


_VARIANT_WORDS: dict[str, frozenset[str]] = {
    "font-variant-caps": frozenset(_CAPS),
    "font-variant-ligatures": frozenset(word for group in _LIGATURES for word in group),
    "font-variant-numeric": frozenset(word for group in _NUMERIC for word in group),
    "font-variant-east-asian": frozenset(word for group in _EAST_ASIAN for word in group),
    "font-variant-position": frozenset(("sub", "super")),
}


def _list_style(tokens: Sequence[Token]) -> Declared | None:
    """The `list-style` shorthand; images are passed over (CSS Lists 3, section 3.4)."""
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
        if style is not None or (style := _list_style_type([token])) is None:
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
    word = _ident(tokens)
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


def value_text(tokens: Sequence[Token]) -> str:
    """A declaration's value as text, by which it is parsed and cached; "" for brackets nested beyond all bounds."""
    try:
        return str(tinycss2.serialize(tokens)).strip()
    except RecursionError:
        return ""
