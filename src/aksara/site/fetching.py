"""Fetching from web servers: one request at a time, bounded in bytes and time, redirects followed a few times only."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from dataclasses import dataclass
from types import TracebackType
from typing import Self
from urllib.parse import urljoin, urlsplit

import httpx

from aksara import __version__
from aksara.site.decoding import decode_style_sheet
from aksara.site.pages import SheetMissingError
from aksara.site.servers import origin_of, without_credentials
from aksara.site.stylesheets import StyleSheet, parse_style_sheet

#: Bytes of one answer, and seconds that it may take from first to last.
MAX_ANSWER, MAX_SECONDS = 10_000_000, 30.0
MAX_REDIRECTS = 8
#: Style sheets that are fetched for one site.
MAX_FETCHED_SHEETS = 300
_SILENCE = 10.0


class NotFetchedError(Exception):
    """An address could not be fetched. The message says why, to follow it: "does not answer"."""


@dataclass(slots=True, frozen=True)
class Answer:
    """What a server sent; `address` is where it came from after redirects, `charset` and `language` what it says."""

    address: str
    data: bytes
    media_type: str
    charset: str
    language: str


class Fetcher:
    """Fetches from the site at an address. Its credentials go to its own origin only."""

    def __init__(self, address: str, transport: httpx.BaseTransport | None = None) -> None:
        parts = urlsplit(address)
        self._origin = origin_of(address)
        self._auth = (parts.username or "", parts.password or "") if parts.username else None
        self._client = httpx.Client(
            headers={"User-Agent": f"Aksara/{__version__}", "Accept": "text/html,text/css,*/*;q=0.1"},
            timeout=_SILENCE,
            follow_redirects=False,
            transport=transport,
        )

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._client.close()

    def get(self, address: str, may_follow: Callable[[str], bool] = lambda _: True) -> Answer:
        """What is at an address; `may_follow` says whether a redirect may lead to another.

        Raises `NotFetchedError`.
        """
        address = without_credentials(address)
        for _ in range(MAX_REDIRECTS + 1):
            answer = self._get_once(address)
            if isinstance(answer, Answer):
                return answer
            address = without_credentials(urljoin(address, answer))
            if urlsplit(address).scheme not in ("http", "https"):
                raise NotFetchedError("redirects to what is no web address")
            if not may_follow(address):
                raise NotFetchedError(f"leads to another site, {address}; name that address if it is yours")
        raise NotFetchedError(f"redirects more than {MAX_REDIRECTS} times")

    def _get_once(self, address: str) -> Answer | str:
        """The answer, or where it redirects to."""
        end = time.monotonic() + MAX_SECONDS
        auth = self._auth if origin_of(address) == self._origin else None
        try:
            with self._client.stream("GET", address, auth=auth) as response:
                if response.is_redirect:
                    return str(response.headers.get("location", ""))
                if response.status_code >= 400:
                    raise NotFetchedError(f"answers {response.status_code} {response.reason_phrase}".strip())
                parts, size = [], 0
                for part in response.iter_bytes():
                    size += len(part)
                    if size > MAX_ANSWER:
                        raise NotFetchedError(f"is larger than {MAX_ANSWER / 1e6:g} MB")
                    if time.monotonic() > end:
                        raise NotFetchedError(f"takes longer than {MAX_SECONDS:g} seconds")
                    parts.append(part)
                kind = response.headers.get("content-type", "").partition(";")[0].strip().lower()
                language = response.headers.get("content-language", "").partition(",")[0].strip()
                return Answer(address, b"".join(parts), kind, response.charset_encoding or "", language)
        except (httpx.HTTPError, httpx.InvalidURL, ValueError) as error:
            reason = "does not answer in time" if isinstance(error, httpx.TimeoutException) else "cannot be reached"
            raise NotFetchedError(reason) from error


class FetchedSheets:
    """The style sheets of a site on a server; those from other hosts are fetched as well."""

    def __init__(self, fetcher: Fetcher) -> None:
        self._fetcher = fetcher
        self._read: dict[str, StyleSheet | str] = {}
        self.digests: dict[str, str] = {}

    def sheet(self, reference: str, base: str) -> StyleSheet:
        """The sheet that a reference means. Raises `SheetMissingError` where it cannot be had."""
        try:
            address = without_credentials(urljoin(base, reference))
            scheme = urlsplit(address).scheme
        except ValueError as error:
            raise SheetMissingError("is no address") from error
        if scheme not in ("http", "https"):
            raise SheetMissingError("is no web address")
        if address not in self._read:
            self._read[address] = self._fetch(address)
        found = self._read[address]
        if isinstance(found, str):
            raise SheetMissingError(found)
        return found

    def _fetch(self, address: str) -> StyleSheet | str:
        if len(self._read) >= MAX_FETCHED_SHEETS:
            return f"is one of more than {MAX_FETCHED_SHEETS}"
        try:
            answer = self._fetcher.get(address)
        except NotFetchedError as error:
            return str(error)
        self.digests[address] = hashlib.sha256(answer.data).hexdigest()
        return parse_style_sheet(decode_style_sheet(answer.data, answer.charset), answer.address)
