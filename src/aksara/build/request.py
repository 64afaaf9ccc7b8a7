"""What is asked of a build."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

from aksara.container import EFFORTS, FORMATS
from aksara.errors import RequestError
from aksara.faces import Style, WebLicence
from aksara.subsetting import FeatureChoice
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
class BuildRequest:
    """Every choice of a build. `characters` None keeps all; `stack` None chooses by the font's class."""

    fonts: tuple[Path, ...]
    folder: Path = Path("web-fonts")
    css: Path | None = None
    url: str = "<path>"
    formats: tuple[str, ...] = ("woff2", "woff")
    characters: frozenset[int] | None = None
    family: str | None = None
    overrules: tuple[Overrule, ...] = ()
    stack: tuple[str, ...] | None = None
    display: str = "swap"
    features: FeatureChoice = field(default_factory=FeatureChoice)
    hints: bool = True
    effort: str = "normal"
    licence: WebLicence = field(default_factory=WebLicence)
    jobs: int = field(default_factory=lambda: os.cpu_count() or 1)

    def __post_init__(self) -> None:
        check_pattern(self.url)
        if unknown := [form for form in self.formats if form not in FORMATS]:
            raise RequestError(f"there is no format '{unknown[0]}'; choose from {', '.join(FORMATS)}")
        if not self.formats:
            raise RequestError("no format is asked for; choose from " + ", ".join(FORMATS))
        if self.effort not in EFFORTS:
            raise RequestError(f"there is no effort '{self.effort}'; choose from {', '.join(EFFORTS)}")
        if both := sorted(self.features.more & self.features.without):
            raise RequestError(
                f"--feature {both[0]} and --no-feature {both[0]} contradict each other; give one of them"
            )
        for tag in sorted(self.features.more | self.features.without):
            if not _TAG.fullmatch(tag):
                raise RequestError(f"'{tag}' is no feature tag; these have four characters, as smcp or ss01")
        if self.family is not None and not self.family.strip():
            raise RequestError("--family is empty; give the name that the CSS shall use")
        if self.characters is not None and not self.characters:
            raise RequestError("no characters are asked for: the text or file to keep is empty; give some")
        if self.folder.exists() and not self.folder.is_dir():
            raise RequestError(f"{self.folder}: this is a file, but --to needs a folder; give another name")
        if self.css_file.is_dir():
            raise RequestError(f"{self.css_file}: this is a folder, but --css needs a file; add a file name")

    @property
    def css_file(self) -> Path:
        return self.css or self.folder / "faces.css"

    @property
    def fonts_folder(self) -> Path:
        return self.folder / "fonts"
