"""Which site a command is about, and reading it with a progress bar."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn

from aksara.cli.screen import Screen
from aksara.errors import RequestError
from aksara.pipeline import BuildRequest
from aksara.project import PROJECT_NAME, read_project
from aksara.site import Exchanges, SiteRequest, SiteUse, cache_of, is_address, read_site
from aksara.sources import is_file


def site_request(
    paths: Sequence[str], command: str, *, jobs: int, exclude: tuple[str, ...] = ()
) -> tuple[SiteRequest, list[BuildRequest]]:
    """The pages at these paths and addresses; without any those of the project, whose builds come along."""
    if paths:
        files = tuple(Path(path) for path in paths if not is_address(path))
        whole, alone = command in ("check", "scan"), command == "check"
        return SiteRequest(
            files, tuple(filter(is_address, paths)), jobs=jobs, exclude=exclude, whole=whole, sheets_alone=alone
        ), []
    if not is_file(Path(PROJECT_NAME)):
        raise RequestError(f"there is no {PROJECT_NAME} here; name the pages, as aksara {command} FOLDER")
    builds = read_project(Path(PROJECT_NAME))
    asked = [build.characters for build in builds]
    pages = dict.fromkeys(path for characters in asked for path in characters.pages)
    addresses = dict.fromkeys(address for characters in asked for address in characters.addresses)
    data = dict.fromkeys(path for characters in asked for path in characters.data)
    exclude = tuple(dict.fromkeys((*exclude, *(pattern for characters in asked for pattern in characters.exclude))))
    root = next((characters.root for characters in asked if characters.root is not None), None)
    if not pages and not addresses:
        raise RequestError(f"{PROJECT_NAME} names no pages; add pages to [site], or name them here")
    request = SiteRequest(
        tuple(pages), tuple(addresses), data=tuple(data), jobs=jobs, exclude=exclude, root=root,
        whole=command in ("check", "scan"), sheets_alone=command == "check",
    )  # fmt: skip
    return request, builds


def read_with_progress(
    request: SiteRequest, screen: Screen, *, cached: bool, exchanges: Exchanges | None = None
) -> SiteUse:
    """The site; the bar shows on a terminal only."""
    cache = cache_of(*(Path(str(path)) for path in request.pages)) if cached else None
    with Progress(
        TextColumn("Reading"), BarColumn(), MofNCompleteColumn(), console=screen.messages, transient=True,
        disable=screen.quiet or not screen.messages.is_terminal,
    ) as bar:  # fmt: skip
        task = bar.add_task("", total=None)
        return read_site(request, cache, lambda done, total: bar.update(task, completed=done, total=total), exchanges)
