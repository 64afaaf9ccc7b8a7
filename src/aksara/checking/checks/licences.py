"""Findings about what a build has left beside its fonts: files that are not as it made them, and the licence."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, date, datetime
from urllib.parse import urljoin

from aksara.checking.findings import Finding, Place
from aksara.checking.gathering import CheckedSite
from aksara.checking.manifests import Manifest
from aksara.checking.reaching import file_name, shown_address
from aksara.site.web_addresses import host_of
from aksara.sources import MANIFEST_NAME

#: Days before the end of a licence from which on it is mentioned.
_SOON = 60
#: Hosts that are nobody's site.
_TRIAL_HOSTS = ("localhost", "127.0.0.1", "[::1]", "::1")


def licence_findings(site: CheckedSite, today: date | None = None) -> Iterator[Finding]:
    """All of them."""
    for manifest in site.manifests:
        place = Place(shown_address(urljoin(manifest.folder, MANIFEST_NAME)))
        yield from _end(manifest, place, today or datetime.now(tz=UTC).date())
        yield from _domains(site, manifest, place)
        yield from _changed(site, manifest)


def _end(manifest: Manifest, place: Place, today: date) -> Iterator[Finding]:
    if manifest.until is None:
        return
    days = (manifest.until - today).days
    if days < 0:
        yield Finding(
            kind="licence-ended",
            level="error",
            place=place,
            problem=f"the licence of the fonts ended on {manifest.until}",
            effect="nothing that readers see; the fonts may not be published any more",
            advice="renew it, and set until in aksara.toml; or take the fonts off the site",
        )
    elif days <= _SOON:
        yield Finding(
            kind="licence-ends-soon",
            level="hint",
            place=place,
            problem=f"the licence of the fonts ends on {manifest.until}, in {days} days",
            effect="nothing yet",
            advice="renew it, and set until in aksara.toml",
        )


def _domains(site: CheckedSite, manifest: Manifest, place: Place) -> Iterator[Finding]:
    """Hosts of the site that the licence does not name: those that pages come from, or say that they do."""
    hosts = {host_of(page.canonical or page.address) for page in site.use.pages}
    for host in sorted(hosts - {""} if manifest.domains else ()):
        named = any(host == domain or host.endswith(f".{domain.removeprefix('*.')}") for domain in manifest.domains)
        if not named and host not in _TRIAL_HOSTS:
            yield Finding(
                kind="licence-for-other-domains",
                level="warning",
                place=place,
                problem=f"the licence of the fonts is for {', '.join(manifest.domains)}, and the site is on {host}",
                effect="nothing that readers see; the licence may be broken",
                advice="ask the seller for one that names it, and set domains in aksara.toml",
            )


def _changed(site: CheckedSite, manifest: Manifest) -> Iterator[Finding]:
    """Files that are not as the build made them."""
    told: set[str] = set()
    for rule in site.rules:
        for _, file in rule.sources:
            name = file_name(file.address)
            own = file.address.rpartition("/")[0] == manifest.folder
            if not own or file.facts is None or file.facts.problem or name in told:
                continue
            if manifest.digests.get(name, file.facts.sha256) != file.facts.sha256:
                told.add(name)
                yield Finding(
                    kind="file-changed",
                    level="warning",
                    place=Place(file.shown),
                    problem=f"is not the file that the build made, by its hash in {MANIFEST_NAME}",
                    effect="browsers that have the old file under this name go on showing it",
                    advice="build anew, and copy all files as they are",
                )
    for sheet in site.sheets:
        at_home = urljoin(manifest.folder, manifest.sheet) == sheet.address
        if at_home and sheet.sha256 and sheet.sha256 != manifest.sheet_digest:
            yield Finding(
                kind="sheet-changed",
                level="hint",
                place=Place(sheet.shown),
                problem=f"was changed after the build, by its hash in {MANIFEST_NAME}",
                effect="nothing by itself; the next build overwrites it",
                advice="change aksara.toml, and build anew",
            )
