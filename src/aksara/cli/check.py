"""`aksara check`: will it load, and is anything missing?"""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from pathlib import Path

import click
from msgspec.structs import replace
from rich.text import Text

from aksara.checking.accepting import Accepted, accept, acceptances_of
from aksara.checking.checks.built import budget_findings, built_findings
from aksara.checking.facts_cache import FactsCache
from aksara.checking.findings import Finding, Place, most_harmful_first
from aksara.checking.first_views import MeasuredView
from aksara.checking.kinds import LEVELS, Level
from aksara.checking.manifests import Manifest, read_manifest
from aksara.checking.site_check import check_site
from aksara.cli.sarif import sarif_document
from aksara.cli.screen import Screen
from aksara.cli.sites import read_with_progress, site_request
from aksara.cli.unchanged import keep_outcome
from aksara.cli.work import build_all
from aksara.errors import InputError, RequestError
from aksara.limits import MAX_MANIFEST_SIZE
from aksara.observing import observe
from aksara.phrases import count_of
from aksara.pipeline import BuildRequest
from aksara.project import PROJECT_NAME, append_acceptances, names_fonts, read_acceptances, read_project
from aksara.receipts import Line, Outcome, today
from aksara.site import Exchanges, PageUse, SiteRequest, SiteUse
from aksara.sizes import format_size
from aksara.sources import is_file, read_file

_STYLES: dict[Level, str] = {"error": "bold red", "warning": "bold yellow", "note": "bold"}
#: Pages whose first view is shown; the heaviest come first.
_SHOWN_VIEWS = 10
#: Places of which the same is said; more are counted.
_SHOWN_PLACES = 3


@click.command("check")
@click.argument("paths", metavar="[PATH|URL]...", nargs=-1)
@click.option(
    "--level", type=click.Choice(LEVELS), default="error", show_default=True,
    help="Exit with status 1 if there is anything as harmful as this.",
)  # fmt: skip
@click.option("--built", is_flag=True, help="Compare the built files with those that the project would make now.")
@click.option(
    "--accept-all",
    "reason",
    metavar="REASON",
    help="Accept all findings, for this reason, in aksara.toml.",
)
@click.option("--exclude", multiple=True, metavar="PATTERN", help="Do not read these files and folders; repeatable.")
@click.option(
    "--jobs", type=click.IntRange(1, 64), metavar="N", help="Pages to read at a time.  [default: one per processor]"
)
@click.option("--no-cache", is_flag=True, help="Read every page and font again.")
@click.option("--sarif", is_flag=True, help="Print findings as SARIF, which code hosts show beside the changed lines.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context,
    paths: tuple[str, ...],
    level: Level,
    built: bool,
    reason: str | None,
    exclude: tuple[str, ...],
    jobs: int | None,
    no_cache: bool,
    sarif: bool,
    as_json: bool,
) -> int:
    """Find out whether the fonts load, and what is missing.

    PATH is a folder of pages and style sheets, or a page; URL is a running site, whose links are followed. Without
    either, the pages that aksara.toml names are checked. Each finding says what is wrong, where, what readers see
    because of it, and what to do.
    """
    screen = Screen.of(ctx)
    if built and paths:
        raise RequestError("--built compares with the project, which names its own pages; leave the paths out")
    if sarif and as_json:
        raise RequestError("--sarif and --json are both given; a run prints one document")
    if reason is not None and not reason.strip():
        raise RequestError("--accept-all needs a reason that somebody else understands")
    with observe() as observed:
        request, builds = site_request(paths, "check", jobs=jobs or os.cpu_count() or 1, exclude=exclude)
        exchanges = Exchanges()
        site = read_with_progress(request, screen, cached=not no_cache, exchanges=exchanges)
        findings, views = _findings_of(site, request, builds, exchanges, screen, built=built, cached=not no_cache)
        if reason is not None:
            _accept_all(findings, level, reason)
        outcome = _outcome(findings, views, site, level, screen, sarif=sarif, as_json=as_json)
        if request.addresses:
            # What came from servers may be otherwise the next time.
            outcome = replace(outcome, day="")
    if outcome.day and not no_cache:
        keep_outcome(ctx, observed, (), outcome)
    return outcome.status


def _findings_of(
    site: SiteUse,
    request: SiteRequest,
    builds: Sequence[BuildRequest],
    exchanges: Exchanges,
    screen: Screen,
    *,
    built: bool,
    cached: bool,
) -> tuple[list[Finding], tuple[MeasuredView, ...]]:
    """All findings, the most harmful first, and first views."""
    checked = check_site(
        site,
        FactsCache.of_user() if cached else None,
        exchanges,
        own_families=_families_of(builds),
        last_build=_last_build() if request.addresses else None,
    )
    found = list(checked.findings)
    if built:
        found = most_harmful_first([*_compared(builds, screen, cached=cached), *found])
    return found, checked.first_views


def _accept_all(findings: Sequence[Finding], level: Level, reason: str) -> None:
    """Accept the remaining findings that are warnings or worse, or at least as severe as `level`."""
    least = max(LEVELS.index(level), LEVELS.index("warning"))
    left = _accepted(findings).left
    harmful = [
        finding for finding in left if LEVELS.index(finding.level) <= least and finding.kind != "acceptance-unused"
    ]
    append_acceptances(Path(PROJECT_NAME), acceptances_of(harmful, reason))


def _accepted(found: Sequence[Finding]) -> Accepted:
    """The findings without those that the project here accepts."""
    acceptances = read_acceptances(Path(PROJECT_NAME)) if is_file(Path(PROJECT_NAME)) else []
    return accept(found, acceptances, datetime.now(tz=UTC).date())


def _outcome(
    found: Sequence[Finding],
    views: Sequence[MeasuredView],
    site: SiteUse,
    level: Level,
    screen: Screen,
    *,
    sarif: bool,
    as_json: bool,
) -> Outcome:
    """The report; it is valid for today, since licences and acceptances end by the day."""
    parted = _accepted(found)
    left = most_harmful_first(parted.left)
    document, lines = "", tuple[Line, ...]()
    if sarif:
        document = screen.json(sarif_document(left))
    elif as_json:
        document = screen.json(
            {
                "pages": sum(not page.template for page in site.pages),
                "templates": sum(page.template for page in site.pages),
                "findings": [finding.as_json() for finding in left],
                "accepted": [finding.as_json() | {"reason": by.reason} for finding, by in parted.accepted],
                "first_views": [view.as_json() for view in views],
                "contents": list(site.contents),
            }
        )
    else:
        read = tuple(Line(((text, ""),)) for text in site.contents) if screen.verbose else ()
        lines = (*read, *_findings(left), *_views(views), _counts(left, site.pages, len(parted.accepted)))
        for line in lines:
            if line.always or not screen.quiet:
                screen.print(Text.assemble(*line.segments))
    status = int(any(LEVELS.index(finding.level) <= LEVELS.index(level) for finding in left))
    return Outcome(status=status, said=lines, document=document, day=today())


def _families_of(builds: Sequence[BuildRequest]) -> Iterator[str]:
    """The families that the last builds of these made, by their manifests."""
    for build in builds:
        manifest = _manifest_of(build)
        yield from manifest.families if manifest is not None else ()


def _last_build() -> Manifest | None:
    """The last build of the project in this folder, if it has one output."""
    if not is_file(Path(PROJECT_NAME)) or not names_fonts(Path(PROJECT_NAME)):
        return None
    builds = read_project(Path(PROJECT_NAME))
    return _manifest_of(builds[0]) if len(builds) == 1 else None


def _manifest_of(build: BuildRequest) -> Manifest | None:
    path = build.manifest_file
    try:
        return read_manifest(read_file(path, limit=MAX_MANIFEST_SIZE), path.absolute().as_uri())
    except InputError:
        return None


def _compared(builds: Sequence[BuildRequest], screen: Screen, *, cached: bool) -> Iterator[Finding]:
    """Build the project in memory and compare that with the files that exist."""
    for plan, build in build_all([replace(build, cache=cached) for build in builds], screen):
        folder = plan.request.folder
        also = [path for path in (plan.request.manifest_file, plan.request.proof_file) if path is not None]
        yield from budget_findings(folder, ((budget.what, budget.size, budget.limit) for budget in build.budgets))
        yield from built_findings(folder, ((file.path, file.data) for file in build.files if file.kind != "zip"), also)


def _findings(findings: Sequence[Finding]) -> Iterator[Line]:
    """Each finding in a few lines; findings with the same text are merged."""
    alike: dict[Finding, list[str]] = {}
    for finding in findings:
        alike.setdefault(replace(finding, place=Place("")), []).append(str(finding.place))
    for finding, places in alike.items():
        level = finding.level.capitalize()
        for index, place in enumerate(places[:_SHOWN_PLACES]):
            mark = (level, _STYLES[finding.level]) if index == 0 else (" " * len(level), "")
            more = len(places) - _SHOWN_PLACES if index == _SHOWN_PLACES - 1 else 0
            yield Line((mark, (f" {place}", "bold"), (f" and {more} more" if more > 0 else "", "")), always=True)
        for text in (
            finding.problem,
            f"What readers see: {finding.effect}",
            f"What to do: {finding.remedy}",
        ):
            yield Line(((f"  {text}", ""),), always=True)
        yield Line((("", ""),), always=True)


def _views(views: Sequence[MeasuredView]) -> Iterator[Line]:
    """What first views take, the heaviest first."""
    if not views:
        return
    yield Line((("First views", "bold"),))
    for view in sorted(views, key=lambda view: (-view.bytes, view.page))[:_SHOWN_VIEWS]:
        text = f"{view.requests} requests, {format_size(view.bytes)}, of which {format_size(view.font_bytes)} are fonts"
        yield Line(((f"  {view.page}: {text}; about {view.seconds:.1f} s", ""),))
    yield Line((("", ""),))


def _counts(findings: Sequence[Finding], pages: Sequence[PageUse], accepted: int) -> Line:
    counts = [(level, sum(finding.level == level for finding in findings)) for level in LEVELS]
    listed = ", ".join(count_of(count, level) for level, count in counts if count)
    left = f"; {accepted:,} accepted" if accepted else ""
    templates = sum(page.template for page in pages)
    checked = [count_of(len(pages) - templates, "page")] if len(pages) > templates or not templates else []
    checked += [count_of(templates, "template")] if templates else []
    return Line(((f"{' and '.join(checked)} checked: {listed or 'nothing is wrong'}{left}", ""),))
