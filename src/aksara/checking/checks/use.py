"""Findings about what pages ask for: undefined families, faked faces, missing characters, links."""

from __future__ import annotations

import unicodedata
from collections import Counter
from collections.abc import Iterator, Sequence

from aksara.checking.findings import Finding, Place, place_of
from aksara.checking.gathering import CheckedRule, CheckedSite
from aksara.site.findings import replaced_faces, undefined_families, unused_faces
from aksara.site.usage import FaceUse
from aksara.text import format_ranges
from aksara.text.emoji import known_sequences, without_selectors
from aksara.web.font_matching import describe_missing_face
from aksara.web.syntax import GENERIC_FAMILIES

#: Why a style sheet was not read that may well be there.
_NOT_LOOKED_AT = ("was not read", "is one of more than")
#: Characters that are named one by one.
_NAMED = 6


def use_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    yield from _sheets(site)
    yield from _undefined(site)
    yield from _properties(site)
    yield from _characters(site)
    yield from _texts(site)
    yield from _sequences(site)
    yield from _replaced(site)
    yield from _display(site)
    yield from _generic(site)
    yield from _unused(site)


def _sheets(site: CheckedSite) -> Iterator[Finding]:
    """Style sheets that are not there: with them go their fonts."""
    counts = Counter(missing for page in site.use.pages for missing in page.missing)
    for (address, reason), pages in counts.items():
        there = not any(words in reason for words in _NOT_LOOKED_AT)
        first = next(page.page for page in site.use.pages if (address, reason) in page.missing)
        yield Finding(
            kind="sheet-missing",
            level="error" if there else "hint",
            place=Place(first),
            problem=f"the style sheet {address} {reason}" + (f" ({pages} pages ask for it)" if pages > 1 else ""),
            effect="the fonts and rules in it do not count" if there else "what it says of fonts is not checked",
            advice="correct the path in the page" if there else "check it where it is",
        )


def _undefined(site: CheckedSite) -> Iterator[Finding]:
    for each in undefined_families(site.use):
        yield Finding(
            kind="family-undefined",
            level="error" if each.nearest else "hint",
            place=place_of(each.use.origin),
            problem=f"no rule defines the family {each.family}",
            effect=f"{each.use.count:,} characters are shown in the next font of the list, if it is not installed",
            advice=f"write {each.nearest}, if that is meant"
            if each.nearest
            else "add an @font-face rule, or remove it",
        )


def _properties(site: CheckedSite) -> Iterator[Finding]:
    """Custom properties that pages take fonts from and that none of their style sheets defines: once a property."""
    sheets = {sheet.address: sheet for sheet in site.sheets}
    told: set[str] = set()
    for page in site.use.pages:
        own = [sheets[address] for address in page.sheets if address in sheets]
        defined = frozenset[str]().union(*(sheet.properties for sheet in own))
        for sheet in own:
            for name in sorted(sheet.properties_used.keys() - defined - told):
                told.add(name)
                where = next((other.shown for other in site.sheets if name in other.properties), "")
                yield Finding(
                    kind="property-undefined",
                    # Scripts may define it.
                    level="warning" if page.scripts else "error",
                    place=Place(sheet.shown, sheet.properties_used[name], f"var({name})"),
                    problem=f"{page.page} takes a font from {name}, which none of its style sheets defines",
                    effect="text is shown in the fallback that var() names, or in the font of the element around it",
                    advice=f"link {where} in that page" if where else "link the style sheet that defines it",
                )


def _characters(site: CheckedSite) -> Iterator[Finding]:
    """Characters that pages show in a family whose face does not have them."""
    lacking: dict[tuple[str, str], list[tuple[int, FaceUse]]] = {}
    replaced = {id(each.use) for each in replaced_faces(site.use)}
    for use in site.use.faces:
        # Of a face that is not there, that it is not there is what matters.
        if use.hidden or id(use) in replaced:
            continue
        rules = site.rules_for(use)
        if not rules:
            continue
        name = next(each for each in use.face.families if each.casefold() in site.by_family)
        hidden = []
        for code in sorted(use.codes):
            if not _is_drawn(code) or any(_has(rule, code) for rule in rules):
                continue
            if any(_is_in_file(rule, code) for rule in rules):
                hidden.append(code)
                continue
            label = rules[0].defined.label if rules[0].defined is not None else ""
            lacking.setdefault((name, label), []).append((code, use))
        if hidden:
            yield _hidden_by_range(site, rules, use, hidden)
    for (name, label), found in lacking.items():
        codes = list(dict.fromkeys(code for code, _ in found))
        pages = {code: _page_of(site, use, code) for code, use in reversed(found[:_NAMED])}
        having = sorted({
            rule.defined.label
            for rule in site.by_family[name.casefold()]
            if rule.defined is not None and all(_has(rule, code) for code in codes)
        })  # fmt: skip
        listed = ", ".join(_character(code, pages[code]) for code in codes[:_NAMED])
        more = f" and {len(codes) - _NAMED:,} more" if len(codes) > _NAMED else ""
        yield Finding(
            kind="characters-missing",
            level="error",
            place=Place(pages[codes[0]]),
            problem=f"{name} {label} lacks {listed}{more}",
            effect="these characters are shown in another font, amid the text",
            advice=f"{having[0]} has them"
            if having
            else "build the fonts anew with the text of the pages; if they never had them, use another family there",
        )


def _texts(site: CheckedSite) -> Iterator[Finding]:
    """Characters of texts that are no pages, and that the family of running text lacks."""
    shown = next((use for use in site.use.faces if not use.hidden and site.rules_for(use)), None)
    if shown is None:
        return
    rules = site.rules_for(shown) or []
    family = rules[0].defined.family if rules[0].defined is not None else ""
    for text in site.use.texts:
        codes = sorted(ord(each) for each in text.characters if len(each) == 1)
        lost = [code for code in codes if _is_drawn(code) and not any(_has(rule, code) for rule in rules)]
        if lost:
            listed = ", ".join(_character(code, text.path) for code in lost[:_NAMED])
            more = f" and {len(lost) - _NAMED:,} more" if len(lost) > _NAMED else ""
            yield Finding(
                kind="characters-missing",
                level="error",
                place=Place(text.path),
                problem=f"{family}, in which most text is set, lacks {listed}{more}",
                effect="these characters are shown in another font, amid the text",
                advice="build the fonts anew with this text",
            )


def _sequences(site: CheckedSite) -> Iterator[Finding]:
    """Emoji of several characters that a face has all characters of, and draws as its parts."""
    for use in site.use.faces:
        rules = site.rules_for(use) if not use.hidden else None
        lost = [sequence for sequence in sorted(use.sequences) if rules and _is_in_parts(rules, sequence)]
        if rules and lost:
            listed = ", ".join(lost[:_NAMED]) + (f" and {len(lost) - _NAMED:,} more" if len(lost) > _NAMED else "")
            family = rules[0].defined.family if rules[0].defined is not None else ""
            yield Finding(
                kind="sequence-in-parts",
                level="warning",
                place=Place(_page_of(site, use, ord(lost[0][0]))),
                problem=f"{family} has the parts of {listed}, and does not draw them as one",
                effect="readers see several emoji side by side",
                advice="build the fonts anew with the text of the pages; if they never had them, use another family",
            )


def _is_in_parts(rules: Sequence[CheckedRule], sequence: str) -> bool:
    """Whether some rule has each of the characters, and none all of them together."""
    bare = without_selectors(sequence)
    if bare not in known_sequences():
        return False
    codes = [ord(character) for character in bare]
    shown = [code for code in codes if _is_drawn(code)]
    if not all(any(_has(rule, code) for rule in rules) for code in shown):
        return False
    return not any(
        rule.served is not None
        and rule.served.facts is not None
        and bare in rule.served.facts.sequences
        # A font may do without the characters that only join.
        and all(_has(rule, code) or not (_is_drawn(code) or _is_in_file(rule, code)) for code in codes)
        for rule in rules
    )


def _hidden_by_range(site: CheckedSite, rules: Sequence[CheckedRule], use: FaceUse, codes: Sequence[int]) -> Finding:
    rule = next(rule for rule in rules if _is_in_file(rule, codes[0]))
    listed = ", ".join(_character(code, _page_of(site, use, code)) for code in codes[:_NAMED])
    more = f" and {len(codes) - _NAMED:,} more" if len(codes) > _NAMED else ""
    return Finding(
        kind="range-hides-characters",
        level="error",
        place=rule.place("unicode-range"),
        problem=f"the range leaves out {listed}{more}, which pages show and the file has",
        effect="these characters are shown in another font, amid the text",
        advice=f"add {format_ranges(codes)} to unicode-range",
    )


def _page_of(site: CheckedSite, use: FaceUse, code: int) -> str:
    """The first page that shows a character in a face."""
    for page in site.use.pages:
        if any(each.face == use.face and code in each.codes for each in page.faces if not each.hidden):
            return page.page
    return use.origin.page


def _character(code: int, page: str) -> str:
    name = unicodedata.name(chr(code), "").lower()
    return f"{chr(code)} (U+{code:04X} {name}, {page})"


def _has(rule: CheckedRule, code: int) -> bool:
    return rule.defined is not None and rule.defined.serves(code) and _is_in_file(rule, code)


def _is_in_file(rule: CheckedRule, code: int) -> bool:
    file = rule.served
    return file is not None and file.facts is not None and code in file.facts.characters


def _is_drawn(code: int) -> bool:
    category = unicodedata.category(chr(code))
    return category[0] not in "CZ" and not 0xFE00 <= code <= 0xFE0F


def _replaced(site: CheckedSite) -> Iterator[Finding]:
    for each in replaced_faces(site.use):
        text = describe_missing_face(each.desired, each.nearest)
        rules = site.rules_for(each.use) or ()
        codes = [code for code in sorted(each.use.codes) if _is_drawn(code)] if rules else []
        lost = [code for code in codes if not any(_has(rule, code) for rule in rules)]
        effect = f"{each.use.count:,} characters come out in a faked or another weight or style"
        if lost:
            listed = "".join(map(chr, lost[:_NAMED])) + "…" * (len(lost) > _NAMED)
            effect += f", and {len(lost):,} of them ({listed}) in another font"
        yield Finding(
            kind="face-missing",
            # What the project makes is in its hands.
            level="error" if lost or each.family.casefold() in site.own_families else "warning",
            place=place_of(each.use.origin),
            problem=f"{each.family}: {text}",
            effect=effect,
            advice="add the face, or ask for one that is there",
        )


def _display(site: CheckedSite) -> Iterator[Finding]:
    """Faces without `font-display`: once a style sheet."""
    told: set[str] = set()
    for rule in site.rules:
        face = rule.defined
        if face is None or face.local or "font-display" in rule.rule.descriptors or rule.sheet.address in told:
            continue
        told.add(rule.sheet.address)
        yield Finding(
            kind="display-missing",
            level="hint",
            place=rule.place(),
            problem="no font-display",
            effect="text may stay invisible for up to three seconds while the font is fetched",
            advice="add font-display: swap, here and to the other rules",
        )


def _generic(site: CheckedSite) -> Iterator[Finding]:
    """Lists of families that end without a generic one: once a list."""
    told: set[tuple[str, ...]] = set()
    for use in site.use.faces:
        families = use.face.families
        defined = any(each.casefold() in site.by_family for each in families)
        if use.hidden or not defined or families in told:
            continue
        if not any(each.casefold() in GENERIC_FAMILIES for each in families):
            told.add(families)
            yield Finding(
                kind="generic-missing",
                level="hint",
                place=place_of(use.origin),
                problem=f"the list {', '.join(families)} has no generic family at its end",
                effect="while the font is fetched, or if it fails, text is in the browser's default serif",
                advice="add serif, sans-serif or monospace",
            )


def _unused(site: CheckedSite) -> Iterator[Finding]:
    unused = set(unused_faces(site.use))
    told: set[tuple[object, ...]] = set()
    for rule in site.rules:
        face = rule.defined
        if face is None or face.local:
            continue
        key = (face.family, face.weight, face.style, face.width)
        if key not in told and any((each.family, each.weight, each.style, each.width) == key for each in unused):
            told.add(key)
            yield Finding(
                kind="face-unused",
                level="hint",
                place=rule.place(),
                problem=f"no text is set in {face.family} {face.label}",
                effect="nothing: browsers do not fetch it",
                advice="remove the rule and its files, if no page is to use it",
            )
