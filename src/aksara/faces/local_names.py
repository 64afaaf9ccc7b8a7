"""The names by which a copy of a font that a reader has installed can be found: `local()` in CSS."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from aksara.faces.face import Face
from aksara.faces.style_names import StyleName, read_style_name, split_family_name
from aksara.font import Font
from aksara.tables import Name
from aksara.tables.name import FULL_NAME, POSTSCRIPT_NAME

#: Names of weights are steps of a hundred.
_STEP = 100


def names_for_local(faces: Sequence[tuple[Face, Font]]) -> list[tuple[str, ...]]:
    """Of each face the full and the PostScript name, as far as they can mean no other face (CSS Fonts 4, "local()").

    A name goes if another of these fonts has it too, or if the style that it says is not the face's: a bold that is
    called like the regular would show the regular wherever that is installed.
    """
    names = [_names(font) for _, font in faces]
    count = Counter(name.casefold() for own in names for name in set(own))
    return [
        tuple(dict.fromkeys(name for name in own if count[name.casefold()] == 1 and _says(name, face)))
        for own, (face, _) in zip(names, faces, strict=True)
    ]


def _names(font: Font) -> tuple[str, ...]:
    table = font.find(Name)
    names = (table.get(FULL_NAME), table.get(POSTSCRIPT_NAME)) if table is not None else ()
    return tuple(dict.fromkeys(name for name in names if name and any(c.isalnum() for c in name)))


def _says(name: str, face: Face) -> bool:
    """Whether the style in the name is the face's; a name without one says "regular"."""
    stem, _, style = name.rpartition("-")
    words = read_style_name(style) if stem and " " not in style else split_family_name(name)[1]
    if stem and words.rest:
        words = StyleName()
    weight = words.weight or 400
    near = abs(weight - face.weight) < _STEP or (words.elastic and abs(weight - face.weight) <= _STEP)
    slanted = (words.slant or "normal") != "normal"
    return near and slanted == (face.style != "normal") and (words.width is not None) == (face.width != 100)
