"""Addresses of sites on servers: the one module that parses them, or says what is wrong.

Nothing is fetched here. Links, imports, redirects, sitemaps and URLs of fonts come from anywhere, and Python's own
splitting of URLs raises for some (a port that is a word) and takes others that no browser takes (a host of blanks).
"""

from __future__ import annotations

import re
from pathlib import Path
from urllib.parse import unquote, urljoin, urlsplit, urlunsplit

from aksara.errors import RequestError
from aksara.limits import MAX_ADDRESS_LENGTH
from aksara.sources import printable

#: What no host can have (URL Standard, "forbidden host code point"); colons and brackets are those of IPv6.
_FORBIDDEN_IN_HOST = re.compile(r"[\x00-\x20#/<>?@\\^|%\x7f-\x9f\"{}`\s]")
_IPV6 = re.compile(r"[0-9a-fA-F:.]{2,45}")
_DEFAULT_PORTS = {"http": 80, "https": 443}


class AddressError(ValueError):
    """A text is no address of a server. The message says why, to follow the text: "is no address"."""


def web_address(reference: str, base: str = "") -> str:
    """The address that a reference means, seen from `base`: absolute, fit to be shown (no credentials, no fragment).

    Raises `AddressError` for what is no address, or not one of http and https.
    """
    if len(reference) > MAX_ADDRESS_LENGTH:
        raise AddressError("is too long for an address")
    try:
        parts = urlsplit(urljoin(base, reference.strip()) if base else reference.strip())
        if parts.scheme not in _DEFAULT_PORTS:
            raise AddressError("is not a web address")
        host = _host(parts.hostname or "")
        port = "" if parts.port is None else f":{parts.port}"
    except AddressError:
        raise
    except ValueError as error:  # brackets that do not match, a port that is no number or too high
        raise AddressError("is no address") from error
    return printable(urlunsplit((parts.scheme, host + port, parts.path or "/", parts.query, "")))


def _host(name: str) -> str:
    if ":" in name:
        if not _IPV6.fullmatch(name):
            raise AddressError("is no address")
        return f"[{name}]"
    if not name or _FORBIDDEN_IN_HOST.search(name) or len(name) > 253:
        raise AddressError("is no address")
    return name


def origin_of(address: str) -> str:
    """Scheme, host and port of an address. Raises `AddressError` for an invalid one."""
    parts = urlsplit(web_address(address))
    return f"{parts.scheme}://{parts.netloc if parts.port else f'{parts.netloc}:{_DEFAULT_PORTS[parts.scheme]}'}"


def host_of(address: str) -> str:
    """The host of an address; "" if it is not the address of a server."""
    try:
        return urlsplit(web_address(address)).hostname or ""
    except AddressError:
        return ""


def is_address(text: str) -> bool:
    """Whether it is meant as the address of a site, and not as a path."""
    return text.lower().startswith(("http://", "https://"))


def check_address(address: str) -> str:
    """The address of a site, as given. Raises `RequestError` for an invalid one."""
    try:
        web_address(address)
    except AddressError as error:
        shown = printable(address.rpartition("@")[2])
        raise RequestError(
            f"{shown}: this is not the address of a site; write one as http://localhost:8000/"
        ) from error
    return address


def path_of(address: str) -> Path:
    """The path of a file's address."""
    return Path(unquote(urlsplit(address).path))
