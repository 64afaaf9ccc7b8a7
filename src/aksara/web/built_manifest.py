"""The manifest of an earlier build, as far as the next build and checks need it.

Between the two anyone may have changed it. What does not have these types is no manifest.
"""

from __future__ import annotations

from datetime import date
from typing import Literal

from msgspec import Struct, field
from msgspec.json import decode


class BuiltFile(Struct, frozen=True):
    """A file beside the fonts, or one made from a template: its path relative to the manifest, and its SHA-256."""

    path: str = ""
    sha256: str = ""


class BuiltSlice(Struct, frozen=True):
    """A slice of a face: its name, and its characters as in `unicode-range`."""

    name: str = ""
    unicode_range: str = ""


class BuiltFace(Struct, frozen=True):
    """A face, its files in all slices and formats."""

    files: tuple[BuiltFile, ...] = ()
    slices: tuple[BuiltSlice, ...] = ()


class BuiltCut(Struct, frozen=True):
    """How a family is cut into slices: the way that was `asked` for."""

    asked: str = ""


class BuiltFamily(Struct, frozen=True):
    """A family with its faces; `slices` is None where it is not cut."""

    family: str = ""
    faces: tuple[BuiltFace, ...] = ()
    slices: BuiltCut | None = None
    #: As in `unicode-range`: characters that were asked for and that no font of the family has.
    missing_characters: str = ""


class BuiltLicence(Struct, frozen=True):
    """The texts beside the fonts, the sites that the licence covers, and the day on which it ends."""

    files: tuple[BuiltFile, ...] = ()
    domains: tuple[str, ...] = ()
    until: date | None = None


class BuiltRule(Struct, frozen=True):
    """What a rule of the user's said that the build replaced: the face, its characters (first and last code points, ()
    for all), and the file from the manifest's folder."""

    family: str
    source: str
    weight: tuple[int, int] = (400, 400)
    style: Literal["normal", "italic", "oblique"] = "normal"
    width: float = 100.0
    ranges: tuple[tuple[int, int], ...] = ()


class BuiltManifest(Struct, frozen=True):
    """The manifest; `css` is the path of the style sheet from its folder, `css_sha256` the SHA-256 of that."""

    css: str = ""
    css_sha256: str = ""
    #: Whether the rules stand between marks in a style sheet of the user's.
    css_into: bool = False
    proof: BuiltFile = field(default_factory=BuiltFile)
    families: tuple[BuiltFamily, ...] = ()
    licence: BuiltLicence = field(default_factory=BuiltLicence)
    templates: tuple[BuiltFile, ...] = ()
    #: What the rules said that the build took over.
    rules: tuple[BuiltRule, ...] = ()
    #: The project file that asked for it, and the manifests of all its outputs, from the folder of this one.
    project: str = ""
    outputs: tuple[str, ...] = ()
    #: The user's files in which links are kept, each with the hash of what is between its marks.
    links: tuple[BuiltFile, ...] = ()

    @property
    def fonts(self) -> list[BuiltFile]:
        """The font files of all faces, without those embedded in the style sheet."""
        return [file for family in self.families for face in family.faces for file in face.files if file.path]


def read_built_manifest(data: bytes) -> BuiltManifest | None:
    """The manifest in these bytes; None if they are not one."""
    try:
        return decode(data, type=BuiltManifest)
    except (ValueError, RecursionError):  # other types than these, too
        return None
