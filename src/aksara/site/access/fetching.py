"""Fetching from web servers: one request at a time, bounded in bytes and time, redirects followed a few times only.

What one site may cost in all is counted with its `Exchanges`.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from http import HTTPStatus
from threading import Event, Timer
from types import MappingProxyType, TracebackType
from typing import Self
from urllib.parse import urlsplit

import httpx
from msgspec import Struct

from aksara import __version__
from aksara.limits import MAX_ANSWER_SECONDS, MAX_ANSWER_SIZE, MAX_COOKIES, MAX_REDIRECTS, MAX_SITE_SHEETS
from aksara.site.access.decoding import decode_style_sheet
from aksara.site.access.exchanges import Exchange, Exchanges, kept_headers
from aksara.site.access.unpacking import ACCEPTED, UnpackingError, unpacked
from aksara.site.css.stylesheets import StyleSheet, parse_style_sheet
from aksara.site.page.pages import SheetMissingError
from aksara.site.web_addresses import AddressError, origin_of, web_address

#: Seconds without a byte.
_SILENCE = 10.0
_TOO_LONG = "takes longer than {:g} seconds"
#: What goes wrong between a server and us, a connection that was closed at last included.
_FAILURES = (httpx.HTTPError, httpx.InvalidURL, httpx.StreamError, ValueError, OSError, RuntimeError)
_REASONS = {status.value: status.phrase for status in HTTPStatus}


class NotFetchedError(Exception):
    """An address could not be fetched. The message says why, to follow it: "does not answer"."""


class Answer(Struct, frozen=True):
    """A server's response; `address` is its address after redirects, `charset` and `language` come from its headers."""

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
    """Fetches from the site at an address. Credentials go to its own origin only; `exchanges` records everything."""

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
            headers={
                "User-Agent": f"Aksara/{__version__}",
                "Accept": "text/html,text/css,*/*;q=0.1",
                "Accept-Encoding": ACCEPTED,
            },
            timeout=_SILENCE,
            follow_redirects=False,
            transport=self._transport,
        )

    @contextmanager
    def _bounded(self) -> Iterator[None]:
        """Requests in this block end in time, even if a server sends its headers byte by byte."""
        late = Event()

        def end() -> None:
            late.set()
            self._client.close()

        timer = Timer(MAX_ANSWER_SECONDS, end)
        timer.daemon = True
        timer.start()
        try:
            yield
        except _FAILURES as error:
            raise NotFetchedError(_TOO_LONG.format(MAX_ANSWER_SECONDS) if late.is_set() else _reason(error)) from error
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

    @property
    def is_spent(self) -> bool:
        """Whether the limit of requests is reached."""
        return bool(self._exchanges.why_spent)

    def get(
        self,
        address: str,
        may_follow: Callable[[str], bool] = lambda _: True,
        headers: Mapping[str, str] = MappingProxyType({}),
    ) -> Answer:
        """Fetch an address; `may_follow` decides whether a redirect is followed.

        Raises `NotFetchedError`.
        """
        try:
            target = address = web_address(address)
        except AddressError as error:
            raise NotFetchedError(str(error)) from error
        start = time.monotonic()
        redirects: list[tuple[int, str]] = []
        last: _Response | None = None
        problem, data = "", b""
        try:
            for _ in range(MAX_REDIRECTS + 1):
                last = None
                last = self._get_once(target, headers)
                if last.status >= 400:
                    raise NotFetchedError(f"answers {last.status} {_REASONS.get(last.status, '')}".strip())
                if not last.location:
                    data = last.answer.data
                    return last.answer
                target = _led_to(target, last.location, may_follow)
                redirects.append((last.status, target))
            raise NotFetchedError(f"redirects more than {MAX_REDIRECTS} times")
        except NotFetchedError as error:
            problem = str(error)
            raise
        finally:
            exchange = Exchange(
                address=address,
                redirects=tuple(redirects),
                final=target,
                status=last.status if last is not None else 0,
                headers=last.headers if last is not None else {},
                transferred=last.transferred if last is not None else 0,
                seconds=time.monotonic() - start,
                problem=problem,
            )
            self._exchanges.note(exchange, data)

    def _get_once(self, address: str, headers: Mapping[str, str]) -> _Response:
        if why := self._exchanges.why_spent:
            raise NotFetchedError(why)
        self._exchanges.count_request()
        end = time.monotonic() + MAX_ANSWER_SECONDS
        auth = self._auth if origin_of(address) == self._origin else None
        if len(self._client.cookies) > MAX_COOKIES:
            self._client.cookies.clear()
        with self._bounded(), self._client.stream("GET", address, auth=auth, headers=dict(headers)) as response:
            parts, size = [], 0
            goes_on = response.is_redirect or response.status_code >= 400
            # As it comes: httpx would unpack it whole, however much that is.
            for part in () if goes_on else response.iter_raw():
                size += len(part)
                if size > MAX_ANSWER_SIZE:
                    raise NotFetchedError(f"is larger than {MAX_ANSWER_SIZE / 1e6:g} MB")
                if time.monotonic() > end:
                    raise NotFetchedError(_TOO_LONG.format(MAX_ANSWER_SECONDS))
                parts.append(part)
            try:
                data = unpacked(b"".join(parts), response.headers.get("content-encoding", ""), MAX_ANSWER_SIZE)
            except UnpackingError as error:
                raise NotFetchedError(str(error)) from error
            kind = response.headers.get("content-type", "").partition(";")[0].strip().lower()
            language = response.headers.get("content-language", "").partition(",")[0].strip()
            answer = Answer(address, data, kind, response.charset_encoding or "", language)
            location = str(response.headers.get("location", "")) if response.is_redirect else ""
            seen = kept_headers(response.headers)
            return _Response(response.status_code, seen, location, answer, response.num_bytes_downloaded)


def _led_to(place: str, location: str, may_follow: Callable[[str], bool]) -> str:
    """Where a redirect leads. Raises `NotFetchedError` where it must not be followed."""
    try:
        target = web_address(location, place)
    except AddressError as error:
        raise NotFetchedError(f"redirects to what {error}") from error
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

    def sheet(self, reference: str, base: str) -> StyleSheet:
        """The sheet that a reference means. Raises `SheetMissingError` where it cannot be had."""
        try:
            address = web_address(reference, base)
        except AddressError as error:
            raise SheetMissingError(str(error)) from error
        if address not in self._read:
            self._read[address] = self._fetch(address)
        known = self._read[address]
        if isinstance(known, str):
            raise SheetMissingError(known)
        return known

    def _fetch(self, address: str) -> StyleSheet | str:
        if len(self._read) >= MAX_SITE_SHEETS:
            return f"is one of more than {MAX_SITE_SHEETS}"
        try:
            answer = self._fetcher.get(address)
        except NotFetchedError as error:
            return str(error)
        return parse_style_sheet(decode_style_sheet(answer.data, answer.charset), answer.address)
