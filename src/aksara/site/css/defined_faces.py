"""`@font-face` rules: which faces a site defines, and which characters they serve (CSS Fonts 4, section 4)."""

from __future__ import annotations

import re

from msgspec import Struct

from aksara.faces import Style, label_of
from aksara.faces.style import range_label
from aksara.site.css.face_rules import FaceRule
from aksara.site.css.properties import LONGHANDS
from aksara.site.css.values import meaningful, quantity, tokens_of

_STYLES: dict[str, Style] = {"italic": "italic", "oblique": "oblique"}
_RANGE = re.compile(r"U\+([0-9A-F?]{1,6})(?:-([0-9A-F]{1,6}))?", re.IGNORECASE)


class DefinedFace(Struct, frozen=True):
    """A face that a style sheet defines. Weights and widths are ranges; `style` is `normal`, `italic` or `oblique`.

    With `leans` a normal one can be slanted, too. `local`: it is only looked for among installed fonts. `ranges` are
    the code points that it serves, first and last, () for all; `line` is where it stands in `sheet`.
    """

    family: str
    weight: tuple[float, float]
    style: Style
    width: tuple[float, float]
    ranges: tuple[tuple[int, int], ...]
    sheet: str
    line: int
    leans: bool = False
    local: bool = False

    @property
    def weight_range(self) -> tuple[float, float]:
        """The weights that it has."""
        return self.weight

    @property
    def width_range(self) -> tuple[float, float]:
        """The widths that it has, in percent."""
        return self.width

    @property
    def styles(self) -> tuple[Style, ...]:
        """The styles that it has, its own first."""
        return (self.style, "oblique") if self.leans else (self.style,)

    @property
    def label(self) -> str:
        """E.g. "Bold Italic"."""
        if self.weight[0] == self.weight[1]:
            return label_of(round(self.weight[0]), self.style, self.width[0])
        return range_label((round(self.weight[0]), round(self.weight[1])), self.style, self.width)

    def serves(self, character: int) -> bool:
        """Whether its `unicode-range` has the character."""
        return not self.ranges or any(first <= character <= last for first, last in self.ranges)


def defined_face(rule: FaceRule, sheet: str) -> DefinedFace | None:
    """The face that a rule makes; None for one without a family or a source."""
    said = {name: descriptor.text for name, descriptor in rule.descriptors.items()}
    if not rule.family or not said.get("src"):
        return None
    style, leans = _style(said.get("font-style", "normal"))
    return DefinedFace(
        rule.family,
        _numbers("font-weight", said.get("font-weight", "normal")),
        style,
        _numbers("font-stretch", said.get("font-stretch", said.get("font-width", "normal"))),
        _ranges(said.get("unicode-range", "")),
        sheet,
        rule.line,
        leans,
        not any(token.type == "url" or (token.type == "function" and token.lower_name == "url")
                for token in rule.descriptors["src"].value),
    )  # fmt: skip


def _style(text: str) -> tuple[Style, bool]:
    """The style, and whether a normal one can lean: `oblique` from 0 degrees on (CSS Fonts 4, section 4.4)."""
    words = meaningful(tokens_of(text.lower()))
    name = words[0].value if words and words[0].type == "ident" else ""
    angles = [angle[0] for angle in map(quantity, words[1:3]) if angle is not None]
    if name == "oblique" and len(angles) == 2 and min(angles) <= 0 < max(angles):
        return "normal", True
    return _STYLES.get(name, "normal"), False


def _numbers(name: str, text: str) -> tuple[float, float]:
    """One value or two, as a range."""
    initial = 400.0 if name == "font-weight" else 100.0
    numbers = []
    for token in meaningful(tokens_of(text))[:2]:
        value = LONGHANDS[name].parse([token])
        number = quantity(token)
        numbers.append(value if isinstance(value, float) else number[0] if number else initial)
    return (min(numbers), max(numbers)) if numbers else (initial, initial)


def _ranges(text: str) -> tuple[tuple[int, int], ...]:
    ranges = []
    for match in _RANGE.finditer(text):
        first, last = match[1].replace("?", "0"), match[2] or match[1].replace("?", "F")
        if "?" in match[1] and match[2]:
            continue
        ranges.append((int(first, 16), int(last, 16)))
    return tuple(ranges)
