"""Findings about the font files that rules lead to: damaged, of another kind than the rule says, or too large."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator
from functools import cache
from typing import Any

from aksara.checking.findings import Finding, Place, finding
from aksara.checking.gathering import FORMATS, CheckedRule, CheckedSite, kind_of
from aksara.checking.reaching import ReachedFile
from aksara.sizes import format_size

#: Unneeded characters that a range may name beyond twice those of the file: people copy whole blocks.
_MOST_CLAIMED = 200
_LONG = 10_000
#: How far the weight of a rule may be from the font's: foundries number their weights differently.
_NEAR_WEIGHT = 50
#: The step from one weight to the next.
_NEXT_WEIGHT = 100
_SUFFIXES = {"woff2": ("woff2",), "woff": ("woff",), "ttf": ("sfnt",), "otf": ("sfnt",), "ttc": ("collection",)}


def file_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    seen: set[str] = set()
    for rule in site.rules:
        for source, file in rule.sources:
            # What browsers skip, such as EOT, does no harm.
            if file.facts is None or (source.format and source.format.lower() not in FORMATS):
                continue
            if file.shown not in seen:
                seen.add(file.shown)
                yield from _damage(rule, file)
                yield from _suffix(file)
                yield from _permission(file)
            if file is rule.served:
                yield from _weight(rule, file, alone=_is_alone(rule, site))
                yield from _ranges(rule, file)
        yield from _uncompressed(rule)


def _damage(rule: CheckedRule, file: ReachedFile) -> Iterator[Finding]:
    facts = file.facts
    if facts is None or not facts.problem:
        return
    what = f"damaged: {facts.problem}" if facts.container else "not a font, but perhaps a page that says “not found”"
    yield finding(
        "font-damaged",
        Place(file.shown),
        "another works" if rule.served is not None else "",
        family=rule.rule.family,
        problem=what,
    )


def _suffix(file: ReachedFile) -> Iterator[Finding]:
    suffix = file.shown.rpartition(".")[2].lower()
    facts = file.facts
    if facts is not None and facts.container and suffix in _SUFFIXES and facts.container not in _SUFFIXES[suffix]:
        yield finding("suffix-contradicts-file", Place(file.shown), container=kind_of(facts.container))


def _permission(file: ReachedFile) -> Iterator[Finding]:
    if file.facts is not None and file.facts.forbidden:
        yield finding("font-forbids-web", Place(file.shown), reason=file.facts.forbidden)
    for field, words in file.facts.restrictions[:1] if file.facts is not None else ():
        yield finding("licence-restricted", Place(file.shown), source=f"the font's {field}", words=words)


def _weight(rule: CheckedRule, file: ReachedFile, *, alone: bool) -> Iterator[Finding]:
    """A weight, style or width that is not the font's own."""
    facts, face = file.facts, rule.defined
    if facts is None or face is None or facts.problem:
        return
    of: dict[str, Any] = {"family": face.family, "face": face.label, "file": file.shown}
    low, high = face.weight
    own_low, own_high = facts.weight
    # A font that contradicts itself is right for whoever believes one of the two.
    contradicts = not low - _NEAR_WEIGHT <= facts.said_weight <= high + _NEAR_WEIGHT
    if contradicts and (high < own_low - _NEAR_WEIGHT or low > own_high + _NEAR_WEIGHT):
        own = f"{own_low:g}" if own_low == own_high else f"{own_low:g} to {own_high:g}"
        yield finding(
            "weight-contradicts-file",
            rule.place("font-weight"),
            "alone" if alone else "near" if max(own_low - high, low - own_high) <= _NEXT_WEIGHT else "",
            **of,
            written=f"{low:g}",
            own=own,
            right=own.replace(" to ", " "),
        )
    elif own_low < own_high and low == high and "font-weight" not in rule.rule.descriptors:
        yield finding("weight-range-missing", rule.place(), **of, low=f"{own_low:g}", high=f"{own_high:g}")
    if face.width[1] < facts.width[0] - 5 or face.width[0] > facts.width[1] + 5:
        low, high = facts.width
        right = f"{low:g}%" if low == high else f"{low:g}% {high:g}%"
        yield finding(
            "width-contradicts-file",
            rule.place("font-stretch"),
            **of,
            written=f"{face.width[0]:g}",
            own=right.replace(" ", " to "),
            right=right,
        )
    if (facts.style == "normal") != (face.style == "normal") and not face.leans:
        case = "alone" if alone else ""
        yield finding(
            "style-contradicts-file", rule.place("font-style"), case, **of, written=face.style, own=facts.style
        )


def _ranges(rule: CheckedRule, file: ReachedFile) -> Iterator[Finding]:
    """A `unicode-range` of which the file has few characters or none."""
    facts, face = file.facts, rule.defined
    if facts is None or face is None or facts.problem or not face.ranges or not facts.characters:
        return
    of: dict[str, Any] = {"family": face.family, "face": face.label, "file": file.shown}
    claimed = sum(_assigned(max(first, 0x21), min(last, 0x10FFFF)) for first, last in face.ranges)
    own = sum(face.serves(code) for code in facts.characters)
    if own and claimed > _MOST_CLAIMED + 2 * own:
        yield finding("range-claims-too-much", rule.place("unicode-range"), **of, claimed=claimed, own=own)
    if not own:
        yield finding("range-contradicts-file", rule.place("unicode-range"), **of)


def _is_alone(rule: CheckedRule, site: CheckedSite) -> bool:
    """Whether a family has one face: people define one family for each weight, too."""
    rules = site.by_family.get(rule.defined.family.casefold(), []) if rule.defined is not None else []
    faces = {(rule.defined.weight, rule.defined.style, rule.defined.width) for rule in rules if rule.defined}
    return len(faces) < 2


@cache
def _assigned(first: int, last: int) -> int:
    """How many characters of a range are in Unicode; of ideographs and syllables all."""
    if last - first > _LONG:
        return last - first + 1
    return sum(unicodedata.category(chr(code)) not in ("Cn", "Cs", "Cc") for code in range(first, last + 1))


def _uncompressed(rule: CheckedRule) -> Iterator[Finding]:
    file = rule.served
    if file is not None and file.facts is not None and file.facts.container == "sfnt":
        size = format_size(file.facts.size)
        yield finding("font-uncompressed", rule.place("src"), family=rule.rule.family, file=file.shown, size=size)
