"""Following a site's links and its sitemap from one address on, on the same origin, within limits."""

from __future__ import annotations

import hashlib
from collections import deque
from collections.abc import Iterator
from contextlib import suppress
from urllib.parse import urlsplit

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import DefusedXMLParser, ParseError
from msgspec import Struct

from aksara.limits import (
    MAX_ADDRESS_LENGTH,
    MAX_SITE_BYTES,
    MAX_SITE_DEPTH,
    MAX_SITE_LINKS,
    MAX_SITE_PAGES,
    MAX_SITEMAP_DEPTH,
    MAX_SITEMAPS,
)
from aksara.site.access.decoding import decode_page
from aksara.site.access.fetching import Answer, Fetcher, NotFetchedError
from aksara.site.tree import Document, parse_html
from aksara.site.web_addresses import AddressError, origin_of, web_address

_PAGE_TYPES = frozenset(("text/html", "application/xhtml+xml", ""))
# Links of these kinds do not lead to pages, so they are not followed.
_NO_PAGES = tuple(
    ".7z .avi .avif .bin .bz2 .css .csv .dmg .doc .docx .exe .gif .gz .ico .iso .jpeg .jpg .js .json .mov .mp3 .mp4 "
    ".mpeg .ogg .otf .pdf .png .ppt .pptx .rar .svg .tar .tgz .ttf .txt .wav .webm .webp .woff .woff2 .xls .xlsx .xml "
    ".zip".split()
)


class CrawlLimits(Struct, frozen=True):
    """Limits of following links: requests, whether answered or not, steps from the first page,
    and bytes of all answers together. What servers may be asked in all is counted with the `Exchanges`."""

    pages: int = MAX_SITE_PAGES
    depth: int = MAX_SITE_DEPTH
    bytes: int = MAX_SITE_BYTES


class CrawledPage(Struct, frozen=True):
    """A page that was fetched, or (`problem`) the reason why not. `address` may be shown."""

    address: str
    source: str = ""
    language: str = ""
    problem: str = ""


def crawl(address: str, fetcher: Fetcher, limits: CrawlLimits) -> Iterator[CrawledPage]:
    """The pages of a site, breadth first, each once. What is not reached within the limits is told at the end."""
    origin = origin_of(address)
    start = web_address(address)
    waiting: deque[tuple[str, int]] = deque([(start, 0)])
    known = {start}
    contents: set[bytes] = set()
    # Nothing is asked of a server whose first page does not come.
    asked_sitemap = False
    asked = size = 0
    while waiting:
        if asked >= limits.pages or size > limits.bytes or fetcher.is_spent:
            count = "1 more address waits" if len(waiting) == 1 else f"{len(waiting):,} more addresses wait"
            yield CrawledPage(start, problem=f"not all of the site was read: {count}")
            return
        location, depth = waiting.popleft()
        asked += 1
        try:
            answer = fetcher.get(location, lambda target: origin_of(target) == origin)
        except NotFetchedError as error:
            yield CrawledPage(location, problem=str(error))
            continue
        size += len(answer.data)
        if location == start and answer.media_type not in _PAGE_TYPES:
            yield CrawledPage(location, problem=f"is no page ({answer.media_type})")
            return
        if answer.media_type not in _PAGE_TYPES or (answer.address != location and answer.address in known):
            continue
        known.add(answer.address)
        # "/" and "/index.html" are one page.
        if (digest := hashlib.sha256(answer.data).digest()) in contents:
            continue
        contents.add(digest)
        source = decode_page(answer.data, answer.charset)
        yield CrawledPage(answer.address, source, answer.language)
        links = list(_links(parse_html(source), answer.address)) if depth < limits.depth else []
        if not asked_sitemap:
            asked_sitemap = True
            links += _sitemap(web_address("/sitemap.xml", start), fetcher, origin)
        for link in links:
            if link not in known and len(known) < MAX_SITE_LINKS and _is_page(link, origin):
                known.add(link)
                waiting.append((link, depth + 1))


def _is_page(address: str, origin: str) -> bool:
    """Whether a link may lead to a page of the site."""
    return origin_of(address) == origin and not urlsplit(address).path.lower().endswith(_NO_PAGES)


def _links(document: Document, address: str) -> Iterator[str]:
    """Where a page's links lead, without fragments."""
    base = address
    for element in document.root.descendants():
        href = element.attributes.get("src" if element.tag in ("frame", "iframe") else "href", "").strip()
        if not href or element.tag not in ("a", "area", "frame", "iframe", "base"):
            continue
        try:
            target = web_address(href, base)
        except AddressError:
            continue
        if element.tag == "base":
            base = target
        elif "download" not in element.attributes:
            yield target


def _sitemap(address: str, fetcher: Fetcher, origin: str) -> list[str]:
    """The addresses in a sitemap and in the sitemaps it lists; [] if none can be read."""
    waiting, pages, seen = [address], list[str](), set[str]()
    while waiting and len(seen) < MAX_SITEMAPS and len(pages) < MAX_SITE_LINKS:
        location = waiting.pop()
        if location in seen or origin_of(location) != origin:
            continue
        seen.add(location)
        try:
            answer = fetcher.get(location, lambda target: origin_of(target) == origin)
        except NotFetchedError:
            continue
        kind, found = _entries(answer)
        (waiting if kind == "sitemapindex" else pages).extend(found)
    return pages[:MAX_SITE_LINKS]


def _entries(answer: Answer) -> tuple[str, list[str]]:
    """The kind of a sitemap and its addresses, as far as it is readable and within the limits."""
    reader = _SitemapReader()
    parser = DefusedXMLParser(target=reader)
    # LookupError: an encoding that does not exist.
    with suppress(ParseError, DefusedXmlException, ValueError, LookupError):
        parser.feed(answer.data)
    return reader.kind, reader.addresses


class _SitemapReader:
    """Collects the addresses in a sitemap while it is parsed."""

    def __init__(self) -> None:
        self.kind = ""
        self.addresses: list[str] = []
        self._depth = 0
        self._text: str | None = None

    def start(self, tag: str, _: object) -> None:
        name = tag.rpartition("}")[2]
        self.kind = self.kind or name
        self._depth += 1
        self._text = "" if name == "loc" else None
        if self._depth > MAX_SITEMAP_DEPTH or len(self.addresses) >= MAX_SITE_LINKS:
            raise ValueError("the rest is not read")

    def data(self, text: str) -> None:
        if self._text is not None and len(self._text) <= MAX_ADDRESS_LENGTH:
            self._text += text

    def end(self, _: str) -> None:
        self._depth -= 1
        if self._text is not None:
            with suppress(AddressError):
                self.addresses.append(web_address(self._text))
        self._text = None
