"""`aksara check`: will it load, and is anything missing?"""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from pathlib import Path

import click
from msgspec.structs import replace
from rich.text import Text

from aksara.checking.checks.built import built_findings
from aksara.checking.facts_cache import FactsCache
from aksara.checking.findings import Finding, Place, most_harmful_first
from aksara.checking.first_views import FirstView
from aksara.checking.kinds import LEVELS, Level
from aksara.checking.manifests import Manifest, read_manifest
from aksara.checking.site_check import check_site
from aksara.cli.sarif import sarif_document
from aksara.cli.screen import Screen
from aksara.cli.sites import read_with_progress, site_request
from aksara.cli.unchanged import keep_outcome
from aksara.cli.work import build_all
from aksara.errors import InputError, RequestError
from aksara.observing import observe
from aksara.pipeline import BuildRequest
from aksara.pipeline.request import PROOF_NAME
from aksara.project import PROJECT_NAME, read_project
from aksara.receipts import Line, Outcome, today
from aksara.site import Exchanges
from aksara.sizes import format_size
from aksara.sources import MANIFEST_NAME, is_file, read_file

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
@click.option("--built", is_flag=True, help="Are the built files those that the project would make now?")
@click.option(
    "--jobs", type=click.IntRange(1, 64), metavar="N", help="Pages to read at a time.  [default: one per processor]"
)
@click.option("--no-cache", is_flag=True, help="Read every page and font anew.")
@click.option("--sarif", is_flag=True, help="Print findings as SARIF, which code hosts show beside the changed lines.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context,
    paths: tuple[str, ...],
    level: Level,
    built: bool,
    jobs: int | None,
    no_cache: bool,
    sarif: bool,
    as_json: bool,
) -> int:
    """Will the fonts load, and is anything missing?

    PATH is a folder of pages and style sheets, or a page; URL is a running site, whose links are followed. Without
    any, the pages that aksara.toml names. Follows each page to its style sheets, their @font-face rules and the files
    these name; says what is wrong, where, what a reader sees because of it, and what to do.
    """
    screen = Screen.of(ctx)
    if built and paths:
        raise RequestError("--built compares with the project, which names its own pages; leave the paths out")
    if sarif and as_json:
        raise RequestError("--sarif and --json are both given; a run prints one document")
    with observe() as observed:
        outcome = _check(
            screen, paths, level, built=built, jobs=jobs, cached=not no_cache, sarif=sarif, as_json=as_json
        )
    if outcome.day and not no_cache:
        keep_outcome(ctx, observed, (), outcome)
    return outcome.status


def _check(
    screen: Screen,
    paths: Sequence[str],
    level: Level,
    *,
    built: bool,
    jobs: int | None,
    cached: bool,
    sarif: bool,
    as_json: bool,
) -> Outcome:
    """Check and tell; what is to be kept of it has a day, which what came from servers has not."""
    exchanges = Exchanges()
    request, builds = site_request(paths, "check", jobs=jobs or os.cpu_count() or 1)
    site = read_with_progress(request, screen, cached=cached, exchanges=exchanges)
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
    document, lines = "", tuple[Line, ...]()
    if sarif:
        document = screen.json(sarif_document(found))
    elif as_json:
        findings, views = ([each.as_json() for each in listed] for listed in (found, checked.first_views))
        document = screen.json({"pages": len(site.pages), "findings": findings, "first_views": views})
    else:
        lines = (*_findings(found), *_views(checked.first_views), _counts(found, len(site.pages)))
        for line in lines:
            if line.always or not screen.quiet:
                screen.print(Text.assemble(*line.segments))
    return Outcome(
        status=int(any(LEVELS.index(finding.level) <= LEVELS.index(level) for finding in found)),
        said=lines,
        document=document,
        # Licences end by the day.
        day="" if request.addresses else today(),
    )


def _families_of(builds: Sequence[BuildRequest]) -> Iterator[str]:
    """The families that the last builds of these made, by their manifests."""
    for build in builds:
        manifest = _manifest_in(build.folder)
        yield from manifest.families if manifest is not None else ()


def _last_build() -> Manifest | None:
    """What the project in this folder, if there is one with one output, made last."""
    if not is_file(Path(PROJECT_NAME)):
        return None
    builds = read_project(Path(PROJECT_NAME))
    return _manifest_in(builds[0].folder) if len(builds) == 1 else None


def _manifest_in(folder: Path) -> Manifest | None:
    try:
        return read_manifest(read_file(folder / MANIFEST_NAME), folder.absolute().as_uri())
    except InputError:
        return None


def _compared(builds: Sequence[BuildRequest], screen: Screen, *, cached: bool) -> Iterator[Finding]:
    """What the project would make, in memory, beside what is there."""
    for plan, build in build_all([replace(build, cache=cached) for build in builds], screen):
        folder = plan.request.folder
        also = (folder / MANIFEST_NAME, folder / PROOF_NAME)
        yield from built_findings(folder, ((file.path, file.data) for file in build.files if file.kind != "zip"), also)


def _findings(found: Sequence[Finding]) -> Iterator[Line]:
    """Each finding in a few lines; those of which the same is said are one."""
    alike: dict[Finding, list[str]] = {}
    for finding in found:
        alike.setdefault(replace(finding, place=Place("")), []).append(str(finding.place))
    for finding, places in alike.items():
        level = finding.level.capitalize()
        for number, place in enumerate(places[:_SHOWN_PLACES]):
            mark = (level, _STYLES[finding.level]) if number == 0 else (" " * len(level), "")
            more = len(places) - _SHOWN_PLACES if number == _SHOWN_PLACES - 1 else 0
            yield Line((mark, (f" {place}", "bold"), (f" and {more} more" if more > 0 else "", "")), always=True)
        for text in (
            finding.problem,
            f"What readers see: {finding.effect}",
            f"What to do: {finding.remedy}",
        ):
            yield Line(((f"  {text}", ""),), always=True)
        yield Line((("", ""),), always=True)


def _views(views: Sequence[FirstView]) -> Iterator[Line]:
    """What first views take, the heaviest first."""
    if not views:
        return
    yield Line((("First views", "bold"),))
    for view in sorted(views, key=lambda each: (-each.bytes, each.page))[:_SHOWN_VIEWS]:
        text = f"{view.requests} requests, {format_size(view.bytes)}, of which {format_size(view.font_bytes)} are fonts"
        yield Line(((f"  {view.page}: {text}; about {view.seconds:.1f} s", ""),))
    yield Line((("", ""),))


def _counts(found: Sequence[Finding], pages: int) -> Line:
    counts = [(level, sum(finding.level == level for finding in found)) for level in LEVELS]
    listed = ", ".join(f"{count} {level}{'s' * (count != 1)}" for level, count in counts if count)
    return Line(((f"{pages:,} page{'s' * (pages != 1)} checked: {listed or 'nothing is wrong'}", ""),))
