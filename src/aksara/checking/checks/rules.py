"""Findings about `@font-face` rules: what browsers ignore in them, and broken addresses."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import quote

from msgspec.structs import replace

from aksara.checking.checks.descriptors import default_of, is_descriptor, why_ignored
from aksara.checking.findings import Finding, Place, finding, shortened
from aksara.checking.gathering import FORMATS, CheckedRule, CheckedSite, kind_of
from aksara.checking.reaching import CheckedSheet, ReachedFile
from aksara.checking.urls import file_name, is_template, way_between, without_query
from aksara.phrases import count_of
from aksara.site.css.defined_faces import DefinedFace
from aksara.site.css.face_rules import Source
from aksara.site.page.pages import RootUnknownError

_OLD_FORMATS = ("embedded-opentype", "svg", "eot")
_REMOVE = "put the file there, or remove this source"
#: Why a file is missing whose address counts from a root that is not this folder.
NOT_BELOW = str(RootUnknownError())
#: A sign for an encoded character without one behind it, and the characters that browsers encode themselves.
_BROKEN_PERCENT = re.compile(r"%(?![0-9a-fA-F]{2})")
_TO_ENCODE = frozenset(' "<>\\^`{|}')
#: The share of a font's characters that a later rule may leave it, and hide it all the same.
_MOST_LEFT = 0.1
#: Suffixes of fonts, to find the one that a misspelt suffix means.
_SUFFIXES = ("woff2", "woff", "ttf", "otf", "eot")


def rule_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    for sheet in site.sheets:
        yield from _broken_families(sheet)
    for rule in site.rules:
        yield from _ignored_rule(rule, site)
        yield from _missing_files(rule, site)
        yield from _mixed(rule, site)
        yield from _formats(rule, site)
        yield from _ignored_descriptors(rule)
        yield from _characters_of_urls(rule)
        yield from _templates(rule)
    yield from _hidden_rules(site)


def _ignored_rule(rule: CheckedRule, site: CheckedSite) -> Iterator[Finding]:
    """A rule without a family or without sources."""
    if rule.defined is not None and rule.rule.sources:
        return
    family, src = (rule.rule.descriptors.get(name) for name in ("font-family", "src"))
    if rule.sheet.template or any(is_template(value.text) for value in (family, src) if value is not None):
        return
    if family is not None and family.value and not rule.rule.family:
        problem = f"{shortened(family.text)} is not a family name without quotes"
        remedy = f'write font-family: "{shortened(family.text)}"'
    elif not rule.rule.family:
        problem, remedy = "the rule names no family", "add font-family with the name that your text asks for"
    elif src is None:
        problem, remedy = "the rule names no file", 'add src: url("…") format("woff2")'
    elif any(token.type == "error" and token.kind == "bad-url" for token in src.value):
        problem = "an address without quotes contains a blank, a quote or a bracket"
        remedy = 'put it in quotes: src: url("…") format("woff2")'
    else:
        problem, remedy = "the sources of the rule cannot be read", 'write src: url("…") format("woff2"), with quotes'
    works = rule.rule.family.casefold() in site.by_family.keys() | site.not_loaded.keys()
    case = "another works" if works else ""
    yield finding("rule-ignored", rule.place("src"), case, family=rule.rule.family, problem=problem, remedy=remedy)


def _missing_files(rule: CheckedRule, site: CheckedSite) -> Iterator[Finding]:
    """Files that are missing: once a rule."""
    # Files for old browsers, which others skip, are no loss.
    missing = [
        (source, file) for source, file in rule.sources if file.missing and source.format.lower() not in _OLD_FORMATS
    ]
    if not missing:
        return
    source, file = missing[0]
    works = rule.served is not None or site.has_other(rule)
    more = f"; so {'is' if len(missing) == 2 else 'are'} {count_of(len(missing) - 1, 'other source')} of this rule"
    yield finding(
        "font-missing",
        rule.place("src"),
        "another works" if works else "from the root" if file.missing == NOT_BELOW else "",
        family=rule.rule.family or "this family",
        address=source.url,
        reason=file.missing + (more if len(missing) > 1 and file.missing == "is missing" else ""),
        remedy=_REMOVE if rule.served is not None else _where_it_is(source, rule, site),
    )


def _where_it_is(source: Source, rule: CheckedRule, site: CheckedSite) -> str:
    """Where a file of that name is, and how to write that."""
    reach = site.reaches[rule.sheet.address]
    sign = next((character for character in "#?" if character in source.url), "")
    if sign and reach.named(source.url.rpartition("/")[2]):
        return f"the file's name contains {sign}: write {quote(sign)} for it, or rename the file"
    plain, name = without_query(source.url), file_name(source.url)
    addresses = reach.named(name)
    if not addresses:
        return _other_suffix(name, rule, site) or "put the font there, or correct the path; no file here has that name"
    url, known = way_between(rule.sheet.address, addresses[0]), file_name(addresses[0])
    if name != known:
        return f'the file is called {known}, and capitals count: write url("{url}")'
    folder = addresses[0].split("/")[-2]
    counted = "" if plain.startswith("/") else " (paths in a style sheet count from the style sheet, not from the page)"
    return f'a file of that name is in {folder}/: write url("{url}"){counted}'


def _other_suffix(name: str, rule: CheckedRule, site: CheckedSite) -> str:
    """The file that only the suffix of a name misses."""
    stem = name.rpartition(".")[0]
    for suffix in _SUFFIXES if stem else ():
        if others := site.reaches[rule.sheet.address].named(f"{stem}.{suffix}"):
            return f'there is a {file_name(others[0])}: write url("{way_between(rule.sheet.address, others[0])}")'
    return ""


def _mixed(rule: CheckedRule, site: CheckedSite) -> Iterator[Finding]:
    """Fonts by plain HTTP for pages that come encrypted (Mixed Content, section 4)."""
    addresses = [page.address for page in site.use.pages if rule.sheet.address in page.sheets]
    for source, file in rule.sources:
        url = file.address or source.url
        if not url.lower().startswith("http://") or any(place.startswith("http://") for place in addresses):
            continue
        case = "" if any(place.startswith("https://") for place in addresses) else "in a folder"
        yield finding("mixed-content", rule.place("src"), case, family=rule.rule.family, address=source.url)


def _broken_families(sheet: CheckedSheet) -> Iterator[Finding]:
    """Families that have no effect, since browsers drop the declaration (CSS Fonts 4, section 2.1)."""
    for broken in sheet.broken_families:
        first = broken.text.split(",")[0].strip()
        quoted = f'"{first}"' if first and not first.startswith(('"', "'")) else first or '"…"'
        yield finding(
            "family-without-quotes",
            Place(sheet.shown, broken.line, "font-family"),
            written=shortened(broken.text),
            quoted=shortened(quoted),
        )


def _characters_of_urls(rule: CheckedRule) -> Iterator[Finding]:
    """Characters that have to be encoded in addresses (URL Standard, section 1.3)."""
    for source, _ in rule.sources:
        url = source.url
        if is_template(url) or url.lower().startswith("data:"):
            continue
        broken = _BROKEN_PERCENT.search(url)
        sign = "%" if broken else next((character for character in url if _is_to_encode(character)), "")
        if not sign:
            continue
        right = _BROKEN_PERCENT.sub("%25", url)
        yield finding(
            "url-needs-encoding",
            rule.place("src"),
            "percent sign" if broken else "",
            address=url,
            sign="a blank" if sign == " " else sign,
            right=shortened(
                "".join(quote(character) if _is_to_encode(character) else character for character in right)
            ),
        )


def _is_to_encode(character: str) -> bool:
    return character in _TO_ENCODE or not " " < character < "\x7f"


def _formats(rule: CheckedRule, site: CheckedSite) -> Iterator[Finding]:
    """A `format()` that no browser knows, that is wrong for the file, or that comes too late."""
    sources = list(rule.sources)
    for source, file in sources:
        known = FORMATS.get(source.format.lower())
        if source.format and known is None and source.format.lower() not in _OLD_FORMATS:
            right = _format_of(file)
            yield finding(
                "format-unknown",
                rule.place("src"),
                "another works" if rule.served is not None or site.has_other(rule) else "",
                family=rule.rule.family,
                written=shortened(source.format),
                remedy=f'write format("{right}")' if right else 'write format("woff2"), or what the file is',
            )
        elif known is not None and file.facts is not None and file.facts.container not in ("", *known):
            yield finding(
                "format-contradicts-file",
                rule.place("src"),
                family=rule.rule.family,
                written=source.format,
                file=file.shown,
                container=kind_of(file.facts.container),
                right=_format_of(file),
            )
    order = [file.facts.container for _, file in sources if file.facts is not None and not file.facts.problem]
    if "woff2" in order and order[0] != "woff2":
        yield finding("better-format-later", rule.place("src"), family=rule.rule.family, container=kind_of(order[0]))


def _format_of(file: ReachedFile) -> str:
    container = file.facts.container if file.facts is not None else ""
    return {"sfnt": "opentype" if file.shown.lower().endswith(".otf") else "truetype"}.get(container, container)


def _ignored_descriptors(rule: CheckedRule) -> Iterator[Finding]:
    for line, _ in rule.rule.errors if not rule.sheet.template else ():
        case = "whole rule" if rule.defined is None else ""
        yield finding("declaration-broken", replace(rule.place(), line=line), case, family=rule.rule.family)
    for said in rule.rule.descriptors.values():
        reason = why_ignored(said)
        if reason and not is_template(said.text):
            yield finding(
                "descriptor-ignored",
                rule.place(said.name),
                "" if is_descriptor(said.name) else "unknown",
                family=rule.rule.family,
                name=said.name,
                written=shortened(said.text),
                reason=reason,
                default=default_of(said.name),
            )


def _templates(rule: CheckedRule) -> Iterator[Finding]:
    for source, _ in rule.sources:
        if is_template(source.url):
            yield finding("url-is-template", rule.place("src"), family=rule.rule.family, address=source.url)


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
            same = before is not None and [source for source, _ in before.sources] == [
                source for source, _ in rule.sources
            ]
            if before is not None and (same or _hides(rule, before)):
                place = before.place()
                case = "same" if same else ""
                yield finding("rule-hidden", place, case, family=face.family, face=face.label, line=rule.rule.line)
            last[key] = rule


def _hides(later: CheckedRule, earlier: CheckedRule) -> bool:
    """Whether an earlier rule is almost entirely hidden: several files may make one face on purpose."""
    one, other = earlier.defined, later.defined
    if one is None or other is None or not _within(one, other):
        return False
    facts = [rule.served.facts if rule.served is not None else None for rule in (earlier, later)]
    if facts[0] is None or facts[1] is None:
        return True
    own = {code for code in facts[0].characters if one.serves(code)}
    return len(own - facts[1].characters) <= _MOST_LEFT * len(own)


def _within(one: DefinedFace, other: DefinedFace) -> bool:
    """Whether all characters of a face are also in the ranges of another one."""
    if not other.ranges:
        return True
    return bool(one.ranges) and all(
        any(low <= first and last <= high for low, high in other.ranges) for first, last in one.ranges
    )
