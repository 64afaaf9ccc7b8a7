"""Findings about a build's own files: changed or missing ones, and the licence."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, date, datetime

from aksara.checking.findings import Finding, Place, finding
from aksara.checking.gathering import CheckedSite
from aksara.checking.manifests import Manifest
from aksara.checking.urls import shown_address
from aksara.faces.restrictions import restricting_words
from aksara.phrases import count_of
from aksara.site.web_addresses import host_of

#: Days before the end of a licence from which on it is mentioned.
_SOON = 60
#: Hosts of local and test sites.
_TRIAL_HOSTS = ("localhost", "127.0.0.1", "[::1]", "::1")


def licence_findings(site: CheckedSite, today: date | None = None) -> Iterator[Finding]:
    """All of them."""
    yield from _texts(site)
    for manifest in site.manifests:
        place = Place(shown_address(manifest.address))
        yield from _end(manifest, place, today or datetime.now(tz=UTC).date())
        yield from _domains(site, manifest, place)
        yield from _changed(site, manifest)


def _texts(site: CheckedSite) -> Iterator[Finding]:
    """Texts in the folders of fonts that restrict their use."""
    folders = {
        file.address.rpartition("/")[0]: site.reaches[rule.sheet.address]
        for rule in site.rules
        for _, file in rule.sources
        if file.address and file.facts is not None
    }
    for folder, reach in folders.items():
        for shown, text in reach.texts_in(folder):
            if words := restricting_words(text):
                yield finding("licence-restricted", Place(shown), source="a text beside the fonts", words=words)


def _end(manifest: Manifest, place: Place, today: date) -> Iterator[Finding]:
    if manifest.until is None:
        return
    days = (manifest.until - today).days
    if days < 0:
        yield finding("licence-ended", place, date=manifest.until)
    elif days <= _SOON:
        yield finding("licence-ends-soon", place, date=manifest.until, days=count_of(days, "day"))


def _domains(site: CheckedSite, manifest: Manifest, place: Place) -> Iterator[Finding]:
    """Hosts that serve pages, or that pages name as theirs, and that the licence does not cover."""
    hosts = {host_of(page.canonical or page.address) for page in site.use.pages}
    for host in sorted(hosts - {""} if manifest.domains else ()):
        named = any(host == domain or host.endswith(f".{domain.removeprefix('*.')}") for domain in manifest.domains)
        if not named and host not in _TRIAL_HOSTS:
            yield finding("licence-for-other-domains", place, domains=", ".join(manifest.domains), host=host)


def _changed(site: CheckedSite, manifest: Manifest) -> Iterator[Finding]:
    """Files that are not as the build made them."""
    told: set[str] = set()
    for rule in site.rules:
        for _, file in rule.sources:
            if file.facts is None or file.facts.problem or file.address in told:
                continue
            if manifest.digests.get(file.address, file.facts.sha256) != file.facts.sha256:
                told.add(file.address)
                yield finding("file-changed", Place(file.shown))
    for sheet in site.sheets:
        at_home = manifest.sheet == sheet.address and not manifest.is_kept
        if at_home and sheet.sha256 and sheet.sha256 != manifest.sheet_digest:
            yield finding("sheet-changed", Place(sheet.shown))
