"""Families whose name is reserved by their licence for the unchanged fonts: what to say of them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import PurePosixPath

from aksara.faces import WebLicence
from aksara.faces.reserved import ReservedName, reserved_names
from aksara.font import Font
from aksara.notices import Notice
from aksara.pipeline.planning.licences import LicenceTexts
from aksara.pipeline.planning.planned import FamilyPlan
from aksara.tables import Name
from aksara.tables.name import COPYRIGHT, LICENCE

#: Kinds of files that are not searched, since they are not plain text.
_NOT_PLAIN = frozenset({".pdf", ".doc", ".docx", ".rtf"})


def reserved_notices(families: Sequence[FamilyPlan], licences: LicenceTexts, licence: WebLicence) -> Iterator[Notice]:
    """A notice for each reserved name that families still have, unless its maker has agreed to that."""
    if licence.name_agreed.strip():
        return
    beside = [
        (file.name, file.data.decode("utf-8", "replace"))
        for file in licences.files
        if PurePosixPath(file.name).suffix.lower() not in _NOT_PLAIN
    ]
    taken: dict[str, tuple[ReservedName, list[str]]] = {}
    for family in families:
        texts = [*beside, *(text for face in family.faces for text in _of_font(face.font))]
        reserved = next((name for name in reserved_names(texts) if name.is_in(family.name)), None)
        if reserved is not None:
            taken.setdefault(reserved.name, (reserved, []))[1].append(family.name)
    for reserved, names in taken.values():
        yield Notice(
            ", ".join(names),
            f"its licence reserves the name {reserved.name} for unchanged fonts (\u201c{reserved.clause}\u201d, "
            f"{reserved.source}), and subsets are changed; rename them, or ask their maker (its consent is "
            "name-agreed in [licence])",
            "FamilyRequest.name",
        )


def _of_font(font: Font) -> list[tuple[str, str]]:
    names = font.find(Name)
    if names is None:
        return []
    where = PurePosixPath(font.path.replace("\\", "/")).name
    return [(where, text) for name_id in (COPYRIGHT, LICENCE) if (text := names.get(name_id))]
