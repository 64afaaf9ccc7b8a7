"""Findings about how a server sends style sheets and fonts: redirects, types, who may use them, how long they hold."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import urlsplit

from aksara.checking.findings import Finding, Place, finding
from aksara.checking.gathering import CheckedRule, CheckedSite
from aksara.checking.reaching import CheckedSheet, ReachedFile
from aksara.checking.urls import file_name, same_origin, shown_origin
from aksara.phrases import count_of
from aksara.site.access.exchanges import Exchange
from aksara.site.web_addresses import origin_of

_DAY = 86_400
#: Seconds for which a font whose name has its hash should be kept, and for which other files may be.
_LONG, _SHORT = 30 * _DAY, _DAY
#: A name with the hash of its file, or an address with a version.
_HASHED = re.compile(
    r"[.\-_~](?=[0-9a-f]*[0-9])[0-9a-f]{8,64}(?=[.\-_]|$)|[?&][a-z]*v[a-z]*=|[?&][0-9a-f]{8,}$", re.IGNORECASE
)
_FONT_TYPE = re.compile(r"(font/|application/(x-)?font-|application/vnd\.ms-(fontobject|opentype)).*")
#: A style sheet smaller than one packet gains nothing by compression.
_PACKET = 1_400


def server_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    for sheet in site.sheets:
        if sheet.exchange is not None:
            yield from _sheet(site, sheet, sheet.exchange)
    seen: set[str] = set()
    for rule in site.rules:
        for _, file in rule.sources:
            if file.exchange is None or file.exchange.problem or file.address in seen:
                continue
            seen.add(file.address)
            yield from _allowed(site, rule, file.exchange)
            yield from _redirected(file.exchange, rule.place("src"), "the font")
            yield from _font_type(file, file.exchange)
            yield from _font_kept(file, file.exchange)
            yield from _compressed_twice(file, file.exchange)
    yield from _stale(site)
    yield from _old_build(site)
    yield from _pages(site)


def _pages(site: CheckedSite) -> Iterator[Finding]:
    """Pages that could not be read."""
    for page in site.use.pages:
        if page.problems and not page.faces and not page.root:
            yield finding("page-unread", Place(page.page), page=page.page, problem=page.problems[0])


def _sheet(site: CheckedSite, sheet: CheckedSheet, exchange: Exchange) -> Iterator[Finding]:
    if any(page.address == sheet.address for page in site.use.pages):
        return
    yield from _redirected(exchange, Place(sheet.shown), "the style sheet")
    kind = _media_type(exchange)
    if kind != "text/css":
        case = "page" if kind == "text/html" else ""
        yield finding("sheet-type-wrong", Place(sheet.shown), case, type=kind or "nothing in particular")
    age = _age(exchange)
    if sheet.rules and age is not None and age > _SHORT and not _is_hashed(sheet.address):
        yield finding("sheet-kept-long", Place(sheet.shown), time=_time(age))
    if exchange.transferred > _PACKET and not exchange.headers.get("content-encoding"):
        yield finding("sheet-uncompressed", Place(sheet.shown), size=exchange.transferred)


def _redirected(exchange: Exchange, place: Place, what: str) -> Iterator[Finding]:
    if exchange.redirects:
        status, target = exchange.redirects[-1]
        count = count_of(len(exchange.redirects), "more answer")
        yield finding(
            "address-redirected", place, address=exchange.address, status=status, target=target, count=count, what=what
        )


def _allowed(site: CheckedSite, rule: CheckedRule, exchange: Exchange) -> Iterator[Finding]:
    """Fonts from elsewhere that the server does not give to pages of this site (Fetch, "CORS check")."""
    pages = [page.address for page in site.use.pages if rule.sheet.address in page.sheets]
    foreign = [page for page in pages if not same_origin(page, exchange.final)]
    if not foreign:
        return
    origin = shown_origin(origin_of(foreign[0]))
    allowed = exchange.headers.get("access-control-allow-origin", "").strip()
    if allowed not in ("*", origin):
        said = f"only for {allowed}" if allowed else "for no other site"
        yield finding(
            "font-not-allowed",
            rule.place("src"),
            page=foreign[0],
            family=rule.rule.family,
            address=exchange.final,
            allowed=said,
            origin=origin,
        )


def _font_type(file: ReachedFile, exchange: Exchange) -> Iterator[Finding]:
    kind = _media_type(exchange)
    if file.facts is None or file.facts.problem or _FONT_TYPE.fullmatch(kind):
        return
    right = {"woff2": "font/woff2", "woff": "font/woff", "collection": "font/collection"}.get(
        file.facts.container, "font/otf" if file.shown.lower().endswith(".otf") else "font/ttf"
    )
    generic = kind in ("", "application/octet-stream", "binary/octet-stream")
    case = "generic" if generic else ""
    yield finding("font-type-wrong", Place(file.shown), case, type=kind or "nothing in particular", right=right)


def _font_kept(file: ReachedFile, exchange: Exchange) -> Iterator[Finding]:
    age, hashed = _age(exchange), _is_hashed(file.address)
    if age is not None and age >= (_LONG if hashed else _SHORT):
        if not hashed and age > _LONG:
            yield finding("font-kept-under-name", Place(file.shown), time=_time(age))
        return
    said = "does not say how long it may be kept" if age is None else f"lets browsers keep it for {_time(age)} only"
    once = "" if hashed else ", once its name has its hash"
    yield finding("font-kept-shortly", Place(file.shown), said=said, once=once)


def _compressed_twice(file: ReachedFile, exchange: Exchange) -> Iterator[Finding]:
    encoding = exchange.headers.get("content-encoding", "").strip().lower()
    if encoding not in ("", "identity") and file.facts is not None and file.facts.container in ("woff2", "woff"):
        yield finding("font-compressed-twice", Place(file.shown), encoding=encoding)


def _stale(site: CheckedSite) -> Iterator[Finding]:
    """Files of one name and other bytes."""
    known: dict[str, ReachedFile] = {}
    for rule in site.rules:
        for _, file in rule.sources:
            if file.exchange is None or file.facts is None or file.facts.problem:
                continue
            other = known.setdefault(file_name(file.address), file)
            if other.facts is not None and other.facts.sha256 != file.facts.sha256:
                known[file_name(file.address)] = file
                yield finding("stale-copy", Place(file.shown), "two", other=other.shown)


def _old_build(site: CheckedSite) -> Iterator[Finding]:
    """Style sheets and fonts that are not those of the project's last build."""
    made = site.last_build
    if made is None:
        return
    served = {
        (sheet.shown, file_name(sheet.address), sheet.sha256) for sheet in site.sheets if sheet.exchange is not None
    }
    digests = {file_name(address): digest for address, digest in made.digests.items()}
    # Of rules in a style sheet of the user's the rest is not known.
    digests |= {file_name(made.sheet): made.sheet_digest} if not made.is_kept else {}
    served |= {
        (file.shown, file_name(file.address), file.facts.sha256)
        for rule in site.rules
        for _, file in rule.sources
        if file.exchange is not None and file.facts is not None
    }
    for shown, name, digest in sorted(served):
        if digest and digests.get(name, digest) != digest:
            yield finding("stale-copy", Place(shown))


def _media_type(exchange: Exchange) -> str:
    return exchange.headers.get("content-type", "").partition(";")[0].strip().lower()


def _age(exchange: Exchange) -> int | None:
    """Seconds for which an answer may be used again without asking (RFC 9111, section 4.2); None where it says none."""
    said = exchange.headers.get("cache-control", "").lower()
    words = [word.strip() for word in said.split(",")]
    if "no-store" in words or "no-cache" in words:
        return 0
    for word in words:
        name, _, value = word.partition("=")
        if name == "max-age" and (seconds := value.strip('"')).isascii() and seconds.isdecimal():
            return int(seconds[:12])
    return _until_expiry(exchange)


def _until_expiry(exchange: Exchange) -> int | None:
    from email.utils import parsedate_to_datetime  # only needed here

    try:
        expires, sent = (parsedate_to_datetime(exchange.headers[name]) for name in ("expires", "date"))
        return max(int((expires - sent).total_seconds()), 0)
    except KeyError:
        return None
    except (TypeError, ValueError, OverflowError):
        return 0


def _is_hashed(address: str) -> bool:
    parts = urlsplit(address)
    return bool(_HASHED.search(parts.path.rpartition("/")[2] + (f"?{parts.query}" if parts.query else "")))


def _time(seconds: int) -> str:
    for size, name in ((_DAY, "day"), (3_600, "hour"), (60, "minute")):
        if seconds >= size:
            return count_of(seconds // size, name)
    return count_of(seconds, "second")
