"""Fetching from web servers: one request at a time, bounded in bytes and time, redirects followed a few times only."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from http import HTTPStatus
from threading import Event, Timer
from types import MappingProxyType, TracebackType
from typing import Self
from urllib.parse import urljoin, urlsplit

import httpx
from msgspec import Struct

from aksara import __version__
from aksara.site.decoding import decode_style_sheet
from aksara.site.exchanges import Exchange, Exchanges
from aksara.site.pages import SheetMissingError
from aksara.site.servers import origin_of, without_credentials
from aksara.site.stylesheets import StyleSheet, parse_style_sheet

#: Bytes of one answer, and seconds that it may take from first to last.
MAX_ANSWER, MAX_SECONDS = 10_000_000, 30.0
MAX_REDIRECTS = 8
#: Style sheets that are fetched for one site.
MAX_FETCHED_SHEETS = 300
_SILENCE = 10.0
_TOO_LONG = "takes longer than {:g} seconds"
#: What goes wrong between a server and us, a connection that was closed at last included.
_FAILURES = (httpx.HTTPError, httpx.InvalidURL, httpx.StreamError, ValueError, OSError, RuntimeError)
_REASONS = {status.value: status.phrase for status in HTTPStatus}


class NotFetchedError(Exception):
    """An address could not be fetched. The message says why, to follow it: "does not answer"."""


class Answer(Struct, frozen=True):
    """What a server sent; `address` is where it came from after redirects, `charset` and `language` what it says."""

    address: str
    data: bytes
    media_type: str
    charset: str
    language: str


class _Response(Struct, frozen=True):
    """One answer of a server, as it came: without following where it leads (`location`)."""

    status: int
    headers: Mapping[str, str]
    location: str
    answer: Answer
    transferred: int


class Fetcher:
    """Fetches from the site at an address. Its credentials go to its own origin only. `exchanges` hears of all."""

    def __init__(
        self, address: str, transport: httpx.BaseTransport | None = None, exchanges: Exchanges | None = None
    ) -> None:
        parts = urlsplit(address)
        self._origin = origin_of(address)
        self._auth = (parts.username or "", parts.password or "") if parts.username else None
        self._exchanges = exchanges or Exchanges()
        self._transport = transport
        self._client = self._new_client()

    def _new_client(self) -> httpx.Client:
        return httpx.Client(
            headers={"User-Agent": f"Aksara/{__version__}", "Accept": "text/html,text/css,*/*;q=0.1"},
            timeout=_SILENCE,
            follow_redirects=False,
            transport=self._transport,
        )

    @contextmanager
    def _bounded(self) -> Iterator[None]:
        """What is asked for inside ends in time, also where a server sends a byte of a header now and then."""
        late = Event()

        def end() -> None:
            late.set()
            self._client.close()

        timer = Timer(MAX_SECONDS, end)
        timer.daemon = True
        timer.start()
        try:
            yield
        except _FAILURES as error:
            raise NotFetchedError(_TOO_LONG.format(MAX_SECONDS) if late.is_set() else _reason(error)) from error
        finally:
            timer.cancel()
            if self._client.is_closed:
                self._client = self._new_client()

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._client.close()

    def get(
        self,
        address: str,
        may_follow: Callable[[str], bool] = lambda _: True,
        headers: Mapping[str, str] = MappingProxyType({}),
    ) -> Answer:
        """What is at an address; `may_follow` says whether a redirect may lead to another.

        Raises `NotFetchedError`.
        """
        place = address = without_credentials(address)
        start = time.monotonic()
        redirects: list[tuple[int, str]] = []
        last: _Response | None = None
        problem, data = "", b""
        try:
            for _ in range(MAX_REDIRECTS + 1):
                last = None
                last = self._get_once(place, headers)
                if last.status >= 400:
                    raise NotFetchedError(f"answers {last.status} {_REASONS.get(last.status, '')}".strip())
                if not last.location:
                    data = last.answer.data
                    return last.answer
                place = _led_to(place, last.location, may_follow)
                redirects.append((last.status, place))
            raise NotFetchedError(f"redirects more than {MAX_REDIRECTS} times")
        except NotFetchedError as error:
            problem = str(error)
            raise
        finally:
            exchange = Exchange(
                address=address,
                redirects=tuple(redirects),
                final=place,
                status=last.status if last is not None else 0,
                headers=last.headers if last is not None else {},
                transferred=last.transferred if last is not None else 0,
                seconds=time.monotonic() - start,
                problem=problem,
            )
            self._exchanges.note(exchange, data)

    def _get_once(self, address: str, headers: Mapping[str, str]) -> _Response:
        end = time.monotonic() + MAX_SECONDS
        auth = self._auth if origin_of(address) == self._origin else None
        with self._bounded(), self._client.stream("GET", address, auth=auth, headers=dict(headers)) as response:
            parts, size = [], 0
            goes_on = response.is_redirect or response.status_code >= 400
            for part in () if goes_on else response.iter_bytes():
                size += len(part)
                if size > MAX_ANSWER:
                    raise NotFetchedError(f"is larger than {MAX_ANSWER / 1e6:g} MB")
                if time.monotonic() > end:
                    raise NotFetchedError(_TOO_LONG.format(MAX_SECONDS))
                parts.append(part)
            kind = response.headers.get("content-type", "").partition(";")[0].strip().lower()
            language = response.headers.get("content-language", "").partition(",")[0].strip()
            answer = Answer(address, b"".join(parts), kind, response.charset_encoding or "", language)
            location = str(response.headers.get("location", "")) if response.is_redirect else ""
            seen = {name.lower(): value for name, value in response.headers.items()}
            return _Response(response.status_code, seen, location, answer, response.num_bytes_downloaded)


def _led_to(place: str, location: str, may_follow: Callable[[str], bool]) -> str:
    """Where a redirect leads. Raises `NotFetchedError` where it must not be followed."""
    try:
        target = without_credentials(urljoin(place, location))
        scheme = urlsplit(target).scheme
    except ValueError as error:
        raise NotFetchedError("redirects to what is no address") from error
    if scheme not in ("http", "https"):
        raise NotFetchedError("redirects to what is no web address")
    if not may_follow(target):
        raise NotFetchedError(f"leads to another site, {target}; name that address if it is yours")
    return target


def _reason(error: Exception) -> str:
    if isinstance(error, httpx.TimeoutException):
        return "does not answer in time"
    if isinstance(error, httpx.RemoteProtocolError):
        return "ends before all of it has come, or breaks the protocol"
    if "CERTIFICATE_VERIFY_FAILED" in str(error):
        return "has a certificate that browsers do not trust"
    return "cannot be reached"


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
