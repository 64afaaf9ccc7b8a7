"""What was made, as data: the families, faces and files that the style sheet, the manifest and the proof tell of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from hashlib import sha256
from typing import Any

from aksara.faces import Face
from aksara.text import format_ranges
from aksara.web.syntax import slug


@dataclass(slots=True, frozen=True)
class WebFile:
    """One font file: its name in the folder of fonts, its format ('woff2', 'woff', 'sfnt') and its bytes."""

    name: str
    format: str
    data: bytes = field(repr=False)
    url: str = ""

    @property
    def sha256(self) -> str:
        return sha256(self.data).hexdigest()


@dataclass(slots=True, frozen=True)
class FeatureCost:
    """A feature that was left out: its name in words, the glyphs it would add, and about how many bytes of a file."""

    tag: str
    name: str
    glyphs: int
    size: int


@dataclass(slots=True, frozen=True)
class WebFace:
    """A face with the files that were made of it.

    `characters` are those that the files serve; `source_size` is the desktop font's bytes,
    `flavour` its sfnt version tag, `permission` what it says of embedding, in words. `features` are the tags of the
    OpenType features that were kept, `left_out` the others that could have been.
    """

    face: Face
    source_size: int
    characters: frozenset[int]
    source_characters: int
    files: tuple[WebFile, ...]
    flavour: str = "\0\1\0\0"
    permission: str = ""
    features: tuple[str, ...] = ()
    left_out: tuple[FeatureCost, ...] = ()

    @property
    def unicode_range(self) -> str:
        return format_ranges(self.characters)

    def size(self, form: str) -> int:
        """Bytes in that format; 0 if it was not made."""
        return sum(len(file.data) for file in self.files if file.format == form)

    @property
    def best_size(self) -> int:
        """Bytes that a current browser fetches: those of the first format in its rule."""
        return len(self.files[0].data) if self.files else 0


@dataclass(slots=True, frozen=True)
class WebFamily:
    """A family: its faces in order, and the stack of families behind it, generic last."""

    name: str
    faces: tuple[WebFace, ...]
    stack: tuple[str, ...]
    generic: str
    notice: str = ""


def format_label(form: str) -> str:
    """A format as people call it: WOFF2, WOFF, TTF."""
    return {"sfnt": "TTF"}.get(form, form.upper())


def file_name(face: Face, form: str, data: bytes) -> str:
    """`PenyuSans-BoldItalic.3f9a2c1b.woff2`: the name changes when, and only when, the bytes do."""
    family = slug(face.family, "") or "Font"
    style = slug(face.label, "")
    suffix = {"sfnt": "otf" if data[:4] == b"OTTO" else "ttf"}.get(form, form)
    return f"{family}-{style}.{sha256(data).hexdigest()[:8]}.{suffix}"


@dataclass(slots=True, frozen=True)
class LicenceNote:
    """What is recorded of the licence.

    `stated` is whether the user says that a web licence is held, `holder` by whom ('' if not said), `files` the
    licence texts that lay beside the fonts.
    """

    stated: bool = False
    holder: str = ""
    files: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """The statement, for the head of the style sheet; '' if there is none."""
        if self.stated:
            return f"Stated when these fonts were made: {self.holder or 'the site'} holds a licence for the web."
        return f"Licensed to {self.holder}." if self.holder else ""


def manifest(
    families: Sequence[WebFamily], warnings: Sequence[dict[str, str]], version: str, licence: LicenceNote
) -> dict[str, Any]:
    """The content of `faces.json`."""
    return {
        "made_by": f"Aksara {version}",
        "version": 1,
        "families": [
            {
                "family": family.name,
                "generic": family.generic,
                "stack": list(family.stack),
                "faces": [_face(face) for face in family.faces],
            }
            for family in families
        ],
        "licence": {"web_licence": licence.stated, "holder": licence.holder, "files": list(licence.files)},
        "warnings": list(warnings),
    }


def _face(web: WebFace) -> dict[str, Any]:
    face = web.face
    return {
        **face_identity(face),
        "source_bytes": web.source_size,
        "source_characters": web.source_characters,
        "characters": len(web.characters),
        "embedding": web.permission,
        "features": list(web.features),
        "features_left_out": [
            {"tag": cost.tag, "name": cost.name, "glyphs": cost.glyphs, "about_bytes": cost.size}
            for cost in web.left_out
        ],
        "files": [
            {
                "path": f"fonts/{file.name}",
                "url": file.url,
                "format": file.format,
                "bytes": len(file.data),
                "sha256": file.sha256,
                "unicode_range": web.unicode_range,
            }
            for file in web.files
        ],
    }


def face_identity(face: Face) -> dict[str, Any]:
    """What every JSON output says of a face first."""
    width = int(face.width) if face.width == int(face.width) else face.width
    low, high = face.weight_range
    return {
        "path": face.path,
        "family": face.family,
        "weight": face.weight if low == high else [low, high],
        "style": face.style,
        "width": width,
        "label": face.label,
    }
