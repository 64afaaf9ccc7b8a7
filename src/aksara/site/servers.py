"""Addresses of sites on servers, told from paths; nothing is fetched here."""

from __future__ import annotations

from urllib.parse import urlsplit, urlunsplit

from aksara.errors import RequestError
from aksara.sources import printable


def origin_of(address: str) -> str:
    """Scheme, host and port, without credentials."""
    parts = urlsplit(address)
    port = parts.port or {"http": 80, "https": 443}.get(parts.scheme)
    return f"{parts.scheme}://{(parts.hostname or '').lower()}:{port}"


def without_credentials(address: str) -> str:
    """The address as it may be shown: without user, password and fragment."""
    parts = urlsplit(address)
    host = parts.netloc.rpartition("@")[2]
    return printable(urlunsplit((parts.scheme, host, parts.path or "/", parts.query, "")))


def is_address(text: str) -> bool:
    """Whether it is meant as the address of a site, and not as a path."""
    return text.lower().startswith(("http://", "https://"))


def check_address(address: str) -> str:
    """The address of a site, as given. Raises `RequestError` for one that is none."""
    try:
        parts = urlsplit(address)
        valid = parts.scheme in ("http", "https") and bool(parts.hostname) and (parts.port or 1) > 0
    except ValueError:
        valid = False
    if not valid:
        shown = printable(address.rpartition("@")[2])
        raise RequestError(f"{shown}: this is no address of a site; write one as http://localhost:8000/")
    return address
