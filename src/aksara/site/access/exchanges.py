"""Responses of servers: each requested address with redirects, headers, bytes and time."""

from __future__ import annotations

import time
from collections.abc import Mapping

from msgspec import Struct, field

from aksara.limits import MAX_HEADER_LENGTH, MAX_HEADERS, MAX_KEPT_ANSWERS, MAX_SITE_REQUESTS, MAX_SITE_SECONDS

_OF_FONTS = (b"@font-face", b"font-family")


class Exchange(Struct, frozen=True, kw_only=True, eq=False):
    """A requested address and its response.

    `redirects` are the answers on the way, each its status and where it led; `final` is where the last answer came
    from, with its `status` (0: none came) and `headers` (names in small letters). `transferred` is its bytes as they
    were sent, `seconds` the time of all together; `problem` why nothing could be had, "" where it could.
    """

    address: str
    redirects: tuple[tuple[int, str], ...] = ()
    final: str = ""
    status: int = 0
    headers: Mapping[str, str] = field(default_factory=dict)
    transferred: int = 0
    seconds: float = 0.0
    problem: str = ""


class Exchanges:
    """All responses of a run by requested address, and the requests left (`MAX_SITE_REQUESTS`). Bytes are
    kept of answers that speak of fonts."""

    def __init__(self) -> None:
        self._end = time.monotonic() + MAX_SITE_SECONDS
        self._requests = 0
        self._known: dict[str, Exchange] = {}
        self._bodies: dict[str, bytes] = {}
        self._kept = 0

    def count_request(self) -> None:
        """Count a request before it is sent."""
        self._requests += 1

    @property
    def why_spent(self) -> str:
        """Why no more requests may be sent; "" while they may."""
        if self._requests >= MAX_SITE_REQUESTS:
            return f"was not asked for, after {MAX_SITE_REQUESTS:,} requests"
        if time.monotonic() > self._end:
            return f"was not asked for, after {MAX_SITE_SECONDS / 60:g} minutes"
        return ""

    def note(self, exchange: Exchange, data: bytes = b"") -> None:
        """Take note of an exchange, and of the bytes that it brought."""
        self._known[exchange.address] = exchange
        if any(word in data.lower() for word in _OF_FONTS) and self._kept + len(data) <= MAX_KEPT_ANSWERS:
            self._kept += len(data)
            self._bodies[exchange.final] = data

    def of(self, address: str) -> Exchange | None:
        """The exchange that requested an address, or was redirected to it."""
        known = self._known.get(address)
        return known or next((exchange for exchange in self._known.values() if exchange.final == address), None)

    def body(self, address: str) -> bytes | None:
        """The bytes from an address, if they mention fonts."""
        return self._bodies.get(address)


def kept_headers(headers: Mapping[str, str]) -> dict[str, str]:
    """Headers with their names in small letters, bounded: a server may send any number of them, of any length."""
    listed = list(headers.items())[:MAX_HEADERS]
    return {name.lower()[:MAX_HEADER_LENGTH]: value[:MAX_HEADER_LENGTH] for name, value in listed}
