"""The tags of GSUB's and GPOS's features and scripts (OpenType, "Feature list table", "Script list table")."""

from __future__ import annotations

from aksara.binary import Reader

_SCRIPT_LIST_AT, _FEATURE_LIST_AT = 4, 6


def feature_tags(data: bytes) -> list[str]:
    """The tags of all features, each once, in order. Raises `FontError` for damaged data."""
    return _tags(data, _FEATURE_LIST_AT)


def script_tags(data: bytes) -> list[str]:
    """The tags of all scripts, each once, in order. Raises `FontError` for damaged data."""
    return _tags(data, _SCRIPT_LIST_AT)


def _tags(data: bytes, offset_at: int) -> list[str]:
    reader = Reader(data, offset_at)
    start = reader.u16()
    if not start:
        return []
    records = reader.at(start)
    found = []
    for _ in range(records.u16()):
        found.append(records.tag())
        records.u16()
    return sorted(set(found))
