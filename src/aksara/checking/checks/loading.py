"""Findings about what pages fetch, and when: preload links, slices, and the faces that text has until fonts come."""

from __future__ import annotations

from collections.abc import Iterator

from aksara.checking.findings import Finding, Place, place_of
from aksara.checking.gathering import CheckedSite
from aksara.checking.reaching import FontFile, file_name
from aksara.site.usage import PageUse, PreloadLink
from aksara.site.web_addresses import is_address

#: Descriptors that fit an installed font to another one (CSS Fonts 5, section 4).
_FITTING = ("size-adjust", "ascent-override", "descent-override", "line-gap-override")


def loading_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    for page in site.use.pages:
        yield from _preloads(site, page)
    yield from _fallbacks(site)
    yield from _slices(site)


def _preloads(site: CheckedSite, page: PageUse) -> Iterator[Finding]:
    """Links that fetch twice, what is not there, or what the page does not show."""
    named = {file.address for rule in site.rules_of(page) for _, file in rule.sources if file.address}
    shown = {file.address: count for file, count in site.fetched_by(page).items() if file.address}
    for link in page.preloads:
        place = Place(page.page, link.line, "link rel=preload")
        yield from _attributes(link, place)
        reach = site.reaches.get(page.address)
        if reach is None or (page.root and is_address(link.address)):
            continue
        effect = "it is fetched for nothing, before what the page needs"
        advice = "take the address from the style sheet, or remove the link"
        if link.address not in named and not reach.is_there(link.address):
            problem = f"{link.href} is preloaded, and is not there"
            effect = "it is asked for in vain, before what the page needs"
        elif link.address not in named:
            problem = f"{link.href} is preloaded, and no rule of the page's style sheets names it"
        elif shown and link.address not in shown:
            problem = f"{link.href} is preloaded, and no text of this page is shown with it"
            advice = f"preload {file_name(_main(shown))}, or nothing"
        else:
            continue
        yield Finding(
            kind="preload-unused", level="warning", place=place, problem=problem, effect=effect, advice=advice
        )
    fetched = {link.address for link in page.preloads if link.kind == "font"}
    if fetched & shown.keys() and (main := _main(shown)) not in fetched:
        yield Finding(
            kind="preload-misses",
            level="hint",
            place=Place(page.page, page.preloads[0].line, "link rel=preload"),
            problem=f"most text of the page is in {file_name(main)}, which is not among what is preloaded",
            effect="that text changes its font last",
            advice=f"preload {file_name(main)}",
        )


def _main(shown: dict[str, int]) -> str:
    """The file that most characters are shown with."""
    return max(shown, key=lambda each: (shown[each], each))


def _attributes(link: PreloadLink, place: Place) -> Iterator[Finding]:
    if link.kind != "font":
        yield Finding(
            kind="preload-without-kind",
            level="warning",
            place=place,
            problem=f'{link.href} is preloaded without as="font"',
            effect="the font is fetched twice, or not early at all",
            advice='add as="font" type="font/woff2" crossorigin',
        )
    elif not link.crossorigin:
        yield Finding(
            kind="preload-without-crossorigin",
            level="warning",
            place=place,
            problem=f"{link.href} is preloaded without crossorigin",
            effect="the font is fetched twice: fonts are always fetched with CORS",
            advice="add crossorigin",
        )


def _fallbacks(site: CheckedSite) -> Iterator[Finding]:
    """Lists of families without the fitted face that their style sheets have for them: once a list."""
    fitted: dict[str, str] = {}
    for rule in site.rules:
        if rule.defined is not None and rule.defined.local and any(each in rule.rule.descriptors for each in _FITTING):
            fitted[rule.defined.family.casefold()] = rule.defined.family
    told: set[tuple[str, ...]] = set()
    for use in site.use.faces:
        families = use.face.families
        names = [each.casefold() for each in families]
        own = next((each for each in names if each in site.by_family and each not in fitted), None)
        if use.hidden or own is None or families in told or any(each in fitted for each in names):
            continue
        if found := [name for key, name in fitted.items() if key.startswith(own)]:
            told.add(families)
            yield Finding(
                kind="fallback-missing",
                level="warning",
                place=place_of(use.origin),
                problem=f"the list {', '.join(families)} lacks {found[0]}, which the style sheet has for it",
                effect="lines break anew and the page jumps when the font comes",
                advice=f"write {found[0]} behind {families[names.index(own)]}",
            )


def _slices(site: CheckedSite) -> Iterator[Finding]:
    """Files of faces in use that no page fetches: once a family."""
    fetched: set[FontFile] = set()
    for page in site.use.pages:
        fetched |= site.fetched_by(page).keys()
    for rules in site.by_family.values():
        sliced = [
            rule for rule in rules if rule.defined is not None and rule.defined.ranges and rule.served is not None
        ]
        used = {(rule.defined.weight, rule.defined.style, rule.defined.width)
                for rule in sliced if rule.defined is not None and rule.served in fetched}  # fmt: skip
        unused = [rule for rule in sliced if rule.defined is not None and rule.served not in fetched
                  and (rule.defined.weight, rule.defined.style, rule.defined.width) in used]  # fmt: skip
        if unused:
            names = ", ".join(file_name(rule.served.shown) for rule in unused[:3] if rule.served is not None)
            more = f" and {len(unused) - 3} more" if len(unused) > 3 else ""
            yield Finding(
                kind="slice-unused",
                level="hint",
                place=unused[0].place("unicode-range"),
                problem=f"no page shows a character of {names}{more}",
                effect="nothing: browsers do not fetch it",
                advice="keep it for text to come, or remove the rule and its file",
            )
