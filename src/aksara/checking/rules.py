"""Findings about `@font-face` rules: what a browser ignores in them, and addresses that lead nowhere."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace
from urllib.parse import quote

from aksara.checking.face_rules import Descriptor, Source
from aksara.checking.findings import Finding
from aksara.checking.gathering import (
    FORMATS,
    CheckedRule,
    CheckedSite,
    FontFile,
    is_template,
    kind_of,
    way_to,
    without_fragment,
)
from aksara.site.defined_faces import DefinedFace
from aksara.site.values import meaningful, quantity

_KNOWN = frozenset(
    "font-family src font-style font-weight font-stretch font-width unicode-range font-display size-adjust "
    "ascent-override descent-override line-gap-override font-feature-settings font-variation-settings "
    "font-language-override font-named-instance subscript-position-override superscript-position-override "
    "subscript-size-override superscript-size-override".split()
)
_DISPLAYS = ("auto", "block", "swap", "fallback", "optional")
_RANGE = re.compile(r"u\+(?:[0-9a-f]{1,6}(?:-[0-9a-f]{1,6})?|[0-9a-f]{0,5}\?{1,6})", re.IGNORECASE)
_WIDTHS = frozenset(
    "normal ultra-condensed extra-condensed condensed semi-condensed semi-expanded expanded extra-expanded "
    "ultra-expanded auto".split()
)


def rule_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    for rule in site.rules:
        yield from _ignored_rule(rule)
        yield from _missing_files(rule, site)
        yield from _formats(rule)
        yield from _ignored_descriptors(rule)
        yield from _templates(rule)
    yield from _hidden_rules(site)


def _ignored_rule(rule: CheckedRule) -> Iterator[Finding]:
    """A rule without a family or without sources."""
    if rule.defined is not None and rule.rule.sources:
        return
    if not rule.rule.family:
        problem, advice = "the rule names no family", "add font-family with the name that your text asks for"
    elif "src" not in rule.rule.descriptors:
        problem, advice = "the rule names no file", 'add src: url("…") format("woff2")'
    else:
        problem, advice = "the sources of the rule cannot be read", 'write src: url("…") format("woff2"), with quotes'
    yield Finding(
        kind="rule-ignored",
        level="error",
        place=rule.place("src"),
        problem=problem,
        effect="browsers ignore it, and text in it is shown in another font",
        advice=advice,
    )


def _missing_files(rule: CheckedRule, site: CheckedSite) -> Iterator[Finding]:
    for source, file in rule.sources:
        if not file.missing:
            continue
        others = rule.served is not None
        effect = (
            "browsers take the next source, after an answer that there is no such file"
            if others
            else f"text in {rule.rule.family or 'it'} is shown in another font"
        )
        yield Finding(
            kind="font-missing",
            level="warning" if others else "error",
            place=rule.place("src"),
            problem=f'url("{_short(source.url)}") {file.missing}',
            effect=effect,
            advice=_where_it_is(source, rule, site),
        )


def _where_it_is(source: Source, rule: CheckedRule, site: CheckedSite) -> str:
    """Where a file of that name is, and how to write that."""
    plain = without_fragment(source.url)
    sign = next((each for each in "#?" if each in source.url), "")
    names = site.names.get(rule.sheet.root, {})
    if sign:
        whole = source.url.rpartition("/")[2].lower()
        if whole in names:
            return f"the file's name has a {sign} in it: write {quote(sign)} for it, or rename the file"
    found = names.get(plain.rpartition("/")[2].lower(), [])
    if not found:
        return "put the font there, or correct the path; no font of that name is in the site's folder"
    url = way_to(found[0], rule.sheet)
    if plain.rpartition("/")[2] != found[0].name:
        return f'the file is called {found[0].name}, and names count capitals: write url("{url}")'
    counted = "" if plain.startswith("/") else " (paths in a style sheet count from the style sheet, not from the page)"
    return f'a font of that name is in {found[0].parent.name or "the site"}/: write url("{url}"){counted}'


def _formats(rule: CheckedRule) -> Iterator[Finding]:
    """`format()` that no browser knows, that is not what the file is, or that comes too late."""
    sources = list(rule.sources)
    for source, file in sources:
        known = FORMATS.get(source.format.lower())
        if source.format and known is None and source.format.lower() not in ("embedded-opentype", "svg"):
            right = _format_of(file)
            yield Finding(
                kind="format-unknown",
                level="warning" if rule.served is not None else "error",
                place=rule.place("src"),
                problem=f'format("{source.format}") is none that browsers know',
                effect="browsers pass this source over"
                + ("" if rule.served is not None else f", and text in {rule.rule.family} is shown in another font"),
                advice=f'write format("{right}")' if right else 'write format("woff2"), or what the file is',
            )
        elif known is not None and file.facts is not None and file.facts.container not in ("", *known):
            yield Finding(
                kind="format-contradicts-file",
                level="warning",
                place=rule.place("src"),
                problem=f'format("{source.format}") is said of {file.shown}, which is {kind_of(file.facts.container)}',
                effect="browsers that cannot read it fetch it in vain, and others may pass it over",
                advice=f'write format("{_format_of(file)}")',
            )
    order = [file.facts.container for _, file in sources if file.facts is not None and not file.facts.problem]
    if "woff2" in order and order[0] != "woff2":
        yield Finding(
            kind="better-format-later",
            level="warning",
            place=rule.place("src"),
            problem=f"the WOFF2 stands behind {kind_of(order[0])} of the same face",
            effect="browsers take the first that they know, so every reader fetches the larger file",
            advice="put the WOFF2 first",
        )


def _format_of(file: FontFile) -> str:
    container = file.facts.container if file.facts is not None else ""
    return {"sfnt": "opentype" if file.shown.lower().endswith(".otf") else "truetype"}.get(container, container)


def _ignored_descriptors(rule: CheckedRule) -> Iterator[Finding]:
    for line, _ in rule.rule.errors:
        yield Finding(
            kind="declaration-broken",
            level="error" if rule.defined is None else "warning",
            place=replace(rule.place(), line=line),
            problem="what stands here is no declaration",
            effect="browsers ignore it, up to the next semicolon",
            advice="look for a colon or a semicolon that lacks, here or in the line above",
        )
    for said in rule.rule.descriptors.values():
        if said.name.startswith("--"):
            continue
        problem = _problem_of(said)
        if problem:
            yield Finding(
                kind="descriptor-ignored",
                level="warning",
                place=rule.place(said.name),
                problem=f"{said.name}: {_short(said.text)} {problem}",
                effect=f"browsers ignore it{_default_of(said.name)}",
                advice="correct it, or leave it out",
            )


def _default_of(name: str) -> str:
    defaults = {"font-weight": "400", "font-style": "normal", "font-stretch": "normal"}
    return f" and take the face for {defaults[name]}" if name in defaults else ""


def _problem_of(said: Descriptor) -> str:
    """What a browser does not understand of a descriptor; "" for nothing."""
    words = meaningful(said.value)
    texts = [word.lower_value if word.type == "ident" else "" for word in words]
    numbers = [number[0] for number in map(quantity, words) if number is not None]
    if said.name not in _KNOWN:
        return "is no descriptor of @font-face"
    if said.name == "font-weight":
        right = (
            bool(words)
            and len(words) <= 2
            and all(
                text in ("normal", "bold", "auto") or (word.type == "number" and 1 <= word.value <= 1000)
                for text, word in zip(texts, words, strict=True)
            )
        )
        return "" if right else "is no weight of a face: write 1 to 1000, normal, bold, or two of these"
    if said.name == "font-display":
        return "" if len(words) == 1 and texts[0] in _DISPLAYS else f"is none of {', '.join(_DISPLAYS)}"
    if said.name == "font-style":
        right = texts[:1] in (["normal"], ["italic"], ["auto"]) and len(words) == 1
        right = right or (texts[:1] == ["oblique"] and len(numbers) == len(words) - 1 <= 2)
        return "" if right else "is no style of a face: write normal, italic, oblique, or oblique with angles"
    if said.name in ("font-stretch", "font-width"):
        right = (
            bool(words)
            and len(words) <= 2
            and all(text in _WIDTHS or word.type == "percentage" for text, word in zip(texts, words, strict=True))
        )
        return "" if right else "is no width of a face: write a percentage or a keyword such as condensed"
    if said.name == "unicode-range":
        parts = [part.strip() for part in said.text.split(",")]
        right = all(_RANGE.fullmatch(part.replace(" ", "")) for part in parts)
        return "" if right else "is no range of characters: write U+20-7E, U+A0"
    return ""


def _templates(rule: CheckedRule) -> Iterator[Finding]:
    for source, _ in rule.sources:
        if is_template(source.url):
            yield Finding(
                kind="url-is-template",
                level="hint",
                place=rule.place("src"),
                problem=f"{_short(source.url)} is made by a template, so where it leads is not checked",
                effect="if a server sends it as it stands, no font comes",
                advice="check the page that is served",
            )


def _hidden_rules(site: CheckedSite) -> Iterator[Finding]:
    """Rules for the same face and characters: the last one counts (CSS Fonts 4, section 4.5)."""
    for rules in site.by_family.values():
        last: dict[tuple[object, ...], CheckedRule] = {}
        for rule in rules:
            face = rule.defined
            assert face is not None
            if face.local:
                continue
            key = (rule.sheet.address, face.weight, face.style, face.leans, face.width)
            before = last.get(key)
            if before is not None and before.defined is not None and _within(before.defined, face):
                yield Finding(
                    kind="rule-hidden",
                    level="warning",
                    place=before.place(),
                    problem=f"line {rule.rule.line} has a rule for the same weight, style, width and characters",
                    effect="only the later one is used where its font has the character",
                    advice="remove one of them, or correct its weight or style",
                )
            last[key] = rule


def _within(one: DefinedFace, other: DefinedFace) -> bool:
    """Whether all characters of a face are also in the ranges of another one."""
    if not other.ranges:
        return True
    return bool(one.ranges) and all(
        any(low <= first and last <= high for low, high in other.ranges) for first, last in one.ranges
    )


def _short(text: str) -> str:
    return text if len(text) <= 80 else f"{text[:60]}…{text[-15:]}"
