"""The properties that decide which face text is set in and which text there is, and how their values are read.

CSS Fonts 4, CSS Text 3 and 4, CSS Lists 3, CSS Generated Content 3, CSS Display 3. All others are ignored.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import Enum

from msgspec import Struct
from tinycss2.ast import FunctionBlock

from aksara.site.css.values import Token, meaningful, quantity, split_at_commas, whole
from aksara.web.syntax import GENERIC_FAMILIES

#: A parsed value; what it is depends on the property (`Style` says it for each).
Value = object
#: Longhand → value, in which CSS-wide keywords and what waits for variables may stand.
Declared = dict[str, Value]


class Wide(Enum):
    """The keywords that every property takes (CSS Cascade 5, section 7.3)."""

    INITIAL = "initial"
    INHERIT = "inherit"
    UNSET = "unset"
    REVERT = "revert"
    REVERT_LAYER = "revert-layer"


class Pending(Struct, frozen=True):
    """A value with `var()` in it, which is parsed once they are in place; `name` is the property it was given for."""

    name: str
    text: str


class Longhand(Struct, frozen=True):
    """`parse` gives the value, or None where it is invalid."""

    initial: Value
    inherited: bool
    parse: Callable[[Sequence[Token]], Value | None]


def _keywords(*allowed: str) -> Callable[[Sequence[Token]], Value | None]:
    def parse(tokens: Sequence[Token]) -> Value | None:
        word = keyword_of(tokens)
        return word if word in allowed else None

    return parse


def _several(none: str, groups: Sequence[Sequence[str]]) -> Callable[[Sequence[Token]], Value | None]:
    """`normal`, or one keyword at most of each group, in any order; gives the keywords sorted."""

    def parse(tokens: Sequence[Token]) -> Value | None:
        if keyword_of(tokens) == none:
            return ()
        words = [token.lower_value if token.type == "ident" else "" for token in tokens]
        indices = [next((n for n, group in enumerate(groups) if word in group), -1) for word in words]
        if not words or -1 in indices or len(set(indices)) < len(indices):
            return None
        return tuple(sorted(words))

    return parse


def keyword_of(tokens: Sequence[Token]) -> str:
    """The keyword that is the whole value, else ""."""
    return str(tokens[0].lower_value) if len(tokens) == 1 and tokens[0].type == "ident" else ""


def parse_family(tokens: Sequence[Token]) -> Value | None:
    names = []
    for part in split_at_commas(tokens):
        if len(part) == 1 and part[0].type == "string":
            names.append(part[0].value)
        elif part and len(words := [token.value for token in part if token.type == "ident"]) == len(part):
            name = " ".join(words)
            names.append(name.lower() if name.lower() in GENERIC_FAMILIES else name)
        elif len(part) == 1 and part[0].type == "function" and part[0].lower_name == "generic":
            names.append(part[0].serialize())
        else:
            return None
    return tuple(names)


_WEIGHTS = {"normal": 400.0, "bold": 700.0}


def parse_weight(tokens: Sequence[Token]) -> Value | None:
    word = keyword_of(tokens)
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


def parse_style(tokens: Sequence[Token]) -> Value | None:
    """`normal`, `italic`, or `oblique` with an angle in degrees."""
    word = keyword_of(tokens[:1])
    if word == "oblique" and len(tokens) == 2:
        angle = quantity(tokens[1])
        if angle is None or (angle[1] != "deg" and (angle[1] or angle[0])) or abs(angle[0]) > 90:
            return None
        return f"oblique {angle[0]:g}deg" if angle[0] else "normal"
    if len(tokens) != 1 or word not in ("normal", "italic", "oblique"):
        return None
    return word


WIDTHS = {
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
    if (word := keyword_of(tokens)) in WIDTHS:
        return WIDTHS[word]
    number = quantity(tokens[0]) if len(tokens) == 1 else None
    return number[0] if number is not None and number[1] == "%" and number[0] >= 0 else None


def _settings(tokens: Sequence[Token]) -> Value | None:
    """Tags with their values."""
    if keyword_of(tokens) == "normal":
        return ()
    settings: dict[str, float] = {}
    for part in split_at_commas(tokens):
        if not part or part[0].type != "string" or len(part[0].value) != 4 or len(part) > 2:
            return None
        value = 1.0
        if len(part) == 2:
            word, number = keyword_of(part[1:]), quantity(part[1])
            if word in ("on", "off"):
                value = float(word == "on")
            elif number is not None and not number[1]:
                value = number[0]
            else:
                return None
        settings[part[0].value] = value
    return tuple(sorted(settings.items()))


def _alternates(tokens: Sequence[Token]) -> Value | None:
    """Names with their arguments: `(("styleset", ("round",)), ("historical-forms", ()))`."""
    if keyword_of(tokens) == "normal":
        return ()
    alternates: list[tuple[str, tuple[str, ...]]] = []
    for token in tokens:
        if token.type == "ident" and token.lower_value == "historical-forms":
            alternates.append(("historical-forms", ()))
        elif token.type == "function":
            names = tuple(argument.value for argument in token.arguments if argument.type == "ident")
            alternates.append((token.lower_name, names))
        else:
            return None
    return tuple(alternates)


def _quotes(tokens: Sequence[Token]) -> Value | None:
    """ "auto", or pairs of marks, outermost first."""
    if (word := keyword_of(tokens)) in ("auto", "none", "match-parent"):
        return () if word == "none" else "auto"
    marks = [token.value for token in tokens if token.type == "string"]
    if not tokens or len(tokens) % 2 or len(marks) < len(tokens):
        return None
    return tuple(zip(marks[::2], marks[1::2], strict=True))


def _white_space(tokens: Sequence[Token]) -> Value | None:
    """How white space collapses (CSS Text 4, `white-space-collapse`)."""
    modes = {"normal": "collapse", "nowrap": "collapse", "pre": "preserve", "pre-wrap": "preserve",
             "pre-line": "preserve-breaks", "break-spaces": "preserve", "collapse": "collapse", "preserve": "preserve",
             "preserve-breaks": "preserve-breaks", "wrap": "collapse", "-moz-pre-wrap": None}  # fmt: skip
    words = [token.lower_value if token.type == "ident" else "" for token in tokens]
    of_words = [modes.get(word) for word in words]
    if not words or None in of_words:
        return None
    return next((mode for mode in of_words if mode != "collapse"), "collapse")


def parse_list_style_type(tokens: Sequence[Token]) -> Value | None:
    """The name of a counter style, in lower case, or a text in quotes as `("text",)`."""
    if len(tokens) != 1:
        return None
    token = tokens[0]
    if token.type == "string":
        return (token.value,)
    if token.type == "function" and token.lower_name == "symbols":
        return ("".join(argument.value for argument in token.arguments if argument.type == "string"),)
    return token.value if token.type == "ident" else None


def _counters(initial: int) -> Callable[[Sequence[Token]], Value | None]:
    """Names with their numbers."""

    def parse(tokens: Sequence[Token]) -> Value | None:
        if keyword_of(tokens) == "none":
            return ()
        counters: list[tuple[str, int]] = []
        for token in tokens:
            if token.type == "ident":
                counters.append((token.value, initial))
            elif token.type == "function" and token.lower_name == "reversed":
                counters += [(argument.value, initial) for argument in token.arguments if argument.type == "ident"]
            elif counters and (number := quantity(token)) is not None and not number[1]:
                counters[-1] = (counters[-1][0], whole(number[0]))
            else:
                return None
        return tuple(counters)

    return parse


#: A part of generated content: its kind (`text`, `attr`, `counter`, `counters`, or a keyword for quotes), and what
#: goes with it.
ContentPart = tuple[str, tuple[str, ...]]
#: A value of `content`: a keyword, or its parts.
Content = str | tuple[ContentPart, ...]


def _content(tokens: Sequence[Token]) -> Value | None:
    """ "normal", "none", or the parts of generated content (CSS Generated Content 3, section 1)."""
    if (word := keyword_of(tokens)) in ("normal", "none"):
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


def _content_function(token: FunctionBlock) -> ContentPart | None:
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
    style = parse_list_style_type(last[0]) if last else "decimal"
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
    if keyword_of(tokens) == "none":
        return False
    return True if any(quantity(token) for token in tokens) else None


LIGATURES = (
    ("common-ligatures", "no-common-ligatures"),
    ("discretionary-ligatures", "no-discretionary-ligatures"),
    ("historical-ligatures", "no-historical-ligatures"),
    ("contextual", "no-contextual"),
    ("none",),
)
NUMERIC = (
    ("lining-nums", "oldstyle-nums"),
    ("proportional-nums", "tabular-nums"),
    ("diagonal-fractions", "stacked-fractions"),
    ("ordinal",),
    ("slashed-zero",),
)
EAST_ASIAN = (
    ("jis78", "jis83", "jis90", "jis04", "simplified", "traditional"),
    ("full-width", "proportional-width"),
    ("ruby",),
)
CAPS = ("small-caps", "all-small-caps", "petite-caps", "all-petite-caps", "unicase", "titling-caps")
_TRANSFORMS = (("capitalize", "uppercase", "lowercase", "math-auto"), ("full-width",), ("full-size-kana",))

#: Every longhand that is cascaded.
LONGHANDS: dict[str, Longhand] = {
    # What browsers set text in where nothing else is said.
    "font-family": Longhand(("Times New Roman",), True, parse_family),
    "font-weight": Longhand(400.0, True, parse_weight),
    "font-style": Longhand("normal", True, parse_style),
    "font-stretch": Longhand(100.0, True, _width),
    "font-variant-caps": Longhand("normal", True, _keywords("normal", *CAPS)),
    "font-variant-ligatures": Longhand((), True, _several("normal", LIGATURES)),
    "font-variant-numeric": Longhand((), True, _several("normal", NUMERIC)),
    "font-variant-east-asian": Longhand((), True, _several("normal", EAST_ASIAN)),
    "font-variant-position": Longhand("normal", True, _keywords("normal", "sub", "super")),
    "font-variant-alternates": Longhand((), True, _alternates),
    "font-feature-settings": Longhand((), True, _settings),
    "font-variation-settings": Longhand((), True, _settings),
    "text-transform": Longhand((), True, _several("none", _TRANSFORMS)),
    "quotes": Longhand("auto", True, _quotes),
    "hyphens": Longhand("manual", True, _keywords("none", "manual", "auto")),
    "white-space": Longhand("collapse", True, _white_space),
    "list-style-type": Longhand("disc", True, parse_list_style_type),
    "-webkit-text-security": Longhand("none", True, _keywords("none", "disc", "circle", "square")),
    "display": Longhand("inline", False, _display),
    "content": Longhand("normal", False, _content),
    "counter-reset": Longhand((), False, _counters(0)),
    "counter-increment": Longhand((), False, _counters(1)),
    "counter-set": Longhand((), False, _counters(0)),
    "text-overflow": Longhand("", False, _text_overflow),
    "-webkit-line-clamp": Longhand(False, False, _line_clamp),
}
