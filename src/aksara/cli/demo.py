"""`aksara demo`: the whole job on the shipped demo site."""

from __future__ import annotations

from pathlib import Path

import click
from rich.text import Text

from aksara.cli.report import report_result
from aksara.cli.screen import Screen
from aksara.cli.shells import typed
from aksara.cli.work import build_and_write
from aksara.demo import copy_demo
from aksara.project import PROJECT_NAME, read_project


@click.command("demo")
@click.argument("folder", default=Path("penyu-ferries"), type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(ctx: click.Context, folder: Path, as_json: bool) -> None:
    """Build the demo site that comes with Aksara.

    Copies the site of Penyu Ferries, its desktop fonts and its aksara.toml to
    FOLDER, builds the fonts into the site, and says how to look at it.
    """
    screen = Screen.of(ctx)
    copy_demo(folder)
    (request,) = read_project(folder / PROJECT_NAME)
    (done,) = build_and_write([request], screen)
    result = done.build
    if as_json:
        screen.json(result.manifest)
        return
    if not screen.quiet:
        report_result(screen, request, result)
    screen.notify(result.notices)
    if screen.quiet:
        return
    screen.print(
        Text("Look at it", style="bold"),
        Text.assemble("  The site:     open ", (f"{folder}/site/index.html", "cyan")),
        Text.assemble("  The proof:    open ", (f"{folder}/site/type/proof.html", "cyan")),
        Text.assemble("  The CSS:      ", (f"{folder}/site/type/faces.css", "cyan")),
        Text.assemble("  The project:  ", (f"{folder}/{PROJECT_NAME}", "cyan")),
        "",
        Text("The same again, and other families tried on the home page", style="bold"),
        Text(f"  {typed(['cd', str(folder)])}", style="cyan"),
        Text("  aksara build", style="cyan"),
        Text("  aksara try fonts candidates --on site/index.html", style="cyan"),
    )
