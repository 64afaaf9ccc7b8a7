"""`aksara try`: show a page in several families, with the size, missing characters and licence of each."""

from __future__ import annotations

import errno
import os
from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path
from threading import Thread

import click
from rich.table import Table
from rich.text import Text

from aksara import __version__
from aksara.atomic import written_whole
from aksara.cli.chosen_family import instructions, shell_command
from aksara.cli.screen import Screen
from aksara.cli.stopping import Stopped, answered
from aksara.errors import OutputError, RequestError
from aksara.faces import WebLicence
from aksara.phrases import count_of
from aksara.project import PROJECT_NAME
from aksara.sizes import format_size
from aksara.sources import printable
from aksara.threads import as_done
from aksara.trying import (
    Candidate,
    CandidateFonts,
    Trial,
    TriedPage,
    find_candidates,
    make_candidate,
    trial_page,
    tried_page,
    tried_text,
)
from aksara.trying.instructions import project_lines
from aksara.trying.present import ROLES, Role
from aksara.trying.rendering import figures_json
from aksara.trying.serving import RunningTrial, TrialServer

#: Missing characters that a table shows.
_SHOWN_MISSING = 12
#: Seconds for which builds wait for a browser to open the page.
_PATIENCE = 3


@click.command("try")
@click.argument("paths", metavar="PATH...", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--on", metavar="PAGE|URL", help="The page to show: an HTML file, its folder, or an address.")
@click.option("--text", help="A heading or a sentence to show, if there is no page yet.")
@click.option(
    "--replaces", "replaces", metavar="FAMILY", multiple=True,
    help="A family of the page that candidates stand in for; repeatable.  [default: those of text and headings]",
)  # fmt: skip
@click.option(
    "--role", type=click.Choice(ROLES), default="both", show_default=True, help="Which text candidates are for."
)
@click.option("--web-licence", is_flag=True, help="State that you hold a web licence for these fonts.")
@click.option("--to", metavar="FILE", type=click.Path(path_type=Path), help="Write the page to this file and end.")
@click.option("--port", type=click.IntRange(0, 65535), default=0, help="Port on this computer.  [default: a free one]")
@click.option("--open/--no-open", "opens", default=True, help="Open it in the browser.  [default: open]")
@click.option(
    "--jobs", type=click.IntRange(1, 64), metavar="N", help="Families to build at a time.  [default: one per processor]"
)
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output, and no page.")
@click.pass_context
def command(
    ctx: click.Context,
    paths: tuple[Path, ...],
    on: str | None,
    text: str | None,
    replaces: tuple[str, ...],
    role: Role,
    web_licence: bool,
    to: Path | None,
    port: int,
    opens: bool,
    jobs: int | None,
    as_json: bool,
) -> int:
    """Show a page of yours in each of several font families.

    PATH is a font, a folder or a ZIP with the families to choose from. The page is shown with its own styles, set in
    each family at the press of a key, beside what each family costs, which characters and styles it lacks, and what
    its licence says. Nothing of the page is run, and nothing is sent anywhere.
    """
    screen = Screen.of(ctx)
    if (on is None) == (text is None):
        raise RequestError('give either a page (--on site/index.html) or a text (--text "Kedai Kopi")')
    page = tried_page(on, replaces, role) if on is not None else tried_text(text or "")
    families = find_candidates(paths)
    make = partial(make_candidate, page=page, licence=WebLicence(stated=web_licence))
    built = as_done(jobs or os.cpu_count() or 1, make, families)
    if as_json:
        candidates = sorted(built, key=lambda candidate: families.index(candidate.fonts))
        screen.json(_as_json(page, candidates))
        return 0
    if to is not None:
        candidates = sorted(built, key=lambda candidate: families.index(candidate.fonts))
        _write(to, Trial(page, tuple(candidates), instruct=instructions))
        if not screen.quiet:
            screen.print(_table(candidates))
            screen.print(Text.assemble("Written to ", (printable(str(to)), "bold")))
        if opens:
            click.launch(str(to.absolute()))
        return 0
    _serve(screen, page, families, built, port, opens=opens)
    return 0


def _as_json(page: TriedPage, candidates: Sequence[Candidate]) -> dict[str, object]:
    return {
        "on": page.place,
        "replaced": list(page.replaced),
        "role": page.role,
        "candidates": [
            figures_json(candidate) | {"command": shell_command(candidate, page) if not candidate.problem else ""}
            for candidate in candidates
        ],
    }


def _table(candidates: Sequence[Candidate]) -> Table:
    table = Table(box=None, pad_edge=False, header_style="bold")
    for title in ("Family", "Page fetches", "Faces", "Missing", "Faked", "Licence"):
        table.add_column(title, justify="right" if title == "Page fetches" else "left", overflow="fold")
    for candidate in candidates:
        if candidate.problem:
            table.add_row(candidate.name, "", "", "", "", Text(candidate.problem, style="yellow"))
            continue
        more = len(candidate.missing) - _SHOWN_MISSING
        missing = " ".join(candidate.missing[:_SHOWN_MISSING]) + (f" and {more} more" if more > 0 else "")
        table.add_row(
            printable(candidate.name), format_size(candidate.size), str(len(candidate.faces)), missing or "none",
            ", ".join(candidate.faked) or "none", candidate.licence,
        )  # fmt: skip
    return table


def _write(path: Path, trial: Trial) -> None:
    """Write the page, and its fonts beside it if they are too many to be inside."""
    folder = path.with_name(f"{path.stem}-fonts")
    try:
        if not trial.are_fonts_inside:
            for candidate in trial.candidates:
                for face in candidate.faces:
                    with written_whole(folder / face.file) as file:
                        file.write(face.data)
        page = trial_page(trial, __version__, fonts="" if trial.are_fonts_inside else folder.name)
        with written_whole(path) as file:
            file.write(page)
    except OSError as error:
        raise OutputError(f"{path}: cannot be written ({error.strerror}); give another file") from error


def _serve(
    screen: Screen,
    page: TriedPage,
    families: Sequence[CandidateFonts],
    built: Iterator[Candidate],
    port: int,
    *,
    opens: bool,
) -> None:
    trial = RunningTrial(page, len(families), instructions)
    try:
        server = TrialServer(trial, __version__, lambda candidate: _choose(candidate, page), port)
    except OSError as error:
        if error.errno in (errno.EADDRINUSE, errno.EACCES):
            raise RequestError(f"port {port} is in use; give another with --port, or none for a free one") from error
        raise RequestError(f"no server can be started here ({error.strerror})") from error

    def build() -> None:
        # The page first: builds take all processors.
        trial.asked.wait(_PATIENCE)
        for candidate in built:
            trial.add(candidate)
            if not screen.quiet:
                facts = (
                    candidate.problem or f"{format_size(candidate.size)} in {count_of(len(candidate.faces), 'face')}"
                )
                screen.print(Text.assemble("  ", (printable(candidate.name), "bold"), f"  {facts}"))
                screen.out.file.flush()

    count = count_of(len(families), "family", "families")
    screen.print(f"{count} on {printable(page.place)}; press Ctrl-C to stop", Text(server.address, style="cyan"))
    screen.out.file.flush()
    Thread(target=build, daemon=True).start()
    if opens:
        click.launch(server.address)
    try:
        server.serve_forever()
    except Stopped:
        answered()
    finally:
        server.server_close()


def _choose(candidate: Candidate, page: TriedPage) -> str:
    """Write the project file for the chosen family; the result, in a sentence."""
    try:
        with Path(PROJECT_NAME).open("x", encoding="utf-8") as file:
            file.write(project_lines(candidate, page))
    except FileExistsError:
        return f"There is an {PROJECT_NAME} already; add these lines to it yourself."
    except OSError as error:
        return f"{PROJECT_NAME} cannot be written ({error.strerror})."
    return f"{PROJECT_NAME} has been written; run aksara build."
