"""Manifests that builds have left beside their fonts: which bytes each file had, and what its licence says."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import date
from typing import Any

from msgspec import Struct

from aksara.sources import MANIFEST_MARK, printable


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


def read_manifest(data: bytes, folder: str) -> Manifest | None:
    """The manifest in these bytes; None for what is none, or was changed beyond recognition."""
    if not data.startswith(MANIFEST_MARK):
        return None
    try:
        contents: dict[str, Any] = json.loads(data)
        files = [file for family in contents["families"] for face in family["faces"] for file in face["files"]]
        licence = contents["licence"]
        until = licence.get("until")
        return Manifest(
            folder=folder,
            families=tuple(str(family["family"]) for family in contents["families"]),
            digests={str(file["path"]).rpartition("/")[2]: str(file["sha256"]) for file in files},
            sheet=printable(str(contents["css"])).rpartition("/")[2],
            sheet_digest=str(contents["css_sha256"]),
            domains=tuple(printable(str(domain)) for domain in licence.get("domains", ())),
            until=date.fromisoformat(until) if until else None,
        )
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return None
