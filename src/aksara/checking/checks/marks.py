"""Findings about what builds keep between marks in pages and style sheets."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from aksara.checking.findings import Finding, Place, finding
from aksara.checking.gathering import CheckedSite
from aksara.web.marks import KeptPart


def marks_findings(site: CheckedSite) -> Iterator[Finding]:
    """All findings about marks. Pages made from a template contain what is between its marks."""
    links: dict[str, str] = {}
    rules: dict[str, str] = {}
    for manifest in site.manifests:
        links.update(manifest.links)
        rules.update({manifest.sheet: manifest.sheet_digest} if manifest.is_kept else {})
    for page in site.use.pages:
        yield from _part(page.page, page.address, page.kept, links, is_known=bool(site.manifests))
    for sheet in site.sheets:
        yield from _part(sheet.shown, sheet.address, sheet.kept, rules, is_known=bool(site.manifests))


def _part(
    shown: str, address: str, kept: KeptPart | None, digests: Mapping[str, str], *, is_known: bool
) -> Iterator[Finding]:
    if kept is None:
        return
    place = Place(shown, kept.line)
    if kept.problem:
        yield finding("marks-broken", place, problem=kept.problem)
    elif address in digests:
        if digests[address] != kept.digest:
            yield finding("marks-outdated", place)
    elif is_known and kept.digest not in digests.values():
        yield finding("marks-outdated", place, "abandoned")
