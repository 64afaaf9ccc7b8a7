"""Reading a site: find its files, read pages in parallel or take them from the cache, add texts."""

from __future__ import annotations

import hashlib
import signal
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from pathlib import Path
from urllib.parse import unquote

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.errors import InputError
from aksara.limits import MAX_PAGE_SIZE
from aksara.observing import is_observed, note_file
from aksara.site.access.browsers import read_in_browser
from aksara.site.access.crawling import CrawlLimits, crawl
from aksara.site.access.decoding import decode_page
from aksara.site.access.exchanges import Exchanges
from aksara.site.access.fetching import FetchedSheets, Fetcher
from aksara.site.access.files import SheetFiles
from aksara.site.cache import PageCache, SheetsUsed
from aksara.site.finding_files import FoundFiles, PageTask, find_files
from aksara.site.page.pages import PageReading, SheetMissingError, SiteReader
from aksara.site.page.templates import template_markup
from aksara.site.script_fonts import fonts_in_script
from aksara.site.text_files import emphasis_in, file_text
from aksara.site.usage import (
    FaceUse,
    LooseSheet,
    Origin,
    PageUse,
    SiteUse,
    TextUse,
    merge_faces,
    site_use,
    with_name,
    without_samples,
)
from aksara.site.web_addresses import check_address
from aksara.sources import PathPattern, printable, read_file, reading_once, resolved
from aksara.text.neighbours import pairs_in
from aksara.text.sequences import sequences_in
from aksara.web.marks import kept_part

# With fewer pages starting processes takes longer than reading.
_WORTH_PROCESSES = 40
_CHUNK = 8
_ADVICE = "; check the address, and that the server runs"


class SiteRequest(Struct, frozen=True):
    """The request to read a site."""

    #: Pages are read by the cascade, templates too, and other files for their text alone.
    pages: tuple[Path | PathPattern, ...] = ()
    #: Of running sites, whose links are followed within `limits`.
    addresses: tuple[str, ...] = ()
    limits: CrawlLimits = field(default_factory=CrawlLimits)
    #: An installed browser reads the pages, after their scripts have run; nothing of that is kept.
    browser: bool = False
    #: Files that are read for their text alone, pages too.
    data: tuple[Path | PathPattern, ...] = ()
    #: Style sheets that stand in for files, by path: those that are about to be written.
    sheets: Mapping[Path, str] = field(default_factory=dict)
    #: Pages and templates that will load these.
    linking: tuple[Path, ...] = ()
    #: What shows only in print counts, too.
    printed: bool = False
    jobs: int = 1
    #: Only pages below this folder give samples of their text; others give their characters only.
    quoted_within: Path | None = None
    #: Patterns of files and folders that are not read.
    exclude: tuple[str, ...] = ()
    #: The folder from which addresses with a slash at their start count, if it is not the one that is given.
    root: Path | None = None
    #: Tell style sheets that no page loads, and families that scripts name, too.
    whole: bool = False
    #: A folder of style sheets without pages is a site, too.
    sheets_alone: bool = False


@reading_once()
def read_site(
    request: SiteRequest,
    cache: PageCache | None = None,
    on_page: Callable[[int, int], None] = lambda *_: None,
    exchanges: Exchanges | None = None,
) -> SiteUse:
    """The text of the site, face by face. Raises `RequestError` if there are no pages at a path.

    `on_page` is told how many pages are done, of how many; `exchanges` hears what servers answer. Pages that cannot be
    read are in the result, with a word.
    """
    files = find_files(
        request.pages,
        request.data,
        request.exclude,
        request.root,
        sheets_alone=request.sheets_alone,
        written=tuple(request.sheets),
        linking=request.linking,
    )
    templates = [task for task in files.tasks if task.template]
    if request.browser:
        # A browser would show a template's source.
        read = [*_in_browser(files, request, on_page), *_from_files(templates, request, cache, on_page)]
    else:
        read = _from_files(files.tasks, request, cache, on_page)
        for address in request.addresses:
            for page in _read_address(address, request, exchanges):
                read.append(page)
                on_page(len(read), max(len(read), len(files.tasks)))
    site = replace(
        site_use(read),
        texts=_read_texts(files),
        contents=tuple(content.summary for content in files.contents),
        languages=tuple(dict.fromkeys(tag for content in files.contents for tag in content.languages)),
        uncompiled=tuple(printable(str(path)) for content in files.contents for path in content.uncompiled),
        unread=tuple(printable(str(path)) for content in files.contents for path in content.unread),
    )
    return _whole(site, files) if request.whole else site


def _from_files(
    tasks: Sequence[PageTask], request: SiteRequest, cache: PageCache | None, on_page: Callable[[int, int], None]
) -> list[PageUse]:
    """The pages, read or taken from the cache."""
    pages: dict[str, PageUse] = {}
    waiting: list[PageTask] = []
    known = cache or PageCache(None)
    files = {task.root: SheetFiles(task.root, request.sheets, root_is_set=request.root is not None) for task in tasks}
    keys: dict[str, str] = {}
    for task in tasks:
        keys[task.name] = key = _key(task, printed=request.printed)
        page = known.get(key, files[task.root]) if key else None
        if page is not None:
            pages[task.name] = with_name(page, task.name)
        else:
            waiting.append(task)
    done = len(pages)
    on_page(done, len(tasks))
    for task, page, sheets in _read_all(waiting, request):
        pages[task.name] = page
        if keys[task.name]:
            known.put(keys[task.name], page, sheets)
        if is_observed():
            _look_at(sheets, files[task.root])
        done += 1
        on_page(done, len(tasks))
    known.save()
    return [_quotable(pages[task.name], task.path, request) for task in tasks]


def _whole(site: SiteUse, files: FoundFiles) -> SiteUse:
    """The site with what no page loads."""
    loaded = {address for page in site.pages for address in page.sheets}
    loose = {
        resolved(path).as_uri(): resolved(folder.root).as_uri() for folder in files.contents for path in folder.sheets
    }  # fmt: skip
    fonts = [font for page in site.pages for font in page.script_fonts]
    for path in dict.fromkeys(path for content in files.contents for path in content.scripts):
        try:
            fonts += fonts_in_script(decode_page(read_file(path, limit=MAX_PAGE_SIZE)), printable(path.as_posix()))
        except InputError:
            continue
    return replace(
        site,
        loose_sheets=tuple(LooseSheet(address, root) for address, root in loose.items() if address not in loaded),
        script_fonts=tuple(fonts),
    )


def _quotable(page: PageUse, path: Path, request: SiteRequest) -> PageUse:
    """The page, without its texts if it may not be quoted."""
    within = request.quoted_within
    return page if within is None or resolved(path).is_relative_to(resolved(within)) else without_samples(page)


def _look_at(sheets: SheetsUsed, files: SheetFiles) -> None:
    """Record in this process the files that another process read for a page."""
    for reference, base in (*((digest, digest) for digest in sheets.digests), *sheets.missing):
        with suppress(SheetMissingError):
            note_file(files.resolve(reference, base))


def _in_browser(found: FoundFiles, request: SiteRequest, on_page: Callable[[int, int], None]) -> list[PageUse]:
    """The pages as a browser shows them; of running sites those that links lead to."""
    files = [task.path for task in found.tasks if not task.template]
    addresses: list[Path | str] = [*files]
    for address in request.addresses:
        with Fetcher(check_address(address)) as fetcher:
            addresses += [page.address for page in crawl(address, fetcher, request.limits) if not page.problem] or [
                address
            ]
    read = []
    for page, source in zip(read_in_browser(addresses), addresses, strict=True):
        read.append(_quotable(page, source, request) if isinstance(source, Path) else page)
        on_page(len(read), len(addresses))
    return read


def _read_address(address: str, request: SiteRequest, exchanges: Exchanges | None) -> Iterator[PageUse]:
    """The pages of a running site."""
    with Fetcher(check_address(address), exchanges=exchanges) as fetcher:
        reader = SiteReader(FetchedSheets(fetcher), printed=request.printed)
        for index, page in enumerate(crawl(address, fetcher, request.limits)):
            if page.problem and not index:
                raise InputError(f"{page.address}: {page.problem}" + _ADVICE * (";" not in page.problem))
            if page.problem:
                yield PageUse(page.address, (), problems=(page.problem,))
            else:
                reading = reader.read(page.source, page.address, page.language)
                addresses = tuple(dict.fromkeys(sheet.url for sheet in reading.sheets))
                use = _page_use(page.address, reading, lambda sheet: sheet)
                kept = kept_part(page.source.encode(errors="surrogateescape"), "page.html")
                yield replace(use, address=page.address, sheets=addresses, kept=kept)


def _key(task: PageTask, *, printed: bool) -> str:
    """A key of everything a page's result depends on besides style sheets; "" for an unreadable file."""
    try:
        data = read_file(task.path, limit=MAX_PAGE_SIZE)
    except InputError:
        return ""
    parts = (str(resolved(task.path)), str(task.root), str(printed), str(task.template), *task.sheets, *task.imported)
    return hashlib.sha256("\0".join(parts).encode(errors="surrogateescape") + b"\0" + data).hexdigest()


_Done = tuple[PageTask, PageUse, SheetsUsed]


def _read_all(tasks: Sequence[PageTask], request: SiteRequest) -> Iterator[_Done]:
    if request.jobs < 2 or len(tasks) < _WORTH_PROCESSES:
        readers = _Readers(request)
        for task in tasks:
            yield (task, *readers.read(task))
        return
    done = 0
    try:
        with ProcessPoolExecutor(request.jobs, initializer=_start_worker, initargs=(request,)) as pool:
            try:
                for page, sheets in pool.map(_read_in_worker, tasks, chunksize=_CHUNK):
                    task, done = tasks[done], done + 1
                    yield task, page, sheets
            except BaseException:
                pool.shutdown(cancel_futures=True)
                raise
    except (BrokenProcessPool, OSError, ImportError):
        # Some computers let no processes be started, or end them; the rest is read here.
        yield from _read_all(tasks[done:], replace(request, jobs=1))


class _Readers:
    """Readers of the sites' folders; pages of one folder share style sheets."""

    def __init__(self, request: SiteRequest) -> None:
        self._request = request
        self._readers: dict[Path, tuple[SheetFiles, SiteReader]] = {}

    def read(self, task: PageTask) -> tuple[PageUse, SheetsUsed]:
        """A page's use, and what its reading depends on (see `PageCache.put`)."""
        if task.root not in self._readers:
            root_is_set = self._request.root is not None
            files = SheetFiles(task.root, self._request.sheets, root_is_set=root_is_set)
            self._readers[task.root] = files, SiteReader(files, printed=self._request.printed)
        files, reader = self._readers[task.root]
        try:
            data = read_file(task.path, limit=MAX_PAGE_SIZE)
            source = decode_page(data)
            source = template_markup(source, task.path.suffix) if task.template else source
        except InputError as error:
            return PageUse(task.name, (), problems=(_reason(error, task.name),)), SheetsUsed()
        own = resolved(task.path).as_uri()
        reading = reader.read(source, own, instead=task.sheets, imported=task.imported)
        # A sheet without a file is part of the page, though it may have been parsed for another one.
        inside = {sheet.url for sheet in reading.sheets if sheet.url not in files.digests}
        shown = _Shown(task)
        page = _page_use(task.name, reading, lambda url: shown.address(own if url in inside else url))
        addresses = dict.fromkeys(own if sheet.url in inside else sheet.url for sheet in reading.sheets)
        kept = kept_part(data, task.path.name)
        page = replace(page, address=own, root=task.root.as_uri(), sheets=tuple(addresses), kept=kept)
        if task.template:
            # Where its links lead is known once it is rendered.
            page = replace(page, template=True, missing=(), preloads=())
        digests = {sheet.url: files.digests[sheet.url] for sheet in reading.sheets if sheet.url not in inside}
        return page, SheetsUsed(digests, tuple((reference, base) for reference, base, _ in reading.missing))


def _page_use(name: str, reading: PageReading, shown: Callable[[str], str]) -> PageUse:
    """What was read of a page, with addresses of style sheets as they are shown."""
    faces = list(_face_uses(name, reading, shown))
    if reading.inner:
        faces = list(merge_faces([*faces, *(use for inner in reading.inner for use in _face_uses(name, inner, shown))]))
    problems = [(f"{shown(source)}: " if source else "") + problem for source, problem in reading.problems]
    return PageUse(
        name,
        tuple(faces),
        tuple(replace(face, sheet=shown(face.sheet)) for face in reading.defined),
        tuple(problems),
        tuple(dict.fromkeys((reference, why) for reference, _, why in reading.missing)),
        reading.size,
        reading.scripts,
        preloads=tuple(reading.preloads),
        canonical=reading.canonical,
        language=reading.language,
        classes=reading.classes,
        script_fonts=tuple(
            font for line, text in reading.own_scripts for font in fonts_in_script(text, name, max(line, 1))
        ),
    )


def _face_uses(name: str, reading: PageReading, shown: Callable[[str], str]) -> Iterator[FaceUse]:
    for face_reading, (line, selector, sheet, sheet_line) in zip(reading.faces, reading.origins, strict=True):
        characters = face_reading.characters()
        if characters:
            origin = Origin(name, line, selector, shown(sheet) if sheet else "", sheet_line)
            features = tuple(sorted(face_reading.features))
            use = FaceUse(
                face_reading.face, face_reading.hidden, characters, face_reading.languages(), features, origin
            )
            use = replace(use, variations=tuple(sorted(face_reading.variations)), in_headings=face_reading.in_headings)
            use = replace(use, neighbours=face_reading.neighbours(), sequences=face_reading.sequences())
            yield replace(use, samples=face_reading.samples())


def _reason(error: InputError, name: str) -> str:
    return error.problem.removeprefix(f"{name}: ")


class _Shown:
    """Addresses of style sheets as users wrote them: counted from the folder that they gave."""

    def __init__(self, task: PageTask) -> None:
        self._root, self._name = task.root, task.name
        path = resolved(task.path)
        inner = path.relative_to(task.root).as_posix() if path.is_relative_to(task.root) else ""
        self._prefix = task.name.removesuffix(inner) if inner and task.name.endswith(inner) else ""

    def address(self, url: str) -> str:
        """The path of a sheet of the site; the page's own path for a `<style>` element."""
        root = self._root.as_uri().rstrip("/") + "/"
        if not url.startswith(root):
            return url
        return self._prefix + printable(unquote(url[len(root) :]))


_in_worker: list[_Readers] = []


def _start_worker(request: SiteRequest) -> None:
    # What stops the program stops its workers by it.
    for name in ("SIGINT", "SIGHUP"):
        if hasattr(signal, name):
            signal.signal(getattr(signal, name), signal.SIG_IGN)
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    _in_worker[:] = [_Readers(request)]


def _read_in_worker(task: PageTask) -> tuple[PageUse, SheetsUsed]:
    page, sheets = _in_worker[0].read(task)
    return page, sheets


def _read_texts(found: FoundFiles) -> tuple[TextUse, ...]:
    """The text of files that are no pages; and what was skipped, with a word."""
    skipped = (TextUse(notice.where, {}, problem=notice.text) for notice in found.notices)
    return (*skipped, *(_text_use(path, name, by_chance=name in found.by_chance) for path, name in found.texts))


def _text_use(path: Path, name: str, *, by_chance: bool) -> TextUse:
    """The text of a file that is no page."""
    try:
        source = decode_page(read_file(path, limit=MAX_PAGE_SIZE))
        text = file_text(source, path.suffix)
    except InputError as error:
        return TextUse(name, {}, problem=_reason(error, name), by_chance=by_chance)
    characters = Counter(character for character in text if character >= " " and not character.isspace())
    return TextUse(
        name, characters, neighbours=pairs_in(text), sequences=sequences_in([text], words=True), by_chance=by_chance,
        emphasis=emphasis_in(source, path.suffix),
    )  # fmt: skip
