"""`aksara build`: make the web fonts, the CSS and the proof."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, cast

import click
from rich.text import Text

from aksara.build.request import DISPLAYS, STYLES, BuildRequest, FamilyRequest, Overrule, feature_choice
from aksara.cli.report import report_build
from aksara.cli.screen import Screen
from aksara.cli.work import build_and_write
from aksara.container import EFFORTS
from aksara.errors import RequestError
from aksara.faces import Style
from aksara.project import PROJECT_NAME, read_project
from aksara.sizes import parse_size
from aksara.sources import common_folder, find_pages, read_pages, read_text
from aksara.text import TEXT_SUFFIXES, read_page, wanted
from aksara.web.matching import parse_asked
from aksara.web.stack import parse_stack

#: Days before the end of a licence from which on it is told.
_SOON = 60
#: Options that are fields of a request as they stand.
_AS_THEY_ARE = ("folder", "css", "url", "display", "local", "preload", "effort", "pack", "jobs", "licence_files")


@click.command("build")
@click.argument("paths", metavar="[PATH]...", nargs=-1, type=click.Path(path_type=Path))
@click.option("--project", type=click.Path(path_type=Path), help="The project file.  [default: aksara.toml]")
@click.option("--to", "folder", type=click.Path(path_type=Path), help="Output folder.  [default: web-fonts]")
@click.option("--css", type=click.Path(path_type=Path), help="Where the CSS goes.  [default: DIR/faces.css]")
@click.option(
    "--url",
    metavar="PATTERN",
    help="How the CSS refers to a font: <path> from the CSS to it (default), <file> its name.",
)
@click.option(
    "--format",
    "formats",
    multiple=True,
    type=click.Choice(["woff2", "woff", "sfnt"]),
    help="Repeatable. sfnt is plain TTF.  [default: woff2, woff]",
)
@click.option("--for-text", "texts", metavar="TEXT", multiple=True, help="Keep the characters of this text.")
@click.option(
    "--for-file",
    "files",
    multiple=True,
    type=click.Path(path_type=Path),
    help="Keep the characters of this UTF-8 file.",
)
@click.option("--for-range", "ranges", metavar="RANGES", multiple=True, help="Keep these characters, as U+41-5A,U+E9.")
@click.option(
    "--for-language", "languages", metavar="TAGS", multiple=True, help="Keep what these languages use, as id,vi."
)
@click.option(
    "--for-script", "scripts", metavar="CODES", multiple=True, help="Keep what these scripts use, as Latn,Cyrl."
)
@click.option(
    "--for-site",
    "sites",
    multiple=True,
    type=click.Path(path_type=Path),
    help="Keep what this page, or folder of pages, shows.",
)
@click.option("--family", metavar="NAME", help="One name for the family.")
@click.option(
    "--face",
    "overrules",
    metavar="FILE WEIGHT STYLE",
    multiple=True,
    type=(str, int, click.Choice(STYLES)),
    help="Overrule a font's weight and style.",
)
@click.option("--stack", metavar="LIST", help='Families behind it, as "Arial, sans-serif".')
@click.option("--display", type=click.Choice(DISPLAYS), help="font-display.  [default: swap]")
@click.option("--local", is_flag=True, default=None, help="Try an installed copy first.")
@click.option(
    "--use", "uses", metavar="FACE", multiple=True, help="The site uses this, as '700 italic'; told if missing."
)
@click.option(
    "--preload", metavar="FACE", multiple=True, help="Have pages ask for this face early.  [default: Regular]"
)
@click.option(
    "--budget", metavar="SIZE", help="What a page's first view may fetch, as '120 KB'; exit status 1 if more."
)
@click.option("--feature", "more", metavar="TAG", multiple=True, help="Keep this OpenType feature too; all keeps all.")
@click.option("--no-feature", "without", metavar="TAG", multiple=True, help="Leave this feature out.")
@click.option("--hinting", type=click.Choice(["keep", "drop"]), help="Hints for small sizes.  [default: keep]")
@click.option("--effort", type=click.Choice(EFFORTS), help="How hard to press the files.  [default: normal]")
@click.option(
    "--web-licence", is_flag=True, default=None, help="State that a licence to use these fonts on the web is held."
)
@click.option("--licensed-to", metavar="NAME", help="Who holds the licence; recorded in the fonts.")
@click.option(
    "--licence-file",
    "licence_files",
    multiple=True,
    type=click.Path(path_type=Path),
    help="Copy this licence text, too.",
)
@click.option(
    "--zip", "pack", metavar="FILE", type=click.Path(path_type=Path), help="Pack everything into this file, too."
)
@click.option("--jobs", type=click.IntRange(1, 64), metavar="N", help="Faces at a time.  [default: one a processor]")
@click.option("--dry-run", is_flag=True, help="Make everything, write nothing.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context, /, paths: tuple[Path, ...], project: Path | None, dry_run: bool, as_json: bool, **options: Any
) -> int:
    """Make the web fonts, the CSS and the proof.

    PATH is a font, a folder of fonts or a ZIP. Without any, aksara.toml says what is built; options given here
    overrule it. Without a --for option, all characters are kept.
    """
    screen = Screen.of(ctx)
    requests = _requests(paths, project)
    requests = [_overruled(request, options, len(requests)) for request in requests]
    builds = build_and_write(requests, screen, dry_run=dry_run)
    if as_json:
        documents = [build.manifest for build, _ in builds]
        screen.json(documents[0] if len(documents) == 1 else {"outputs": documents})
    for request, (build, written) in zip(requests, builds, strict=True):
        if as_json:
            screen.warn(build.warnings)
        else:
            if len(requests) > 1 and not screen.quiet:
                screen.print(Text(f"{request.folder}/", style="bold underline"))
            report_build(screen, request, build, written)
    _tell_of_the_end(requests, screen)
    return int(any(budget.missed for build, _ in builds for budget in build.budgets))


def _requests(paths: Sequence[Path], project: Path | None) -> list[BuildRequest]:
    """What the paths or the project file ask for."""
    if paths and project is not None:
        raise RequestError("fonts and --project are given; the project names its own fonts: give only one of the two")
    if paths:
        return [BuildRequest((FamilyRequest(tuple(paths)),))]
    if project is None and not Path(PROJECT_NAME).is_file():
        raise RequestError(
            f"there is no {PROJECT_NAME} here, and no fonts are given; say `aksara build FOLDER`, or write one with "
            "`aksara init`"
        )
    return read_project(project or Path(PROJECT_NAME))


def _overruled(request: BuildRequest, options: dict[str, Any], outputs: int) -> BuildRequest:
    """The request with the options that were given put over it."""
    given = {name: value for name, value in options.items() if value not in (None, ())}
    if outputs > 1 and (single := [name for name in ("folder", "css", "pack") if name in given]):
        option = {"folder": "--to", "css": "--css", "pack": "--zip"}[single[0]]
        raise RequestError(f"{option} names one place, but the project has {outputs} outputs; change it in the project")
    if "family" in given and len(request.families) > 1:
        raise RequestError("--family gives one name, but the project has several families; change it in the project")
    choices: dict[str, Any] = {name: given[name] for name in _AS_THEY_ARE if name in given}
    if "family" in given:
        choices["name"] = given["family"]
    if "formats" in given:
        choices["formats"] = tuple(dict.fromkeys(given["formats"]))
    if "overrules" in given:
        choices["overrules"] = tuple(
            Overrule(file, weight, cast(Style, style)) for file, weight, style in given["overrules"]
        )
    if "stack" in given:
        choices["stack"] = parse_stack(given["stack"])
    if "uses" in given:
        choices["uses"] = tuple(map(parse_asked, given["uses"]))
    if "budget" in given:
        choices["budget"] = parse_size(given["budget"])
    if "more" in given or "without" in given:
        choices["features"] = feature_choice(given.get("more", ()), given.get("without", ()))
    if "hinting" in given:
        choices["hints"] = given["hinting"] == "keep"
    licence: dict[str, Any] = {"stated": True} if given.get("web_licence") else {}
    if "licensed_to" in given:
        licence["holder"] = " ".join(given["licensed_to"].split())
    if licence:
        choices["licence"] = replace(request.licence, **licence)
    if any(name in given for name in ("texts", "files", "ranges", "languages", "scripts", "sites")):
        pages = _pages(given.get("sites", ()))
        choices["pages"] = common_folder(pages) or request.pages
        choices["wanted"] = wanted(
            texts=[*given.get("texts", ()), *(_read_text(path) for path in given.get("files", ()))],
            ranges=given.get("ranges", ()),
            languages=given.get("languages", ()),
            scripts=given.get("scripts", ()),
            pages=[read_page(text, suffix) for text, suffix in read_pages(pages)] if pages else None,
        )
    return request.overruled(**choices)


def _read_text(path: Path) -> str:
    if not path.exists():
        raise RequestError(f"{path}: there is no such file; check the path given with --for-file")
    return read_text(path)


def _pages(paths: Sequence[Path]) -> list[Path]:
    """The pages at each --for-site."""
    files: list[Path] = []
    for path in paths:
        if not path.exists():
            raise RequestError(f"{path}: there is no such file or folder; check the path given with --for-site")
        found = find_pages(path, TEXT_SUFFIXES) if path.is_dir() else [path]
        if not found:
            raise RequestError(f"{path}: no pages here; give the folder that your HTML is in")
        files += found
    return list(dict.fromkeys(files))


def _tell_of_the_end(requests: Sequence[BuildRequest], screen: Screen) -> None:
    """A word on a licence that has ended or soon will. It is not kept in any file: tomorrow it would be another."""
    today = datetime.now(tz=UTC).date()
    for until in sorted({request.licence.until for request in requests if request.licence.until}):
        days = (until - today).days
        if days < 0:
            screen.warn(
                [
                    {
                        "path": "licence",
                        "message": f"it ended on {until}; do not publish these fonts before it is renewed",
                    }
                ]
            )
        elif days <= _SOON:
            screen.warn([{"path": "licence", "message": f"it ends on {until}, in {days} days"}])
