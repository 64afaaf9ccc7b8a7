"""`aksara init`: write `aksara.toml` for the fonts and pages in a folder."""

from __future__ import annotations

from pathlib import Path

import click
from rich.text import Text

from aksara.cli.screen import Screen
from aksara.errors import OutputError, RequestError
from aksara.notices import Notice
from aksara.phrases import count_of
from aksara.project import PROJECT_NAME, draft_project
from aksara.project.drafting import Draft
from aksara.project.schema import SCHEMA_FILE


@click.command("init")
@click.argument("paths", metavar="[PATH]...", nargs=-1, type=click.Path(path_type=Path))
@click.option(
    "--project",
    type=click.Path(path_type=Path),
    default=Path(PROJECT_NAME),
    show_default=True,
    help="The file to write; its paths count from its folder.",
)
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(ctx: click.Context, paths: tuple[Path, ...], project: Path, as_json: bool) -> None:
    """Write aksara.toml from the fonts and pages that are here.

    Looks for fonts and pages at each PATH, or in this folder, and writes down a build of them. It asks nothing and
    changes nothing else.
    """
    screen = Screen.of(ctx)
    if project.exists():
        raise RequestError(f"{project} exists already and is left as it is; give another --project")
    draft = draft_project(paths, project.parent)
    try:
        with project.open("x", encoding="utf-8") as file:
            file.write(draft.text)
    except OSError as error:
        raise OutputError(f"{project}: cannot be written ({error.strerror}); check its permissions") from error
    screen.notify(Notice("", f"left out: {problem}") for problem in draft.skipped)
    if as_json:
        screen.json(_as_json(draft, project))
    elif not screen.quiet:
        _report(draft, project, screen)


def _as_json(draft: Draft, project: Path) -> dict[str, object]:
    families = [
        {
            "families": list(family.names),
            "fonts": list(family.patterns),
            "faces": list(family.faces),
            "left_out": family.unasked,
        }
        for family in draft.families
    ]
    return {
        "project": str(project),
        "families": families,
        "pages": [page.as_posix() for page in draft.pages],
        "templates": [template.as_posix() for template in draft.templates],
        "languages": list(draft.languages),
        "others": list(draft.others),
    }


def _report(draft: Draft, project: Path, screen: Screen) -> None:
    screen.print(Text.assemble("Written: ", (str(project), "bold")))
    for family in draft.families:
        left_out = ", left out: no page asks for it" if family.unasked else ""
        patterns = ", ".join(family.patterns)
        screen.print(f"  {', '.join(family.names)}: {', '.join(family.faces)} ({patterns}){left_out}")
    if draft.others:
        pair = f'["{draft.others[0]}=NEW"]'
        screen.print(f"  Pages also ask for {', '.join(draft.others)}: replaces = {pair} says what stands for it")
    count = count_of(len(draft.templates), "template") if draft.templates else count_of(len(draft.pages), "page")
    screen.print(f"  {count}" + (f", in {', '.join(draft.languages)}" if draft.languages else ""))
    # The file in this folder is found by itself.
    option = f" --project {project}" if project != Path(PROJECT_NAME) else ""
    screen.print("", Text("Next", style="bold"), "  1. Read it; docs/project-file.md explains all keys",
                 *([] if draft.text.startswith("#:schema") else [f"     (for editors: {SCHEMA_FILE})"]),
                 Text.assemble("  2. ", (f"aksara build{option}", "cyan")))  # fmt: skip
