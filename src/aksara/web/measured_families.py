"""System families that were measured on somebody's computer, kept beside the project so that all its builds know them.

The file has widths of letters, in the form of our own data, and no outlines. It may have been changed by anyone.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any, get_args

from aksara.errors import RequestError
from aksara.faces import FaceMetrics, Generic
from aksara.limits import MAX_MEASURED_CHARACTERS, MAX_MEASURED_FAMILIES
from aksara.web.system_families import DIGITS, PLATFORMS, SystemFace, SystemFamily, widths_row

#: Beside the project file.
MEASURED_NAME = "measured-families.json"
_STYLES = ("Regular", "Italic", "Bold", "Bold Italic")
_MADE_BY = "Aksara"


def measured_family(
    name: str,
    generic: Generic,
    platform: str,
    faces: Mapping[str, tuple[FaceMetrics, Sequence[str]]],
) -> SystemFamily:
    """A family as it was measured: by style the metrics, and the names by which `local()` finds its font."""
    codes = sorted({code for metrics, _ in faces.values() for code in metrics.widths if _is_measured(code)})
    kept = tuple(codes[:MAX_MEASURED_CHARACTERS])
    regular = faces.get("Regular", next(iter(faces.values())))[0]
    return SystemFamily(
        name,
        generic,
        frozenset({platform}),
        round(regular.x_height or 0.5, 3),
        tuple(
            SystemFace("Bold" in style, "Italic" in style, tuple(local), kept, widths_row(metrics.widths, kept))
            for style, (metrics, local) in sorted(faces.items(), key=lambda each: _STYLES.index(each[0]))
        ),
    )


def _is_measured(code: int) -> bool:
    """Letters, digits and signs; not those for private use, nor ideographs, which are all as wide."""
    character = chr(code)
    return character.isprintable() and not 0x2E80 <= code <= 0xD7FF and not 0xE000 <= code <= 0xFAFF and code < 0x1F000


def write_measured(families: Sequence[SystemFamily]) -> str:
    """The file's text; the same families give the same."""
    listed = []
    for family in sorted(families, key=lambda each: each.name.casefold()):
        first = family.faces[0]
        faces = {_style_of(face): {"local": list(face.local), "widths": face.row} for face in family.faces}
        listed.append({
            "family": family.name, "generic": family.generic, "platforms": sorted(family.platforms),
            "x_height": family.x_height, "characters": "".join(map(chr, first.codes)), "faces": faces,
        })  # fmt: skip
    return json.dumps({"made_by": _MADE_BY, "families": listed}, ensure_ascii=False, indent=1) + "\n"


def _style_of(face: SystemFace) -> str:
    return " ".join(["Bold"] * face.bold + ["Italic"] * face.italic) or "Regular"


def read_measured(text: str, name: str) -> tuple[SystemFamily, ...]:
    """The families of a file. Raises `RequestError`, which says what is wrong and where."""
    try:
        entries = json.loads(text)["families"]
        if not isinstance(entries, list) or len(entries) > MAX_MEASURED_FAMILIES:
            raise ValueError("'families' is no list, or too long")
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise _wrong(name, f"it is no list of measured families ({error})") from error
    found = []
    for number, entry in enumerate(entries):
        try:
            found.append(_family(entry))
        except (ValueError, KeyError, TypeError, AttributeError) as error:
            called = entry.get("family", number) if isinstance(entry, dict) else number
            raise _wrong(name, f"the entry of {called} is damaged ({error})") from error
    return tuple(found)


def _wrong(name: str, problem: str) -> RequestError:
    return RequestError(f"{name}: {problem}; remove it, and measure the families again")


def _family(entry: Mapping[str, Any]) -> SystemFamily:
    codes = tuple(map(ord, str(entry["characters"])))
    if not 0 < len(codes) <= MAX_MEASURED_CHARACTERS or len(set(codes)) != len(codes):
        raise ValueError("its characters are none, too many, or repeated")
    generic, platforms = entry["generic"], frozenset(map(str, entry["platforms"]))
    if generic not in get_args(Generic) or not platforms <= set(PLATFORMS):
        raise ValueError("its class or platform is unknown")
    height = float(entry["x_height"])
    if not 0 < height < 2:
        raise ValueError("the height of its small letters cannot be")
    faces = []
    for style, face in entry["faces"].items():
        row = str(face["widths"])
        if style not in _STYLES or len(row) != 2 * len(codes) or not set(row) <= {*DIGITS, "-"}:
            raise ValueError(f"the widths of {style} do not fit its characters")
        if any(("-" in row[at : at + 2]) != (row[at : at + 2] == "--") for at in range(0, len(row), 2)):
            raise ValueError(f"a width of {style} is no number")
        local = tuple(map(str, face["local"]))
        faces.append(SystemFace("Bold" in style, "Italic" in style, local, codes, row))
    if not faces:
        raise ValueError("it has no faces")
    return SystemFamily(str(entry["family"]), generic, platforms, height, tuple(faces))
