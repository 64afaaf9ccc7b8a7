"""Findings about `@font-face` rules: what a browser ignores in them, and addresses that lead nowhere."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import quote

from msgspec.structs import replace

from aksara.checking.face_rules import Descriptor, Source
from aksara.checking.findings import Finding, Place
from aksara.checking.gathering import (
    FORMATS,
    CheckedRule,
    CheckedSite,
    kind_of,
)
from aksara.checking.reaching import CheckedSheet, FontFile, file_name, is_template, way_to, without_query
from aksara.site.css.defined_faces import DefinedFace
from aksara.site.css.values import meaningful, quantity

_KNOWN = frozenset(
    "font-family src font-style font-weight font-stretch font-width unicode-range font-display size-adjust "
    "ascent-override descent-override line-gap-override font-feature-settings font-variation-settings "
    "font-language-override font-named-instance subscript-position-override superscript-position-override "
    "subscript-size-override superscript-size-override".split()
)
_DISPLAYS = ("auto", "block", "swap", "fallback", "optional")
_RANGE = re.compile(r"u\+(?:[0-9a-f]{1,6}(?:-[0-9a-f]{1,6})?|[0-9a-f]{0,5}\?{1,6})", re.IGNORECASE)
_OLD_FORMATS = ("embedded-opentype", "svg")
#: A sign for an encoded character without one behind it, and the characters that browsers encode themselves.
_BROKEN_PERCENT = re.compile(r"%(?![0-9a-fA-F]{2})")
_TO_ENCODE = frozenset(' "<>\\^`{|}')
_WIDTHS = frozenset(
    "normal ultra-condensed extra-condensed condensed semi-condensed semi-expanded expanded extra-expanded "
    "ultra-expanded auto".split()
)


def rule_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    for sheet in site.sheets:
        yield from _broken_families(sheet)
    for rule in site.rules:
        yield from _ignored_rule(rule)
        yield from _missing_files(rule, site)
        yield from _mixed(rule, site)
        yield from _formats(rule)
        yield from _ignored_descriptors(rule)
        yield from _characters_of_urls(rule)
        yield from _templates(rule)
    yield from _hidden_rules(site)


def _ignored_rule(rule: CheckedRule) -> Iterator[Finding]:
    """A rule without a family or without sources."""
    if rule.defined is not None and rule.rule.sources:
        return
    family, src = (rule.rule.descriptors.get(name) for name in ("font-family", "src"))
    if family is not None and family.value and not rule.rule.family:
        problem = f"{_short(family.text)} is no name of a family without quotes"
        advice = f'write font-family: "{_short(family.text)}"'
    elif not rule.rule.family:
        problem, advice = "the rule names no family", "add font-family with the name that your text asks for"
    elif src is None:
        problem, advice = "the rule names no file", 'add src: url("…") format("woff2")'
    elif any(token.type == "error" and token.kind == "bad-url" for token in src.value):
        problem = "an address without quotes has a blank, a quote or a bracket in it"
        advice = 'put it in quotes: src: url("…") format("woff2")'
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
        # Files for old browsers, which others pass over, are nobody's loss.
        if not file.missing or source.format.lower() in _OLD_FORMATS:
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
    reach = site.reaches[rule.sheet.address]
    sign = next((each for each in "#?" if each in source.url), "")
    if sign and reach.named(source.url.rpartition("/")[2]):
        return f"the file's name has a {sign} in it: write {quote(sign)} for it, or rename the file"
    plain, name = without_query(source.url), file_name(source.url)
    found = reach.named(name)
    if not found:
        return "put the font there, or correct the path; no font of that name is known in the site"
    url, known = way_to(found[0], rule.sheet), file_name(found[0])
    if name != known:
        return f'the file is called {known}, and names count capitals: write url("{url}")'
    folder = found[0].split("/")[-2]
    counted = "" if plain.startswith("/") else " (paths in a style sheet count from the style sheet, not from the page)"
    return f'a font of that name is in {folder}/: write url("{url}"){counted}'


def _mixed(rule: CheckedRule, site: CheckedSite) -> Iterator[Finding]:
    """Fonts by plain HTTP for pages that come encrypted (Mixed Content, section 4)."""
    places = [page.address for page in site.use.pages if rule.sheet.address in page.sheets]
    for source, file in rule.sources:
        url = file.address or source.url
        if not url.lower().startswith("http://") or any(place.startswith("http://") for place in places):
            continue
        served = any(place.startswith("https://") for place in places)
        yield Finding(
            kind="mixed-content",
            level="error" if served else "warning",
            place=rule.place("src"),
            problem=f'url("{_short(source.url)}") is fetched by plain HTTP',
            effect="pages that come by HTTPS do not get it: browsers block it, and text is shown in another font",
            advice="write https:, or a path without a host",
        )


def _broken_families(sheet: CheckedSheet) -> Iterator[Finding]:
    """Families that pages ask for in vain, since browsers drop the declaration (CSS Fonts 4, section 2.1)."""
    for broken in sheet.broken_families:
        first = broken.text.split(",")[0].strip()
        quoted = f'"{first}"' if first and not first.startswith(('"', "'")) else first or '"…"'
        yield Finding(
            kind="family-without-quotes",
            level="error",
            place=Place(sheet.shown, broken.line, "font-family"),
            problem=f"font-family: {_short(broken.text)} is no list of families",
            effect="browsers ignore it, and text is shown in the font of the element around it",
            advice=f"put names that have digits or signs in quotes: {_short(quoted)}",
        )


def _characters_of_urls(rule: CheckedRule) -> Iterator[Finding]:
    """Characters that have to be encoded in addresses (URL Standard, section 1.3)."""
    for source, _ in rule.sources:
        url = source.url
        if is_template(url) or url.lower().startswith("data:"):
            continue
        broken = _BROKEN_PERCENT.search(url)
        found = "%" if broken else next((each for each in url if each in _TO_ENCODE or not " " < each < "\x7f"), "")
        if not found:
            continue
        right = _BROKEN_PERCENT.sub("%25", url)
        right = "".join(quote(each) if each in _TO_ENCODE or not " " < each < "\x7f" else each for each in right)
        yield Finding(
            kind="url-needs-encoding",
            level="warning" if broken else "hint",
            place=rule.place("src"),
            problem=f'url("{_short(url)}") has {"a blank" if found == " " else found} in it, which is not encoded',
            effect="some servers and caches answer that there is no such file",
            advice=f'write url("{_short(right)}"), or rename the file',
        )


def _formats(rule: CheckedRule) -> Iterator[Finding]:
    """`format()` that no browser knows, that is not what the file is, or that comes too late."""
    sources = list(rule.sources)
    for source, file in sources:
        known = FORMATS.get(source.format.lower())
        if source.format and known is None and source.format.lower() not in _OLD_FORMATS:
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
