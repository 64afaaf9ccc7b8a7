"""Media queries (Media Queries 4 and 5): under which of the screens that readers have a rule holds.

A reader may have any screen, so a page is read in several *environments*: one for each width that its style sheets tell
apart, and one for each other feature that they ask about.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from itertools import pairwise

from msgspec import Struct, field

from aksara.limits import MAX_ENVIRONMENTS, MAX_MEDIA_DEPTH
from aksara.site.css.values import Token, meaningful, quantity, split_at_commas, tokens_of

_PIXELS = {"px": 1.0, "em": 16.0, "rem": 16.0, "ex": 8.0, "ch": 8.0, "in": 96.0, "cm": 96 / 2.54, "mm": 96 / 25.4,
           "pt": 96 / 72, "pc": 16.0, "dppx": 1.0, "x": 1.0, "dpi": 1 / 96, "dpcm": 2.54 / 96}  # fmt: skip

# What most readers have, feature by feature; a number where it is a range.
_USUAL: dict[str, str | float] = {
    "width": 1280.0,
    "height": 800.0,
    "device-width": 1280.0,
    "device-height": 800.0,
    "resolution": 1.0,
    "device-pixel-ratio": 1.0,
    "color": 8.0,
    "color-index": 0.0,
    "monochrome": 0.0,
    "grid": 0.0,
    "hover": "hover",
    "any-hover": "hover",
    "pointer": "fine",
    "any-pointer": "fine",
    "prefers-color-scheme": "light",
    "prefers-reduced-motion": "no-preference",
    "prefers-reduced-transparency": "no-preference",
    "prefers-reduced-data": "no-preference",
    "prefers-contrast": "no-preference",
    "forced-colors": "none",
    "inverted-colors": "none",
    "scripting": "enabled",
    "update": "fast",
    "overflow-block": "scroll",
    "overflow-inline": "scroll",
    "scan": "progressive",
    "display-mode": "browser",
    "color-gamut": "srgb",
    "dynamic-range": "standard",
    "video-dynamic-range": "standard",
    "horizontal-viewport-segments": 1.0,
    "vertical-viewport-segments": 1.0,
    "transform-3d": 1.0,
}
# Values that mean "not at all", for features asked about without a value.
_OFF = frozenset(("none", "no-preference", "no-preference", 0.0))


class MediaEnvironment(Struct, frozen=True):
    """A screen, or paper: `medium` is "screen" or "print", `features` are what differs from what most readers have."""

    medium: str = "screen"
    features: Mapping[str, str | float] = field(default_factory=dict)

    def value(self, name: str) -> str | float | None:
        """The value of the feature in this environment; None for an unknown feature."""
        if name == "orientation":
            given = self.features.get(name)
            return given if given is not None else "landscape"
        if name in ("aspect-ratio", "device-aspect-ratio"):
            given = self.features.get(name)
            return given if given is not None else float(self._number("width")) / float(self._number("height"))
        return self.features.get(name, _USUAL.get(name))

    def _number(self, name: str) -> float:
        return float(self.features.get(name, _USUAL[name]))


#: Whether a condition holds; None where a part of it is not known.
Verdict = bool | None


class Feature(Struct, frozen=True):
    """`(min-width: 600px)`, `(400px < width <= 700px)`, `(hover)`: a name, and limits or a value."""

    name: str
    value: str | float | None = None
    low: float | None = None
    high: float | None = None
    low_open: bool = False
    high_open: bool = False

    def holds(self, environment: MediaEnvironment) -> Verdict:
        """Whether it holds there."""
        actual = environment.value(self.name)
        if actual is None:
            return None
        if isinstance(actual, float):
            if self.value is None and self.low is None and self.high is None:
                return actual not in _OFF
            if self.value is not None:
                return actual == self.value
            above = self.low is None or (actual > self.low if self.low_open else actual >= self.low)
            return above and (self.high is None or (actual < self.high if self.high_open else actual <= self.high))
        return actual not in _OFF if self.value is None else actual == self.value

    def features(self) -> Iterator[Feature]:
        """Itself."""
        yield self


class Combined(Struct, frozen=True):
    """Conditions joined by `and`, `or` or `not`; the last has one part."""

    operator: str
    parts: tuple[Condition, ...]

    def holds(self, environment: MediaEnvironment) -> Verdict:
        """Whether it holds there."""
        verdicts = [part.holds(environment) for part in self.parts]
        if self.operator == "not":
            return None if verdicts[0] is None else not verdicts[0]
        decided = self.operator == "or"
        if decided in verdicts:
            return decided
        return None if None in verdicts else not decided

    def features(self) -> Iterator[Feature]:
        """All features that it asks about."""
        for part in self.parts:
            yield from part.features()


class Medium(Struct, frozen=True):
    """A media type."""

    name: str

    def holds(self, environment: MediaEnvironment) -> Verdict:
        """Whether it is that medium."""
        return self.name in ("all", environment.medium)

    def features(self) -> Iterator[Feature]:
        """None."""
        yield from ()


class Unknown(Struct, frozen=True):
    """A condition that is not understood: it is neither true nor false."""

    def holds(self, environment: MediaEnvironment) -> Verdict:
        """Not known."""
        return None

    def features(self) -> Iterator[Feature]:
        """None."""
        yield from ()


Condition = Feature | Combined | Medium | Unknown


@lru_cache(maxsize=4096)
def parse_media(text: str) -> Condition:
    """A list of media queries. One that is not valid never holds."""
    queries = split_at_commas(meaningful(tokens_of(text)))
    if queries == [[]]:
        return Medium("all")
    return Combined("or", tuple(_query(query) for query in queries))


def _query(tokens: Sequence[Token]) -> Condition:
    rest = list(tokens)
    negated = _word(rest[:1]) == "not" and _word(rest[1:2]) not in ("", "not") and rest[1].type == "ident"
    if negated or _word(rest[:1]) == "only":
        del rest[0]
    if _word(rest[:1]) and rest[0].type == "ident" and _word(rest[:1]) != "not":
        medium = Medium(_word(rest[:1]))
        if len(rest) == 1:
            condition: Condition = medium
        elif _word(rest[1:2]) == "and" and len(rest) > 2:
            condition = Combined("and", (medium, parse_condition(rest[2:])))
        else:
            return Unknown()
        return Combined("not", (condition,)) if negated else condition
    return parse_condition(rest)


def parse_condition(tokens: Sequence[Token], depth: int = 0) -> Condition:
    """Features in brackets, joined by `and` or `or`, or after `not`. There is no white space in the tokens."""
    if not tokens or depth > MAX_MEDIA_DEPTH:
        return Unknown()
    if _word(tokens[:1]) == "not":
        return Combined("not", (_in_brackets(tokens[1], depth),)) if len(tokens) == 2 else Unknown()
    parts = [_in_brackets(token, depth) for token in tokens[::2]]
    joints = {_word([token]) for token in tokens[1::2]}
    if len(parts) == 1 and not joints:
        return parts[0]
    if len(tokens) % 2 == 0 or len(joints) != 1 or not joints <= {"and", "or"}:
        return Unknown()
    return Combined(joints.pop(), tuple(parts))


def _in_brackets(token: Token, depth: int) -> Condition:
    if token.type != "() block":
        return Unknown()
    inner = meaningful(token.content)
    if inner and (inner[0].type == "() block" or _word(inner[:1]) == "not"):
        return parse_condition(inner, depth + 1)
    return _feature(inner) or Unknown()


def _word(tokens: Sequence[Token]) -> str:
    return str(tokens[0].lower_value) if tokens and tokens[0].type == "ident" else ""


def _feature(tokens: Sequence[Token]) -> Feature | None:
    word = _word(tokens[:1])
    if len(tokens) == 1 and word:
        return Feature(_plain(word)[0])
    if word and tokens[1].type == "literal" and tokens[1].value == ":":
        name, side = _plain(word)
        value = _value(tokens[2:])
        if value is None:
            return None
        if not side:
            return Feature(name, value)
        if not isinstance(value, float):
            return None
        return Feature(name, low=value) if side == "min" else Feature(name, high=value)
    return _range(tokens)


def _plain(word: str) -> tuple[str, str]:
    """The feature's name, and whether it is its least or greatest value that is given."""
    vendor = "-webkit-" if word.startswith("-webkit-") else ""
    rest = word.removeprefix("-webkit-")
    side = next((side for side in ("min", "max") if rest.startswith(side + "-")), "")
    name = rest[len(side) + 1 :] if side else rest
    return (name if not vendor or name in ("device-pixel-ratio", "transform-3d") else vendor + name), side


def _value(tokens: Sequence[Token]) -> str | float | None:
    if len(tokens) == 1 and tokens[0].type == "ident":
        return str(tokens[0].lower_value)
    numbers = [quantity(token) for token in tokens if token.type != "literal"]
    if not numbers or None in numbers:
        return None
    scaled = [number * (_PIXELS.get(unit, 1.0)) for number, unit in numbers if number is not None]  # type: ignore[misc]
    if len(tokens) == 3 and tokens[1].type == "literal" and tokens[1].value == "/":
        return scaled[0] / scaled[1] if scaled[1] else None
    return scaled[0] if len(tokens) == 1 else None


def _range(tokens: Sequence[Token]) -> Feature | None:
    """`width >= 600px`, `400px <= width < 700px` (Media Queries 4, section 2.4.3)."""
    sides: list[list[Token]] = [[]]
    signs: list[str] = []
    for token in tokens:
        if token.type == "literal" and token.value in ("<", ">", "=", "<=", ">="):
            if signs and not sides[-1]:
                signs[-1] += token.value
            else:
                signs.append(token.value)
                sides.append([])
        else:
            sides[-1].append(token)
    if len(signs) == 1:
        return _one_sided(sides, signs[0])
    if len(signs) != 2 or signs[0][0] != signs[1][0] or signs[0][0] not in "<>":
        return None
    name, first, second = _word(sides[1]), _value(sides[0]), _value(sides[2])
    if not name or not isinstance(first, float) or not isinstance(second, float):
        return None
    opens = [len(sign) == 1 for sign in signs]
    if signs[0][0] == "<":
        return Feature(name, None, first, second, *opens)
    return Feature(name, None, second, first, *reversed(opens))


def _one_sided(sides: Sequence[Sequence[Token]], sign: str) -> Feature | None:
    name, value = _word(sides[0]), _value(sides[1])
    if value is None or not name or isinstance(value, str):
        name, value = _word(sides[1]), _value(sides[0])
        sign = sign.translate(str.maketrans("<>", "><"))
    if not name or not isinstance(value, float):
        return None
    if sign == "=":
        return Feature(name, value)
    is_open = len(sign) == 1
    if sign[0] == ">":
        return Feature(name, low=value, low_open=is_open)
    return Feature(name, high=value, high_open=is_open)


_RANGES = ("width", "height", "resolution", "device-pixel-ratio", "device-width", "device-height", "aspect-ratio")


def environments_for(conditions: Iterable[Condition], *, printed: bool = False) -> list[MediaEnvironment]:
    """Environments that tell the conditions apart: every class of widths and, one at a time, every other feature."""
    limits: dict[str, set[float]] = {}
    words: dict[str, set[str]] = {}
    for feature in (feature for condition in conditions for feature in condition.features()):
        if isinstance(feature.value, str):
            words.setdefault(feature.name, set()).add(feature.value)
        numbers = {number for number in (feature.value, feature.low, feature.high) if isinstance(number, float)}
        if numbers and feature.name in _RANGES:
            limits.setdefault(feature.name, set()).update(numbers)
    widths = [{"width": width} for width in _samples(limits.pop("width", set()), 240.0, 3840.0)]
    others: list[dict[str, str | float]] = [{}]
    for name, numbers in sorted(limits.items()):
        others += [{name: number} for number in _samples(numbers, 0.1 if max(numbers) < 20 else 200.0, 4000.0)]
    for name, values in sorted(words.items()):
        usual = MediaEnvironment().value(name)
        others += [{name: value} for value in sorted(values) if value != usual and usual is not None]
    environments = [MediaEnvironment("screen", width | other) for other in others for width in widths]
    paper = [MediaEnvironment("print", {"width": width}) for width in (600.0, 720.0, 1040.0)] if printed else []
    return [*environments[: MAX_ENVIRONMENTS - len(paper)], *paper]


def _samples(limits: set[float], low: float, high: float) -> list[float]:
    """A value in each interval that the limits make, and the limits themselves."""
    inside = sorted(limit for limit in limits if low <= limit <= high)
    if not inside:
        return [min(max(1280.0, low), high)]
    edges = [low, *inside, high]
    middles = [(left + right) / 2 for left, right in pairwise(edges)]
    return sorted({*inside, *middles})
