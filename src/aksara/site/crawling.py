"""Following a site's links and its sitemap from one address on, on the same origin, within limits."""

from __future__ import annotations

import hashlib
import time
from collections import deque
from collections.abc import Iterator
from urllib.parse import urldefrag, urljoin, urlsplit

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring
from msgspec import Struct

from aksara.site.decoding import decode_page
from aksara.site.fetching import Answer, Fetcher, NotFetchedError
from aksara.site.servers import origin_of, without_credentials
from aksara.site.tree import Document, parse_html

_PAGE_TYPES = frozenset(("text/html", "application/xhtml+xml", ""))
# What a link of this kind leads to is no page, so it is not asked for.
_NO_PAGES = frozenset(
    ".7z .avi .avif .bin .bz2 .css .csv .dmg .doc .docx .exe .gif .gz .ico .iso .jpeg .jpg .js .json .mov .mp3 .mp4 "
    ".mpeg .ogg .otf .pdf .png .ppt .pptx .rar .svg .tar .tgz .ttf .txt .wav .webm .webp .woff .woff2 .xls .xlsx .xml "
    ".zip".split()
)
_MAX_SITEMAPS, _MAX_ENTRIES = 20, 50_000


class CrawlLimits(Struct, frozen=True):
    """How far links are followed: pages, steps from the first page, bytes and seconds of all answers together."""

    pages: int = 2_000
    depth: int = 20
    bytes: int = 500_000_000
    seconds: float = 900.0


class CrawledPage(Struct, frozen=True):
    """A page that was fetched, or (`problem`) the reason why not. `address` may be shown."""

    address: str
    source: str = ""
    language: str = ""
    problem: str = ""


def crawl(address: str, fetcher: Fetcher, limits: CrawlLimits) -> Iterator[CrawledPage]:
    """The pages of a site, breadth first, each once. What is not reached within the limits is told at the end."""
    origin = origin_of(address)
    start = without_credentials(address)
    end = time.monotonic() + limits.seconds
    waiting: deque[tuple[str, int]] = deque([(start, 0)])
    known = {start}
    contents: set[bytes] = set()
    # Nothing is asked of a server whose first page does not come.
    asked_sitemap = False
    pages = size = 0
    while waiting:
        if pages >= limits.pages or size > limits.bytes or time.monotonic() > end:
            text = f"not all of the site was read: {len(waiting):,} more addresses wait"
            yield CrawledPage(start, problem=text)
            return
        place, depth = waiting.popleft()
        try:
            answer = fetcher.get(place, lambda target: origin_of(target) == origin)
        except NotFetchedError as error:
            yield CrawledPage(place, problem=str(error))
            continue
        size += len(answer.data)
        if place == start and answer.media_type not in _PAGE_TYPES:
            yield CrawledPage(place, problem=f"is no page ({answer.media_type})")
            return
        if answer.media_type not in _PAGE_TYPES or (answer.address != place and answer.address in known):
            continue
        known.add(answer.address)
        # "/" and "/index.html" are one page.
        if (digest := hashlib.sha256(answer.data).digest()) in contents:
            continue
        contents.add(digest)
        pages += 1
        source = decode_page(answer.data, answer.charset)
        yield CrawledPage(answer.address, source, answer.language)
        found = list(_links(parse_html(source), answer.address)) if depth < limits.depth else []
        if not asked_sitemap:
            asked_sitemap = True
            found += _sitemap(urljoin(start, "/sitemap.xml"), fetcher, origin)
        for link in found:
            if link not in known and len(known) < _MAX_ENTRIES and _is_page(link, origin):
                known.add(link)
                waiting.append((link, depth + 1))


def _is_page(address: str, origin: str) -> bool:
    """Whether a link may lead to a page of the site."""
    try:
        path = urlsplit(address).path.lower()
        return origin_of(address) == origin and not any(path.endswith(suffix) for suffix in _NO_PAGES)
    except ValueError:
        return False


def _links(document: Document, address: str) -> Iterator[str]:
    """Where a page's links lead, without fragments."""
    base = address
    for element in document.root.descendants():
        href = element.attributes.get("src" if element.tag in ("frame", "iframe") else "href", "").strip()
        if not href or element.tag not in ("a", "area", "frame", "iframe", "base"):
            continue
        try:
            target = without_credentials(urldefrag(urljoin(base, href)).url)
        except ValueError:
            continue
        if element.tag == "base":
            base = target
        elif "download" not in element.attributes:
            yield target


def _sitemap(address: str, fetcher: Fetcher, origin: str) -> list[str]:
    """The addresses in a sitemap and in those that it lists; [] where there is none that can be read."""
    waiting, pages, seen = [address], list[str](), set[str]()
    while waiting and len(seen) < _MAX_SITEMAPS and len(pages) < _MAX_ENTRIES:
        place = waiting.pop()
        if place in seen or origin_of(place) != origin:
            continue
        seen.add(place)
        try:
            answer = fetcher.get(place, lambda target: origin_of(target) == origin)
        except NotFetchedError:
            continue
        kind, found = _entries(answer)
        (waiting if kind == "sitemapindex" else pages).extend(found)
    return pages[:_MAX_ENTRIES]


def _entries(answer: Answer) -> tuple[str, list[str]]:
    try:
        root = fromstring(answer.data)
    except (ParseError, DefusedXmlException, ValueError):
        return "", []
    kind = root.tag.rpartition("}")[2]
    texts = [each.text or "" for each in root.iter() if each.tag.rpartition("}")[2] == "loc"]
    return kind, [without_credentials(text.strip()) for text in texts if text.strip().startswith("http")]
