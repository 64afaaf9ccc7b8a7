"""What is asked of a build."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable
from dataclasses import dataclass, field, fields, replace
from pathlib import Path
from typing import Any, Self

from aksara.container import EFFORTS, FORMATS
from aksara.errors import RequestError
from aksara.faces import Style, WebLicence
from aksara.subsetting import FeatureChoice
from aksara.text import Wanted
from aksara.web.matching import Asked
from aksara.web.syntax import check_leading_css
from aksara.web.urls import check_pattern

DISPLAYS = ("auto", "block", "swap", "fallback", "optional")
ALL_FEATURES = "all"
_TAG = re.compile(r"[ -~]{4}")
STYLES: tuple[Style, ...] = ("normal", "italic", "oblique")


@dataclass(slots=True, frozen=True)
class Overrule:
    """What the user says of one font file: its weight (1 to 1000) and style. `file` is its name or path."""

    file: str
    weight: int
    style: Style

    def __post_init__(self) -> None:
        if not 1 <= self.weight <= 1000:
            raise RequestError(f"--face {self.file}: weight {self.weight} is none; give 1 to 1000, as 400 or 700")

    def matches(self, path: str) -> bool:
        return self.file == path or self.file == Path(path).name


def feature_choice(more: Iterable[str], without: Iterable[str]) -> FeatureChoice:
    """The choice of features by their tags; the word "all" among `more` is every one there is."""
    wanted = frozenset(more)
    return FeatureChoice(wanted - {ALL_FEATURES}, frozenset(without), ALL_FEATURES in wanted)


@dataclass(slots=True, frozen=True)
class FamilyRequest:
    """What is asked of the fonts at some paths.

    With a `name` they are one family, without they are sorted by their own names. `stack` None chooses by the font's
    class; `local` tries an installed copy first; `uses` are the weights and styles that the site asks for;
    `budget` is in bytes.
    """

    fonts: tuple[Path, ...]
    name: str | None = None
    overrules: tuple[Overrule, ...] = ()
    stack: tuple[str, ...] | None = None
    display: str = "swap"
    features: FeatureChoice = field(default_factory=FeatureChoice)
    hints: bool = True
    local: bool = False
    uses: tuple[Asked, ...] = ()
    budget: int | None = None

    def __post_init__(self) -> None:
        if self.display not in DISPLAYS:
            raise RequestError(f"there is no font-display '{self.display}'; choose from {', '.join(DISPLAYS)}")
        if both := sorted(self.features.more & self.features.without):
            raise RequestError(
                f"--feature {both[0]} and --no-feature {both[0]} contradict each other; give one of them"
            )
        for tag in sorted(self.features.more | self.features.without):
            if not _TAG.fullmatch(tag):
                raise RequestError(f"'{tag}' is no feature tag; these have four characters, as smcp or ss01")
        if self.name is not None and not self.name.strip():
            raise RequestError("--family is empty; give the name that the CSS shall use")


@dataclass(slots=True, frozen=True)
class BuildRequest:
    """Every choice of a build.

    `wanted` says which characters are kept and how often they are written. `preload` names faces to fetch early;
    `budget` is what a page's first view may fetch, in bytes; `pack` is a ZIP to make of all that is written;
    `pages` is the folder from which pages refer to the style sheet, if it is known. `licence_files` travel besides
    those that are found.
    """

    families: tuple[FamilyRequest, ...]
    folder: Path = Path("web-fonts")
    css: Path | None = None
    url: str = "<path>"
    formats: tuple[str, ...] = ("woff2", "woff")
    wanted: Wanted = field(default_factory=Wanted)
    effort: str = "normal"
    licence: WebLicence = field(default_factory=WebLicence)
    licence_files: tuple[Path, ...] = ()
    preload: tuple[str, ...] = ()
    budget: int | None = None
    pack: Path | None = None
    pages: Path | None = None
    jobs: int = field(default_factory=lambda: os.cpu_count() or 1)

    def __post_init__(self) -> None:
        check_pattern(self.url)
        check_leading_css(self.licence.css)
        if unknown := [form for form in self.formats if form not in FORMATS]:
            raise RequestError(f"there is no format '{unknown[0]}'; choose from {', '.join(FORMATS)}")
        if not self.formats:
            raise RequestError("no format is asked for; choose from " + ", ".join(FORMATS))
        if self.effort not in EFFORTS:
            raise RequestError(f"there is no effort '{self.effort}'; choose from {', '.join(EFFORTS)}")
        if self.wanted.characters is not None and not self.wanted.characters:
            raise RequestError("no characters are asked for: the text or file to keep is empty; give some")
        self._check_places()

    def _check_places(self) -> None:
        if self.folder.exists() and not self.folder.is_dir():
            raise RequestError(f"{self.folder}: this is a file, but --to needs a folder; give another name")
        for place, option in ((self.css_file, "--css"), (self.pack, "--zip")):
            if place is not None and place.is_dir():
                raise RequestError(f"{place}: this is a folder, but {option} needs a file; add a file name")
        if self.pack is not None and self.pack.absolute() == self.css_file.absolute():
            raise RequestError(f"{self.pack}: --css and --zip name the same file; give two")
        for family in self.families:
            for path in family.fonts:
                if path.is_dir() and path.resolve() == self.folder.resolve():
                    raise RequestError(
                        f"{path}: the fonts come from this folder, so nothing else may go there; "
                        f"give another --to, as {path / 'web-fonts'}"
                    )

    @property
    def css_file(self) -> Path:
        return self.css or self.folder / "faces.css"

    @property
    def fonts_folder(self) -> Path:
        return self.folder / "fonts"

    def overruled(self, **choices: Any) -> Self:
        """The same with other choices, by the names of the fields here or, for all families, of `FamilyRequest`."""
        own = {each.name for each in fields(self)}
        of_families = {name: value for name, value in choices.items() if name not in own}
        families = tuple(replace(family, **of_families) for family in self.families)
        return replace(self, **({"families": families} | {k: v for k, v in choices.items() if k in own}))
