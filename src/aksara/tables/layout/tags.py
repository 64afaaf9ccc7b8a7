"""The tags of GSUB's and GPOS's features (OpenType, "Feature list table")."""

from __future__ import annotations

from aksara.binary import Reader

_FEATURE_LIST_AT = 6


def feature_tags(data: bytes) -> list[str]:
    """The tags of all features, each once, in order. Raises `FontError` for damaged data."""
    reader = Reader(data, _FEATURE_LIST_AT)
    start = reader.u16()
    if not start:
        return []
    records = reader.at(start)
    found = []
    for _ in range(records.u16()):
        found.append(records.tag())
        records.u16()
    return sorted(set(found))
