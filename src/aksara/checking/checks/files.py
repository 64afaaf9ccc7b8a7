"""Findings about the font files that rules lead to: damaged, not what they are said to be, larger than need be."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator
from functools import cache

from aksara.checking.findings import Finding, Place
from aksara.checking.gathering import FORMATS, CheckedRule, CheckedSite, kind_of
from aksara.checking.reaching import FontFile
from aksara.sizes import format_size

#: Characters that a range may claim in vain, besides as many as the file has twice over: blocks are not cut to fonts.
_MOST_CLAIMED = 200
_LONG = 10_000
_SUFFIXES = {"woff2": ("woff2",), "woff": ("woff",), "ttf": ("sfnt",), "otf": ("sfnt",), "ttc": ("collection",)}


def file_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    seen: set[str] = set()
    for rule in site.rules:
        for source, file in rule.sources:
            # What browsers pass over, as EOT, does no harm.
            if file.facts is None or (source.format and source.format.lower() not in FORMATS):
                continue
            if file.shown not in seen:
                seen.add(file.shown)
                yield from _damage(rule, file)
                yield from _suffix(file)
                yield from _permission(file)
            if file is rule.served:
                yield from _weight(rule, file)
                yield from _ranges(rule, file)
        yield from _uncompressed(rule)


def _damage(rule: CheckedRule, file: FontFile) -> Iterator[Finding]:
    facts = file.facts
    if facts is None or not facts.problem:
        return
    what = "is no font" if not facts.container else f"is damaged: {facts.problem}"
    others = rule.served is not None
    yield Finding(
        kind="font-damaged",
        level="warning" if others else "error",
        place=Place(file.shown),
        problem=f"{what}" + ("" if facts.container else " (perhaps a page that says that there is none)"),
        effect="browsers refuse it" + ("" if others else f", and text in {rule.rule.family} is shown in another font"),
        advice="make it anew from the desktop font, and copy it as it is, not as text",
    )


def _suffix(file: FontFile) -> Iterator[Finding]:
    suffix = file.shown.rpartition(".")[2].lower()
    facts = file.facts
    if facts is not None and facts.container and suffix in _SUFFIXES and facts.container not in _SUFFIXES[suffix]:
        yield Finding(
            kind="suffix-contradicts-file",
            level="warning",
            place=Place(file.shown),
            problem=f"is not what its suffix says, but {kind_of(facts.container)}",
            effect="servers send it with the wrong type, which some hosts refuse",
            advice="name it after what it is, and say so in format()",
        )


def _permission(file: FontFile) -> Iterator[Finding]:
    if file.facts is not None and file.facts.forbidden:
        yield Finding(
            kind="font-forbids-web",
            level="warning",
            place=Place(file.shown),
            problem=f"the font says that it may not be embedded ({file.facts.forbidden})",
            effect="nothing that readers see; the licence may be broken",
            advice="ask the seller for a web licence, or take another font",
        )


def _weight(rule: CheckedRule, file: FontFile) -> Iterator[Finding]:
    """A weight, style or width that is not the font's own."""
    facts, face = file.facts, rule.defined
    if facts is None or face is None or facts.problem:
        return
    low, high = face.weight
    own_low, own_high = facts.weight
    if high < own_low - 50 or low > own_high + 50:
        own = f"{own_low:g}" if own_low == own_high else f"{own_low:g} to {own_high:g}"
        yield Finding(
            kind="weight-contradicts-file",
            level="error",
            place=rule.place("font-weight"),
            problem=f"the rule says weight {low:g}, {file.shown} is of weight {own}",
            effect="text comes out lighter or heavier than is asked for, or is thickened once more",
            advice=f"write font-weight: {own.replace(' to ', ' ')}",
        )
    elif own_low < own_high and low == high and "font-weight" not in rule.rule.descriptors:
        yield Finding(
            kind="weight-range-missing",
            level="warning",
            place=rule.place(),
            problem=f"the font is variable, with weights from {own_low:g} to {own_high:g}, and the rule says none",
            effect="other weights are faked by the browser instead of being taken from the font",
            advice=f"add font-weight: {own_low:g} {own_high:g}",
        )
    if face.width[1] < facts.width[0] - 5 or face.width[0] > facts.width[1] + 5:
        low, high = facts.width
        own = f"{low:g}%" if low == high else f"{low:g}% {high:g}%"
        yield Finding(
            kind="width-contradicts-file",
            level="error",
            place=rule.place("font-stretch"),
            problem=f"the rule says width {face.width[0]:g}%, {file.shown} is {own.replace(' ', ' to ')} wide",
            effect="text that asks for one width is shown in another",
            advice=f"write font-stretch: {own}",
        )
    if (facts.style == "normal") != (face.style == "normal") and not face.leans:
        yield Finding(
            kind="style-contradicts-file",
            level="error",
            place=rule.place("font-style"),
            problem=f"the rule says {face.style}, {file.shown} is {facts.style}",
            effect="upright text is slanted, or italic text is upright or slanted twice",
            advice=f"write font-style: {facts.style}",
        )


def _ranges(rule: CheckedRule, file: FontFile) -> Iterator[Finding]:
    """A range of which the file has nothing."""
    facts, face = file.facts, rule.defined
    if facts is None or face is None or facts.problem or not face.ranges or not facts.characters:
        return
    claimed = sum(_assigned(max(first, 0x21), min(last, 0x10FFFF)) for first, last in face.ranges)
    had = sum(face.serves(code) for code in facts.characters)
    if had and claimed > _MOST_CLAIMED + 2 * had:
        yield Finding(
            kind="range-claims-too-much",
            level="hint",
            place=rule.place("unicode-range"),
            problem=f"the range names {claimed:,} characters, of which {file.shown} has {had:,}",
            effect="for other text of this range the file is fetched for nothing",
            advice="name the characters that the file has, no more",
        )
    if not had:
        yield Finding(
            kind="range-contradicts-file",
            level="error",
            place=rule.place("unicode-range"),
            problem=f"{file.shown} has no character of this range",
            effect="the file is fetched for such text and cannot show it",
            advice="put the range of this file here, or leave unicode-range out",
        )


@cache
def _assigned(first: int, last: int) -> int:
    """How many characters of a range are in Unicode; of ideographs and syllables all."""
    if last - first > _LONG:
        return last - first + 1
    return sum(unicodedata.category(chr(code)) not in ("Cn", "Cs", "Cc") for code in range(first, last + 1))


def _uncompressed(rule: CheckedRule) -> Iterator[Finding]:
    file = rule.served
    if file is not None and file.facts is not None and file.facts.container == "sfnt":
        yield Finding(
            kind="font-uncompressed",
            level="warning",
            place=rule.place("src"),
            problem=f"{file.shown} is a plain TTF or OTF of {format_size(file.facts.size)}",
            effect="every reader fetches about twice the bytes that a WOFF2 would take, or more",
            advice="make a WOFF2 of it: aksara build",
        )
