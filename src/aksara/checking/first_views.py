"""The cost of a first view of a page on a server: requests, bytes, and time until text is in its fonts."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from msgspec import Struct

from aksara.checking.gathering import CheckedSite


class MeasuredView(Struct, frozen=True, kw_only=True):
    """A page, its style sheets and fonts: `requests`, `bytes` as they are sent, of which `font_bytes` are of fonts, and
    about the `seconds` until the last font is there: page, style sheets and fonts are fetched one after the other."""

    page: str
    requests: int
    bytes: int
    font_bytes: int
    seconds: float

    def as_json(self) -> dict[str, Any]:
        """For JSON outputs (docs/checking.md)."""
        return {
            "page": self.page,
            "requests": self.requests,
            "bytes": self.bytes,
            "font_bytes": self.font_bytes,
            "seconds": round(self.seconds, 3),
        }


def weigh_first_views(site: CheckedSite) -> Iterator[MeasuredView]:
    """Those of all pages that came from a server."""
    exchanges = {sheet.address: sheet.exchange for sheet in site.sheets}
    for page in site.use.pages:
        own = site.exchange_of(page)
        if own is None or own.problem:
            continue
        sheets = [
            exchange for address in page.sheets if address != page.address and (exchange := exchanges.get(address))
        ]
        fonts = [file.exchange for file in site.fetched_by(page) if file.exchange is not None]
        steps = [[own], sheets, fonts]
        yield MeasuredView(
            page=page.page,
            requests=sum(len(request.redirects) + 1 for step in steps for request in step),
            bytes=sum(request.transferred for step in steps for request in step),
            font_bytes=sum(font.transferred for font in fonts),
            seconds=sum(max((request.seconds for request in step), default=0.0) for step in steps),
        )
