"""Manifests that builds have left beside their fonts: which bytes each file had, and what its licence says."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from urllib.parse import quote, urljoin

from msgspec import Struct

from aksara.errors import RequestError
from aksara.sources import MANIFEST_MARK, printable
from aksara.text.ranges import parse_ranges
from aksara.web.built_manifest import read_built_manifest


class Manifest(Struct, frozen=True, kw_only=True):
    """`address` is its own, `folders` are those of the folders that its fonts are in, `families` those that the build
    made.

    `digests` have the SHA-256 of each font by its address; `sheet` and `sheet_digest` are the style sheet's address and
    SHA-256, of what is between marks where it is `kept` in a style sheet of the user's. `links` have the SHA-256 of the
    links in each page, by its address. `until` and `domains` are the licence's.
    """

    address: str
    folders: frozenset[str]
    families: tuple[str, ...]
    digests: Mapping[str, str]
    sheet: str
    sheet_digest: str
    is_kept: bool
    links: Mapping[str, str]
    domains: tuple[str, ...]
    until: date | None
    #: Of each family the characters that its desktop fonts did not have when it was built.
    never_had: Mapping[str, frozenset[int]]


def read_manifest(data: bytes, address: str) -> Manifest | None:
    """The manifest in these bytes; None if they are not one."""
    if not data.startswith(MANIFEST_MARK):
        return None
    built = read_built_manifest(data)
    if built is None:
        return None
    digests = {_address(address, file.path): file.sha256 for file in built.fonts}
    return Manifest(
        address=address,
        folders=frozenset(digest.rpartition("/")[0] for digest in digests),
        families=tuple(family.family for family in built.families),
        digests=digests,
        sheet=_address(address, built.css),
        sheet_digest=built.css_sha256,
        is_kept=built.css_into,
        links={_address(address, file.path): file.sha256 for file in built.links},
        domains=tuple(map(printable, built.licence.domains)),
        until=built.licence.until,
        never_had={family.family: _codes(family.missing_characters) for family in built.families},
    )


def _address(base: str, path: str) -> str:
    """The address of a file by its path in a manifest."""
    return urljoin(base, quote(path))


def _codes(ranges: str) -> frozenset[int]:
    try:
        return frozenset(parse_ranges(ranges)) if ranges else frozenset()
    except RequestError:  # someone changed it
        return frozenset()
