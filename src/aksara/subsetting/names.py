"""The names that a web font keeps."""

from __future__ import annotations

from aksara.tables import Name
from aksara.tables.name import (
    COPYRIGHT,
    FAMILY,
    FULL_NAME,
    LICENCE,
    LICENCE_URL,
    MACINTOSH,
    POSTSCRIPT_NAME,
    SUBFAMILY,
    TRADEMARK,
    TYPOGRAPHIC_FAMILY,
    TYPOGRAPHIC_SUBFAMILY,
    NameRecord,
)

# Names that identify the font on the web or that the law wants to travel with it.
_KEPT_NAMES = frozenset(
    {
        *(COPYRIGHT, FAMILY, SUBFAMILY, FULL_NAME, POSTSCRIPT_NAME, TRADEMARK, LICENCE, LICENCE_URL),
        *(TYPOGRAPHIC_FAMILY, TYPOGRAPHIC_SUBFAMILY),
    }
)


def reduced_names(name: Name) -> Name:
    """What matters on the web and to the law, in English where there is English, for Windows where there is that."""
    wanted = [record for record in name.records if record.name_id in _KEPT_NAMES]
    kept: list[NameRecord] = []
    for name_id in sorted({record.name_id for record in wanted}):
        group = [record for record in wanted if record.name_id == name_id]
        group = [record for record in group if record.platform != MACINTOSH] or group
        group = [record for record in group if record.is_english] or group
        kept += group
    return Name(tuple(record for record in name.records if record in kept))
