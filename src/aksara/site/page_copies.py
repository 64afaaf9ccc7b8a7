"""A page whole in itself: its source, and what its style sheets, pictures and fonts are, as data inside of addresses.

Nothing in it is run. It is shown where nothing can be fetched, so that what is not in the copy is not shown.
"""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Iterator, Sequence
from pathlib import Path, PurePosixPath
from typing import Protocol
from urllib.parse import urlsplit

import tinycss2
from msgspec import Struct, field
from tinycss2 import ast

from aksara.errors import InputError
from aksara.limits import MAX_COPIED_FILE, MAX_COPIED_IN_ALL, MAX_IMPORT_DEPTH, MAX_PAGE_SIZE, MAX_VALUE_DEPTH
from aksara.site.access.decoding import decode_page, decode_style_sheet
from aksara.site.access.fetching import Fetcher, NotFetchedError
from aksara.site.access.files import SheetFiles
from aksara.site.css.values import Token, readable, value_text
from aksara.site.page.markup import base_address, is_style_sheet
from aksara.site.page.pages import SheetMissingError
from aksara.site.tree import parse_html
from aksara.site.web_addresses import AddressError, origin_of, web_address
from aksara.sources import printable, read_file, resolved

_PICTURES = {
    ".png": "image/png", ".jpg": "image/jpeg", ".jpeg": "image/jpeg", ".gif": "image/gif", ".webp": "image/webp",
    ".avif": "image/avif", ".svg": "image/svg+xml",
}  # fmt: skip
#: The formats of a face's sources that are copied, best first.
_FONTS = {".woff2": "font/woff2", ".woff": "font/woff", ".ttf": "font/ttf", ".otf": "font/otf"}
#: Stands for what is not in the copy.
_NOTHING = "data:,"


class PageCopy(Struct, frozen=True):
    """A page and what belongs to it. Addresses are as the page writes them."""

    address: str
    source: str
    #: Address of a style sheet → its text, with what it imports in place and addresses as data.
    sheets: dict[str, str] = field(default_factory=dict)
    #: The texts of the page's `style` elements, in their order, with addresses as data.
    styles: tuple[str, ...] = ()
    #: Address of a picture → the same as data.
    pictures: dict[str, str] = field(default_factory=dict)
    #: What is on other hosts, missing or too large.
    left_out: tuple[str, ...] = ()


class Surroundings(Protocol):
    """The source of what a page refers to."""

    def read(self, reference: str, base: str) -> tuple[bytes, str, str]:
        """The bytes that a reference means, their address and their charset ("" for unknown). Raises
        `SheetMissingError`."""
        ...


class _Folder:
    """A page in a folder; nothing outside of the site's folder is read."""

    def __init__(self, root: Path) -> None:
        self._files = SheetFiles(root)

    def read(self, reference: str, base: str) -> tuple[bytes, str, str]:
        path = self._files.resolve(reference, base)
        try:
            return read_file(path, limit=MAX_PAGE_SIZE), path.as_uri(), ""
        except InputError as error:
            raise SheetMissingError("cannot be read") from error


class _Server:
    """A page of a running site; only what has its origin is fetched."""

    def __init__(self, fetcher: Fetcher, origin: str) -> None:
        self._fetcher, self._origin = fetcher, origin

    def read(self, reference: str, base: str) -> tuple[bytes, str, str]:
        try:
            address = web_address(reference, base)
            if not self._is_own(address):
                raise SheetMissingError("is on another host")
            answer = self._fetcher.get(address, self._is_own)
        except (AddressError, NotFetchedError) as error:
            raise SheetMissingError(str(error)) from error
        return answer.data, answer.address, answer.charset

    def _is_own(self, address: str) -> bool:
        return origin_of(address) == self._origin


def copy_page(page: Path, root: Path | None = None) -> PageCopy:
    """The copy of a page in a folder; `root` is that of its site, by default the one that it is in. Raises `InputError`
    for a page that cannot be read."""
    source = decode_page(read_file(page, limit=MAX_PAGE_SIZE))
    return _Copier(_Folder(root or page.parent)).copy(source, resolved(page).as_uri(), printable(page.as_posix()))


def copy_served_page(address: str) -> PageCopy:
    """The copy of a page of a running site. Raises `InputError` for one that cannot be had."""
    with Fetcher(address) as fetcher:
        try:
            answer = fetcher.get(address)
        except NotFetchedError as error:
            raise InputError(f"{address}: {error}") from error
        surroundings = _Server(fetcher, origin_of(answer.address))
        return _Copier(surroundings).copy(decode_page(answer.data, answer.charset), answer.address, answer.address)


class _Copier:
    """Copies one page; the size of embedded files is limited."""

    def __init__(self, surroundings: Surroundings) -> None:
        self._surroundings = surroundings
        self._left = MAX_COPIED_IN_ALL
        self._data: dict[tuple[str, str], str] = {}
        self._left_out: dict[str, None] = {}

    def copy(self, source: str, address: str, name: str) -> PageCopy:
        document = parse_html(source)
        base = base_address(document, address)
        sheets: dict[str, str] = {}
        styles: list[str] = []
        pictures: dict[str, str] = {}
        for element in document.root.everything():
            if element.tag == "link" and is_style_sheet(element):
                href = element.attributes["href"]
                sheets.setdefault(href, self._sheet(href, base, 0))
            elif element.tag == "style":
                styles.append(self._rules(element.text, base, 0))
            elif element.tag == "img" and (src := element.attributes.get("src", "")):
                pictures[src] = self._as_data(src, base, _PICTURES)
        return PageCopy(name, source, sheets, tuple(styles), pictures, tuple(self._left_out))

    def _sheet(self, reference: str, base: str, depth: int) -> str:
        """The text of a style sheet; "" for one that cannot be had."""
        try:
            data, address, charset = self._surroundings.read(reference, base)
        except SheetMissingError:
            self._left_out.setdefault(reference)
            return ""
        return self._rules(decode_style_sheet(data, charset), address, depth)

    def _rules(self, text: str, base: str, depth: int) -> str:
        """The rules of a style sheet, with imports in place."""
        found = []
        try:
            for rule in tinycss2.parse_stylesheet(readable(text), skip_comments=True, skip_whitespace=True):
                if isinstance(rule, ast.AtRule) and rule.lower_at_keyword == "import":
                    found.append(self._imported(rule, base, depth))
                    continue
                if isinstance(rule, ast.AtRule) and rule.lower_at_keyword == "font-face":
                    self._keep_one_source(rule, base)
                elif isinstance(rule, ast.AtRule | ast.QualifiedRule):
                    self._replace_addresses(rule.content or (), base, 0)
                found.append(rule.serialize())
        except RecursionError:
            self._left_out.setdefault(base)
        return "\n".join(found)

    def _imported(self, rule: ast.AtRule, base: str, depth: int) -> str:
        tokens = [token for token in rule.prelude if token.type != "whitespace"]
        reference = _address_of(tokens[0]) if tokens else ""
        if not reference or depth >= MAX_IMPORT_DEPTH:
            return ""
        text, media = self._sheet(reference, base, depth + 1), tokens[1:]
        if media and media[0].type == "function" and media[0].lower_name in ("layer", "supports"):
            name = value_text(media[0].arguments)
            text = f"@{media[0].lower_name} {name if media[0].lower_name == 'layer' else f'({name})'} {{{text}}}"
            media = media[1:]
        return f"@media {value_text(media)} {{{text}}}" if media else text

    def _keep_one_source(self, rule: ast.AtRule, base: str) -> None:
        """Leave the best of a face's files that can be had, as data."""
        addresses = list(_addresses(rule.content or (), 0))
        by_suffix = {_suffix(_address_of(token)): _address_of(token) for token in reversed(addresses)}
        data = next(
            (self._as_data(by_suffix[suffix], base, _FONTS) for suffix in _FONTS if suffix in by_suffix), _NOTHING
        )
        for token in addresses:
            _write(token, data)

    def _replace_addresses(self, tokens: Sequence[Token], base: str, depth: int) -> None:
        for token in _addresses(tokens, depth):
            _write(token, self._as_data(_address_of(token), base, _PICTURES))

    def _as_data(self, reference: str, base: str, types: dict[str, str]) -> str:
        """A file as a `data:` address; of what cannot be had, or has no type of these, one that holds nothing."""
        if reference.startswith("data:"):
            return reference if len(reference) <= 2 * MAX_COPIED_FILE else _NOTHING
        key = (reference, base)
        if key not in self._data:
            self._data[key] = self._read_as_data(reference, base, types.get(_suffix(reference), ""))
        return self._data[key]

    def _read_as_data(self, reference: str, base: str, media_type: str) -> str:
        try:
            data = self._surroundings.read(reference, base)[0] if media_type else b""
        except SheetMissingError:
            data = b""
        if not data or len(data) > min(MAX_COPIED_FILE, self._left):
            self._left_out.setdefault(reference)
            return _NOTHING
        self._left -= len(data)
        return f"data:{media_type};base64,{b64encode(data).decode()}"


def _suffix(reference: str) -> str:
    try:
        return PurePosixPath(urlsplit(reference).path).suffix.lower()
    except ValueError:
        return ""


_Address = ast.URLToken | ast.StringToken


def _addresses(tokens: Sequence[Token], depth: int) -> Iterator[_Address]:
    """The addresses among these tokens, as tokens that can be changed."""
    if depth > MAX_VALUE_DEPTH:
        return
    for token in tokens:
        if token.type == "url":
            yield token
        elif token.type == "function" and token.lower_name in ("url", "src"):
            yield from (inner for inner in token.arguments if inner.type == "string")
        elif token.type == "function":
            yield from _addresses(token.arguments, depth + 1)
        elif token.type in ("() block", "[] block", "{} block"):
            yield from _addresses(token.content, depth + 1)


def _address_of(token: Token) -> str:
    if token.type in ("url", "string"):
        return token.value
    inner = (
        next((argument for argument in token.arguments if argument.type == "string"), None)
        if token.type == "function"
        else None
    )
    return inner.value if inner is not None else ""


def _write(token: _Address, address: str) -> None:
    """Put an address, which has no quotes in it, in place of another."""
    token.value = address
    token.representation = f'url("{address}")' if token.type == "url" else f'"{address}"'
