"""Which characters a site shows in which face: of one page, and of all pages together. Plain data, kept as JSON."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from typing import Any

from msgspec import Struct, field
from msgspec.structs import asdict, replace

from aksara.site.css.defined_faces import DefinedFace
from aksara.site.css.styles import FaceKey
from aksara.site.page.face_text import best_sample
from aksara.text import format_ranges
from aksara.text.emoji import is_of_emoji, without_selectors
from aksara.web.marks import KeptPart

#: What text is set in where no style sheet names a family.
BROWSER_DEFAULT = ("Times New Roman",)


class Origin(Struct, frozen=True):
    """The origin of a face: the line of the first element that uses it, and the rule that sets its weight or style.

    `selector` is as in the style sheet (or the element's name, where the browser itself asks), `sheet` the address of
    the sheet with its `sheet_line`; "" and 0 where there is none.
    """

    page: str
    line: int
    selector: str
    sheet: str = ""
    sheet_line: int = 0


class FaceUse(Struct, frozen=True, dict=True):
    """The text set in one face.

    `characters` maps each character to how often it is written, `languages` each language's tag ("" where the markup
    says none) to its number of characters. `features` are the OpenType features that style sheets ask for,
    `variations` the places on axes that they name. `in_headings` counts the characters that stand in headings.
    `hidden`: no reader sees it without a script. `pages` counts the pages that it is on. `neighbours` has every two
    characters that stand beside each other, `sequences` what a font may draw as one picture (see `sequences_in`).
    `samples` are texts, each with the tag of its language.
    """

    face: FaceKey
    hidden: bool
    characters: Mapping[str, int]
    languages: Mapping[str, int]
    features: tuple[str, ...]
    origin: Origin
    pages: int = 1
    variations: tuple[tuple[tuple[str, float], ...], ...] = ()
    in_headings: int = 0
    neighbours: frozenset[str] = frozenset()
    sequences: frozenset[str] = frozenset()
    samples: tuple[tuple[str, str], ...] = ()

    @property
    def count(self) -> int:
        """Characters with repetitions."""
        return sum(self.characters.values())

    @cached_property
    def codes(self) -> frozenset[int]:
        """The code points."""
        return frozenset(map(ord, self.characters))

    def as_json(self) -> dict[str, Any]:
        """For JSON outputs (docs/formats.md)."""
        return {
            "families": list(self.face.families),
            "weight": _number(self.face.weight),
            "style": self.face.style,
            "width": _number(self.face.width),
            "hidden": self.hidden,
            "characters": format_ranges(map(ord, self.characters)),
            "count": self.count,
            "counts": {character: self.characters[character] for character in sorted(self.characters)},
            "sequences": sorted(sequence for sequence in self.sequences if is_of_emoji(without_selectors(sequence))),
            "in_headings": self.in_headings,
            "pages": self.pages,
            "languages": dict(sorted(self.languages.items())),
            "features": list(self.features),
            "variations": [{tag: _number(value) for tag, value in settings} for settings in self.variations],
            "first": asdict(self.origin),
        }


def _number(value: float) -> int | float:
    return int(value) if value == int(value) else value


class PreloadLink(Struct, frozen=True):
    """A link that preloads a font: its line, `href` as written, the resolved `address`, and the
    attributes that decide whether what it fetches is used."""

    line: int
    href: str
    address: str
    kind: str
    media_type: str
    crossorigin: bool


class ScriptFont(Struct, frozen=True):
    """A family that a script sets text in: nothing can follow it."""

    family: str
    path: str
    line: int


class LooseSheet(Struct, frozen=True):
    """A style sheet of the site's folder that no page loads: its address, and that of the folder."""

    address: str
    root: str


class PageUse(Struct, frozen=True):
    """The text of a page. `defined` are the faces that its style sheets define, `problems` what could not be read,
    `missing` the addresses of style sheets that could not, each with the reason.

    `size` counts the characters that are shown; `scripts`: there are scripts that may show more. `address` is the
    page's, `root` that of the folder of its site ("" on a server), `sheets` those of the style sheets that were read,
    its own included, and `preloads` its links to preload fonts. `canonical` is the address that it says it has.
    """

    page: str
    faces: tuple[FaceUse, ...]
    defined: tuple[DefinedFace, ...] = ()
    problems: tuple[str, ...] = ()
    missing: tuple[tuple[str, str], ...] = ()
    size: int = 0
    scripts: bool = False
    address: str = ""
    root: str = ""
    sheets: tuple[str, ...] = ()
    preloads: tuple[PreloadLink, ...] = ()
    canonical: str = ""
    #: It is a template, whose text is that of its own words.
    template: bool = False
    #: The classes of its elements.
    classes: frozenset[str] = frozenset()
    #: Families that its own scripts name, with their lines.
    script_fonts: tuple[ScriptFont, ...] = ()
    #: What builds keep in it, between marks.
    kept: KeptPart | None = None
    #: The language that its root element says.
    language: str = ""


def without_samples(page: PageUse) -> PageUse:
    """The page's use without its texts; only characters are reported for it."""
    return replace(page, faces=tuple(replace(use, samples=()) for use in page.faces))


class TextUse(Struct, frozen=True):
    """The text of a file that is not a page: a template, data, a catalogue of translations."""

    path: str
    characters: Mapping[str, int]
    problem: str = ""
    neighbours: frozenset[str] = frozenset()
    sequences: frozenset[str] = frozenset()
    #: It was found in a folder and not named: its strings may be for its own use only.
    by_chance: bool = False
    #: Kinds of emphasis in it ("em", "strong", "both"), each with the line of the first.
    emphasis: Mapping[str, int] = field(default_factory=dict)


class SiteUse(Struct, frozen=True):
    """What all pages show, and what texts from elsewhere may add for the families of running text."""

    pages: tuple[PageUse, ...]
    faces: tuple[FaceUse, ...] = field(default=())
    defined: tuple[DefinedFace, ...] = field(default=())
    texts: tuple[TextUse, ...] = field(default=())
    #: Style sheets that no page loads, where these were asked for.
    loose_sheets: tuple[LooseSheet, ...] = ()
    #: Families that scripts name.
    script_fonts: tuple[ScriptFont, ...] = ()
    #: What was read of each folder, and what was not, in a line.
    contents: tuple[str, ...] = ()
    #: The languages of catalogues of translations.
    languages: tuple[str, ...] = ()
    #: Style sheets in Sass, Less or Stylus, where there is no CSS: what they say of fonts is not known.
    uncompiled: tuple[str, ...] = ()
    #: Templates in languages that are not read.
    unread: tuple[str, ...] = ()


def site_use(pages: Sequence[PageUse]) -> SiteUse:
    """The pages combined. Faces are sorted from the most to the least used; hidden ones come last."""
    return SiteUse(
        tuple(pages),
        merge_faces(use for page in pages for use in page.faces),
        tuple(dict.fromkeys(face for page in pages for face in page.defined)),
    )


def merge_faces(uses: Iterable[FaceUse]) -> tuple[FaceUse, ...]:
    """One entry a face and visibility, of the entries of many pages.

    What is hidden on one page and shown on another counts as shown.
    """
    groups: dict[tuple[FaceKey, bool], list[FaceUse]] = {}
    for use in uses:
        groups.setdefault((use.face, use.hidden), []).append(use)
    merged = {key: _together(uses) for key, uses in groups.items()}
    for (face, hidden), use in list(merged.items()):
        shown = merged.get((face, False))
        if hidden and shown is not None:
            rest = {
                character: count for character, count in use.characters.items() if character not in shown.characters
            }
            if rest:
                merged[face, True] = replace(use, characters=rest)
            else:
                del merged[face, True]
    return tuple(sorted(merged.values(), key=lambda use: (use.hidden, -use.count, str(use.face))))


def _together(uses: Sequence[FaceUse]) -> FaceUse:
    characters: Counter[str] = Counter()
    languages: Counter[str] = Counter()
    for use in uses:
        characters.update(use.characters)
        languages.update(use.languages)
    features = sorted({tag for use in uses for tag in use.features})
    variations = sorted({settings for use in uses for settings in use.variations})
    return replace(
        uses[0],
        characters=characters,
        languages=languages,
        features=tuple(features),
        pages=len({use.origin.page for use in uses}),
        variations=tuple(variations),
        in_headings=sum(use.in_headings for use in uses),
        neighbours=frozenset().union(*(use.neighbours for use in uses)),
        sequences=frozenset().union(*(use.sequences for use in uses)),
        samples=_best_samples(uses, languages),
    )


def _best_samples(uses: Sequence[FaceUse], languages: Counter[str]) -> tuple[tuple[str, str], ...]:
    texts: dict[str, list[str]] = {}
    for use in uses:
        for language, text in use.samples:
            texts.setdefault(language, []).append(text)
    ordered = sorted(texts, key=lambda language: -languages[language])
    return tuple((language, best_sample(texts[language])) for language in ordered)


def with_name(use: PageUse, page: str) -> PageUse:
    """The page under another name: the same file may be given by other paths."""
    if use.page == page:
        return use
    faces = tuple(replace(face, origin=replace(face.origin, page=page)) for face in use.faces)
    return replace(use, page=page, faces=faces)
