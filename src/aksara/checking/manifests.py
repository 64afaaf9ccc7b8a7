"""Manifests that builds have left beside their fonts: which bytes each file had, and what its licence says."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date

from msgspec import Struct

from aksara.errors import RequestError
from aksara.sources import MANIFEST_MARK, printable
from aksara.text.ranges import parse_ranges
from aksara.web.built_manifest import read_built_manifest


class Manifest(Struct, frozen=True, kw_only=True):
    """`folder` is the address of the folder that its fonts are in, `families` are those that the build made.

    `digests` have the SHA-256 of each file by its name; `sheet` and `sheet_digest` are the style sheet's name and
    SHA-256. `until` and `domains` are the licence's.
    """

    folder: str
    families: tuple[str, ...]
    digests: Mapping[str, str]
    sheet: str
    sheet_digest: str
    domains: tuple[str, ...]
    until: date | None
    #: Of each family the characters that its desktop fonts did not have when it was built.
    never_had: Mapping[str, frozenset[int]]


def read_manifest(data: bytes, folder: str) -> Manifest | None:
    """The manifest in these bytes; None for what is none, or was changed beyond recognition."""
    if not data.startswith(MANIFEST_MARK):
        return None
    built = read_built_manifest(data)
    if built is None:
        return None
    return Manifest(
        folder=folder,
        families=tuple(family.family for family in built.families),
        digests={file.path.rpartition("/")[2]: file.sha256 for file in built.fonts},
        sheet=printable(built.css).rpartition("/")[2],
        sheet_digest=built.css_sha256,
        domains=tuple(map(printable, built.licence.domains)),
        until=built.licence.until,
        never_had={family.family: _codes(family.missing_characters) for family in built.families},
    )


def _codes(ranges: str) -> frozenset[int]:
    try:
        return frozenset(parse_ranges(ranges)) if ranges else frozenset()
    except RequestError:  # someone changed it
        return frozenset()
