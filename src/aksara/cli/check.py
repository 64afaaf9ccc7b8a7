"""`aksara check`: will it load, and is anything missing?"""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import click
from rich.text import Text

from aksara import __version__
from aksara.checking.facts_cache import FactsCache
from aksara.checking.findings import LEVELS, Finding, Level
from aksara.checking.site_check import check_site
from aksara.cli.screen import Screen
from aksara.errors import RequestError
from aksara.project import PROJECT_NAME, read_project
from aksara.site import SiteRequest, cache_of, is_address, read_site
from aksara.sources import PathPattern

_STYLES: dict[Level, str] = {"error": "bold red", "warning": "bold yellow", "hint": "bold"}
#: What code hosts call the levels (SARIF 2.1.0, section 3.27.10).
_SARIF_LEVELS: dict[Level, str] = {"error": "error", "warning": "warning", "hint": "note"}
_SARIF = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"


@click.command("check")
@click.argument("paths", metavar="[PATH]...", nargs=-1, type=click.Path(path_type=Path))
@click.option(
    "--level", type=click.Choice(LEVELS), default="error", show_default=True,
    help="Exit with status 1 if there is anything as harmful as this.",
)  # fmt: skip
@click.option(
    "--jobs", type=click.IntRange(1, 64), metavar="N", help="Pages to read at a time.  [default: one per processor]"
)
@click.option("--no-cache", is_flag=True, help="Read every page and font anew.")
@click.option("--sarif", is_flag=True, help="Print findings as SARIF, which code hosts show beside the changed lines.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context,
    paths: tuple[Path, ...],
    level: Level,
    jobs: int | None,
    no_cache: bool,
    sarif: bool,
    as_json: bool,
) -> int:
    """Will the fonts load, and is anything missing?

    PATH is a folder of pages and style sheets, or a page; without any, the pages that aksara.toml names. Follows each
    page to its style sheets, their @font-face rules and the files these name; says what is wrong, where, what a reader
    sees because of it, and what to do.
    """
    screen = Screen.of(ctx)
    pages = _pages(paths)
    request = SiteRequest(pages, jobs=jobs or os.cpu_count() or 1)
    site = read_site(request, None if no_cache else cache_of(*(Path(str(path)) for path in pages)))
    found = check_site(site, None if no_cache else FactsCache.of_user())
    worst = any(LEVELS.index(finding.level) <= LEVELS.index(level) for finding in found)
    if sarif:
        screen.json(_sarif(found))
    elif as_json:
        screen.json({"pages": len(site.pages), "findings": [finding.as_json() for finding in found]})
    else:
        _report(screen, found, len(site.pages))
    return int(worst)


def _pages(paths: Sequence[Path]) -> tuple[Path | PathPattern, ...]:
    """The pages that are given, or those of the project."""
    if any(is_address(str(path)) for path in paths):
        raise RequestError("running sites cannot be checked yet; give the folder of their pages")
    if paths:
        return tuple(paths)
    if not Path(PROJECT_NAME).is_file():
        raise RequestError(f"there is no {PROJECT_NAME} here; name the pages, as aksara check FOLDER")
    pages = [path for request in read_project(Path(PROJECT_NAME)) for path in request.characters.pages]
    if not pages:
        raise RequestError(f"{PROJECT_NAME} names no pages; add pages to [site], or name them here")
    return tuple(dict.fromkeys(pages))


def _report(screen: Screen, found: Sequence[Finding], pages: int) -> None:
    for finding in found:
        screen.print(
            Text.assemble((finding.level.capitalize(), _STYLES[finding.level]), " ", (str(finding.place), "bold")),
            Text(f"  {finding.problem}"),
            Text(f"  What readers see: {finding.effect}"),
            Text(f"  What to do: {finding.advice}"),
            "",
        )
    if screen.quiet:
        return
    counts = [(level, sum(finding.level == level for finding in found)) for level in LEVELS]
    listed = ", ".join(f"{count} {level}{'s' * (count != 1)}" for level, count in counts if count)
    screen.print(f"{pages:,} page{'s' * (pages != 1)} checked: {listed or 'nothing is wrong'}")


def _sarif(found: Sequence[Finding]) -> dict[str, Any]:
    """The findings as SARIF 2.1.0 (OASIS)."""
    results = []
    for finding in found:
        region = {"region": {"startLine": finding.place.line}} if finding.place.line else {}
        location = {"physicalLocation": {"artifactLocation": {"uri": finding.place.path}, **region}}
        text = f"{finding.problem}. What readers see: {finding.effect}. What to do: {finding.advice}."
        results.append(
            {
                "ruleId": finding.kind,
                "level": _SARIF_LEVELS[finding.level],
                "message": {"text": text},
                "locations": [location],
            }
        )
    rules = [{"id": kind} for kind in sorted({finding.kind for finding in found})]
    driver = {"name": "Aksara", "version": __version__, "rules": rules}
    return {"$schema": _SARIF, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}
