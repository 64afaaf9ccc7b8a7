"""The options of `aksara build`, as one list: what each means, takes, and sets in a request.

Where the project file has a key for the same parameter, its words are the option's help, too.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any, cast

import click
from msgspec import Struct, field
from msgspec.structs import force_setattr

from aksara.cli import completing
from aksara.cli.flags import FLAGS
from aksara.container import EFFORTS
from aksara.errors import RequestError
from aksara.faces import STYLES, Style
from aksara.instancing import AxisLimit
from aksara.pipeline.planning.colour_formats import COLOUR_FORMATS
from aksara.pipeline.publishing.templates import TemplateRequest
from aksara.pipeline.request import DISPLAYS, VARIABLE, FaceOverride, parse_inline, parse_weights, parse_width
from aksara.project import PARAMETER_WORDS
from aksara.site import is_address
from aksara.sizes import parse_size
from aksara.slicing.slice_choice import WAYS, Slices, parse_slices
from aksara.sources import PathPattern
from aksara.text.emoji import EMOJI_SETS
from aksara.web.font_matching import parse_desired_face
from aksara.web.formats import WEB_FORMATS
from aksara.web.stack import parse_stack


class _Parsed(click.ParamType[Any]):
    """A value that a function of the core reads; what it says of a wrong one is the message."""

    def __init__(self, name: str, parse: Callable[[str], Any]) -> None:
        self.name = name
        self._parse = parse

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        """What the text means."""
        try:
            return self._parse(str(value))
        except RequestError as error:
            self.fail(error.problem, param, ctx)


def _axis_limit(text: str) -> AxisLimit:
    low, dots, high = text.partition("..")
    return AxisLimit.parse(low, high if dots else low)


def _slices(text: str) -> Slices:
    return parse_slices(text)


CHARACTERS = "Which characters? All, if none are asked for"
FACES = "Which faces, and which parts of them?"
PLACES = "Where does it go?"
LOADING = "How do pages load it?"
LICENCE = "May I?"
MAKING = "How is it made?"


class BuildOption(Struct, frozen=True, kw_only=True, eq=False):
    """One option: the `parameter` that it sets, and the `group` of the help that it stands in; where one parameter has
    several options, only a `flag` of its own.

    `words` are its help, by default those of the project's key for the parameter; `default` is what holds without it.
    `value` makes the parameter's value of what click has read. `more` goes to click as it is.
    """

    group: str
    parameter: str = ""
    flag: str = ""
    words: str = ""
    default: str = ""
    value: Callable[[Any], object] | None = None
    more: Mapping[str, Any] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if not self.flag:
            force_setattr(self, "flag", FLAGS[self.parameter])

    @property
    def name(self) -> str:
        """What click calls its value."""
        return self.flag.lstrip("-").replace("-", "_")

    @property
    def help(self) -> str:
        """Its help, as a sentence with the default behind it."""
        words = self.words or PARAMETER_WORDS[self.parameter]
        sentence = words[0].upper() + words[1:] + "."
        return f"{sentence}  [default: {self.default}]" if self.default else sentence

    @property
    def decorator(self) -> Callable[[Any], Any]:
        """What adds the option to a command."""
        return click.option(self.flag, self.name, help=self.help, **self.more)


_PATH = click.Path(path_type=Path)
_SWITCH: dict[str, Any] = {"is_flag": True, "default": None}
_SEVERAL: dict[str, Any] = {"multiple": True}


def _by_axis(given: Sequence[tuple[str, AxisLimit]]) -> dict[str, AxisLimit]:
    """The limit of each axis. Raises `RequestError` for an axis that is given twice."""
    limits = dict(given)
    if len(limits) < len(given):
        tag = next(tag for index, (tag, _) in enumerate(given) if tag in dict(given[:index]))
        problem = f"{tag} is given twice; for a range write 400..700, for several static fonts --variable pin"
        raise RequestError(f"{problem} and --use for each", parameter="FamilyRequest.axes")
    return limits


def _parts(given: Sequence[str]) -> tuple[str, ...]:
    """The values, each split at commas."""
    return tuple(part.strip() for value in given for part in value.split(",") if part.strip())


def _pages(given: Sequence[str]) -> tuple[Path, ...]:
    return tuple(Path(path) for path in given if not is_address(path))


BUILD_OPTIONS: tuple[BuildOption, ...] = (
    # --- characters
    BuildOption(
        parameter="CharacterRequest.pages", group=CHARACTERS, value=_pages,
        words="keep only the faces and characters that these pages use",
        more={"metavar": "PATH|URL"} | _SEVERAL,
    ),
    BuildOption(
        parameter="CharacterRequest.exclude", group=CHARACTERS, value=tuple,
        words="do not read these files and folders of the site", more={"metavar": "PATTERN"} | _SEVERAL,
    ),
    BuildOption(
        parameter="CharacterRequest.browser", group=CHARACTERS,
        words="read the pages in an installed browser, after their scripts", more=_SWITCH,
    ),
    BuildOption(
        parameter="FamilyRequest.replaces", group=CHARACTERS,
        words="the family in your present CSS that these fonts replace; with several families write OLD=NEW",
        more={"metavar": "FAMILY", "shell_complete": completing.site_families} | _SEVERAL,
    ),
    BuildOption(
        parameter="CharacterRequest.exact", group=CHARACTERS,
        words="with --for-site: keep only what pages show, no other letters", more=_SWITCH,
    ),
    BuildOption(
        parameter="BuildRequest.all_faces", group=CHARACTERS,
        words="with --for-site: make unused faces, too", more=_SWITCH,
    ),
    BuildOption(
        parameter="CharacterRequest.texts", group=CHARACTERS, value=tuple,
        words="keep the characters of this text", more={"metavar": "TEXT"} | _SEVERAL,
    ),
    BuildOption(
        parameter="CharacterRequest.text_files", group=CHARACTERS, value=tuple,
        words="keep the characters of this UTF-8 file", more={"type": _PATH} | _SEVERAL,
    ),
    BuildOption(
        parameter="CharacterRequest.languages", group=CHARACTERS, value=_parts,
        words="keep the characters of these languages, as id,vi",
        more={"metavar": "TAGS", "shell_complete": completing.languages} | _SEVERAL,
    ),
    BuildOption(
        parameter="CharacterRequest.scripts", group=CHARACTERS, value=_parts,
        words="keep the characters of these scripts, as Latn,Cyrl",
        more={"metavar": "CODES", "shell_complete": completing.scripts} | _SEVERAL,
    ),
    BuildOption(
        parameter="CharacterRequest.ranges", group=CHARACTERS, value=_parts,
        words="keep these characters, as U+41-5A,U+E9", more={"metavar": "RANGES"} | _SEVERAL,
    ),
    BuildOption(
        parameter="CharacterRequest.emoji", group=CHARACTERS, value=_parts,
        words="keep all emoji of Unicode: basic is those of one character, all has flags, families and skin tones, too",
        more={"type": click.Choice(EMOJI_SETS)} | _SEVERAL,
    ),
    BuildOption(
        parameter="CharacterRequest.icons", group=CHARACTERS, value=_parts,
        words="keep only these icons of icon fonts, as home,search", more={"metavar": "NAMES"} | _SEVERAL,
    ),
    BuildOption(
        parameter="FamilyRequest.slices", group=CHARACTERS, default="auto",
        words="one file per face, or split by use (auto), language, script, or into N files",
        more={"type": _Parsed("slices", _slices), "metavar": "|".join((*WAYS, "N"))},
    ),
    # --- faces
    BuildOption(
        parameter="FamilyRequest.name", group=FACES, words="one family name for all fonts",
        more={"metavar": "NAME"},
    ),
    BuildOption(
        parameter="FamilyRequest.overrides", group=FACES,
        words="override a font's weight and style; 100..900 if it serves all these weights", value=lambda values: tuple(
            FaceOverride(file, weight, cast(Style, style)) for file, weight, style in values
        ),
        more={"metavar": "FILE WEIGHT STYLE", "type": (str, _Parsed("weight", parse_weights), click.Choice(STYLES))}
        | _SEVERAL,
    ),
    BuildOption(
        flag="--width", group=FACES, words="override a font's width, as 75%",
        more={"metavar": "FILE PERCENT", "type": (str, _Parsed("percent", parse_width))} | _SEVERAL,
    ),
    BuildOption(
        parameter="FamilyRequest.uses", group=FACES,
        words="a face that the site uses, as '700 italic'; warn if it is missing",
        value=lambda values: tuple(map(parse_desired_face, values)), more={"metavar": "FACE"} | _SEVERAL,
    ),
    BuildOption(
        flag="--feature", group=FACES, words="keep this OpenType feature, too; 'all' keeps all",
        more={"metavar": "TAG", "shell_complete": completing.features} | _SEVERAL,
    ),
    BuildOption(
        flag="--no-feature", group=FACES, words="leave this feature out",
        more={"metavar": "TAG", "shell_complete": completing.features} | _SEVERAL,
    ),
    BuildOption(
        parameter="FamilyRequest.hints", group=FACES, words="hints for small sizes", default="keep",
        value=lambda value: value == "keep", more={"type": click.Choice(["keep", "drop"])},
    ),
    BuildOption(
        parameter="FamilyRequest.axes", group=FACES, value=_by_axis,
        words="limit an axis of variable fonts to a range, as wght 400..700, or to one value, as opsz 14; repeatable",
        more={"metavar": "TAG VALUE", "type": (str, _Parsed("limit", _axis_limit))} | _SEVERAL,
    ),
    BuildOption(
        parameter="FamilyRequest.variable", group=FACES, default="keep",
        words="variable fonts stay variable, become a static font for each face in use, or are skipped where "
        "static ones are there", more={"type": click.Choice(VARIABLE)},
    ),
    BuildOption(
        parameter="FamilyRequest.colour_format", group=FACES,
        default="COLR, else the smallest", more={"type": click.Choice(COLOUR_FORMATS)},
    ),
    # --- places
    BuildOption(
        parameter="BuildRequest.folder", group=PLACES, default="web-fonts", more={"type": _PATH},
    ),
    BuildOption(
        parameter="BuildRequest.css", group=PLACES, words="where the CSS goes", default="DIR/faces.css",
        more={"type": _PATH},
    ),
    BuildOption(
        parameter="BuildRequest.css_into", group=PLACES, more={"type": _PATH, "metavar": "FILE"},
    ),
    BuildOption(
        parameter="BuildRequest.rules", group=PLACES, more={"type": _PATH, "metavar": "FILE"},
    ),
    BuildOption(
        parameter="BuildRequest.links", group=PLACES,
        words="keep the links to style sheet and fonts in these pages or templates, between marks",
        value=lambda values: tuple(PathPattern(value, Path()) for value in values),
        more={"metavar": "PATTERN"} | _SEVERAL,
    ),
    BuildOption(
        parameter="BuildRequest.fonts", group=PLACES, words="the folder for font files, relative to the output folder",
        default="fonts, or . in a folder called fonts or type", more={"type": _PATH, "metavar": "DIR"},
    ),
    BuildOption(
        parameter="BuildRequest.proof", group=PLACES, words="where the proof goes, or none", default="DIR/proof.html",
        value=lambda path: "none" if str(path) == "none" else path, more={"type": _PATH, "metavar": "FILE|none"},
    ),
    BuildOption(
        parameter="BuildRequest.manifest", group=PLACES, default="DIR/faces.json",
        more={"type": _PATH, "metavar": "FILE"},
    ),
    BuildOption(
        parameter="BuildRequest.inline", group=PLACES, value=parse_inline, default="none",
        words="put font files up to this size into the CSS as data", more={"metavar": "SIZE|all|none"},
    ),
    BuildOption(
        parameter="BuildRequest.url", group=PLACES, default="<path>", more={"metavar": "PATTERN"},
    ),
    BuildOption(
        parameter="BuildRequest.formats", group=PLACES, default="woff2, woff",
        words=f"font formats, of {', '.join(WEB_FORMATS)}; sfnt is a TTF or OTF as the font came, ttf converts "
        "PostScript outlines, eot and svg are for old browsers",
        value=lambda values: tuple(dict.fromkeys(_parts(values))),
        more={"metavar": "NAME[,NAME]", "shell_complete": completing.formats} | _SEVERAL,
    ),
    BuildOption(
        parameter="BuildRequest.templates", group=PLACES,
        words="render a Jinja2 template of yours, FROM, with the manifest into the file TO; FILE#/POINTER is a value "
        "in a JSON file",
        value=lambda values: tuple(TemplateRequest.of(*value) for value in values),
        more={"nargs": 2, "type": _PATH, "metavar": "FROM TO"} | _SEVERAL,
    ),
    BuildOption(
        parameter="BuildRequest.archive", group=PLACES, more={"type": _PATH, "metavar": "FILE"},
    ),
    # --- loading
    BuildOption(
        parameter="FamilyRequest.stack", group=LOADING, value=parse_stack,
        words='families that follow in the stack, as "Arial, sans-serif"',
        more={"metavar": "LIST", "shell_complete": completing.system_families},
    ),
    BuildOption(
        parameter="FamilyRequest.display", group=LOADING, words="font-display", default="swap, block for icons",
        more={"type": click.Choice(DISPLAYS)},
    ),
    BuildOption(parameter="FamilyRequest.local", group=LOADING, more=_SWITCH),
    BuildOption(
        parameter="BuildRequest.preload", group=LOADING, words="preload this face", default="Regular",
        value=tuple, more={"metavar": "FACE"} | _SEVERAL,
    ),
    BuildOption(
        parameter="BuildRequest.budget", group=LOADING, value=parse_size,
        words="the most that a page's first view may download, as '120 KB'; exit status 1 if it is more",
        more={"metavar": "SIZE"},
    ),
    # --- licence
    BuildOption(
        parameter="WebLicence.stated", group=LICENCE,
        words="state that you hold a web licence for these fonts", more=_SWITCH,
    ),
    BuildOption(
        parameter="WebLicence.holder", group=LICENCE, value=lambda text: " ".join(text.split()),
        words="who holds the licence; recorded in the fonts", more={"metavar": "NAME"},
    ),
    BuildOption(
        parameter="BuildRequest.published_licences", group=LICENCE, value=tuple,
        words="publish this licence text beside the fonts (not your contract: anyone can read it)",
        more={"type": _PATH} | _SEVERAL,
    ),
    # --- making
    BuildOption(
        parameter="BuildRequest.within", group=MAKING, value=lambda _: None,
        words="let the project file write outside its folder, and publish texts from there", more=_SWITCH,
    ),
    BuildOption(
        parameter="BuildRequest.effort", group=MAKING, default="normal",
        more={"type": click.Choice(EFFORTS)},
    ),
    BuildOption(
        parameter="BuildRequest.jobs", group=MAKING, words="faces to make at a time",
        default="one per processor", more={"type": click.IntRange(1, 64), "metavar": "N"},
    ),
    BuildOption(
        parameter="BuildRequest.cache", group=MAKING, words="make everything again",
        more={"is_flag": True, "flag_value": False, "default": None},
    ),
)  # fmt: skip

#: The names of the options in each group of the help.
OPTION_GROUPS = {
    group: tuple(option.name for option in BUILD_OPTIONS if option.group == group)
    for group in dict.fromkeys(option.group for option in BUILD_OPTIONS)
}


def takes_build_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Add all of them to a command."""
    for option in reversed(BUILD_OPTIONS):
        command = option.decorator(command)
    return command
