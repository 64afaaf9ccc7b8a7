"""System families measured on a user's computer, kept beside the project so that all its builds know them.

The file has widths of letters, in the form of our own data, and no outlines. It may have been changed by anyone.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from itertools import chain
from typing import Annotated, Literal, get_args

from msgspec import DecodeError, Meta, Struct, to_builtins
from msgspec.json import decode

from aksara.errors import RequestError
from aksara.faces import FaceMetrics, Generic
from aksara.limits import MAX_MEASURED_CHARACTERS, MAX_MEASURED_FAMILIES
from aksara.web.system_families import ALIKE, DIGITS, Platform, SystemFace, SystemFamily, widths_row

#: Beside the project file.
MEASURED_NAME = "measured-families.json"
#: The styles of a system family that browsers choose from.
SystemStyle = Literal["Regular", "Italic", "Bold", "Bold Italic"]
_STYLES: tuple[SystemStyle, ...] = get_args(SystemStyle)
_STOOD_FOR = tuple(chain.from_iterable(ALIKE.values()))


class _MeasuredFace(Struct, frozen=True):
    """A style: the names by which `local()` finds its font, and two characters for the width of each character."""

    local: tuple[str, ...]
    widths: str


class _MeasuredFamily(Struct, frozen=True):
    """A family as the file has it; `x_height` in ems, `characters` are those that were measured in each style."""

    family: str
    generic: Generic
    platforms: tuple[Platform, ...]
    x_height: Annotated[float, Meta(gt=0, lt=2)]
    characters: Annotated[str, Meta(min_length=1, max_length=MAX_MEASURED_CHARACTERS)]
    faces: Annotated[dict[SystemStyle, _MeasuredFace], Meta(min_length=1)]


class _MeasuredFile(Struct, frozen=True):
    made_by: str
    families: Annotated[tuple[_MeasuredFamily, ...], Meta(max_length=MAX_MEASURED_FAMILIES)]


def measured_family(
    name: str,
    generic: Generic,
    platforms: Sequence[Platform],
    faces: Mapping[SystemStyle, tuple[FaceMetrics, Sequence[str]]],
) -> SystemFamily:
    """A family as it was measured: by style the metrics, and the names by which `local()` finds its font."""
    codes = sorted({code for metrics, _ in faces.values() for code in _measured(metrics.widths)})
    kept = tuple(codes[:MAX_MEASURED_CHARACTERS])
    regular = faces.get("Regular", next(iter(faces.values())))[0]
    return SystemFamily(
        name,
        generic,
        frozenset(platforms),
        round(regular.x_height or 0.5, 3),
        tuple(
            _system_face(style, tuple(faces[style][1]), kept, widths_row(faces[style][0].widths, kept))
            for style in _STYLES
            if style in faces
        ),
    )


def style_of(face: SystemFace) -> SystemStyle:
    """The style of a face of a system family."""
    return _STYLES[2 * face.bold + face.italic]


def _system_face(style: SystemStyle, local: tuple[str, ...], codes: tuple[int, ...], row: str) -> SystemFace:
    return SystemFace("Bold" in style, "Italic" in style, local, codes, row)


def _measured(widths: Mapping[int, float]) -> Iterator[int]:
    """Letters, digits and signs, not those for private use; one of the ideographs and one of the syllables of Hangul,
    which stand for all where these are as wide."""
    for first, spans in ALIKE.items():
        if first in widths and len({widths[code] for code in chain.from_iterable(spans) if code in widths}) == 1:
            yield first
    for code in widths:
        is_alone = not any(code in span for span in _STOOD_FOR)
        if is_alone and not 0xE000 <= code <= 0xF8FF and code < 0x1F000 and chr(code).isprintable():
            yield code


def write_measured(families: Sequence[SystemFamily]) -> str:
    """The file's text; the same families give the same."""
    listed = tuple(
        _MeasuredFamily(
            family.name,
            family.generic,
            tuple(sorted(family.platforms)),
            family.x_height,
            "".join(map(chr, family.faces[0].codes)),
            {style_of(face): _MeasuredFace(face.local, face.row) for face in family.faces},
        )
        for family in sorted(families, key=lambda family: family.name.casefold())
    )
    return json.dumps(to_builtins(_MeasuredFile("Aksara", listed)), ensure_ascii=False, indent=1) + "\n"


def read_measured(text: str, name: str) -> tuple[SystemFamily, ...]:
    """The families of a file. Raises `RequestError` that says what is wrong and where."""
    try:
        # The decoder rejects lone surrogates.
        file = decode(text.encode(errors="replace"), type=_MeasuredFile)
        return tuple(map(_system_family, file.families))
    except (DecodeError, ValueError, RecursionError) as error:
        raise RequestError(
            f"{name}: this is not a list of measured families ({error}); remove it, and measure the families again"
        ) from error


def _system_family(entry: _MeasuredFamily) -> SystemFamily:
    """The family of an entry. Raises `ValueError` where its parts do not fit together."""
    codes = tuple(map(ord, entry.characters))
    if len(set(codes)) != len(codes):
        raise ValueError(f"{entry.family} has characters twice")
    faces = []
    for style, face in entry.faces.items():
        pairs = [face.widths[start : start + 2] for start in range(0, len(face.widths), 2)]
        if len(face.widths) != 2 * len(codes) or not {*face.widths} <= {*DIGITS, "-"}:
            raise ValueError(f"the widths of {entry.family} {style} do not fit its characters")
        if any(pair[1:] == "-" and pair != "--" for pair in pairs):
            raise ValueError(f"a width of {entry.family} {style} is not a number")
        faces.append(_system_face(style, face.local, codes, face.widths))
    return SystemFamily(entry.family, entry.generic, frozenset(entry.platforms), entry.x_height, tuple(faces))
