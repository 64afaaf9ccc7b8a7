"""What a served font file is, as far as findings need it: read once, and kept by the hash of its bytes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from hashlib import sha256
from typing import Any

from aksara.container import sniff
from aksara.errors import InputError
from aksara.faces import embedding, identify
from aksara.font import Font
from aksara.tables.registry import CLASSES
from aksara.text import format_ranges
from aksara.text.ranges import parse_ranges


@dataclass(slots=True, frozen=True, kw_only=True)
class FontFacts:
    """A file: its bytes' number and hash, the `container` ("" for no font), and what would make browsers refuse it (""
    for nothing). Of a font that can be read the face that it is by its own account, and its characters."""

    size: int
    sha256: str
    container: str = ""
    problem: str = ""
    family: str = ""
    weight: tuple[float, float] = (400, 400)
    style: str = "normal"
    width: tuple[float, float] = (100, 100)
    characters: frozenset[int] = frozenset()
    forbidden: str = ""

    def as_json(self) -> dict[str, Any]:
        """As it is kept."""
        return {**asdict(self), "characters": format_ranges(self.characters)}

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> FontFacts:
        """What was kept. Raises `ValueError`, `TypeError` or `KeyError` for other data."""
        spans = {name: (float(data[name][0]), float(data[name][1])) for name in ("weight", "width")}
        codes = frozenset(parse_ranges(data["characters"])) if data["characters"] else frozenset()
        return cls(**{**data, **spans, "characters": codes})


def facts_of_font(data: bytes, name: str) -> FontFacts:
    """The facts of a file with these bytes."""
    size, digest = len(data), sha256(data).hexdigest()
    container = sniff(data) or ""
    try:
        font = Font.read(data, name)
        font.require_supported()
        problem = _damage(font)
        face = identify(font)
        permission = embedding(font)
        return FontFacts(
            size=size,
            sha256=digest,
            container=container,
            problem=problem,
            family=face.family,
            weight=face.weight_range,
            style=face.style,
            width=face.width_range,
            characters=frozenset(font.characters),
            forbidden=permission.words if permission.forbids_web_fonts else "",
        )
    except InputError as error:
        return FontFacts(size=size, sha256=digest, container=container, problem=error.problem)


def _damage(font: Font) -> str:
    """The first table that a browser would not take."""
    for tag, table_class in CLASSES.items():
        if tag in font and not table_class.OPTIONAL:
            try:
                font.table(table_class)
            except InputError as error:
                return f"table '{tag}': {error.problem}"
    return ""
