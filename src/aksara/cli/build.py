"""`aksara build`: make the web fonts, the CSS and the proof."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, cast

import click
from msgspec.structs import replace
from rich.text import Text

from aksara.cli import completing
from aksara.cli.grouping import GroupedCommand
from aksara.cli.report import report_budgets, report_build, unchanged_lines
from aksara.cli.screen import Screen
from aksara.cli.unchanged import keep_outcome
from aksara.cli.watching import watch as watch_files
from aksara.cli.wording import OPTIONS, notice_text
from aksara.cli.work import Done, build_and_write
from aksara.container import EFFORTS
from aksara.errors import Location, RequestError
from aksara.faces import STYLES, Style
from aksara.instancing import AxisLimit
from aksara.notices import Notice
from aksara.observing import observe
from aksara.pipeline import Written
from aksara.pipeline.characters import CharacterRequest
from aksara.pipeline.planning.colour_formats import COLOUR_FORMATS
from aksara.pipeline.publishing.templates import TemplateRequest
from aksara.pipeline.request import (
    DISPLAYS,
    VARIABLE,
    BuildRequest,
    FaceOverride,
    FamilyRequest,
    Parameter,
    feature_choice,
)
from aksara.project import PROJECT_NAME, measured_beside, read_project
from aksara.receipts import Line, Outcome, today
from aksara.site import is_address
from aksara.sizes import parse_size
from aksara.slicing.slice_choice import WAYS, Slices, parse_slices
from aksara.sources import is_file
from aksara.text.emoji import EMOJI_SETS
from aksara.web.font_matching import parse_desired_face
from aksara.web.formats import WEB_FORMATS
from aksara.web.stack import parse_stack

#: Days before the end of a licence from which on it is mentioned.
_SOON = 60
#: Options that are fields of a request as they stand.
_AS_THEY_ARE = ("folder", "css", "url", "display", "local", "preload", "effort", "archive", "jobs", "cache",
                "published_licences", "variable", "slices", "all_faces", "colour_format")  # fmt: skip


class AxisLimitType(click.ParamType[AxisLimit]):
    """What remains of an axis: `400..700`, or one value."""

    name = "limit"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> AxisLimit:
        """The limit that the text means."""
        low, dots, high = str(value).partition("..")
        try:
            return AxisLimit.parse(low, high if dots else low)
        except RequestError as error:
            self.fail(error.problem, param, ctx)


class SlicesType(click.ParamType[Slices]):
    """A way to cut, or how many slices."""

    name = "slices"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Slices:
        """The way that the text means."""
        try:
            return parse_slices(str(value))
        except RequestError as error:
            self.fail(error.problem, param, ctx)


_GROUPS = {
    "Which characters? All, if none are asked for": (
        "sites", "exclude", "browser", "replaces", "exact", "all_faces", "texts", "files", "languages", "scripts",
        "ranges", "emoji", "icons", "slices",
    ),
    "Which faces, and what of them?": (
        "family", "overrides", "uses", "more", "without", "hinting", "axes", "variable", "colour_format",
    ),
    "Where does it go?": ("folder", "css", "url", "formats", "templates", "archive"),
    "How do pages load it?": ("stack", "display", "local", "preload", "budget"),
    "May I?": ("web_licence", "licensed_to", "published_licences"),
    "How is it made?": ("project", "allow_outside", "effort", "jobs", "cache", "watch", "dry_run"),
}  # fmt: skip


@click.command("build", cls=GroupedCommand, groups=_GROUPS)
@click.argument("paths", metavar="[PATH]...", nargs=-1, type=click.Path(path_type=Path))
@click.option("--project", type=click.Path(path_type=Path), help="The project file.  [default: aksara.toml]")
@click.option("--to", "folder", type=click.Path(path_type=Path), help="Output folder.  [default: web-fonts]")
@click.option("--css", type=click.Path(path_type=Path), help="Where the CSS goes.  [default: DIR/faces.css]")
@click.option(
    "--url",
    metavar="PATTERN",
    help="How the CSS refers to a font: <path> is the path from the CSS, <file> its name.  [default: <path>]",
)
@click.option(
    "--format",
    "formats",
    multiple=True,
    type=click.Choice(WEB_FORMATS),
    help="Font format, repeatable; sfnt is plain TTF or OTF, eot and svg for old browsers.  [default: woff2, woff]",
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
    "--for-language",
    "languages",
    shell_complete=completing.languages,
    metavar="TAGS",
    multiple=True,
    help="Keep the characters of these languages, as id,vi.",
)
@click.option(
    "--for-script",
    "scripts",
    shell_complete=completing.scripts,
    metavar="CODES",
    multiple=True,
    help="Keep the characters of these scripts, as Latn,Cyrl.",
)
@click.option(
    "--for-emoji",
    "emoji",
    multiple=True,
    type=click.Choice(EMOJI_SETS),
    help="Keep all emoji of Unicode: basic is those of one character, all has flags, families and skin tones, too.",
)
@click.option(
    "--for-icon", "icons", metavar="NAMES", multiple=True, help="Of fonts of icons keep these alone, as home,search."
)
@click.option(
    "--for-site",
    "sites",
    metavar="PATH|URL",
    multiple=True,
    help="Read these pages: each face keeps the characters that they show in it, unused faces are left out.",
)
@click.option("--exclude", multiple=True, metavar="PATTERN", help="Do not read these files and folders of the site.")
@click.option(
    "--browser", is_flag=True, default=None, help="Read the pages in an installed browser, after their scripts."
)
@click.option(
    "--replaces",
    metavar="FAMILY",
    multiple=True,
    shell_complete=completing.site_families,
    help="The family of the site's present CSS that this one replaces; of several fonts 'OLD=NEW' pairs them.",
)
@click.option(
    "--slices",
    type=SlicesType(),
    metavar="|".join((*WAYS, "N")),
    help="One file a face, or several, of which a page fetches those that it needs: as pages show them, by language, "
    "by script, or so many.  [default: auto]",
)
@click.option("--exact", is_flag=True, default=None, help="With --for-site: only what pages show, no other letters.")
@click.option("--all-faces", is_flag=True, default=None, help="With --for-site: make unused faces, too.")
@click.option("--family", metavar="NAME", help="One family name for all fonts.")
@click.option(
    "--face",
    "overrides",
    metavar="FILE WEIGHT STYLE",
    multiple=True,
    type=(str, int, click.Choice(STYLES)),
    help="Overrule a font's weight and style.",
)
@click.option(
    "--stack",
    metavar="LIST",
    shell_complete=completing.system_families,
    help='Families that follow in the stack, as "Arial, sans-serif".',
)
@click.option("--display", type=click.Choice(DISPLAYS), help="font-display.  [default: swap]")
@click.option("--local", is_flag=True, default=None, help="Try an installed copy first.")
@click.option(
    "--use",
    "uses",
    metavar="FACE",
    multiple=True,
    help="A face that the site uses, as '700 italic'; you are told if it is missing.",
)
@click.option("--preload", metavar="FACE", multiple=True, help="Preload this face.  [default: Regular]")
@click.option(
    "--budget",
    metavar="SIZE",
    help="The most that a page's first view may download, as '120 KB'; exit status 1 if it is more.",
)
@click.option(
    "--feature",
    "more",
    metavar="TAG",
    multiple=True,
    shell_complete=completing.features,
    help="Keep this OpenType feature, too; 'all' keeps all.",
)
@click.option(
    "--no-feature",
    "without",
    metavar="TAG",
    multiple=True,
    shell_complete=completing.features,
    help="Leave this feature out.",
)
@click.option("--hinting", type=click.Choice(["keep", "drop"]), help="Hints for small sizes.  [default: keep]")
@click.option(
    "--axis",
    "axes",
    metavar="TAG VALUE",
    multiple=True,
    type=(str, AxisLimitType()),
    help="Limit an axis of variable fonts to a range, as wght 400..700, or to one value, as opsz 14; repeatable.",
)
@click.option(
    "--variable",
    type=click.Choice(VARIABLE),
    help="Variable fonts stay variable, become a static font for each face in use, or are passed over where static "
    "ones are there.  [default: keep]",
)
@click.option(
    "--colour-format",
    type=click.Choice(COLOUR_FORMATS),
    help="Which tables colour fonts with several keep.  [default: COLR, else the smallest]",
)
@click.option("--effort", type=click.Choice(EFFORTS), help="Compression effort.  [default: normal]")
@click.option("--web-licence", is_flag=True, default=None, help="State that you hold a web licence for these fonts.")
@click.option("--licensed-to", metavar="NAME", help="Who holds the licence; recorded in the fonts.")
@click.option(
    "--publish-licence",
    "published_licences",
    multiple=True,
    type=click.Path(path_type=Path),
    help="Publish this licence text beside the fonts (not your contract: anyone can read it).",
)
@click.option(
    "--template",
    "templates",
    nargs=2,
    type=click.Path(path_type=Path),
    multiple=True,
    metavar="FROM TO",
    help="Render a Jinja2 template of yours, FROM, with the manifest into the file TO.",
)
@click.option(
    "--zip", "archive", metavar="FILE", type=click.Path(path_type=Path), help="Also write everything into this ZIP."
)
@click.option(
    "--jobs", type=click.IntRange(1, 64), metavar="N", help="Faces to make at a time.  [default: one per processor]"
)
@click.option(
    "--allow-outside",
    is_flag=True,
    default=None,
    help="Let the project file write outside its folder, and publish texts from there.",
)
@click.option("--no-cache", "cache", is_flag=True, flag_value=False, default=None, help="Make everything anew.")
@click.option("--watch", is_flag=True, help="Build again whenever a font, a page or the project file changes.")
@click.option("--dry-run", is_flag=True, help="Make everything but write nothing.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context,
    /,
    paths: tuple[Path, ...],
    project: Path | None,
    watch: bool,
    dry_run: bool,
    as_json: bool,
    **options: Any,
) -> int:
    """Make the web fonts, the CSS and the proof.

    PATH is a font, a folder of fonts or a ZIP. Without any, aksara.toml says what is built; options given here
    override it. Without a --for option, all characters are kept.
    """
    screen = Screen.of(ctx)

    def build() -> list[Done]:
        requests = _requests(paths, project)
        requests = [_with_options(request, options, len(requests)) for request in requests]
        return build_and_write(requests, screen, dry_run=dry_run)

    if watch:
        _check_watched(paths, options, dry_run=dry_run, as_json=as_json)
        _watch(build, screen)
        return 0
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
    """Tell of all; the JSON document that was printed, if one was."""
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
    """What the next build with the same arguments is to say if it has nothing to do."""
    notices = [*(notice for done in results for notice in done.build.notices), *_licence_ends(results)]
    until = any(done.plan.request.licence.until for done in results)
    return Outcome(
        status=int(any(budget.missed for done in results for budget in done.build.budgets)),
        notices=tuple((notice.where, notice_text(notice)) for notice in notices),
        said=tuple(Line(((line, ""),)) for done in results for line in unchanged_lines(done)),
        document=document,
        day=today() if until else "",
    )


def _check_watched(paths: Sequence[Path], options: Mapping[str, Any], *, dry_run: bool, as_json: bool) -> None:
    """Raise `RequestError` for what cannot be watched, or has no end that could be said."""
    if dry_run or as_json:
        raise RequestError(f"--watch writes files and never ends; leave {'--json' if as_json else '--dry-run'} out")
    if any(is_address(site) for site in options["sites"]):
        raise RequestError("--watch watches files, and no running site; give the folder of its pages")


def _watch(build: Callable[[], list[Done]], screen: Screen) -> None:
    """Build whenever something changes; the whole report comes once, and later what is new."""
    told: set[Notice] = set()

    def build_and_tell() -> list[Written]:
        results = build()
        notices = [notice for done in results for notice in done.build.notices]
        if not told:
            _report(screen, results, as_json=False)
        else:
            screen.notify(notice for notice in notices if notice not in told)
            for done in results:
                if any(budget.missed for budget in done.build.budgets):
                    report_budgets(screen, done.plan.request, done.build)
        told.update(notices, [Notice("", "")])
        return [done.written for done in results if done.written is not None]

    watch_files(build_and_tell, screen)


def _requests(paths: Sequence[Path], project: Path | None) -> list[BuildRequest]:
    """What the paths or the project file ask for."""
    if paths and project is not None:
        raise RequestError("both fonts and --project are given; the project names its own fonts: give only one of them")
    if paths:
        return [BuildRequest(families=(FamilyRequest(fonts=tuple(paths)),), measured=measured_beside(Path()))]
    if project is None and not is_file(Path(PROJECT_NAME)):
        raise RequestError(
            f"there is no {PROJECT_NAME} here, and no fonts are given; run `aksara build FOLDER`, or write a project "
            "with `aksara init`"
        )
    return read_project(project or Path(PROJECT_NAME))


def _with_options(request: BuildRequest, options: dict[str, Any], outputs: int) -> BuildRequest:
    """The request with the given options in place of what it says."""
    given = {name: value for name, value in options.items() if value not in (None, ())}
    _check_encoding(given)
    if outputs > 1 and (single := [name for name in ("folder", "css", "archive") if name in given]):
        option = OPTIONS[f"BuildRequest.{single[0]}"]
        raise RequestError(f"{option} names one path, but the project has {outputs} outputs; change it in the project")
    if "family" in given and len(request.families) > 1:
        raise RequestError("--family gives one name, but the project has several families; change it in the project")
    choices: dict[str, Any] = {name: given[name] for name in _AS_THEY_ARE if name in given}
    for name, (field, convert) in _CONVERTED.items():
        if name in given:
            choices[field] = convert(given[name])
    if "more" in given or "without" in given:
        choices["features"] = feature_choice(given.get("more", ()), given.get("without", ()))
    licence: dict[str, Any] = {"stated": True} if given.get("web_licence") else {}
    if "licensed_to" in given:
        licence["holder"] = " ".join(given["licensed_to"].split())
    if licence:
        choices["licence"] = replace(request.licence, **licence)
    if any(name in given for name in _CHARACTER_OPTIONS):
        choices["characters"] = _characters(given)
        # The pages that link to the style sheet stay those of the project.
        choices["linking_pages"] = request.linking_pages or request.characters.pages
    if "allow_outside" in given:
        choices["within"] = None
    of_site = {name: given[name] for name in ("exact", "exclude", "browser") if name in given}
    if of_site and "characters" not in choices:
        choices["characters"] = replace(request.characters, **of_site)
    if "replaces" in given:
        choices["replaces"], choices["replacements"] = _replacements(given["replaces"])
    return request.with_choices(**choices, locations=_kept_locations(request, choices))


def _check_encoding(given: Mapping[str, Any]) -> None:
    """Raise `RequestError` for a text whose bytes are not in the terminal's encoding. Paths may be any bytes."""
    names = {param.name: param.opts[0] for param in click.get_current_context().command.params}
    for name, value in given.items():
        for text in value if isinstance(value, tuple) else (value,):
            if isinstance(text, str) and re.search("[\ud800-\udfff]", text):
                raise RequestError(f"{names[name]}: this text is not valid UTF-8; type it again")


def _by_axis(given: Sequence[tuple[str, AxisLimit]]) -> dict[str, AxisLimit]:
    """The limit of each axis. Raises `RequestError` for an axis that has two: only one would count."""
    limits = dict(given)
    if len(limits) < len(given):
        tag = next(tag for number, (tag, _) in enumerate(given) if tag in dict(given[:number]))
        problem = f"{tag} is given twice; for a range write 400..700, for several static fonts --variable pin"
        raise RequestError(f"{problem} and --use for each", parameter="FamilyRequest.axes")
    return limits


def _replacements(given: Sequence[str]) -> tuple[tuple[str, ...], dict[str, str]]:
    """Families of the site that the only family of the build replaces, and pairs of one of the site with one of these
    fonts."""
    pairs = {old.strip(): new.strip() for old, equals, new in (each.partition("=") for each in given) if equals}
    return tuple(each for each in given if "=" not in each), pairs


_CHARACTER_OPTIONS = ("texts", "files", "ranges", "languages", "scripts", "emoji", "icons", "sites")
# Option → the field of the request that it sets, and what makes the field's value of it.
_CONVERTED: dict[str, tuple[str, Callable[[Any], object]]] = {
    "family": ("name", str),
    "templates": ("templates", lambda values: tuple(TemplateRequest(*each) for each in values)),
    "formats": ("formats", lambda values: tuple(dict.fromkeys(values))),
    "overrides": (
        "overrides",
        lambda values: tuple(FaceOverride(file, weight, cast(Style, style)) for file, weight, style in values),
    ),
    "stack": ("stack", parse_stack),
    "uses": ("uses", lambda values: tuple(map(parse_desired_face, values))),
    "axes": ("axes", _by_axis),
    "budget": ("budget", parse_size),
    "hinting": ("hints", lambda value: value == "keep"),
}


def _characters(given: dict[str, Any]) -> CharacterRequest:
    def listed(name: str) -> tuple[str, ...]:
        return tuple(part.strip() for value in given.get(name, ()) for part in value.split(",") if part.strip())

    return CharacterRequest(
        texts=given.get("texts", ()),
        text_files=given.get("files", ()),
        ranges=listed("ranges"),
        languages=listed("languages"),
        scripts=listed("scripts"),
        emoji=listed("emoji"),
        icons=listed("icons"),
        pages=tuple(Path(path) for path in given.get("sites", ()) if not is_address(path)),
        addresses=tuple(path for path in given.get("sites", ()) if is_address(path)),
        exact=given.get("exact", False),
        exclude=given.get("exclude", ()),
        browser=given.get("browser", False),
    )


def _kept_locations(request: BuildRequest, choices: dict[str, Any]) -> dict[Parameter, Location]:
    """Where the parameters are written that no option has changed."""
    changed = {f"{owner}.{name}" for owner in ("BuildRequest", "FamilyRequest") for name in choices}
    if "characters" in choices:
        changed |= {parameter for parameter, _ in request.locations if parameter.startswith("CharacterRequest.")}
    return {key: where for key, where in request.locations.items() if key[0] not in changed}


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
