"""The content of `faces.json`: all that was made, for programs. docs/faces.schema.json describes it."""

from __future__ import annotations

import posixpath
from collections.abc import Mapping, Sequence
from hashlib import sha256
from typing import Any

from msgspec import Struct

from aksara.faces import Face, LineMetrics
from aksara.notices import Notice
from aksara.text import format_ranges
from aksara.web.css import metric_overrides, property_names, stack_value
from aksara.web.fallback import FallbackFace
from aksara.web.font_matching import DesiredFace
from aksara.web.model import (
    CutFamily,
    LicenceFile,
    LicenceNote,
    ViewSize,
    Way,
    WayTaken,
    WebFace,
    WebFamily,
    WebFile,
    WebSlice,
)
from aksara.web.preload import Preload

#: Of the shape of `faces.json`; grows when a field changes its meaning or goes.
FORMAT_VERSION = 2
#: Pairs of characters that are listed; more are counted.
_SHOWN_PAIRS = 200


class ManifestPaths(Struct, frozen=True):
    """Where things are, counted from the folder of the manifest: the style sheet, and the folder of fonts. `css_into`
    says whether the rules stand in a style sheet of the user's."""

    css: str
    css_into: bool
    fonts: str


def build_manifest(
    families: Sequence[WebFamily],
    *,
    paths: ManifestPaths,
    preload: Sequence[tuple[Preload, str]],
    licence: LicenceNote,
    budget: Sequence[Mapping[str, Any]],
    warnings: Sequence[Notice],
    version: str,
) -> dict[str, Any]:
    """All that is known before the other files are written; `preload` has its links. What depends on their bytes is
    added when these are there."""
    names = property_names(family.name for family in families)
    return {
        "made_by": f"Aksara {version}",
        "version": FORMAT_VERSION,
        "css": paths.css,
        "css_sha256": "",
        "css_into": paths.css_into,
        "families": [_family(family, name, paths.fonts) for family, name in zip(families, names, strict=True)],
        "preload": [_preload(face, link, paths.fonts) for face, link in preload],
        "licence": {
            "web_licence": licence.stated.stated,
            "holder": licence.stated.holder,
            "domains": list(licence.stated.domains),
            "until": licence.stated.until.isoformat() if licence.stated.until else None,
            "files": [_licence_file(file, paths.fonts) for file in licence.files],
        },
        "budget": list(budget),
        "warnings": [warning.as_json() for warning in warnings],
    }


def _family(family: WebFamily, variable: str, fonts: str) -> dict[str, Any]:
    return {
        "family": family.name,
        "generic": family.generic,
        "display": family.display,
        "stack": list(family.stack),
        "property": variable,
        "css_value": stack_value(family),
        "faces": [_face(face, fonts) for face in family.faces],
        "used": family.used.as_json() if family.used is not None else None,
        "variable_fonts": _way_taken(family.way) if family.way is not None else None,
        "slices": _cut(family.cut) if family.cut is not None else None,
        "icons": [
            {"name": name, "character": f"U+{code:04X}" if code is not None else None} for name, code in family.icons
        ],
        "palettes": [
            {
                "name": palette.name,
                "css_name": palette.identifier,
                "base": palette.base,
                "colours": {str(entry): colour for entry, colour in palette.colours.items()},
                "background": palette.background,
            }
            for palette in family.palettes
        ],
        "missing_characters": format_ranges(family.missing_characters) if family.missing_characters else "",
        "fallbacks": [_fallback(face) for face in family.fallbacks],
        "missing_faces": [
            {"desired": str(desired), "nearest": str(DesiredFace(face.weight, face.style, face.width))}
            for desired, face in family.missing_faces
        ],
    }


def _cut(cut: CutFamily) -> dict[str, Any]:
    return {
        "asked": cut.asked,
        "names": list(cut.names),
        "reason": cut.reason,
        "one_file": _view(cut.one_file),
        "one_file_was_made": cut.exact,
        "typical_page": _view(cut.typical),
        "largest_page": _view(cut.most),
        "mean_files": cut.mean_files,
        "pairs_parted": {"count": len(cut.parted), "first": list(cut.parted[:_SHOWN_PAIRS])},
    }


def _view(view: ViewSize | None) -> dict[str, int] | None:
    return {"bytes": view.size, "files": view.files} if view is not None else None


def _way_taken(way: WayTaken) -> dict[str, Any]:
    return {
        "taken": _way(way.taken),
        "instead": {**_way(way.other), "changes": [change.as_json() for change in way.changes]},
    }


def _way(way: Way) -> dict[str, Any]:
    return {"words": way.words, "files": way.files, "bytes": way.size}


def _face(web: WebFace, fonts: str) -> dict[str, Any]:
    return {
        **face_identity(web.face),
        "axes": {tag: list(map(_number, span)) for tag, span in web.face.axes},
        "instances": web.variation.as_json()["instances"] if web.variation is not None else [],
        "source_bytes": web.source_size,
        "source_characters": web.source_characters,
        "characters": len(web.characters),
        "sequences": list(web.sequences),
        "languages": list(web.languages),
        "embedding": web.permission,
        "features": list(web.features),
        "features_omitted": [
            {"tag": cost.tag, "name": cost.name, "glyphs": cost.glyphs, "about_bytes": cost.size}
            for cost in web.omitted
        ],
        "hints_about_bytes": web.hint_size,
        "line_metrics": _lines(web.lines),
        "line_metrics_on_windows": _lines(web.windows_lines),
        "slices": [
            {
                "name": part.name,
                "characters": len(part.characters),
                "unicode_range": part.unicode_range,
                "share_of_pages": part.share,
            }
            for part in web.slices
        ],
        "files": [_file(file, part, fonts) for part in web.slices for file in part.files],
    }


def _lines(lines: LineMetrics) -> dict[str, float]:
    return {name: round(getattr(lines, name), 4) for name in ("ascent", "descent", "gap")}


def _file(file: WebFile, part: WebSlice, fonts: str) -> dict[str, Any]:
    return {
        "path": posixpath.join(fonts, file.name) if not file.is_inline else "",
        "url": file.url if not file.is_inline else "",
        "inline": file.is_inline,
        "format": file.format,
        "type": file.media_type,
        "bytes": len(file.data),
        "sha256": file.sha256,
        "slice": part.name,
        "unicode_range": part.unicode_range,
    }


def _fallback(face: FallbackFace) -> dict[str, Any]:
    return {
        "family": face.family,
        "on": face.on,
        "weight": _span(face.weight),
        "style": face.style,
        "width": _span(tuple(map(_number, face.width))),
        "local": list(face.local),
        "unicode_range": face.unicode_range or None,
        "line_difference": face.difference,
        **{name.replace("-", "_"): value for name, value in metric_overrides(face).items()},
    }


def _preload(preload: Preload, link: str, fonts: str) -> dict[str, Any]:
    return {
        "family": preload.family.name,
        "label": preload.web.face.label,
        "slice": preload.part.name,
        "path": posixpath.join(fonts, preload.file.name),
        "type": preload.file.media_type,
        "link": link,
    }


def _licence_file(file: LicenceFile, fonts: str) -> dict[str, Any]:
    return {
        "path": posixpath.join(fonts, file.name),
        "source": file.source,
        "bytes": len(file.data),
        "sha256": sha256(file.data).hexdigest(),
    }


def face_identity(face: Face) -> dict[str, Any]:
    """What every JSON output says of a face first."""
    return {
        "path": face.path,
        "family": face.family,
        "weight": _span(face.weight_range),
        "style": face.style,
        "width": _span(tuple(map(_number, face.width_range))),
        **({"slant": list(map(_number, face.slant_range))} if face.slant_range is not None else {}),
        "label": face.label,
    }


def _span(values: tuple[float, ...]) -> float | list[float]:
    low, high = values
    return low if low == high else [low, high]


def _number(value: float) -> float:
    return int(value) if value == int(value) else value
