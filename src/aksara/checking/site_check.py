"""`check_site`: all findings about a site."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from aksara.checking.facts_cache import FactsCache
from aksara.checking.files import file_findings
from aksara.checking.findings import Finding, most_harmful_first
from aksara.checking.gathering import CheckedSite, gather
from aksara.checking.rules import rule_findings
from aksara.checking.use import use_findings
from aksara.site.usage import SiteUse

#: What looks for findings, the most harmful first. A new kind is a function here.
CHECKS: tuple[Callable[[CheckedSite], Iterator[Finding]], ...] = (rule_findings, file_findings, use_findings)


def check_site(use: SiteUse, cache: FactsCache | None = None) -> list[Finding]:
    """What is wrong with the fonts of a site that was read from files, the most harmful first."""
    site = gather(use, cache or FactsCache(None))
    return most_harmful_first(finding for check in CHECKS for finding in check(site))
