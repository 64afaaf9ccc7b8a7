"""Classifying the files of a site's folder: pages, templates, texts, style sheets, scripts; and what to skip.

`scan`, `build` and `check` all ask here. Names decide where names are agreed on; otherwise a file's own content does.
"""

from __future__ import annotations

import os
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import Literal, get_args

from msgspec import Struct, field

from aksara.errors import InputError
from aksara.limits import MAX_LIBRARY_FILES, MAX_PAGE_SIZE
from aksara.notices import Notice
from aksara.observing import note_folder
from aksara.phrases import count_of
from aksara.site.access.decoding import decode_page
from aksara.site.spans import find_spans, without
from aksara.sources import MANIFEST_MARK, MANIFEST_NAME, read_file, read_start
from aksara.sources.patterns import LookedAt, PathFilter
from aksara.sources.walking import readable, skipped

#: What a file can be. Of the last seven nothing is read.
Role = Literal[
    "page", "template", "text", "sheet", "script",
    "uncompiled", "unread", "library", "tooling", "own", "excluded", "other",
]  # fmt: skip
ROLES: tuple[Role, ...] = get_args(Role)

PAGE_SUFFIXES = frozenset((".html", ".htm", ".xhtml", ".shtml"))
#: Suffixes that only templates have.
TEMPLATE_SUFFIXES = frozenset(
    ".php .phtml .twig .liquid .njk .nunjucks .hbs .handlebars .mustache .ejs .eta .erb .jinja .jinja2 .j2 .swig .tpl "
    ".tmpl .gohtml .vue .svelte .astro .jsx .tsx .cshtml .razor .ftl .latte .heex .leex .pug .jade".split()
)
#: Templates whose markup has no tags in angle brackets.
_INDENTED = frozenset((".pug", ".jade"))
#: Documents that content folders hold, and catalogues of translations.
_DOCUMENTS = frozenset((".md", ".markdown", ".mdx"))
_CATALOGUES = frozenset((".po", ".json", ".yaml", ".yml", ".toml", ".properties", ".ini"))
#: Templates in languages that are not known here.
_UNREAD = frozenset((".haml", ".slim"))
#: Style sheets that CSS is made of.
_UNCOMPILED = frozenset((".scss", ".sass", ".less", ".styl"))
_SCRIPTS = frozenset((".js", ".mjs", ".cjs", ".ts"))

#: Folders of other people's code.
_LIBRARY_FOLDERS = frozenset(
    "node_modules bower_components jspm_packages vendor vendors third-party third_party thirdparty site-packages "
    "__pycache__".split()
)
#: Folders in which a package of its own is a library, and not a part of the site.
_ASSET_FOLDERS = frozenset(
    "assets static public dist lib libs plugins plugin js css scripts components addons contrib packages".split()
)
_PACKAGE_FILES = frozenset(("package.json", "bower.json", "composer.json", "component.json"))
_TOOLING_FOLDERS = frozenset(
    "test tests spec specs __tests__ __mocks__ __snapshots__ fixtures e2e cypress coverage benchmark benchmarks "
    "__MACOSX storybook-static".split()
)
_TOOLING = re.compile(
    r"(?:readme|licen[cs]e|changelog|changes|history|contributing|contributors|authors|code_of_conduct|security|"
    r"support|notice|copying|upgrading|upgrade|todo|install|credits|governance|maintainers)(?:[._-].*)?|"
    r"(?:robots|humans|llms(?:-full)?|ads|security)\.txt|"
    r"(?:package(?:-lock)?|composer|bower|tsconfig.*|jsconfig|manifest|lerna|turbo|nx|vercel|netlify|renovate|"
    r"deno|now|firebase|browserconfig|asset-manifest|angular|nest-cli|project|workspace|components|theme|style)\.json|"
    r"(?:pnpm-lock|pnpm-workspace|docker-compose.*|mkdocs|netlify|codecov|config|_config.*|theme|about|action)\.ya?ml|"
    r"(?:gruntfile|gulpfile|makefile|rakefile|dockerfile|webpack|rollup|vite|babel|postcss|karma|jest|metalsmith)\b.*|"
    r".*\.(?:config|conf|test|spec|stories|min)\.[a-z]+|.*\.d\.ts|aksara\.toml|cargo\.toml|pyproject\.toml|"
    r"theme\.toml|hugo\.toml|config\.toml|netlify\.toml",
    re.IGNORECASE,
)
#: Folders in which documents are content, and in which catalogues are.
_CONTENT_FOLDERS = frozenset(
    "content contents posts _posts pages _pages articles blog src source docs entries collections news notes data "
    "_data exampleSite _drafts".split()
)
_CATALOGUE_FOLDERS = frozenset(
    "i18n l10n lang langs language languages locale locales translation translations messages strings _data data "
    "content contents".split()
)
_TEMPLATE_FOLDERS = frozenset(
    "templates template layouts layout _layouts _includes includes partials partial views snippets sections blocks "
    "parts patterns components macros".split()
)
#: Signs of templates, in HTML that is served only after they are rendered.
_TEMPLATE_SIGN = re.compile(
    r"\{\{|\{%|<\?(?:php|=)|<%|\{#|\$\{|@(?:extends|section|include|yield|foreach|if)\b|"
    r"<(?!svg:|xlink:|o:|v:|w:|m:)[a-z]{1,12}:[a-z]+\b"
)
_DOCUMENT = re.compile(r"<!doctype\s+html|<html[\s>]|<body[\s>]", re.IGNORECASE)
_TAG = re.compile(r"<[A-Za-z][^<>]*", re.DOTALL)
_HEADS = (("<head", "</head"), ("<title", "</title"))
_RAW = (("<script", "</script>"), ("<style", "</style>"), ("<!--", "-->"))
_MARKUP = re.compile(r"<(?:[a-z][a-z0-9-]*|[A-Z][A-Za-z]*)(?:\s[^<>]*)?>")
_COMPONENT = re.compile(r"className=|<>|</[A-Z]|from\s+['\"](?:react|preact|solid-js)")
_GENERATOR = re.compile(rb"""<meta name="generator" content="Aksara """)
_LANGUAGE = re.compile(r"([a-z]{2,3})(?:[-_]([A-Z][a-z]{3}|[A-Z]{2}))?(?:\.default|\.schema)?", re.ASCII)
#: Bytes at the start of a script in which a minifier's long lines show, and characters of such a line.
_START, _LONG_LINE = 20_000, 1_000


class SiteContents(Struct, frozen=True, kw_only=True):
    """The files of a folder by kind, each kind in a stable order."""

    root: Path
    pages: tuple[Path, ...] = ()
    templates: tuple[Path, ...] = ()
    #: Documents and catalogues, which are text where templates show them.
    texts: tuple[Path, ...] = ()
    sheets: tuple[Path, ...] = ()
    #: The site's own, not those of libraries.
    scripts: tuple[Path, ...] = ()
    #: Style sheets in Sass, Less or Stylus, where no CSS of the site's own is there.
    uncompiled: tuple[Path, ...] = ()
    #: Templates in Haml or Slim.
    unread: tuple[Path, ...] = ()
    #: How many files of each role are not read.
    skipped: Mapping[Role, int] = field(default_factory=dict)
    #: The languages that catalogues of translations are for.
    languages: tuple[str, ...] = ()
    #: About files and folders that cannot be read.
    notices: tuple[Notice, ...] = ()

    @property
    def summary(self) -> str:
        """A line that says what is read and what is skipped."""
        read = [
            count_of(len(files), noun)
            for files, noun in (
                (self.pages, "page"), (self.templates, "template"), (self.texts, "text"), (self.sheets, "style sheet"),
                (self.scripts, "script"),
            )
            if files
        ]  # fmt: skip
        skipped = [
            f"{count_of(self.skipped[role], 'file')} {words}"
            for role, words in _SKIPPED_WORDS.items()
            if self.skipped.get(role)
        ]
        return (", ".join(read) or "nothing to read") + (f"; not read: {', '.join(skipped)}" if skipped else "")


_SKIPPED_WORDS: Mapping[Role, str] = {
    "uncompiled": "in Sass, Less or Stylus",
    "unread": "in Haml or Slim",
    "library": "of libraries",
    "tooling": "of documentation and tooling",
    "own": "written by Aksara",
    "excluded": "excluded",
}


def contents_of(folder: Path, exclude: Iterable[str] = ()) -> SiteContents:
    """Classify the files of a folder. `exclude` are patterns of paths in it.

    Raises `RequestError` where there is too much to look at.
    """
    notices: list[Notice] = []
    files: dict[Role, list[Path]] = {role: [] for role in ROLES}
    unread: Counter[Role] = Counter()
    languages: dict[str, None] = {}
    for item in _roles(folder, PathFilter(exclude), unread):
        if isinstance(item, Notice):
            notices.append(item)
            continue
        path, role = item
        if role not in ("page", "template", "text", "sheet", "script"):
            unread[role] += 1
            files[role].append(path)
        elif isinstance(reason := readable(path), Notice):
            notices.append(reason)
        else:
            files[role].append(path)
            if role == "text" and (language := _language_of(path)):
                languages[language] = None
    return SiteContents(
        root=folder,
        pages=tuple(files["page"]),
        templates=tuple(files["template"]),
        texts=tuple(files["text"]),
        sheets=tuple(files["sheet"]),
        scripts=tuple(files["script"]),
        uncompiled=tuple(files["uncompiled"]) if all(".min." in path.name for path in files["sheet"]) else (),
        unread=tuple(files["unread"]),
        skipped=dict(unread),
        languages=tuple(languages),
        notices=tuple(notices),
    )


def role_of(path: Path, root: Path) -> Role:
    """The kind of a file below `root`, which may be named by a pattern."""
    whole = path.absolute()
    inner = whole.relative_to(root) if whole.is_relative_to(root) else Path(path.name)
    folders = inner.parts[:-1]
    if any(name in _LIBRARY_FOLDERS for name in folders):
        return "library"
    return _role(path, folders)


def _roles(root: Path, exclude: PathFilter, unread: Counter[Role]) -> Iterator[tuple[Path, Role] | Notice]:
    """Each file and its role, or a notice about a folder that cannot be read; files of folders that are not entered are
    counted in `unread`."""
    closed: list[Notice] = []

    def keep_error(error: OSError) -> None:
        closed.append(skipped(Path(error.filename), f"cannot be read ({error.strerror})"))

    looked_at = LookedAt(str(root))
    for folder, folders, names in os.walk(root, onerror=keep_error):
        yield from closed
        closed.clear()
        here = Path(folder)
        inner = here.relative_to(root).parts
        looked_at.count(len(folders) + len(names) + 1)
        note_folder(here)
        kept = []
        for name in sorted(folders):
            if name.startswith("."):
                continue
            if exclude.matches("/".join((*inner, name))):
                unread["excluded"] += _count_files(here / name)
            elif name in _LIBRARY_FOLDERS or _is_package(here / name, inner):
                unread["library"] += _count_files(here / name)
            elif name in _TOOLING_FOLDERS:
                unread["tooling"] += _count_files(here / name)
            else:
                kept.append(name)
        folders[:] = kept
        for name in sorted(names):
            if name.startswith("."):
                continue
            if exclude.matches("/".join((*inner, name))):
                yield here / name, "excluded"
            else:
                yield here / name, _role(here / name, inner)
    yield from closed


def _is_package(folder: Path, inner: tuple[str, ...]) -> bool:
    """Whether a folder among a site's assets is somebody's package."""
    if not any(name.lower() in _ASSET_FOLDERS for name in (*inner, folder.name)):
        return False
    return bool(inner or folder.name in _ASSET_FOLDERS) and any((folder / name).is_file() for name in _PACKAGE_FILES)


def _count_files(folder: Path) -> int:
    count = seen = 0
    for _, folders, names in os.walk(folder):
        folders.sort()
        count += len(names)
        seen += len(names) + len(folders)
        if seen > MAX_LIBRARY_FILES:
            break
    return min(count, MAX_LIBRARY_FILES)


def _role(path: Path, folders: tuple[str, ...]) -> Role:
    """The kind of a file by its name and, if that is not enough, its content."""
    name, suffix = path.name, path.suffix.lower()
    if name == MANIFEST_NAME and _starts_with(path, MANIFEST_MARK):
        return "own"
    if suffix == ".css":
        return "sheet"
    if suffix in _UNCOMPILED:
        return "uncompiled"
    if suffix in _UNREAD:
        return "unread"
    if _TOOLING.fullmatch(name) and suffix not in PAGE_SUFFIXES:
        return "tooling"
    if suffix in PAGE_SUFFIXES:
        return _role_of_html(path, folders)
    if suffix in TEMPLATE_SUFFIXES:
        return "template" if _has_markup(path, suffix) else "other"
    if suffix in _SCRIPTS:
        return _role_of_script(path)
    if suffix in _DOCUMENTS:
        return "text" if _CONTENT_FOLDERS.intersection(folders) else "tooling"
    if suffix in _CATALOGUES:
        return "text" if _CATALOGUE_FOLDERS.intersection(folders) or suffix == ".po" else "other"
    return "other"


def _role_of_html(path: Path, folders: tuple[str, ...]) -> Role:
    text = _text(path)
    if _GENERATOR.search(text[:2_000].encode(errors="replace")):
        return "own"
    return "template" if is_template(text, in_template_folder=bool(_TEMPLATE_FOLDERS.intersection(folders))) else "page"


def is_template(text: str, *, in_template_folder: bool = False) -> bool:
    """Whether HTML is a template: its head, its tags, or a part of a page has expressions in it.

    Expressions in the text of a whole page are what this page shows, as pages about templates do.
    """
    if not _TEMPLATE_SIGN.search(text):
        return in_template_folder and not _DOCUMENT.search(text)
    bare = without(text, find_spans(text, _RAW))
    if not _DOCUMENT.search(bare):
        return bool(_TEMPLATE_SIGN.search(bare))
    heads = (bare[start:end] for start, end in find_spans(bare, _HEADS))
    tags = (match[0] for match in _TAG.finditer(bare))
    return any(_TEMPLATE_SIGN.search(part) for part in (*heads, *tags)) or bool(re.match(r"\s*(?:\{[{%#]|<[?%])", bare))


def _has_markup(path: Path, suffix: str) -> bool:
    """Whether a template has any markup: much PHP and TypeScript has none."""
    text = _text(path)
    if suffix in _INDENTED:
        return True
    if suffix in (".jsx", ".tsx"):
        return bool(_COMPONENT.search(text) and _MARKUP.search(text))
    return bool(_MARKUP.search(text))


def _role_of_script(path: Path) -> Role:
    """A script of the site, a library, or a template that looks like a script."""
    start = _start(path)
    if len(max(start.split("\n"), key=len, default="")) > _LONG_LINE or start.startswith("/*!"):
        return "library"
    if _COMPONENT.search(start) and _MARKUP.search(start):
        return "template"
    return "script"


def _language_of(path: Path) -> str:
    """The language that a catalogue's name says ("locales/fr.json", "fr/LC_MESSAGES/site.po"); "" for none."""
    for name in (path.name.partition(".")[0], *reversed(path.parent.parts[-2:])):
        if path.suffix.lower() in _CATALOGUES and (match := _LANGUAGE.fullmatch(name)):
            return match[1] + (f"-{match[2]}" if match[2] else "")
    return ""


def _starts_with(path: Path, mark: bytes) -> bool:
    try:
        return read_start(path, len(mark)) == mark
    except InputError:
        return False


def _start(path: Path) -> str:
    try:
        return read_start(path, _START).decode("utf-8", "replace")
    except InputError:
        return ""


def _text(path: Path) -> str:
    try:
        return decode_page(read_file(path, limit=MAX_PAGE_SIZE))
    except InputError:
        return ""
