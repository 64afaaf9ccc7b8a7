"""The request for a build: values and paths only; nothing has been read."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Literal, Self, get_args

from msgspec import Struct, field
from msgspec.structs import fields, replace

from aksara.container import EFFORTS, Effort
from aksara.errors import InputError, Location, RequestError
from aksara.faces import Style, WebLicence
from aksara.instancing import Limits
from aksara.limits import MAX_FAMILY_NAME
from aksara.pipeline.characters import CharacterRequest
from aksara.pipeline.planning.colour_formats import COLOUR_FORMATS, ColourFormat
from aksara.pipeline.publishing.templates import TemplateRequest
from aksara.sizes import parse_size
from aksara.slicing.slice_choice import Slices, check_slices
from aksara.sources import MANIFEST_NAME, PathPattern
from aksara.subsetting import FeatureChoice
from aksara.web.font_matching import DesiredFace
from aksara.web.formats import WEB_FORMATS, WebFormat, age
from aksara.web.palettes import PaletteRequest
from aksara.web.syntax import check_leading_css
from aksara.web.system_families import SystemFamily
from aksara.web.urls import check_pattern

Display = Literal["auto", "block", "swap", "fallback", "optional"]
DISPLAYS: tuple[Display, ...] = get_args(Display)
#: What becomes of variable fonts: they stay variable, become static faces, or are skipped for static fonts.
Variable = Literal["keep", "pin", "skip"]
VARIABLE: tuple[Variable, ...] = get_args(Variable)
#: The formats that are made where none are named; no browser that needs WOFF can vary a font.
DEFAULT_FORMATS: tuple[WebFormat, ...] = ("woff2", "woff")
_FORMATS_OF_VARIABLE_FONTS: tuple[WebFormat, ...] = ("woff2",)
ALL_FEATURES = "all"
_TAG = re.compile(r"[ -~]{4}")

#: A parameter ("FamilyRequest.features"), and the index of its family if it is one of a family.
Parameter = tuple[str, int | None]


class FaceOverride(Struct, frozen=True):
    """What the user says of one font file: its weight (1 to 1000) or the weights that it is to stand for, its style and
    its width in percent, None for what it says itself. `file` is its name or path; `characters` are all that it serves.
    """

    file: str
    weight: int | tuple[int, int] | None = None
    style: Style | None = None
    width: float | None = None
    characters: frozenset[int] | None = None

    def __post_init__(self) -> None:
        low, high = self.weights or (1, 1)
        if not 1 <= low <= high <= 1000:
            said = f"{low}..{high}" if low != high else str(low)
            raise RequestError(
                f"{self.file}: {said} is not a weight; give 1 to 1000, as 400, 700 or 100..900",
                parameter="FamilyRequest.overrides",
            )
        if self.width is not None and not 1 <= self.width <= 1000:
            raise RequestError(
                f"{self.file}: {self.width:g}% is not a width; give 50% to 200%, as 75% or 125%",
                parameter="FamilyRequest.overrides",
            )

    @property
    def weights(self) -> tuple[int, int] | None:
        """The range of weights to serve, lightest first."""
        return (self.weight, self.weight) if isinstance(self.weight, int) else self.weight

    def matches(self, path: str) -> bool:
        """Whether it is about the font at that path."""
        return self.file == path or self.file == Path(path).name


def parse_replacements(given: Sequence[str]) -> tuple[tuple[str, ...], dict[str, str]]:
    """Families of the site that the only family of these fonts replaces, and pairs of one of the site with one of these
    fonts, which are written `OLD=NEW`."""
    pairs = {old.strip(): new.strip() for old, equals, new in (text.partition("=") for text in given) if equals}
    return tuple(text for text in given if "=" not in text), pairs


def parse_inline(text: str) -> int | Literal["all"]:
    """The most bytes of a font file that stands in the CSS: "4 KB", "all" or "none". Raises `RequestError`."""
    if text == "all":
        return "all"
    return 0 if text == "none" else parse_size(text)


def parse_weights(text: str) -> int | tuple[int, int]:
    """A weight, "400", or a range of weights to serve, "100..900". Raises `RequestError` for anything else."""
    low, dots, high = text.partition("..")
    if not low.isdecimal() or (dots and not high.isdecimal()):
        raise RequestError(f"'{text}' is not a weight; write 400, or 100..900 for a range of weights")
    return (int(low), int(high)) if dots else int(low)


def parse_width(text: str) -> float:
    """A width in percent, "125%". Raises `RequestError` for anything else."""
    try:
        return float(text.strip().removesuffix("%"))
    except ValueError as error:
        raise RequestError(f"'{text}' is not a width; write a percentage, as 75%") from error


def feature_choice(more: Iterable[str], without: Iterable[str]) -> FeatureChoice:
    """The choice of features by their tags; the word "all" among `more` is every one there is."""
    wanted = frozenset(more)
    return FeatureChoice(wanted - {ALL_FEATURES}, frozenset(without), ALL_FEATURES in wanted)


class HostAddresses(Struct, frozen=True):
    """Where a host has put font files, by their names, as far as that is `known`; and the project file that lists them,
    in its `[output.addresses]` of that number (from 0)."""

    known: Mapping[str, str]
    project: Path
    table: int = 0


class FamilyRequest(Struct, frozen=True, kw_only=True):
    """What is asked of the fonts at some paths: files, folders, ZIPs, or patterns of these.

    `texts` are the files that go with them: licence texts, style sheets that name icons; None: those that are found
    beside them. With a `name` the fonts are one family, without they are sorted by their own names. `stack` None
    chooses by the font's class; `local` tries an installed copy first; `uses` are the weights and styles that the site
    asks for; `budget` is in bytes. `replaces` are families of the site's present style sheets that it replaces. `axes`
    limits axes of variable fonts (tag → what remains), `variable` says what becomes of these fonts, `slices` into how
    many files each face's characters are cut. `palettes` are made besides those of colour fonts, by their names;
    `colour_format` is the way to draw in colour that fonts with several keep.
    """

    fonts: tuple[Path | PathPattern, ...]
    texts: tuple[Path, ...] | None = None
    name: str | None = None
    overrides: tuple[FaceOverride, ...] = ()
    stack: tuple[str, ...] | None = None
    #: None: as suits what the family draws.
    display: Display | None = None
    features: FeatureChoice = field(default_factory=FeatureChoice)
    hints: bool = True
    local: bool = False
    uses: tuple[DesiredFace, ...] = ()
    budget: int | None = None
    axes: Limits = field(default_factory=dict)
    variable: Variable = "keep"
    replaces: tuple[str, ...] = ()
    slices: Slices = "auto"
    palettes: Mapping[str, PaletteRequest] = field(default_factory=dict)
    colour_format: ColourFormat = "auto"

    def __post_init__(self) -> None:
        _check_choice("FamilyRequest.colour_format", self.colour_format, COLOUR_FORMATS)
        with _about("FamilyRequest.palettes"):
            for name, palette in self.palettes.items():
                palette.check(name)
        with _about("FamilyRequest.slices"):
            check_slices(self.slices)
        _check_choice("FamilyRequest.variable", self.variable, VARIABLE)
        for tag, limit in self.axes.items():
            if limit.low > limit.high:
                raise RequestError(
                    f"{tag} {limit}: the range is reversed; write {limit.high:g}..{limit.low:g}",
                    parameter="FamilyRequest.axes",
                )
        if self.display is not None:
            _check_choice("FamilyRequest.display", self.display, DISPLAYS)
        if both := sorted(self.features.more & self.features.without):
            raise RequestError(f"{both[0]} is both kept and left out; choose one", parameter="FamilyRequest.features")
        for tag in sorted(self.features.more | self.features.without):
            if not _TAG.fullmatch(tag):
                raise RequestError(
                    f"'{tag}' is not a feature tag; these have four characters, as smcp or ss01",
                    parameter="FamilyRequest.features",
                )
        if self.name is not None and not self.name.strip():
            raise RequestError("it is empty; give the name that the CSS should use", parameter="FamilyRequest.name")
        if self.name is not None and len(self.name) > MAX_FAMILY_NAME:
            raise RequestError(
                f"it has {len(self.name):,} characters; a family's name may have {MAX_FAMILY_NAME}",
                parameter="FamilyRequest.name",
            )


#: Names in the output folder, besides the style sheet and the manifest.
FONTS_FOLDER, PROOF_NAME = "fonts", "proof.html"
#: Output folders that are for fonts by their names: the files lie in them, and in no folder below.
FOLDERS_OF_FONTS = frozenset(("fonts", "font", "webfonts", "type"))


class BuildRequest(Struct, frozen=True, kw_only=True):
    """Every choice of a build.

    `fonts` is where font files go, counted from `folder`; `css`, `proof` and `manifest` are the files of these, and
    None of each stands for its place in `folder`, `proof` "none" for no proof at all. With `css_into` the rules stand
    between marks in that style sheet of the user's; with `rules` they take the place of those that are in this one,
    whose families, faces and files are made; `links` are pages and templates in which links to the style sheet
    and to fonts are kept. Font files of at most `inline` bytes stand in the CSS as data, `addresses` says by file names
    where a host has put the others.
    `formats` None makes those that are of use; `characters` says which characters are kept. `preload` names faces to
    fetch early; `budget` is what a page's first view may fetch, in bytes; `archive` is a ZIP to make of all that is
    written, `templates` are rendered with the manifest; `measured` are system families besides those that are known;
    `linking_pages` are the pages that will refer to the style sheet, if they are not the pages that the characters come
    from. `all_faces` makes faces that these pages do not use, too. `published_licences` are texts to publish besides
    those that are found. With `cache` what was read and made before is used, and kept in the user's cache folder.
    `locations` says where parameters are written, if they are in a file; such a file may have come from anywhere, so
    what it names is written, or published as it is, only inside the folder `within`, if one is given.
    """

    families: tuple[FamilyRequest, ...]
    folder: Path = Path("web-fonts")
    fonts: Path | None = None
    css: Path | None = None
    proof: Path | Literal["none"] | None = None
    manifest: Path | None = None
    css_into: Path | None = None
    rules: Path | None = None
    links: tuple[Path | PathPattern, ...] = ()
    inline: int | Literal["all"] = 0
    addresses: HostAddresses | None = None
    url: str = "<path>"
    formats: tuple[WebFormat, ...] | None = None
    characters: CharacterRequest = field(default_factory=CharacterRequest)
    effort: Effort = "normal"
    licence: WebLicence = field(default_factory=WebLicence)
    published_licences: tuple[Path, ...] = ()
    preload: tuple[str, ...] = ()
    budget: int | None = None
    archive: Path | None = None
    templates: tuple[TemplateRequest, ...] = ()
    measured: tuple[SystemFamily, ...] = ()
    linking_pages: tuple[Path | PathPattern, ...] = ()
    all_faces: bool = False
    #: Families of the site's present style sheets, each with the family of the build that replaces it.
    replacements: Mapping[str, str] = field(default_factory=dict)
    jobs: int = field(default_factory=lambda: os.cpu_count() or 1)
    cache: bool = True
    within: Path | None = None
    #: The project file that asks for it, and the manifests of all its outputs, this one's among them.
    project: Path | None = None
    outputs: tuple[Path, ...] = ()
    locations: Mapping[Parameter, Location] = field(default_factory=dict)

    def __post_init__(self) -> None:
        check_pattern(self.url)
        check_leading_css(self.licence.css)
        if sum(path is not None for path in (self.css, self.css_into, self.rules)) > 1:
            raise RequestError(
                "the rules go either into a file of their own or into one of yours; leave one out",
                parameter="BuildRequest.css_into",
            )
        for font_format in self.formats or ():
            _check_choice("BuildRequest.formats", font_format, WEB_FORMATS)
        if self.formats == ():
            raise RequestError(
                f"no format is given; choose from {', '.join(WEB_FORMATS)}", parameter="BuildRequest.formats"
            )
        for font_format in ("ttf", "otf"):
            if {"sfnt", font_format} <= {*(self.formats or ())}:
                raise RequestError(
                    f"sfnt is a TTF or an OTF, as the font came, and may be the same file as {font_format}; "
                    "leave one of them out",
                    parameter="BuildRequest.formats",
                )
        _check_choice("BuildRequest.effort", self.effort, EFFORTS)

    def formats_for(self, *, variable: bool) -> tuple[WebFormat, ...]:
        """The formats to make of a variable or of a static face."""
        if self.formats is not None:
            # What no browser of today takes stands for none of the figures.
            return tuple(sorted(self.formats, key=age))
        return _FORMATS_OF_VARIABLE_FONTS if variable else DEFAULT_FORMATS

    @property
    def css_file(self) -> Path:
        """The path of the style sheet, or of the file that the rules go into."""
        return self.rules or self.css_into or self.css or self.folder / "faces.css"

    @property
    def fonts_folder(self) -> Path:
        """The folder for font files and licence texts."""
        if self.fonts is not None:
            return self.folder / self.fonts
        return self.folder if self.folder.name.lower() in FOLDERS_OF_FONTS else self.folder / FONTS_FOLDER

    @property
    def proof_file(self) -> Path | None:
        """The path of the proof, if one is made."""
        return None if self.proof == "none" else self.proof or self.folder / PROOF_NAME

    @property
    def manifest_file(self) -> Path:
        """The path of the manifest."""
        return self.manifest or self.folder / MANIFEST_NAME

    @property
    def places(self) -> list[tuple[Path, str]]:
        """All output paths, each with the parameter that chose it."""
        own = [(self.manifest_file, "BuildRequest.manifest")]
        own += [(self.proof_file, "BuildRequest.proof")] if self.proof_file is not None else []
        own += [(self.fonts_folder, "BuildRequest.fonts")] if self.fonts_folder != self.folder else []
        archive = [(self.archive, "BuildRequest.archive")] if self.archive is not None else []
        # Several templates may each make a value of one file.
        rendered = [(template.target, "BuildRequest.templates") for template in self.templates if not template.pointer]
        targets = dict.fromkeys(template.target for template in self.templates if template.pointer)
        rendered += [(target, "BuildRequest.templates") for target in targets]
        return [*own, (self.css_file, self.css_parameter), *archive, *rendered]

    @property
    def css_parameter(self) -> str:
        """What chose the place of the rules."""
        if self.rules is not None:
            return "BuildRequest.rules"
        return "BuildRequest.css" if self.css_into is None else "BuildRequest.css_into"

    def with_choices(self, **choices: Any) -> Self:
        """The same with other choices, by the names of the fields here or, for all families, of `FamilyRequest`."""
        own = {field.name for field in fields(self)}
        of_families = {name: value for name, value in choices.items() if name not in own}
        families = tuple(replace(family, **of_families) for family in self.families)
        return replace(self, **({"families": families} | {k: v for k, v in choices.items() if k in own}))

    @contextmanager
    def locating(self, family: int | None = None) -> Iterator[None]:
        """Errors raised inside get the location of their parameter; `family` is the index that they are about."""
        try:
            yield
        except RequestError as error:
            error.family = family if error.family is None else error.family
            error.location = error.location or self._location(error.parameter, error.family)
            raise

    @contextmanager
    def locating_inputs(self, parameter: str, family: int | None = None) -> Iterator[None]:
        """Errors about inputs that a parameter names get its location, and those about the request as by `locating`."""
        try:
            with self.locating(family):
                yield
        except InputError as error:
            error.location = error.location or self._location(parameter, family)
            raise

    def _location(self, parameter: str, family: int | None) -> Location | None:
        return self.locations.get((parameter, family)) or self.locations.get((parameter, None))


@contextmanager
def _about(parameter: str) -> Iterator[None]:
    try:
        yield
    except RequestError as error:
        error.parameter = parameter
        raise


def _check_choice(parameter: str, value: str, choices: Iterable[str]) -> None:
    if value not in choices:
        raise RequestError(f"there is no '{value}'; choose from {', '.join(choices)}", parameter=parameter)
