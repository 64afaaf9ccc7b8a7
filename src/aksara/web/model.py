"""What was made, as data: the families, faces and files that the style sheet, the manifest and the proof describe."""

from __future__ import annotations

from hashlib import sha256
from typing import Any, Literal

from msgspec import Struct, field

from aksara.faces import Face, FontVariation, LineMetrics, WebLicence
from aksara.web.fallback import FallbackFace
from aksara.web.font_matching import DesiredFace
from aksara.web.formats import OLD_FORMATS, WebFormat
from aksara.web.palettes import WebPalette
from aksara.web.syntax import slug

#: What a family draws in place of text.
Pictures = Literal["", "icons", "emoji"]
#: The name of the only slice of a face that is not cut into several.
WHOLE = "all"


_MEDIA_TYPES: dict[WebFormat, str] = {"eot": "application/vnd.ms-fontobject", "svg": "image/svg+xml"}


class WebFile(Struct, frozen=True):
    """One font file: its name in the folder of fonts, its format and its bytes. `is_inline`: it stands in the style
    sheet as data, and nowhere else."""

    name: str
    format: WebFormat
    data: bytes
    url: str = ""
    is_inline: bool = False

    @property
    def fetched(self) -> int:
        """Bytes that a browser fetches for it."""
        return len(self.url) if self.is_inline else len(self.data)

    @property
    def sha256(self) -> str:
        """The hash of its bytes, in hexadecimal."""
        return sha256(self.data).hexdigest()

    @property
    def label(self) -> str:
        """The name of its format: WOFF2, WOFF, TTF, OTF."""
        return self.suffix.upper()

    @property
    def suffix(self) -> str:
        """What its name ends in."""
        return suffix_of(self.format, self.data)

    @property
    def media_type(self) -> str:
        """As servers should say it and preload links do say it (RFC 8081)."""
        if self.format in _MEDIA_TYPES:
            return _MEDIA_TYPES[self.format]
        return f"font/{self.suffix}"


class WebSlice(Struct, frozen=True):
    """A part of a face's characters, in one file a format.

    `characters` are those that the files serve; `unicode_range` is the value of that descriptor, which may name
    code points besides that no font of the family has. `share` is the part of all page views that fetch it (None where
    nothing is known of views).
    """

    name: str
    characters: frozenset[int]
    unicode_range: str
    files: tuple[WebFile, ...]
    share: float | None = None

    @property
    def best_size(self) -> int:
        """Bytes that a current browser fetches for it: those of the first format in its rule that it takes."""
        taken = [file for file in self.files if file.format not in OLD_FORMATS] or self.files
        return taken[0].fetched if taken else 0


class Change(Struct, frozen=True):
    """A parameter of a request, and the values to give it; no values: to leave it out."""

    parameter: str
    values: tuple[str, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """For the manifest."""
        return {"parameter": self.parameter, "values": list(self.values)}


class FeatureCost(Struct, frozen=True):
    """A feature that was left out: its name in words, the glyphs it would add, and about how many bytes of a file."""

    tag: str
    name: str
    glyphs: int
    size: int


class WebFace(Struct, frozen=True, kw_only=True):
    """A face with its files.

    `source_size` is the desktop font's bytes, `flavour` its sfnt version tag, `permission` what it says of embedding,
    in words. `features` are the tags of the OpenType features that were kept, `omitted` the others that could have
    been; `hint_size` is about how many bytes of a WOFF2 are hints. `languages` are the tags of those that the face can
    set, `described` is the same for a reader. `local` are the names by which an installed copy is tried first,
    `technologies` what a browser must know besides the format (CSS Fonts 4, "tech()"). `variation` is what a variable
    face can do. `sequences` are those of emoji that were asked for and that it draws as one picture.
    """

    face: Face
    source_size: int
    source_characters: int
    slices: tuple[WebSlice, ...]
    flavour: str = "\0\1\0\0"
    permission: str = ""
    features: tuple[str, ...] = ()
    omitted: tuple[FeatureCost, ...] = ()
    hint_size: int = 0
    languages: tuple[str, ...] = ()
    described: str = ""
    local: tuple[str, ...] = ()
    technologies: tuple[str, ...] = ()
    lines: LineMetrics = field(default_factory=lambda: LineMetrics(0.8, 0.2, 0))
    windows_lines: LineMetrics = field(default_factory=lambda: LineMetrics(0.8, 0.2, 0))
    variation: FontVariation | None = None
    sequences: tuple[str, ...] = ()

    @property
    def characters(self) -> frozenset[int]:
        """Those of all slices."""
        if len(self.slices) == 1:
            return self.slices[0].characters
        return frozenset().union(*(part.characters for part in self.slices))

    @property
    def files(self) -> tuple[WebFile, ...]:
        """Those of all slices."""
        return tuple(file for part in self.slices for file in part.files)

    def size(self, font_format: WebFormat) -> int:
        """Bytes in that format; 0 if it was not made."""
        return sum(len(file.data) for file in self.files if file.format == font_format)

    @property
    def best_size(self) -> int:
        """Bytes that a current browser fetches for all of it: those of the first format in its rules."""
        return sum(part.best_size for part in self.slices)


class Way(Struct, frozen=True):
    """The form of a family's variable fonts: in words, with the number and the size of its files."""

    words: str
    files: int
    size: int


class WayTaken(Struct, frozen=True):
    """What became of a family's variable fonts, and what else could: `changes` are the request's parameters that would
    have to be otherwise, with their values."""

    taken: Way
    other: Way
    changes: tuple[Change, ...]


class UnusedFace(Struct, frozen=True):
    """A face that the site does not use, and its size."""

    face: Face
    size: int

    def as_json(self) -> dict[str, Any]:
        """For the manifest."""
        face = self.face
        return {
            "label": face.label, "weight": face.weight, "style": face.style, "width": face.width, "bytes": self.size
        }  # fmt: skip


class UsedFaces(Struct, frozen=True):
    """Of a family that the site shows: the bytes of the faces that were made, those that were not, and the bytes of all
    faces together if each had all characters of the family, in the first format.

    `letters` is what the letters of running text take that no page shows yet. `text_files` counts the files that are no
    pages and whose text is in the faces, too.
    """

    size: int
    unused: tuple[UnusedFace, ...]
    together: int
    letters: int
    text_files: int

    def as_json(self) -> dict[str, Any]:
        """For the manifest."""
        return {
            "bytes": self.size,
            "unused": [face.as_json() for face in self.unused],
            "bytes_of_all": self.together,
            "bytes_of_letters": self.letters,
            "text_files": self.text_files,
        }


class ViewSize(Struct, frozen=True):
    """The files and bytes (in the first format) that a page view fetches of one or more families."""

    size: int
    files: int


class CutFamily(Struct, frozen=True, kw_only=True):
    """How a family was cut into slices: by the way `asked` for, with these `names`, most needed first.

    `one_file` is what the typical page view would fetch of faces that are not cut (`exact`: they were made; else
    reckoned), `typical` and `most` what it and the largest fetch now; `mean_files` how many files on average. None
    where nothing is known of pages. `parted` are pairs of characters whose kerning is lost between two slices, `reason`
    says why there are no more slices.
    """

    asked: str
    names: tuple[str, ...] = ()
    one_file: ViewSize | None = None
    exact: bool = False
    typical: ViewSize | None = None
    most: ViewSize | None = None
    mean_files: float = 0.0
    parted: tuple[str, ...] = ()
    reason: str = ""


class WebFamily(Struct, frozen=True, kw_only=True):
    """A family: its faces in order, and the stack of families that follow, generic last.

    `fallbacks` are the metric-matched faces on families of the stack, `missing_faces` what was asked for and is not
    there, with the face that a browser takes instead. `way` is what became of its variable fonts, `used` what it saved
    to make only the faces that the site shows, each with its own characters; `cut` says how these are cut into slices,
    `palettes` are those of a colour font that style sheets can choose from, `icons` the names that were asked for, each
    with the character that it has of its own.
    """

    name: str
    faces: tuple[WebFace, ...]
    stack: tuple[str, ...]
    generic: str
    notice: str = ""
    display: str = "swap"
    fallbacks: tuple[FallbackFace, ...] = ()
    missing_faces: tuple[tuple[DesiredFace, Face], ...] = ()
    way: WayTaken | None = None
    used: UsedFaces | None = None
    cut: CutFamily | None = None
    palettes: tuple[WebPalette, ...] = ()
    icons: tuple[tuple[str, int | None], ...] = ()
    #: Whether it draws icons or emoji, and no text.
    pictures: Pictures = ""
    #: How wide each of its icons is, in ems (None: they differ, or it has none).
    icon_width: float | None = None
    #: The site's selectors that use its faces, those with most text first.
    selectors: tuple[tuple[str, DesiredFace], ...] = ()
    #: Characters that its text shows and that none of its fonts has.
    missing_characters: frozenset[int] = frozenset()


def format_label(font_format: WebFormat) -> str:
    """A format as people call it: WOFF2, WOFF, TTF."""
    return "TTF" if font_format == "sfnt" else font_format.upper()


def suffix_of(font_format: WebFormat, data: bytes) -> str:
    """The suffix of a file, by its format and its bytes."""
    return ("otf" if data[:4] == b"OTTO" else "ttf") if font_format == "sfnt" else font_format


def file_name(face: Face, part: str, font_format: WebFormat, data: bytes) -> str:
    """`PenyuSans-BoldItalic.core.3f9a2c1b.woff2`: the name changes when, and only when, the bytes do.

    `part` is the slice's name, which is left out where there is only one.
    """
    family = slug(face.family, "") or "Font"
    # Names of files have letters, digits and hyphens only.
    style = slug(face.label.removeprefix("Variable ").replace("–", " to "), "")
    suffix = suffix_of(font_format, data)
    middle = "" if part == WHOLE else f".{part}"
    return f"{family}-{style}{middle}.{sha256(data).hexdigest()[:8]}.{suffix}"


class LicenceFile(Struct, frozen=True):
    """A licence text that travels with the fonts: `source` is where it was found, `name` its name beside the fonts."""

    source: str
    name: str
    data: bytes


class LicenceNote(Struct, frozen=True):
    """What is recorded of the licence: the user's own statement, and the texts that travel with the fonts."""

    stated: WebLicence = field(default_factory=WebLicence)
    files: tuple[LicenceFile, ...] = ()
