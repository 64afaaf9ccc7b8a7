"""Findings about what pages fetch, and when: preload links, slices, and the faces that text has until fonts come."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import Any

from aksara.checking.findings import Finding, Place, finding, place_of
from aksara.checking.gathering import CheckedSite
from aksara.checking.reaching import ReachedFile
from aksara.checking.urls import file_name, is_template
from aksara.phrases import listed
from aksara.site.findings import nearly_empty
from aksara.site.usage import PageUse, PreloadLink
from aksara.site.web_addresses import is_address

#: Descriptors that fit an installed font to another one (CSS Fonts 5, section 4).
_FITTING = ("size-adjust", "ascent-override", "descent-override", "line-gap-override")
_TAKE_ADDRESS = "take the address from the style sheet, or remove the link"
#: The hash in the name of a file that a build made.
_HASH = re.compile(r"[.-][0-9a-f]{8,}(?=\.[a-z0-9]+$)")


def loading_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    for page in site.use.pages:
        yield from _preloads(site, page)
    yield from _fallbacks(site)
    yield from _slices(site)


def _preloads(site: CheckedSite, page: PageUse) -> Iterator[Finding]:
    """Preload links that fetch a file twice, a missing file, or one that the page does not use."""
    named = {file.address for rule in site.rules_of(page) for _, file in rule.sources if file.address}
    shown = {file.address: count for file, count in site.fetched_by(page).items() if file.address}
    fetched: set[str] = set()
    for link in page.preloads:
        if is_template(link.href):
            continue
        place = Place(page.page, link.line, "link rel=preload")
        yield from _attributes(link, place)
        reach = site.reaches.get(page.address)
        if reach is None or (page.root and is_address(link.address)):
            continue
        address = reach.linked(link.href, link.address, page)
        if address is None:
            continue
        of: dict[str, Any] = {"page": page.page, "address": link.href}
        if address not in named and not reach.is_there(address):
            now = _name_now(link, named)
            yield finding("preload-outdated", place, "renamed" if now else "", **of, now=now)
        elif address not in named and not page.missing:
            reason = "no rule of the page's style sheets names it"
            yield finding("preload-unused", place, **of, reason=reason, remedy=_TAKE_ADDRESS)
        elif shown and address in named and address not in shown and not nearly_empty([page]):
            remedy = f"preload {file_name(_main(shown))}, or nothing"
            yield finding("preload-unused", place, **of, reason="no text of this page is shown with it", remedy=remedy)
        fetched |= {address} if link.kind == "font" else set()
    if fetched & shown.keys() and (main := _main(shown)) not in fetched:
        place = Place(page.page, page.preloads[0].line, "link rel=preload")
        yield finding("preload-misses", place, page=page.page, file=file_name(main))


def _name_now(link: PreloadLink, named: Iterable[str]) -> str:
    """The file whose name differs from a missing one's only in its hash; "" if there is none."""
    missing = _HASH.sub("", file_name(link.address))
    same = sorted(name for name in named if _HASH.sub("", file_name(name)) == missing)
    return file_name(same[0]) if same else ""


def _main(shown: dict[str, int]) -> str:
    """The file that most characters are shown with."""
    return max(shown, key=lambda address: (shown[address], address))


def _attributes(link: PreloadLink, place: Place) -> Iterator[Finding]:
    if link.kind != "font":
        yield finding("preload-without-kind", place, page=place.path, address=link.href)
    elif not link.crossorigin:
        yield finding("preload-without-crossorigin", place, page=place.path, address=link.href)


def _fallbacks(site: CheckedSite) -> Iterator[Finding]:
    """Lists of families without the fitted face that their style sheets have for them: once a list."""
    fitted: dict[str, str] = {}
    for rule in site.rules:
        if rule.defined is not None and rule.defined.local and any(name in rule.rule.descriptors for name in _FITTING):
            fitted[rule.defined.family.casefold()] = rule.defined.family
    told: set[tuple[str, ...]] = set()
    for use in site.use.faces:
        families = use.face.families
        names = [family.casefold() for family in families]
        own = next((name for name in names if name in site.by_family and name not in fitted), None)
        if use.hidden or own is None or families in told or any(name in fitted for name in names):
            continue
        if found := [name for key, name in fitted.items() if key.startswith(own)]:
            told.add(families)
            behind = families[names.index(own)]
            yield finding(
                "fallback-missing", place_of(use.origin), family=found[0], families=", ".join(families), behind=behind
            )


def _slices(site: CheckedSite) -> Iterator[Finding]:
    """Files of faces in use that no page fetches: once a family."""
    fetched: set[ReachedFile] = set()
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
            files = [file_name(rule.served.shown) for rule in unused if rule.served is not None]
            yield finding("slice-unused", unused[0].place("unicode-range"), files=listed(files, 3))
