"""URLs of style sheets and fonts: what they name, and how they are shown."""

from __future__ import annotations

import os
from pathlib import Path
from urllib.parse import quote, unquote

from aksara.site.web_addresses import is_address, origin_of, path_of
from aksara.sources import printable


def shown_address(address: str) -> str:
    """An address as users know it: of a file its path from here."""
    return printable(address if is_address(address) else os.path.relpath(path_of(address)))


def shown_origin(origin: str) -> str:
    """An origin as browsers send it: without the scheme's default port."""
    return origin.removesuffix(":443" if origin.startswith("https:") else ":80")


def file_name(url: str) -> str:
    """The name that a URL ends in, without its query."""
    return unquote(without_query(url).rpartition("/")[2])


def without_query(url: str) -> str:
    """A URL without its query and fragment."""
    return url.partition("#")[0].partition("?")[0]


_TEMPLATE_SIGNS = ("{{", "{%", "<%", "<?", "${", "#{", "@{", "@@", "[[", "$(", "%PUBLIC_URL%", "__BASE", "<#")


def is_template(url: str) -> bool:
    """Whether the URL is written by a template, a preprocessor or a bundler ("~package/font.woff2")."""
    return url.startswith(("~", "@/")) or any(sign in url for sign in _TEMPLATE_SIGNS)


def is_elsewhere(url: str) -> bool:
    """Whether a URL names another host, or is no file's."""
    if url.startswith("//"):
        return True
    return ":" in url.split("/", maxsplit=1)[0] and url.partition(":")[0].lower() != "file"


def same_origin(one: str, other: str) -> bool:
    """Whether two addresses are on one server."""
    return origin_of(one) == origin_of(other)


def way_between(base: str, address: str) -> str:
    """The URL by which a page or style sheet at `base` reaches a file of its site."""
    if is_address(address):
        return address
    return quote(Path(os.path.relpath(path_of(address), path_of(base).parent)).as_posix())
