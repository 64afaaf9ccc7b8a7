"""`aksara build`: make the web fonts, the CSS and the proof."""

from __future__ import annotations

import os
from pathlib import Path
from typing import cast

import click

from aksara.build.request import DISPLAYS, STYLES, BuildRequest, Overrule, feature_choice
from aksara.cli.report import report_build
from aksara.cli.screen import Screen
from aksara.cli.work import build_and_write
from aksara.container import EFFORTS
from aksara.errors import InputError, RequestError
from aksara.faces import Style, WebLicence
from aksara.sources import read_file
from aksara.text import wanted_characters
from aksara.web.stack import parse_stack


@click.command("build")
@click.argument("paths", metavar="PATH...", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option(
    "--to",
    "folder",
    type=click.Path(path_type=Path),
    default=Path("web-fonts"),
    show_default=True,
    help="Output folder.",
)
@click.option("--css", type=click.Path(path_type=Path), help="Where the CSS goes.  [default: DIR/faces.css]")
@click.option(
    "--url",
    metavar="PATTERN",
    default="<path>",
    show_default=True,
    help="How the CSS refers to a font: <path> from the CSS to it, <file> its name.",
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
@click.option("--display", type=click.Choice(DISPLAYS), default="swap", show_default=True, help="font-display.")
@click.option("--feature", "more", metavar="TAG", multiple=True, help="Keep this OpenType feature too; all keeps all.")
@click.option("--no-feature", "without", metavar="TAG", multiple=True, help="Leave this feature out.")
@click.option(
    "--hinting", type=click.Choice(["keep", "drop"]), default="keep", show_default=True, help="Hints for small sizes."
)
@click.option(
    "--effort",
    type=click.Choice(EFFORTS),
    default="normal",
    show_default=True,
    help="How hard to press the files.",
)
@click.option("--web-licence", is_flag=True, help="State that a licence to use these fonts on the web is held.")
@click.option("--licensed-to", metavar="NAME", default="", help="Who holds the licence; recorded in the fonts.")
@click.option("--jobs", type=click.IntRange(1, 64), metavar="N", help="Faces at a time.  [default: one a processor]")
@click.option("--dry-run", is_flag=True, help="Make everything, write nothing.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context,
    paths: tuple[Path, ...],
    folder: Path,
    css: Path | None,
    url: str,
    formats: tuple[str, ...],
    texts: tuple[str, ...],
    files: tuple[Path, ...],
    ranges: tuple[str, ...],
    languages: tuple[str, ...],
    scripts: tuple[str, ...],
    family: str | None,
    overrules: tuple[tuple[str, int, str], ...],
    stack: str | None,
    display: str,
    more: tuple[str, ...],
    without: tuple[str, ...],
    hinting: str,
    effort: str,
    web_licence: bool,
    licensed_to: str,
    jobs: int | None,
    dry_run: bool,
    as_json: bool,
) -> None:
    """Make the web fonts, the CSS and the proof.

    PATH is a font, a folder of fonts or a ZIP. Without a --for option, all characters are kept.
    """
    screen = Screen.of(ctx)
    characters = None
    if texts or files or ranges or languages or scripts:
        all_texts = (*texts, *map(_read_text, files))
        characters = wanted_characters(texts=all_texts, ranges=ranges, languages=languages, scripts=scripts)
    request = BuildRequest(
        fonts=paths,
        folder=folder,
        css=css,
        url=url,
        formats=tuple(dict.fromkeys(formats)) or ("woff2", "woff"),
        characters=characters,
        family=family,
        overrules=tuple(Overrule(file, weight, cast(Style, style)) for file, weight, style in overrules),
        stack=parse_stack(stack) if stack is not None else None,
        display=display,
        features=feature_choice(more, without),
        hints=hinting == "keep",
        effort=effort,
        licence=WebLicence(web_licence, " ".join(licensed_to.split())),
        jobs=jobs or os.cpu_count() or 1,
    )
    result, written = build_and_write(request, screen, dry_run=dry_run)
    if as_json:
        screen.json(result.manifest)
        screen.warn(result.warnings)
    else:
        report_build(screen, request, result, written)


def _read_text(path: Path) -> str:
    """The text of a --for-file."""
    if not path.exists():
        raise RequestError(f"{path}: there is no such file; check the path given with --for-file")
    try:
        return read_file(path).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError(f"{path}: not UTF-8 text (byte {error.start}); save it as UTF-8") from error
