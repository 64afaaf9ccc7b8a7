"""The request for characters, and the characters it resolves to once texts and pages are read."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from aksara.errors import RequestError
from aksara.site import check_address
from aksara.sources import PathPattern, kind_of, read_text
from aksara.text import CharacterSelection, find_language, named_characters, select_characters
from aksara.text.emoji import emoji_set
from aksara.text.ranges import parse_ranges
from aksara.text.scripts import script_characters
from aksara.text.sequences import Sequences, sequences_in

if TYPE_CHECKING:
    from aksara.site import SiteUse


class CharacterRequest(Struct, frozen=True, kw_only=True):
    """The characters to keep; everything adds up, and nothing given at all keeps all characters.

    `texts` are texts themselves, `text_files` UTF-8 files; `ranges` as in CSS ("U+41-5A, U+E9"); `languages` BCP 47
    tags, `scripts` ISO 15924 codes; `emoji` are sets of these (`EMOJI_SETS`), `icons` the names of those that fonts of
    icons keep, and no others.
    `addresses` are those of running sites; `pages` are files, folders and patterns of pages, read face by face, and of
    templates and data, whose text counts for the families of running text; so does all of `data`, pages too. With
    `exact` faces get what pages show, without the other letters of their languages.
    """

    texts: tuple[str, ...] = ()
    text_files: tuple[Path, ...] = ()
    ranges: tuple[str, ...] = ()
    languages: tuple[str, ...] = ()
    scripts: tuple[str, ...] = ()
    emoji: tuple[str, ...] = ()
    icons: tuple[str, ...] = ()
    pages: tuple[Path | PathPattern, ...] = ()
    addresses: tuple[str, ...] = ()
    data: tuple[Path | PathPattern, ...] = ()
    exact: bool = False
    #: Patterns of files and folders of the site that are not read.
    exclude: tuple[str, ...] = ()
    #: The folder from which addresses with a slash at their start count.
    root: Path | None = None
    #: An installed browser reads the pages, after their scripts have run. No project file can ask for that: it may be a
    #: stranger's, and so would be the scripts.
    browser: bool = False

    def __post_init__(self) -> None:
        checks: tuple[tuple[str, Iterable[str], Callable[[str], object]], ...] = (
            ("ranges", self.ranges, parse_ranges),
            ("languages", self.languages, find_language),
            ("scripts", self.scripts, script_characters),
            ("emoji", self.emoji, emoji_set),
            ("pages", self.addresses, check_address),
        )
        for name, values, check in checks:
            for value in values:
                try:
                    check(value)
                except RequestError as error:
                    error.parameter = f"CharacterRequest.{name}"
                    raise

    @property
    def has_site(self) -> bool:
        """Whether there are pages or data to read."""
        return bool(self.pages or self.addresses or self.data)


def find_pages_of(paths: Iterable[Path | PathPattern], exclude: Iterable[str] = ()) -> list[Path]:
    """The files of the pages asked for, each once. Raises `RequestError` where one has none."""
    if not (paths := list(paths)):
        return []
    from aksara.site.finding_files import files_of_pages  # most builds read no site

    try:
        return files_of_pages(paths, exclude)
    except RequestError as error:
        error.parameter = "CharacterRequest.pages"
        raise


def resolve_characters(request: CharacterRequest, site: SiteUse | None) -> CharacterSelection:
    """The characters the request resolves to; `site` are those of its pages and data, all faces together.

    Raises `RequestError` for a missing text file or where no character remains, `InputError` for a file that cannot
    be read.
    """
    for path in request.text_files:
        if kind_of(path) == "missing":
            raise RequestError(f"{path}: no such file; check the path", parameter="CharacterRequest.text_files")
    shown: frozenset[str] = frozenset()
    if site is not None:
        shown = shown.union(*(use.sequences for use in site.faces), *(text.sequences for text in site.texts))
    selection = select_characters(
        texts=_texts(request),
        ranges=request.ranges,
        languages=request.languages,
        scripts=request.scripts,
        written=site_characters(site) if site is not None else None,
        sequences=Sequences(shown, icons_alone=bool(request.icons)),
    )
    if selection.characters is not None and not selection.characters:
        raise RequestError(
            "no characters are asked for: the text to keep is empty; give some", parameter="CharacterRequest.texts"
        )
    return selection


def asked_besides(request: CharacterRequest) -> frozenset[int]:
    """The characters that every face gets, used or not."""
    return named_characters(
        texts=_texts(request), ranges=request.ranges, languages=request.languages, scripts=request.scripts
    )


def sequences_besides(request: CharacterRequest) -> Sequences:
    """The sequences that every face gets, used or not."""
    free = named_characters(ranges=request.ranges, languages=request.languages, scripts=request.scripts)
    return Sequences(sequences_in(_texts(request), words=True), free, icons_alone=bool(request.icons))


def _texts(request: CharacterRequest) -> list[str]:
    return [*request.texts, *map(emoji_set, request.emoji), *(read_text(path) for path in request.text_files)]


def site_characters(site: SiteUse) -> Mapping[int, int]:
    """All characters of a site, hidden ones and those of data included, with how often they are written."""
    counts: Counter[int] = Counter()
    for source in (*(use.characters for use in site.faces), *(text.characters for text in site.texts)):
        for character, count in source.items():
            counts[ord(character)] += count
    return counts
