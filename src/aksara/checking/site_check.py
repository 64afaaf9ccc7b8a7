"""`check_site`: all findings about a site."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from aksara.checking.checks.characters import character_findings
from aksara.checking.checks.faces import face_findings
from aksara.checking.checks.families import family_findings
from aksara.checking.checks.files import file_findings
from aksara.checking.checks.licences import licence_findings
from aksara.checking.checks.loading import loading_findings
from aksara.checking.checks.marks import marks_findings
from aksara.checking.checks.rules import rule_findings
from aksara.checking.checks.server import server_findings
from aksara.checking.facts_cache import FactsCache
from aksara.checking.findings import Finding, most_harmful_first
from aksara.checking.first_views import MeasuredView, weigh_first_views
from aksara.checking.gathering import CheckedSite, gather
from aksara.checking.manifests import Manifest
from aksara.site.access.exchanges import Exchanges
from aksara.site.usage import SiteUse

#: What looks for findings, the most harmful first. A new kind is a function here.
CHECKS: tuple[Callable[[CheckedSite], Iterator[Finding]], ...] = (
    rule_findings, file_findings, server_findings, family_findings, character_findings, face_findings,
    loading_findings, licence_findings, marks_findings,
)  # fmt: skip


class Checked(Struct, frozen=True):
    """What was found, the most harmful first, and what first views of pages on servers take."""

    findings: tuple[Finding, ...]
    first_views: tuple[MeasuredView, ...]


def check_site(
    use: SiteUse,
    cache: FactsCache | None = None,
    exchanges: Exchanges | None = None,
    *,
    own_families: Iterable[str] = (),
    last_build: Manifest | None = None,
) -> Checked:
    """Check the fonts of a site. For a running one, `exchanges` are the responses so far; fonts are fetched.

    Of `own_families`, those that the user makes, nothing may be faked; `last_build` is the manifest of what was made
    last, which servers should have.
    """
    families = frozenset(family.casefold() for family in own_families)
    site = replace(gather(use, cache or FactsCache(None), exchanges), own_families=families, last_build=last_build)
    findings = most_harmful_first(finding for check in CHECKS for finding in check(site))
    return Checked(tuple(findings), tuple(weigh_first_views(site)))
