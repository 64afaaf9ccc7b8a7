"""A text set in the web font and in a fallback face, line by line: how much wider or narrower each line is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from aksara.web.fallback import FallbackFace, scaled_widths
from aksara.web.model import WebFace
from aksara.web.system_families import SystemFamily, find_system_family

#: How wide a line is, in ems: what people read well.
_MEASURE = 30.0


class FittedLine(Struct, frozen=True):
    """A line of the text as the web font breaks it; `difference` is how much wider the fallback face sets it, as a
    share of its width, and `fits` whether it is no wider than the column."""

    text: str
    difference: float
    fits: bool


class FittedText(Struct, frozen=True, kw_only=True):
    """A text in a fallback face: the family that it rests on, the line height, the lines, and the difference of all of
    them together."""

    family: str
    on: str
    lines: tuple[FittedLine, ...]
    difference: float


def fitted(
    web: WebFace,
    widths: Mapping[int, float],
    text: str,
    fallbacks: Sequence[FallbackFace],
    measure: float = _MEASURE,
    measured: Sequence[SystemFamily] = (),
) -> list[FittedText]:
    """The text in each fallback face of this face."""
    if not text or any(ord(character) not in widths for character in text):
        return []
    lines = _broken(text, widths, measure)
    texts = []
    for rule in fallbacks:
        system = find_system_family(rule.on, measured)
        if system is None or rule.unicode_range or not rule.stands_in_for(web.face):
            continue
        theirs = system.face(bold=web.face.weight >= 600, italic=web.face.style != "normal").widths
        if any(ord(character) not in theirs for character in text):
            continue
        own = [part for part in fallbacks if part.family == rule.family and part.stands_in_for(web.face)]
        theirs = scaled_widths(theirs, rule, [part for part in own if part.unicode_range])
        pairs = [(_width(line, widths), _width(line, theirs)) for line in lines]
        texts.append(
            FittedText(
                family=rule.family,
                on=rule.on,
                lines=tuple(
                    FittedLine(line, other / ours - 1 if ours else 0.0, other <= measure)
                    for line, (ours, other) in zip(lines, pairs, strict=True)
                ),
                difference=sum(other for _, other in pairs) / (sum(ours for ours, _ in pairs) or 1) - 1,
            )
        )
    return texts


def _broken(text: str, widths: Mapping[int, float], measure: float) -> list[str]:
    lines: list[str] = []
    for word in text.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and _width(longer, widths) <= measure:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines


def _width(text: str, widths: Mapping[int, float]) -> float:
    return sum(widths[ord(character)] for character in text)
