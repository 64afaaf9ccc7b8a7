"""Findings about the families that pages ask for: style sheets that are missing, undefined and misspelt names."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Any
from urllib.parse import unquote

from aksara.checking.checks.rules import NOT_BELOW
from aksara.checking.findings import Finding, Place, finding, place_of
from aksara.checking.gathering import CheckedSite
from aksara.checking.near_names import is_misspelling, is_typing_error
from aksara.checking.urls import way_between
from aksara.phrases import count_of, listed
from aksara.site.findings import is_common, is_placeholder
from aksara.site.usage import FaceUse, PageUse
from aksara.web.syntax import GENERIC_FAMILIES

#: Why a style sheet was not read that may well be there.
_NOT_LOOKED_AT = ("was not read", "is one of more than")
#: Families of a script that are named.
_NAMED = 4


def family_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    yield from _nothing_read(site)
    yield from _sheets(site)
    yield from _not_linked(site)
    yield from _undefined(site)
    yield from _properties(site)
    yield from _classes(site)
    yield from _generic(site)
    yield from _scripts(site)


def _nothing_read(site: CheckedSite) -> Iterator[Finding]:
    """Folders without pages, or without CSS: what was not looked at."""
    if site.use.uncompiled and site.use.pages:
        count = count_of(len(site.use.uncompiled), "style sheet")
        yield finding("sheets-uncompiled", Place(site.use.uncompiled[0]), count=count)
    if site.use.unread:
        yield finding("templates-unread", Place(site.use.unread[0]), count=count_of(len(site.use.unread), "template"))
    if site.use.pages or not site.sheets:
        return
    checked = f"only the @font-face rules of {count_of(len(site.sheets), 'style sheet')} were checked"
    yield finding("no-pages", Place(site.sheets[0].shown), checked=checked)


def _is_unread(reason: str) -> bool:
    return any(words in reason for words in _NOT_LOOKED_AT)


def _sheets(site: CheckedSite) -> Iterator[Finding]:
    """Missing style sheets, whose fonts are missing too."""
    counts = Counter(missing for page in site.use.pages for missing in page.missing)
    for (address, reason), pages in counts.items():
        first = next(page.page for page in site.use.pages if (address, reason) in page.missing)
        yield finding(
            "sheet-missing",
            Place(first),
            "not read" if _is_unread(reason) else "from the root" if reason == NOT_BELOW else "",
            page=first,
            address=address,
            reason=reason,
            pages=f" ({count_of(pages, 'page')} link it)" if pages > 1 else "",
        )


def _families(page: PageUse) -> frozenset[str]:
    return frozenset(face.family.casefold() for face in page.defined)


def _asked(site: CheckedSite) -> Iterator[tuple[PageUse, FaceUse, str, bool]]:
    """The families that pages ask for and their own style sheets do not define; whether it is the first of its list
    and no other one of the list is defined."""
    for page in site.use.pages:
        own = _families(page)
        for use in page.faces:
            families = use.face.families
            alone = not any(family.casefold() in own for family in families)
            for index, family in enumerate(families if not use.hidden else ()):
                if family.casefold() in own or is_common(family):
                    break
                yield page, use, family, alone and index == 0


def _not_linked(site: CheckedSite) -> Iterator[Finding]:
    """Families that other style sheets of the site define: once a family and style sheet."""
    told: set[tuple[str, str]] = set()
    for page, use, family, matters in _asked(site):
        key = family.casefold()
        rules = site.by_family.get(key) or site.not_loaded.get(key)
        if not rules or not matters or page.template or not page.address:
            continue
        sheet = rules[0].sheet
        if (key, sheet.address) in told or any(_is_unread(reason) for _, reason in page.missing):
            continue
        told.add((key, sheet.address))
        yield finding(
            "family-not-linked",
            Place(page.page, use.origin.line),
            "scripts" if page.scripts else "",
            page=page.page,
            family=family,
            address=sheet.shown,
            sheet=sheet.shown,
            href=way_between(page.address, sheet.address),
        )


def _undefined(site: CheckedSite) -> Iterator[Finding]:
    """Families that no style sheet of the site defines: once a family."""
    told: set[str] = set()
    defined = {face.family for face in site.use.defined}
    for page, use, family, matters in _asked(site):
        key = family.casefold()
        if key in told or key in site.by_family or key in site.not_loaded or is_placeholder(family):
            continue
        told.add(key)
        of: dict[str, Any] = {"page": page.page, "family": family}
        unread = _unread_sheet(page, family)
        nearest = next((name for name in sorted(defined) if is_misspelling(family, name)), "")
        if nearest:
            case = "misspelt" if matters and not unread else "perhaps misspelt"
            yield finding("family-undefined", place_of(use.origin), case, **of, nearest=nearest)
        elif unread:
            yield finding("family-undefined", place_of(use.origin), "not read", **of, sheet=unread)
        else:
            yield finding("family-undefined", place_of(use.origin), **of)


def _unread_sheet(page: PageUse, family: str) -> str:
    """The style sheet that was not read and may define a family: the one that names it in its address, or any."""
    unread = [address for address, reason in page.missing if _is_unread(reason)]
    words = family.casefold().split()
    named = [address for address in unread if all(word in unquote(address).casefold() for word in words)]
    return next(iter(named or unread), "")


def _properties(site: CheckedSite) -> Iterator[Finding]:
    """Custom properties that pages take fonts from and that none of their style sheets defines: once a property."""
    sheets = {sheet.address: sheet for sheet in site.sheets}
    told: set[str] = set()
    for page in site.use.pages:
        own = [sheets[address] for address in page.sheets if address in sheets]
        defined = frozenset[str]().union(*(sheet.properties for sheet in own))
        # A style sheet that is missing or was not read may define it, and templates are not whole.
        if page.template or page.missing:
            continue
        for sheet in own:
            for name in sorted(sheet.properties_used.keys() - defined - told):
                told.add(name)
                where = next((other.shown for other in site.sheets if name in other.properties), "")
                yield finding(
                    "property-undefined",
                    Place(sheet.shown, sheet.properties_used[name], f"var({name})"),
                    # Scripts may define it; and without effect on text it does not matter.
                    "scripts" if page.scripts else "",
                    page=page.page,
                    name=name,
                    remedy=f"link {where} in that page" if where else "link the style sheet that defines it",
                )


def _classes(site: CheckedSite) -> Iterator[Finding]:
    """Classes that are nearly those of a rule which names a font, where neither has anything to do otherwise."""
    used = frozenset[str]().union(*(page.classes for page in site.use.pages))
    with_rules = frozenset[str]().union(*(sheet.classes for sheet in site.sheets))
    idle = sorted(used - with_rules)
    for sheet in site.sheets if idle else ():
        for name, line in sheet.font_classes.items():
            if name in used:
                continue
            written = next((class_name for class_name in idle if is_typing_error(class_name, name)), "")
            if written:
                page = next(page.page for page in site.use.pages if written in page.classes)
                place = Place(sheet.shown, line, f".{name}")
                yield finding("class-misspelt", place, page=page, written=written, nearest=name)


def _generic(site: CheckedSite) -> Iterator[Finding]:
    """Lists of families that end without a generic one: once a list."""
    told: set[tuple[str, ...]] = set()
    for use in site.use.faces:
        families = use.face.families
        defined = [family for family in families if family.casefold() in site.by_family]
        if use.hidden or not defined or families in told or any(map(site.is_icon_family, defined)):
            continue
        if not any(family.casefold() in GENERIC_FAMILIES for family in families):
            told.add(families)
            yield finding("generic-missing", place_of(use.origin), family=families[0], families=", ".join(families))


def _scripts(site: CheckedSite) -> Iterator[Finding]:
    """Scripts of the site that name fonts: once a script."""
    scripts: dict[str, list[tuple[int, str]]] = {}
    for font in site.use.script_fonts:
        scripts.setdefault(font.path, []).append((font.line, font.family))
    for path, fonts in scripts.items():
        families = list(dict.fromkeys(family for _, family in fonts))
        yield finding("family-in-script", Place(path, fonts[0][0]), family=families[0], listed=listed(families, _NAMED))
