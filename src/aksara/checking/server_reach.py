"""How style sheets and fonts are reached on the server that a site runs on."""

from __future__ import annotations

from collections.abc import Iterator

from aksara.checking.facts_cache import FactsCache
from aksara.checking.reaching import CheckedSheet, ReachedFile, where_manifests_are
from aksara.checking.urls import file_name, shown_origin
from aksara.limits import MAX_SITE_FONTS
from aksara.site.access.exchanges import Exchanges
from aksara.site.access.fetching import Fetcher, NotFetchedError
from aksara.site.usage import PageUse
from aksara.site.web_addresses import AddressError, web_address
from aksara.sources import printable


class ServerReach:
    """A site on a server. What it names on other hosts is fetched as well, and nothing else there."""

    def __init__(self, origin: str, cache: FactsCache, fetcher: Fetcher, exchanges: Exchanges) -> None:
        """`origin` is where the pages are; `exchanges` are those of reading them, and hear of more."""
        self._origin = origin
        self._cache, self._fetcher, self._exchanges = cache, fetcher, exchanges
        self._known: dict[str, ReachedFile] = {}
        self._manifests: dict[str, bytes | None] = {}

    def sheet(self, page: PageUse, address: str) -> CheckedSheet:
        """See `Reach`."""
        exchange, data = self._exchanges.of(address), self._exchanges.body(address)
        # Responses that do not mention fonts were not kept.
        if data is None:
            return CheckedSheet(address, printable(address), exchange=exchange)
        return CheckedSheet.of(address, address, data, exchange, is_page=address == page.address)

    def font(self, url: str, sheet: CheckedSheet) -> ReachedFile:
        """See `Reach`."""
        try:
            address = web_address(url, sheet.address)
        except AddressError as error:
            return ReachedFile(url, missing=str(error))
        if address not in self._known:
            self._known[address] = self._fetch(address)
        return self._known[address]

    def _fetch(self, address: str) -> ReachedFile:
        if len(self._known) >= MAX_SITE_FONTS or self._fetcher.is_spent:
            return ReachedFile(address, unknown=True, address=address)
        # As browsers do for fonts (Fetch, "CORS protocol"); without it servers may answer otherwise.
        headers = {"Origin": shown_origin(self._origin), "Accept": "*/*"}
        try:
            answer = self._fetcher.get(address, headers=headers)
        except NotFetchedError as error:
            return ReachedFile(address, missing=str(error), address=address, exchange=self._exchanges.of(address))
        facts = self._cache.facts(answer.data, address)
        return ReachedFile(address, facts, address=address, exchange=self._exchanges.of(address))

    def linked(self, href: str, address: str, page: PageUse) -> str | None:
        """See `Reach`."""
        return address

    def is_there(self, address: str) -> bool:
        """See `Reach`."""
        try:
            exchange = self._exchanges.of(web_address(address))
        except AddressError:
            return True
        return exchange is None or not exchange.problem

    def named(self, name: str) -> list[str]:
        """See `Reach`: nobody can list a server's folders; those that other rules name are known."""
        known = [address for address, file in self._known.items() if file.facts]
        return [address for address in known if file_name(address).lower() == name.lower()]

    def manifests(self, font: ReachedFile) -> Iterator[tuple[str, bytes]]:
        """See `Reach`."""
        for address in where_manifests_are(font):
            if address not in self._manifests:
                try:
                    self._manifests[address] = self._fetcher.get(address).data
                except NotFetchedError:
                    self._manifests[address] = None
            data = self._manifests[address]
            if data is not None:
                yield address, data
                return

    def texts_in(self, folder: str) -> Iterator[tuple[str, str]]:
        """See `Reach`: nobody can list a server's folders."""
        yield from ()
