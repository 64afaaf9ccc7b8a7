"""The meaning of a page's elements and attributes, regardless of styles."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from urllib.parse import urljoin

from aksara.limits import MAX_FRAMES, MAX_PAGE_CLASSES
from aksara.site.tree import Document, Element
from aksara.site.usage import PreloadLink
from aksara.site.web_addresses import host_of

_FONT_NAME = re.compile(r"\.(?:woff2?|ttf|otf|eot)(?:[?#]|$)", re.IGNORECASE)
_VARIABLE = re.compile(r"var\(\s*(--[^\s,)]{1,200})")


def preload_links(document: Document, base: str) -> Iterator[PreloadLink]:
    """The links that preload fonts, or would if they had the right `as` (HTML, "preload")."""
    for element in document.elements:
        words = element.attributes.get("rel", "").lower().split()
        if element.tag != "link" or "preload" not in words:
            continue
        href = element.attributes.get("href", "").strip()
        kind = element.attributes.get("as", "").strip().lower()
        if not href or (kind != "font" and not _FONT_NAME.search(href)):
            continue
        try:
            address = urljoin(base, href)
        except ValueError:
            address = ""
        yield PreloadLink(
            document.line_of(element),
            href,
            address,
            kind,
            element.attributes.get("type", "").strip().lower(),
            "crossorigin" in element.attributes,
        )


def canonical_address(document: Document) -> str:
    """The address that a page says it has (RFC 6596)."""
    for element in document.elements:
        if element.tag == "link" and "canonical" in element.attributes.get("rel", "").lower().split():
            href = element.attributes.get("href", "").strip()
            return href if host_of(href) else ""
    return ""


def used_in_attributes(elements: Sequence[Element]) -> frozenset[str]:
    """The custom properties that `style` attributes refer to; those in their own values as well."""
    texts = (element.attributes.get("style", "") for element in elements)
    return frozenset(match[1] for text in texts if "var(" in text for match in _VARIABLE.finditer(text))


def classes_of(elements: Iterable[Element]) -> frozenset[str]:
    """The classes of all elements, up to a number that no page needs."""
    found: set[str] = set()
    for element in elements:
        found.update(element.attributes.get("class", "").split())
        if len(found) > MAX_PAGE_CLASSES:
            break
    return frozenset(found)


def framed_pages(elements: Iterable[Element]) -> list[str]:
    """The pages inside frames (HTML, "srcdoc")."""
    frames = (element for element in elements if element.tag == "iframe" and "srcdoc" in element.attributes)
    return [element.attributes["srcdoc"] for element in frames][:MAX_FRAMES]


def is_css(element: Element) -> bool:
    """Whether a `style` or `link` element holds CSS."""
    return element.attributes.get("type", "").strip().lower() in ("", "text/css")


def is_style_sheet(element: Element) -> bool:
    """Whether a `link` is a style sheet that applies; alternate ones do only when a reader chooses them."""
    words = element.attributes.get("rel", "").lower().split()
    if "stylesheet" not in words or not element.attributes.get("href", "").strip() or not is_css(element):
        return False
    return "alternate" not in words and "disabled" not in element.attributes


def base_address(document: Document, address: str) -> str:
    """The base address of the page's references.

    A base that counts from the root of a server is ignored in files; `rooted` puts it into each reference instead.
    """
    href = _base_of(document)
    if href and not _is_from_root(href, address):
        try:
            return urljoin(address, href)
        except ValueError:
            return address
    return address


def rooted(document: Document, address: str, reference: str) -> str:
    """A reference resolved against the root of the server, if the page says so: built apps have `<base href="/">`."""
    href = _base_of(document)
    if not _is_from_root(href, address):
        return reference
    try:
        return urljoin(href, reference.strip())
    except ValueError:
        return reference


def _base_of(document: Document) -> str:
    bases = (element.attributes.get("href", "").strip() for element in document.elements if element.tag == "base")
    return next(filter(None, bases), "")


def _is_from_root(href: str, address: str) -> bool:
    return href.startswith("/") and not href.startswith("//") and address.startswith("file:")


def declared_language(elements: Sequence[Element]) -> str:
    """The language that a `meta` element says, for what says none itself."""
    for element in elements:
        if element.tag == "meta" and element.attributes.get("http-equiv", "").lower() == "content-language":
            return element.attributes.get("content", "").split(",")[0].strip()
    return ""
