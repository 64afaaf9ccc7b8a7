"""What is looked at: the pages of a site as they are read, the `@font-face` rules of their style sheets as they are
written, and the font files that these lead to."""

from __future__ import annotations

import base64
import binascii
import os
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from urllib.parse import quote, unquote, unquote_to_bytes, urlsplit

from aksara.checking.face_rules import FaceRule, Source, face_rules_in
from aksara.checking.facts_cache import FactsCache
from aksara.checking.findings import Place
from aksara.checking.font_facts import FontFacts, facts_of_font
from aksara.errors import InputError
from aksara.limits import MAX_FILE_SIZE, MAX_PAGE_SIZE
from aksara.site.addresses import SheetFiles
from aksara.site.decoding import decode_page, decode_style_sheet
from aksara.site.defined_faces import DefinedFace, defined_face
from aksara.site.pages import SheetMissingError
from aksara.site.tree import parse_html
from aksara.site.usage import PageUse, SiteUse
from aksara.sources import is_file, printable, read_file

#: Fonts in the site's folders that are known by name, to say where a missing one is.
_MOST_NAMES = 20_000
_FONT_SUFFIXES = (".woff2", ".woff", ".ttf", ".otf", ".eot", ".ttc")
#: How browsers know `format()` values (CSS Fonts 4, section 4.3.1), and what kind of file each is.
FORMATS: Mapping[str, tuple[str, ...]] = {
    "woff2": ("woff2",), "woff": ("woff",), "truetype": ("sfnt",), "opentype": ("sfnt",), "collection": ("collection",),
    "woff2-variations": ("woff2",), "woff-variations": ("woff",), "truetype-variations": ("sfnt",),
    "opentype-variations": ("sfnt",),
}  # fmt: skip


@dataclass(slots=True, frozen=True)
class FontFile:
    """What the address of a source leads to: `shown` is the file as users know it, `missing` why there is none, and
    `facts` are those of its bytes. `unknown`: it depends on a template or on another host, and was not looked at."""

    shown: str = ""
    facts: FontFacts | None = None
    missing: str = ""
    unknown: bool = False
    path: Path | None = None

    @property
    def works(self) -> bool:
        """Whether a browser could take it, as far as is known."""
        return self.unknown or (self.facts is not None and not self.facts.problem)


@dataclass(slots=True, frozen=True, eq=False)
class CheckedSheet:
    """A style sheet: its address, what users know it by, the folder of its site, and the rules in it."""

    address: str
    shown: str
    root: Path
    rules: tuple[FaceRule, ...]


@dataclass(slots=True, frozen=True, eq=False)
class CheckedRule:
    """A rule with the files of its sources (None for installed fonts); `defined` is the face that it makes, None if a
    browser ignores it."""

    sheet: CheckedSheet
    rule: FaceRule
    files: tuple[FontFile | None, ...]
    defined: DefinedFace | None

    def place(self, descriptor: str = "") -> Place:
        """Where the rule is, or one of its descriptors."""
        said = self.rule.descriptors.get(descriptor)
        name = self.rule.family or "without a family"
        return Place(self.sheet.shown, said.line if said is not None else self.rule.line, f"@font-face {name}")

    @property
    def sources(self) -> Iterator[tuple[Source, FontFile]]:
        """Those that are fetched."""
        return ((source, file) for source, file in zip(self.rule.sources, self.files, strict=True) if file is not None)

    @property
    def served(self) -> FontFile | None:
        """The file that a current browser takes: the first that it knows, that is there and whole."""
        for source, file in self.sources:
            if (not source.format or source.format.lower() in FORMATS) and file.works:
                return file
        return None


@dataclass(frozen=True, eq=False)
class CheckedSite:
    """All of it."""

    use: SiteUse
    sheets: tuple[CheckedSheet, ...]
    rules: tuple[CheckedRule, ...]
    names: Mapping[Path, Mapping[str, list[Path]]] = field(default_factory=dict)

    @cached_property
    def by_family(self) -> dict[str, list[CheckedRule]]:
        """The rules that make a face, by family, without regard to case."""
        found: dict[str, list[CheckedRule]] = {}
        for rule in self.rules:
            if rule.defined is not None:
                found.setdefault(rule.defined.family.casefold(), []).append(rule)
        return found


def gather(use: SiteUse, cache: FactsCache) -> CheckedSite:
    """What the findings look at, of a site that was read from files."""
    sheets: dict[tuple[str, str], CheckedSheet] = {}
    files: dict[str, SheetFiles] = {}
    for page in use.pages:
        for address in page.sheets if page.root else ():
            if (page.root, address) not in sheets:
                source = files.setdefault(page.root, SheetFiles(_path(page.root)))
                sheets[page.root, address] = _sheet(page, address, source)
    fonts = _Fonts(files, cache)
    rules = [
        CheckedRule(
            sheet,
            rule,
            tuple(fonts.of(source, sheet) for source in rule.sources),
            _defined(sheet, rule),
        )
        for sheet in sheets.values()
        for rule in sheet.rules
    ]
    cache.save()
    roots = {sheet.root for sheet in sheets.values()}
    return CheckedSite(use, tuple(sheets.values()), tuple(rules), {root: _font_names(root) for root in sorted(roots)})


def _path(address: str) -> Path:
    return Path(unquote(urlsplit(address).path))


def _sheet(page: PageUse, address: str, files: SheetFiles) -> CheckedSheet:
    """The sheet at an address; a page's own sheets are one."""
    root, path = _path(page.root), _path(address)
    inner = _path(page.address)
    prefix = page.page.removesuffix(inner.relative_to(root).as_posix()) if inner.is_relative_to(root) else ""
    shown = prefix + path.relative_to(root).as_posix() if path.is_relative_to(root) else path.as_posix()
    try:
        if address == page.address:
            rules = _own_rules(decode_page(read_file(path, limit=MAX_PAGE_SIZE)))
        else:
            rules = tuple(face_rules_in(decode_style_sheet(read_file(path, limit=MAX_PAGE_SIZE))))
    except InputError:
        rules = ()
    return CheckedSheet(address, printable(shown), root, rules)


def _own_rules(source: str) -> tuple[FaceRule, ...]:
    if "@font-face" not in source.lower():
        return ()
    document = parse_html(source)
    styles = (element for element in document.elements if element.tag == "style")
    return tuple(rule for style in styles for rule in face_rules_in(style.text, max(document.line_of(style), 1)))


def _defined(sheet: CheckedSheet, rule: FaceRule) -> DefinedFace | None:
    return defined_face(rule.content, sheet.shown, rule.line)


class _Fonts:
    """The files that sources lead to, each read once."""

    def __init__(self, files: Mapping[str, SheetFiles], cache: FactsCache) -> None:
        self._files = {_path(root): found for root, found in files.items()}
        self._cache = cache
        self._known: dict[Path, FontFile] = {}

    def of(self, source: Source, sheet: CheckedSheet) -> FontFile | None:
        """What a source leads to; None for an installed font."""
        if source.local:
            return None
        if source.url.lower().startswith("data:"):
            return self._inside(source.url)
        if is_template(source.url) or _is_elsewhere(source.url):
            return FontFile(source.url, unknown=True)
        try:
            path = self._files[sheet.root].resolve(without_fragment(source.url), sheet.address)
        except SheetMissingError as error:
            return FontFile(source.url, missing=str(error))
        if path not in self._known:
            self._known[path] = self._read(path)
        return self._known[path]

    def _read(self, path: Path) -> FontFile:
        shown = printable(os.path.relpath(path))
        try:
            data = read_file(path, limit=MAX_FILE_SIZE)
        except InputError as error:
            return FontFile(shown, missing=f"cannot be read ({error.problem})", path=path)
        return FontFile(shown, self._cache.facts(data, shown), path=path)

    def _inside(self, url: str) -> FontFile:
        head, _, body = url.partition(",")
        try:
            data = base64.b64decode(unquote(body)) if head.lower().endswith(";base64") else unquote_to_bytes(body)
        except (binascii.Error, ValueError):
            return FontFile("data: URL", missing="is cut short or is no base64")
        return FontFile("data: URL", facts_of_font(data, "data: URL"))


def kind_of(container: str) -> str:
    """What a file is, in words."""
    return {"sfnt": "a TTF or OTF", "woff": "a WOFF", "woff2": "a WOFF2", "collection": "a collection"}.get(
        container, "no font"
    )


def without_fragment(url: str) -> str:
    """A URL without what a server would not see of it, or what only makes it another one."""
    return url.partition("#")[0].partition("?")[0]


def is_template(url: str) -> bool:
    """Whether the URL is written by a template, or by a preprocessor."""
    return any(sign in url for sign in ("{{", "{%", "<%", "<?", "${", "#{"))


def _is_elsewhere(url: str) -> bool:
    return url.startswith("//") or (
        urlsplit(url).scheme not in ("", "file") if ":" in url.split("/", maxsplit=1)[0] else False
    )


def _font_names(root: Path) -> dict[str, list[Path]]:
    """The fonts in a folder by their names in small letters."""
    found: dict[str, list[Path]] = {}
    count = 0
    for folder, folders, files in os.walk(root):
        folders[:] = sorted(name for name in folders if not name.startswith(".") and name != "node_modules")
        for name in sorted(files):
            count += 1
            if name.lower().endswith(_FONT_SUFFIXES) and is_file(Path(folder) / name):
                found.setdefault(name.lower(), []).append(Path(folder) / name)
        if count > _MOST_NAMES:
            break
    return found


def way_to(path: Path, sheet: CheckedSheet) -> str:
    """The URL by which a style sheet reaches a file of its site."""
    return quote(Path(os.path.relpath(path, _path(sheet.address).parent)).as_posix())
