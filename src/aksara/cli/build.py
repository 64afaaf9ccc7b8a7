"""`aksara build`: make the web fonts, the CSS and the proof."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Executor
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import click
from rich.text import Text

from aksara.cli.build_options import MAKING, OPTION_GROUPS, takes_build_options
from aksara.cli.catalogue import build_catalogue, build_families, is_catalogue
from aksara.cli.given_options import with_options
from aksara.cli.grouping import GroupedCommand
from aksara.cli.report import budget_lines, report_build, unchanged_lines
from aksara.cli.screen import Screen
from aksara.cli.unchanged import keep_outcome
from aksara.cli.watching import watch as watch_files
from aksara.cli.wording import notice_text
from aksara.cli.work import Done, build_and_write
from aksara.errors import RequestError
from aksara.notices import Notice, grouped_notices
from aksara.observing import observe
from aksara.phrases import count_of
from aksara.pipeline import Written
from aksara.pipeline.request import (
    BuildRequest,
    FamilyRequest,
)
from aksara.project import PROJECT_NAME, measured_beside, read_project
from aksara.project.families_apart import separate_families
from aksara.receipts import Line, Outcome, today
from aksara.site import is_address
from aksara.sources import is_file, reading_once

#: Days before the end of a licence from which on it is mentioned.
_SOON = 60
#: Options of the command itself, by the group of the help.
_OWN = {MAKING: ("project", "watch", "dry_run", "cluster")}
_GROUPS = {title: (*names, *_OWN.get(title, ())) for title, names in OPTION_GROUPS.items()}


@click.command("build", cls=GroupedCommand, groups=_GROUPS)
@click.argument("paths", metavar="[PATH]...", nargs=-1, type=click.Path(path_type=Path))
@click.option("--project", type=click.Path(path_type=Path), help="The project file.  [default: aksara.toml]")
@takes_build_options
@click.option("--watch", is_flag=True, help="Build again whenever a font, a page or the project file changes.")
@click.option("--dry-run", is_flag=True, help="Make everything but write nothing.")
@click.option("--cluster", metavar="ADDRESS", help="Make font files with the Dask scheduler at tcp://HOST:PORT.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context,
    /,
    paths: tuple[Path, ...],
    project: Path | None,
    watch: bool,
    dry_run: bool,
    cluster: str | None,
    as_json: bool,
    **options: Any,
) -> int:
    """Make the web fonts, the CSS and the proof.

    PATH is a font, a folder of fonts or a ZIP. Without any, aksara.toml says what is built; options given here
    override it. Several project files are built one after the other. Without a --for option, all characters are kept.
    """
    screen = Screen.of(ctx)
    if cluster is None:
        return _command(ctx, screen, paths, project, options, watch=watch, dry_run=dry_run, as_json=as_json)
    from aksara.cluster import cluster_executor

    with cluster_executor(cluster) as executor:
        return _command(
            ctx, screen, paths, project, options, watch=watch, dry_run=dry_run, as_json=as_json, executor=executor
        )


def _command(
    ctx: click.Context,
    screen: Screen,
    paths: tuple[Path, ...],
    project: Path | None,
    options: Mapping[str, Any],
    *,
    watch: bool,
    dry_run: bool,
    as_json: bool,
    executor: Executor | None = None,
) -> int:
    if is_catalogue(paths):
        if watch or project is not None:
            raise RequestError("several project files cannot be watched, and take no other project file beside them")
        return build_catalogue(paths, options, screen, dry_run=dry_run, as_json=as_json, executor=executor)

    def build_requests() -> list[BuildRequest]:
        requests = _requests(paths, project, takes_rules=options["rules"] is not None)
        return [with_options(request, options, len(requests)) for request in requests]

    def build() -> list[Done]:
        return build_and_write(build_requests(), screen, dry_run=dry_run, executor=executor)

    if paths and paths[0].suffix != ".toml" and project is None and not watch:
        with reading_once():
            (request,) = build_requests()
            apart = separate_families(request, lambda fonts: screen.say(f"Reading {count_of(fonts, 'font')}"))
        if apart is not None:
            return build_families(apart, request.folder, screen, dry_run=dry_run, as_json=as_json, executor=executor)
    if watch:
        _check_watched(paths, options, dry_run=dry_run, as_json=as_json)
        _watch(build, screen)
        return 0
    with reading_once():
        with observe() as observed:
            results = build()
        document = _report(screen, results, as_json=as_json)
        outcome = _outcome(results, document)
        plans = [done.plan for done in results]
        if not dry_run and all(plan.request.cache and not plan.request.characters.addresses for plan in plans):
            files = [path for done in results if done.written is not None for path in done.written.files]
            keep_outcome(ctx, observed, files, outcome)
    return outcome.status


def _report(screen: Screen, results: Sequence[Done], *, as_json: bool) -> str:
    """Report all builds; returns the JSON document that was printed, if any."""
    document = ""
    if as_json:
        documents = [done.build.manifest for done in results]
        document = screen.json(documents[0] if len(documents) == 1 else {"outputs": documents})
    for done in results:
        if as_json:
            screen.notify(done.build.notices)
        else:
            if len(results) > 1 and not screen.quiet:
                screen.print(Text(f"{done.plan.request.folder}/", style="bold underline"))
            report_build(screen, done)
    screen.notify(_licence_ends(results))
    return document


def _outcome(results: Sequence[Done], document: str) -> Outcome:
    """Store what the next build with the same arguments prints if nothing has changed."""
    notices = [*(notice for done in results for notice in done.build.notices), *_licence_ends(results)]
    until = any(done.plan.request.licence.until for done in results)
    return Outcome(
        status=int(any(done.build.failed or any(budget.missed for budget in done.build.budgets) for done in results)),
        notices=tuple((notice.where, notice_text(notice)) for notice in grouped_notices(notices)),
        said=tuple(Line(((line, ""),)) for done in results for line in unchanged_lines(done)),
        document=document,
        day=today() if until else "",
    )


def _check_watched(paths: Sequence[Path], options: Mapping[str, Any], *, dry_run: bool, as_json: bool) -> None:
    """Raise `RequestError` for what cannot be watched, or has no end that could be said."""
    if dry_run or as_json:
        raise RequestError(f"--watch writes files and never ends; leave {'--json' if as_json else '--dry-run'} out")
    if any(is_address(site) for site in options["for_site"]):
        raise RequestError("--watch watches files, not a running site; give the folder of its pages")


def _watch(build: Callable[[], list[Done]], screen: Screen) -> None:
    """Build on every change; the full report is printed once, and later only what is new."""
    told: set[Notice] = set()

    def build_and_tell() -> list[Written]:
        results = build()
        notices = [notice for done in results for notice in done.build.notices]
        if not told:
            _report(screen, results, as_json=False)
        else:
            screen.notify(notice for notice in notices if notice not in told)
            for done in results:
                for budget in done.build.budgets if any(budget.missed for budget in done.build.budgets) else ():
                    screen.print(*budget_lines(done.plan.request, budget))
        told.update(notices, [Notice("", "")])
        return [done.written for done in results if done.written is not None]

    watch_files(build_and_tell, screen)


def _requests(paths: Sequence[Path], project: Path | None, *, takes_rules: bool) -> list[BuildRequest]:
    """The requests that the paths or the project file make."""
    if paths and project is not None:
        raise RequestError("both fonts and --project are given; the project names its own fonts: give only one of them")
    if len(paths) == 1 and paths[0].suffix == ".toml":
        return read_project(paths[0])
    if paths:
        return [BuildRequest(families=(FamilyRequest(fonts=tuple(paths)),), measured=measured_beside(Path()))]
    if project is None and takes_rules:
        return [BuildRequest(families=(), measured=measured_beside(Path()))]
    if project is None and not is_file(Path(PROJECT_NAME)):
        raise RequestError(
            f"there is no {PROJECT_NAME} here, and no fonts are given; run `aksara build FOLDER`, or write a project "
            "with `aksara init`"
        )
    return read_project(project or Path(PROJECT_NAME))


def _licence_ends(results: Sequence[Done]) -> list[Notice]:
    """A word on a licence that has ended or soon will. No file has it: tomorrow it would be another."""
    ends = {done.plan.request.licence.until for done in results}
    notices = []
    for until in sorted(end for end in ends if end is not None):
        days = (until - datetime.now(tz=UTC).date()).days
        if days < 0:
            notices.append(Notice("licence", f"it ended on {until}; do not publish these fonts until it is renewed"))
        elif days <= _SOON:
            notices.append(Notice("licence", f"it ends on {until}, in {days} days"))
    return notices
