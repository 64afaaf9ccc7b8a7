"""Pages: their style sheets are found and combined, and their text is read by face."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import Protocol

from msgspec import Struct, field

from aksara.limits import MAX_FRAME_DEPTH, MAX_IMPORT_DEPTH, MAX_PAGE_SHEETS
from aksara.site.css.counter_styles import CounterStyle
from aksara.site.css.defined_faces import DefinedFace
from aksara.site.css.selectors import TooMuchWorkError
from aksara.site.css.style_sets import AppliedSheet, MediaEnvironments, StyleSet
from aksara.site.css.stylesheets import Layer, StyleSheet, parse_style_sheet
from aksara.site.page.face_text import FaceText
from aksara.site.page.markup import (
    base_address,
    canonical_address,
    classes_of,
    declared_language,
    framed_pages,
    is_css,
    is_style_sheet,
    preload_links,
    rooted,
    used_in_attributes,
)
from aksara.site.page.origins import deciding_rule
from aksara.site.page.page_text import PageReader
from aksara.site.tree import Document, Element, parse_html
from aksara.site.usage import PreloadLink

_CACHED_SETS, _CACHED_SHEETS = 32, 1000


class SheetMissingError(Exception):
    """A style sheet cannot be had. The message says why, to follow its address: "is missing"."""


class SheetOutsideError(SheetMissingError):
    """A style sheet, or a file it refers to, is outside the site's folder, at `path`."""

    def __init__(self, path: Path) -> None:
        super().__init__("is outside of the site's folder, so it was not read")
        self.path = path


class RootUnknownError(SheetMissingError):
    """An address starts at the root of a server, which does not seem to be the given folder."""

    def __init__(self) -> None:
        super().__init__("is not below this folder")


class SheetSource(Protocol):
    """The source of style sheets."""

    def sheet(self, reference: str, base: str) -> StyleSheet:
        """The sheet that `reference` means in a page or sheet at `base`. Raises `SheetMissingError`."""


class PageReading(Struct):
    """The text of a page by face, and the faces that its style sheets define.

    `origins` go with the faces: the line in the page, then selector, sheet and line of the rule that asks for the face.
    `sheets` are those that were read, `missing` those that could not be (reference, base, and why), `problems` what
    else was left out, each with the sheet that it is of ("": the page). `size` counts the characters that are shown;
    `scripts`: there are some that may show more. `preloads` are links that have fonts fetched early, `canonical` is the
    address that the page says it has.
    """

    document: Document
    faces: list[FaceText]
    origins: list[tuple[int, str, str, int]] = field(default_factory=list)
    defined: list[DefinedFace] = field(default_factory=list)
    sheets: list[StyleSheet] = field(default_factory=list)
    missing: list[tuple[str, str, str]] = field(default_factory=list)
    problems: list[tuple[str, str]] = field(default_factory=list)
    size: int = 0
    scripts: bool = False
    preloads: list[PreloadLink] = field(default_factory=list)
    canonical: str = ""
    #: The language that its root element says.
    language: str = ""
    #: The classes of its elements.
    classes: frozenset[str] = frozenset()
    #: Lines and texts of the scripts in it.
    own_scripts: list[tuple[int, str]] = field(default_factory=list)
    #: The pages in its frames that stand in it (`srcdoc`), with theirs.
    inner: list[PageReading] = field(default_factory=list)


class SiteReader:
    """Reads pages that share style sheets. `printed`: include what is shown in print only."""

    def __init__(self, source: SheetSource, *, printed: bool = False) -> None:
        self._source = source
        self._printed = printed
        # Pages mostly have the same sheets, whose rules are indexed once.
        self._sets: dict[tuple[object, ...], StyleSet] = {}
        self._own_sheets: dict[tuple[str, int, str], StyleSheet] = {}

    def read(
        self,
        source: str,
        address: str,
        language: str = "",
        instead: Sequence[str] = (),
        imported: Sequence[str] = (),
        depth: int = 0,
    ) -> PageReading:
        """Read the page with that source and address; `language` comes from the server's headers.

        `instead` are the addresses of style sheets that apply where its own links lead to none, `imported` those of the
        ones that its modules import.
        """
        document = parse_html(source)
        reading = PageReading(document, [])
        if document.cut:
            reading.problems.append(("", document.cut))
        base = base_address(document, address)
        applied = self._applied_or(instead, reading, base, address)
        applied = [*applied, *self._at(imported, reading, base)][:MAX_PAGE_SHEETS]
        shadows = list(_shadow_tops(document.elements))
        of_shadows = [self._applied(reading, top, base, address) for top in shadows]
        everything = [sheet for sheets in (applied, *of_shadows) for sheet in sheets]
        reading.sheets = list(dict.fromkeys(applied.sheet for applied in everything))
        reading.problems += [(sheet.url, sheet.problem) for sheet in reading.sheets if sheet.problem]
        reading.defined = list(dict.fromkeys(face for sheet in reading.sheets for face in sheet.faces))
        _note_elements(reading, base)
        if depth < MAX_FRAME_DEPTH:
            for text in framed_pages(document.elements):
                frame = self.read(text, address, depth=depth + 1)
                reading.inner += [frame, *frame.inner]
        used = used_in_attributes(document.elements)
        style_set = self._style_set(applied, everything, used, quirks=document.quirks)
        reader = PageReader(
            style_set,
            {
                id(top): self._style_set(sheets, everything, used, quirks=False)
                for top, sheets in zip(shadows, of_shadows, strict=True)
            },
            *_named(reading.sheets),
            language or declared_language(document.elements),
        )
        _read_text(reading, reader, style_set)
        return reading

    def _applied_or(self, instead: Sequence[str], reading: PageReading, base: str, address: str) -> list[AppliedSheet]:
        """The sheets of a page or, where its links lead to none, those at other addresses before its own."""
        applied = self._applied(reading, reading.document.root, base, address)
        if not instead or any(link.sheet.url != address for link in applied):
            return applied
        return [*self._at(instead, reading, base), *applied][:MAX_PAGE_SHEETS]

    def _at(self, addresses: Sequence[str], reading: PageReading, base: str) -> Iterator[AppliedSheet]:
        """The sheets at these addresses, with those that they import."""
        for address in addresses:
            sheet = self._sheet(reading, address, base)
            if sheet is not None:
                yield from self._with_imports(reading, sheet, (), (), sheet.url, ())

    def _style_set(
        self,
        applied: Sequence[AppliedSheet],
        everything: Sequence[AppliedSheet],
        used: frozenset[str],
        *,
        quirks: bool,
    ) -> StyleSet:
        # Sheets are compared as objects, which the key holds: the number of a freed one may be given to another.
        key = (
            quirks,
            used,
            tuple((applied_sheet.sheet, applied_sheet.media, applied_sheet.layer) for applied_sheet in applied),
            tuple((linked.sheet, linked.media) for linked in everything),
        )
        known = self._sets.get(key)
        if known is not None:
            known.styles.trim()
        else:
            if len(self._sets) >= _CACHED_SETS:
                self._sets.clear()
            environments = MediaEnvironments(everything, printed=self._printed)
            known = self._sets[key] = StyleSet(applied, environments, quirks=quirks, used=used)
        return known

    def _applied(self, reading: PageReading, top: Element, base: str, address: str) -> list[AppliedSheet]:
        """The sheets of a tree, in order, with what they import in front of each."""
        result: list[AppliedSheet] = []
        preferred = ""
        for element in top.descendants():
            if len(result) >= MAX_PAGE_SHEETS:
                break
            if element.tag not in ("style", "link"):
                continue
            title = element.attributes.get("title", "").strip()
            if title and (element.tag == "style" or is_style_sheet(element)):
                # Of sheets with titles only those of the first apply (CSSOM, "preferred CSS style sheet set name").
                preferred = preferred or title
                if title != preferred:
                    continue
            media = (element.attributes["media"],) if element.attributes.get("media", "").strip() else ()
            if element.tag == "style" and is_css(element):
                sheet = self._own_sheet(element, reading.document, address)
                result += self._with_imports(reading, sheet, media, (), base, ())
            elif element.tag == "link" and is_style_sheet(element):
                linked = self._sheet(reading, rooted(reading.document, address, element.attributes["href"]), base)
                if linked is not None:
                    result += self._with_imports(reading, linked, media, (), linked.url, ())
        return result[:MAX_PAGE_SHEETS]

    def _own_sheet(self, element: Element, document: Document, address: str) -> StyleSheet:
        """A `style` element's sheet; the same text on other pages of the folder, at the same line, is parsed once, and
        has the address of the first of them."""
        line = max(document.line_of(element), 1)
        key = element.text, line, address.rpartition("/")[0]
        known = self._own_sheets.get(key)
        if known is None:
            if len(self._own_sheets) >= _CACHED_SHEETS:
                self._own_sheets.clear()
            known = self._own_sheets[key] = parse_style_sheet(element.text, address, first_line=line)
        return known

    def _sheet(self, reading: PageReading, reference: str, base: str) -> StyleSheet | None:
        try:
            return self._source.sheet(reference.strip(), base)
        except SheetMissingError as error:
            reading.missing.append((reference.strip(), base, str(error)))
            return None

    def _with_imports(
        self,
        reading: PageReading,
        sheet: StyleSheet,
        media: tuple[str, ...],
        layer: Layer,
        base: str,
        above: tuple[int, ...],
    ) -> list[AppliedSheet]:
        result: list[AppliedSheet] = []
        if id(sheet) in above or len(above) > MAX_IMPORT_DEPTH:
            return result
        for imported_rule in sheet.imports:
            if len(result) >= MAX_PAGE_SHEETS:
                break
            imported = self._sheet(reading, imported_rule.url, base)
            if imported is not None:
                inner = (*layer, *(imported_rule.layer or ()))
                inside = (*above, id(sheet))
                result += self._with_imports(
                    reading, imported, (*media, *imported_rule.media), inner, imported.url, inside
                )
        return [*result[:MAX_PAGE_SHEETS], AppliedSheet(sheet, media, layer)]


def _read_text(reading: PageReading, reader: PageReader, style_set: StyleSet) -> None:
    """Read the text by face, and which rules decide on the faces."""
    document = reading.document
    try:
        reading.faces = reader.read(document.root)
    except TooMuchWorkError:
        reading.faces = list(reader.found.values())
        reading.problems.append(("", "its selectors would take too long to match; only the first part was read"))
    reading.origins = [
        (document.line_of(face.element), *deciding_rule(face.element, style_set)) for face in reading.faces
    ]
    shown = (text for face in reading.faces if not face.hidden for texts in face.texts.values() for text in texts)
    reading.size = sum(len(text) - text.count(" ") for text in shown)


def _note_elements(reading: PageReading, base: str) -> None:
    """The parts of elements that do not depend on styles."""
    document = reading.document
    reading.preloads = list(preload_links(document, base))
    reading.canonical = canonical_address(document)
    reading.scripts = any(element.tag == "script" for element in document.elements)
    reading.language = document.root.attributes.get("lang", "").strip()
    reading.classes = classes_of(document.elements)
    reading.own_scripts = [
        (document.line_of(element), element.text)
        for element in document.elements
        if element.tag == "script" and element.text.strip() and "font" in element.text.lower()
    ]


def _named(
    sheets: Sequence[StyleSheet],
) -> tuple[dict[str, CounterStyle], dict[str, dict[str, dict[str, tuple[int, ...]]]]]:
    """The counter styles and feature values of all sheets; later ones win."""
    styles: dict[str, CounterStyle] = {}
    values: dict[str, dict[str, dict[str, tuple[int, ...]]]] = {}
    for sheet in sheets:
        styles |= sheet.counter_styles
        values |= sheet.feature_values
    return styles, values


def _shadow_tops(elements: Iterable[Element]) -> Iterator[Element]:
    for element in elements:
        if element.shadow is not None:
            yield element.shadow
            yield from _shadow_tops(element.shadow.descendants())
