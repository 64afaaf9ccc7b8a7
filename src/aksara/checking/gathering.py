"""What is looked at: the pages of a site as they are read, the `@font-face` rules of their style sheets as they are
written, and the font files that these lead to."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from contextlib import ExitStack
from functools import cached_property

from msgspec import Struct

from aksara.checking.facts_cache import FactsCache
from aksara.checking.findings import Place
from aksara.checking.manifests import Manifest, read_manifest
from aksara.checking.reaching import (
    CheckedSheet,
    FolderReach,
    Reach,
    ReachedFile,
    font_inside,
)
from aksara.checking.server_reach import ServerReach
from aksara.checking.urls import is_template
from aksara.site.access.exchanges import Exchange, Exchanges
from aksara.site.access.fetching import Fetcher
from aksara.site.css.defined_faces import DefinedFace, defined_face
from aksara.site.css.face_rules import FaceRule, Source
from aksara.site.findings import desired_face, leading_family
from aksara.site.usage import FaceUse, PageUse, SiteUse
from aksara.site.web_addresses import is_address, origin_of
from aksara.web.font_matching import best_match

#: How browsers know `format()` values (CSS Fonts 4, section 4.3.1), and what kind of file each is.
FORMATS: Mapping[str, tuple[str, ...]] = {
    "woff2": ("woff2",), "woff": ("woff",), "truetype": ("sfnt",), "opentype": ("sfnt",), "collection": ("collection",),
    "woff2-variations": ("woff2",), "woff-variations": ("woff",), "truetype-variations": ("sfnt",),
    "opentype-variations": ("sfnt",),
}  # fmt: skip


class CheckedRule(Struct, frozen=True, eq=False):
    """A rule with the files of its sources (None for installed fonts); `defined` is the face that it makes, None if a
    browser ignores it."""

    sheet: CheckedSheet
    rule: FaceRule
    files: tuple[ReachedFile | None, ...]
    defined: DefinedFace | None

    def place(self, descriptor: str = "") -> Place:
        """Where the rule is, or one of its descriptors."""
        said = self.rule.descriptors.get(descriptor)
        name = self.rule.family or "without a family"
        return Place(self.sheet.shown, said.line if said is not None else self.rule.line, f"@font-face {name}")

    @property
    def sources(self) -> Iterator[tuple[Source, ReachedFile]]:
        """Those that are fetched."""
        return ((source, file) for source, file in zip(self.rule.sources, self.files, strict=True) if file is not None)

    @property
    def served(self) -> ReachedFile | None:
        """The file that a current browser uses: the first one that exists, is whole, and has a known format."""
        for source, file in self.sources:
            if (not source.format or source.format.lower() in FORMATS) and file.works:
                return file
        return None


class CheckedSite(Struct, frozen=True, eq=False, dict=True):
    """All of it. `reaches` tell by a page's or sheet's address how its files are reached; `manifests` are those of
    builds whose fonts are used; `exchanges` is what servers answered, of running sites. `own_families` are those that
    the project makes, in small letters, `last_build` what it made last."""

    use: SiteUse
    sheets: tuple[CheckedSheet, ...]
    rules: tuple[CheckedRule, ...]
    reaches: Mapping[str, Reach]
    manifests: tuple[Manifest, ...]
    exchanges: Exchanges
    own_families: frozenset[str] = frozenset()
    last_build: Manifest | None = None

    @cached_property
    def by_family(self) -> dict[str, list[CheckedRule]]:
        """The rules in style sheets of pages that make a face, by family, without regard to case."""
        return self._families(loaded=True)

    @cached_property
    def not_loaded(self) -> dict[str, list[CheckedRule]]:
        """The same of style sheets that no page loads."""
        return self._families(loaded=False)

    def _families(self, *, loaded: bool) -> dict[str, list[CheckedRule]]:
        rules_by_family: dict[str, list[CheckedRule]] = {}
        for rule in self.rules:
            if rule.defined is not None and (rule.sheet.address in self._loaded) == loaded:
                rules_by_family.setdefault(rule.defined.family.casefold(), []).append(rule)
        return rules_by_family

    @cached_property
    def _loaded(self) -> frozenset[str]:
        return frozenset(address for page in self.use.pages for address in page.sheets)

    def has_other(self, rule: CheckedRule) -> bool:
        """Whether another rule makes the same face of a file that browsers take."""
        face = rule.defined
        families = (self.by_family, self.not_loaded)
        others = (
            [other_rule for rules in families for other_rule in rules.get(face.family.casefold(), ())] if face else []
        )
        return any(
            other is not rule and other.served is not None and other.defined is not None and face is not None
            and _face(other.defined) == _face(face) and other.sheet.address == rule.sheet.address
            and other.defined.ranges == face.ranges
            for other in others
        )  # fmt: skip

    def is_icon_family(self, family: str) -> bool:
        """Whether a family shows icons: most of its characters are for private use."""
        files = (rule.served for rule in self.by_family.get(family.casefold(), ()))
        known = [file.facts for file in files if file is not None and file.facts is not None]
        return bool(known) and all(facts.is_of_icons for facts in known)

    def rules_of(self, page: PageUse) -> list[CheckedRule]:
        """The rules in the style sheets of a page."""
        addresses = set(page.sheets)
        return [rule for rule in self.rules if rule.sheet.address in addresses]

    def rules_for(self, use: FaceUse) -> list[CheckedRule] | None:
        """The rules of the face that a browser takes for text; [] where no rule defines any of its families, None where
        it is not known what is in their files."""
        rules = self.by_family.get(leading_family(use.face, self.by_family).casefold(), [])
        faces = [rule.defined for rule in rules if rule.defined is not None]
        if not faces:
            return []
        nearest = best_match(faces, desired_face(use.face))
        same = [rule for rule in rules if rule.defined is not None and _face(rule.defined) == _face(nearest)]
        known = [rule for rule in same if rule.served is not None and rule.served.facts is not None]
        return same if len(known) == len(same) else None

    def fetched_by(self, page: PageUse) -> dict[ReachedFile, int]:
        """The files that a first view of a page fetches, with how many of its characters each has."""
        counts: Counter[ReachedFile] = Counter()
        own = set(page.sheets)
        for use in page.faces:
            for rule in (self.rules_for(use) or ()) if not use.hidden else ():
                file, face = rule.served, rule.defined
                if rule.sheet.address in own and file is not None and face is not None:
                    count = sum(times for character, times in use.characters.items() if face.serves(ord(character)))
                    if count:
                        counts[file] += count
        return dict(counts)

    def exchange_of(self, page: PageUse) -> Exchange | None:
        """The response of the page's server."""
        return self.exchanges.of(page.address) if page.address else None


def _face(face: DefinedFace) -> tuple[object, ...]:
    return face.weight, face.style, face.width


def gather(use: SiteUse, cache: FactsCache, exchanges: Exchanges | None = None) -> CheckedSite:
    """The input of all checks. For pages on a server, `exchanges` are the responses so far; fonts are fetched."""
    exchanges = exchanges or Exchanges()
    roots: dict[str, Reach] = {}
    reaches: dict[str, Reach] = {}
    sheets: dict[str, CheckedSheet] = {}
    with ExitStack() as stack:
        for page in use.pages:
            root = page.root or (origin_of(page.address) if is_address(page.address) else "")
            if not root:
                continue
            if root not in roots:
                roots[root] = (
                    FolderReach(root, cache)
                    if page.root
                    else ServerReach(
                        root, cache, stack.enter_context(Fetcher(page.address, exchanges=exchanges)), exchanges
                    )
                )
            reaches[page.address] = reach = roots[root]
            for address in page.sheets:
                if address not in sheets:
                    sheets[address] = reach.sheet(page, address)
                    reaches[address] = reach
        for loose in use.loose_sheets:
            folder = roots.get(loose.root)
            if not isinstance(folder, FolderReach):
                folder = roots[loose.root] = FolderReach(loose.root, cache)
            reaches[loose.address] = folder
            sheets.setdefault(loose.address, folder.loose_sheet(loose.address))
        rules = []
        for sheet in sheets.values():
            reach = reaches[sheet.address]
            for rule in sheet.rules:
                files = tuple(_file(source, sheet, reach, cache) for source in rule.sources)
                rules.append(CheckedRule(sheet, rule, files, defined_face(rule, sheet.shown)))
        manifests = tuple(_manifests(rules, reaches))
    cache.save()
    return CheckedSite(use, tuple(sheets.values()), tuple(rules), reaches, manifests, exchanges)


def _file(source: Source, sheet: CheckedSheet, reach: Reach, cache: FactsCache) -> ReachedFile | None:
    """The file a source leads to; None for an installed font."""
    if source.local:
        return None
    if source.url.lower().startswith("data:"):
        return font_inside(source.url, cache)
    return ReachedFile(source.url, unknown=True) if is_template(source.url) else reach.font(source.url, sheet)


def _manifests(rules: list[CheckedRule], reaches: Mapping[str, Reach]) -> Iterator[Manifest]:
    """The manifests beside the folders that fonts are in, each once."""
    seen: set[str] = set()
    for rule in rules:
        for _, file in rule.sources:
            folder = file.address.rpartition("/")[0]
            if not file.address or folder in seen:
                continue
            seen.add(folder)
            for address, data in reaches[rule.sheet.address].manifests(file):
                manifest = read_manifest(data, address) if address not in seen else None
                seen.add(address)
                if manifest is not None:
                    yield manifest


def kind_of(container: str) -> str:
    """A description of a file, for messages."""
    return {"sfnt": "a TTF or OTF", "woff": "a WOFF", "woff2": "a WOFF2", "collection": "a collection"}.get(
        container, "no font"
    )
