"""Findings about characters that pages show, and that the faces of their text do not have."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator, Mapping, Sequence
from functools import lru_cache

from aksara.checking.findings import Finding, Place, finding
from aksara.checking.gathering import CheckedRule, CheckedSite
from aksara.checking.manifests import Manifest
from aksara.phrases import listed
from aksara.site.findings import leading_family, replaced_faces
from aksara.site.usage import FaceUse
from aksara.text import format_ranges
from aksara.text.blocks import block_name
from aksara.text.emoji import known_sequences, may_be_of_emoji, without_selectors
from aksara.text.scripts import COMMON, script_of, scripts_of

#: Characters that are named one by one.
_NAMED = 6


def character_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    yield from _characters(site)
    yield from _texts(site)
    yield from _sequences(site)


def _characters(site: CheckedSite) -> Iterator[Finding]:
    """Characters that pages show in a family whose face does not have them."""
    missing: dict[tuple[str, str, str], list[tuple[int, FaceUse]]] = {}
    replaced = {id(face.use) for face in replaced_faces(site.use)}
    # What a template renders is not known: its own words may be replaced, and icons are often written by scripts.
    templates = {page.page for page in site.use.pages if page.template}
    for use in site.use.faces:
        # Of a face that is missing, that it is missing is what matters.
        if use.hidden or id(use) in replaced or use.origin.page in templates:
            continue
        rules = site.rules_for(use)
        if not rules:
            continue
        name = leading_family(use.face, site.by_family)
        label = rules[0].defined.label if rules[0].defined is not None else ""
        others = _other_rules(site, use, name)
        hidden = []
        for code in sorted(use.codes):
            if not is_drawn(code) or any(has(rule, code) for rule in (*rules, *others)):
                continue
            if any(is_in_file(rule, code) for rule in rules):
                hidden.append(code)
            else:
                missing.setdefault((name, label, _case(site, rules, code)), []).append((code, use))
        if hidden:
            yield _hidden_by_range(site, rules, use, hidden)
    for (name, label, case), uses in missing.items():
        yield _missing(site, name, label, case, uses)


def _other_rules(site: CheckedSite, use: FaceUse, name: str) -> list[CheckedRule]:
    """The rules of the families that follow in a list: text is meant to be shown in them where the first cannot."""
    families = use.face.families[use.face.families.index(name) + 1 :]
    return [rule for family in families for rule in site.by_family.get(family.casefold(), ())]


def _case(site: CheckedSite, rules: Sequence[CheckedRule], code: int) -> str:
    """The cause of a missing character: the subset, the font, or neither."""
    if may_be_of_emoji(chr(code)) and not chr(code).isascii():
        return "emoji"
    manifest = _manifest_of(site, rules)
    if manifest is not None:
        family = rules[0].defined.family if rules[0].defined is not None else ""
        return "never had" if code in manifest.never_had.get(family, ()) else ""
    is_word = unicodedata.category(chr(code))[0] in "LN"
    return "" if is_word and any(_is_meant_for(_characters_of(rule), code) for rule in rules) else "unknown font"


def _is_meant_for(known: frozenset[int], code: int) -> bool:
    """Whether a font with these characters was made for text with that one: it has letters of its script, or of what
    no script has for itself others of its block."""
    scripts = scripts_of(code)
    if scripts == {COMMON}:
        return block_name(code) in _blocks(known)
    return not scripts.isdisjoint(_scripts(known))


# Asked for each character that a page shows and a font does not have.
@lru_cache(maxsize=256)
def _scripts(known: frozenset[int]) -> frozenset[str]:
    return frozenset(map(script_of, known))


@lru_cache(maxsize=256)
def _blocks(known: frozenset[int]) -> frozenset[str]:
    return frozenset(map(block_name, known))


def _manifest_of(site: CheckedSite, rules: Sequence[CheckedRule]) -> Manifest | None:
    """The manifest of the build that made the files of these rules, if one did."""
    folders = {rule.served.address.rpartition("/")[0] for rule in rules if rule.served is not None}
    return next((manifest for manifest in site.manifests if manifest.folders & folders), None)


def _characters_of(rule: CheckedRule) -> frozenset[int]:
    facts = rule.served.facts if rule.served is not None else None
    return facts.characters if facts is not None else frozenset()


def _missing(site: CheckedSite, name: str, label: str, case: str, uses: Sequence[tuple[int, FaceUse]]) -> Finding:
    codes = list(dict.fromkeys(code for code, _ in uses))
    pages = {code: page_of(site, use, code) for code, use in reversed(uses)}
    having = sorted({
        rule.defined.label
        for rule in site.by_family[name.casefold()]
        if rule.defined is not None and all(has(rule, code) for code in codes)
    })  # fmt: skip
    page = pages[codes[0]]
    return finding(
        "characters-missing",
        Place(page),
        "another face" if having and case == "" else case,
        page=page,
        family=name,
        face=label,
        characters=codes,
        name=f"{name} {label}",
        listed=_listed(codes, pages),
        other=having[0] if having else "",
    )


def _listed(codes: Sequence[int], pages: Mapping[int, str]) -> str:
    return listed([_character(code, pages[code]) for code in codes], _NAMED)


def _texts(site: CheckedSite) -> Iterator[Finding]:
    """Characters of texts that are no pages, and that the family of running text does not have."""
    shown = next((use for use in site.use.faces if not use.hidden and site.rules_for(use)), None)
    if shown is None:
        return
    rules = site.rules_for(shown) or []
    family = rules[0].defined.family if rules[0].defined is not None else ""
    for text in site.use.texts:
        if text.by_chance:
            continue
        codes = sorted(ord(character) for character in text.characters if len(character) == 1)
        lost = [code for code in codes if is_drawn(code) and not any(has(rule, code) for rule in rules)]
        if lost:
            yield finding(
                "characters-missing",
                Place(text.path),
                page=text.path,
                family=family,
                characters=lost,
                name=f"{family}, the family of most text,",
                listed=_listed(lost, dict.fromkeys(lost, text.path)),
            )


def _sequences(site: CheckedSite) -> Iterator[Finding]:
    """Emoji of several characters that a face has all characters of, and draws as its parts."""
    for use in site.use.faces:
        rules = site.rules_for(use) if not use.hidden else None
        lost = [sequence for sequence in sorted(use.sequences) if rules and _is_in_parts(rules, sequence)]
        if rules and lost:
            family = rules[0].defined.family if rules[0].defined is not None else ""
            page = page_of(site, use, ord(lost[0][0]))
            yield finding("sequence-in-parts", Place(page), page=page, family=family, listed=listed(lost, _NAMED))


def _is_in_parts(rules: Sequence[CheckedRule], sequence: str) -> bool:
    """Whether some rule has each of the characters, and none all of them together."""
    bare = without_selectors(sequence)
    if bare not in known_sequences():
        return False
    codes = [ord(character) for character in bare]
    shown = [code for code in codes if is_drawn(code)]
    if not all(any(has(rule, code) for rule in rules) for code in shown):
        return False
    return not any(
        rule.served is not None
        and rule.served.facts is not None
        and bare in rule.served.facts.sequences
        # A font may do without the characters that only join.
        and all(has(rule, code) or not (is_drawn(code) or is_in_file(rule, code)) for code in codes)
        for rule in rules
    )


def _hidden_by_range(site: CheckedSite, rules: Sequence[CheckedRule], use: FaceUse, codes: Sequence[int]) -> Finding:
    rule = next(rule for rule in rules if is_in_file(rule, codes[0]))
    pages = {code: page_of(site, use, code) for code in codes[:_NAMED]}
    return finding(
        "range-hides-characters",
        rule.place("unicode-range"),
        page=pages[codes[0]],
        family=rule.rule.family,
        characters=codes,
        listed=listed([_character(code, pages.get(code, "")) for code in codes], _NAMED),
        ranges=format_ranges(codes),
    )


def page_of(site: CheckedSite, use: FaceUse, code: int) -> str:
    """The first page that shows a character in a face."""
    for page in site.use.pages:
        if any(face.face == use.face and code in face.codes for face in page.faces if not face.hidden):
            return page.page
    return use.origin.page


def _character(code: int, page: str) -> str:
    name = unicodedata.name(chr(code), "").lower()
    return f"{chr(code)} (U+{code:04X} {name}, {page})"


def has(rule: CheckedRule, code: int) -> bool:
    return rule.defined is not None and rule.defined.serves(code) and is_in_file(rule, code)


def is_in_file(rule: CheckedRule, code: int) -> bool:
    file = rule.served
    return file is not None and file.facts is not None and code in file.facts.characters


def is_drawn(code: int) -> bool:
    category = unicodedata.category(chr(code))
    return category[0] not in "CZ" and not 0xFE00 <= code <= 0xFE0F
