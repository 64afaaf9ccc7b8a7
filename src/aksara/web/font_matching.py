"""Font matching: the face that browsers use for a requested style (CSS Fonts 4, section 5.2)."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Protocol, TypeVar

from msgspec import Struct

from aksara.errors import RequestError
from aksara.faces import Face, Style, label_of
from aksara.faces.style_names import read_style_name


class DesiredFace(Struct, frozen=True):
    """A weight, a style and a width (in percent) that a style sheet may ask for (CSS Fonts 4, "desired" values)."""

    weight: int = 400
    style: Style = "normal"
    width: float = 100.0

    @property
    def label(self) -> str:
        """In words: "Bold Italic"."""
        return label_of(self.weight, self.style, self.width)

    def __str__(self) -> str:
        """As in CSS: `700 italic`, `400 75%`."""
        style = f" {self.style}" if self.style != "normal" else ""
        return f"{self.weight}{style}" + (f" {self.width:g}%" if self.width != 100 else "")


def parse_desired_face(text: str) -> DesiredFace:
    """`600`, `400 italic`, `bold`, `Semi Bold Italic`. Raises `RequestError` for anything else."""
    width = re.search(r"(?<![\d.])(\d{1,3}(?:\.\d{1,3})?)%", text)
    rest = text.replace(width[0], " ", 1) if width else text
    weight_text = re.search(r"\b\d{1,4}\b", rest)
    words = read_style_name(rest.replace(weight_text[0], " ", 1) if weight_text else rest)
    weight = int(weight_text[0]) if weight_text else words.weight or 400
    if words.rest or not text.strip() or not 1 <= weight <= 1000:
        raise RequestError(f"'{text}' is not a face; write a weight and a style, as 600, '400 italic' or 'Bold Italic'")
    return DesiredFace(weight, words.slant or "normal", float(width[1]) if width else words.width or 100.0)


class HasRanges(Protocol):
    """A face as fonts are matched: the weights, widths (in percent) and styles that it can have."""

    @property
    def weight_range(self) -> tuple[float, float]: ...

    @property
    def width_range(self) -> tuple[float, float]: ...

    @property
    def styles(self) -> Sequence[Style]: ...


R = TypeVar("R", bound=HasRanges)


def best_match(faces: Sequence[R], desired: DesiredFace) -> R:
    """The face that a browser takes: by width first, then by style, then by weight. There must be one."""
    narrower = desired.width <= 100  # where there is no such width, this side is tried first
    width = min(
        {nearest_width(face, desired.width) for face in faces},
        key=lambda width: (width != desired.width, (width < desired.width) != narrower, abs(width - desired.width)),
    )
    fitting = [face for face in faces if nearest_width(face, desired.width) == width]
    styles: dict[Style, tuple[Style, ...]] = {
        "italic": ("italic", "oblique", "normal"),
        "oblique": ("oblique", "italic", "normal"),
        "normal": ("normal", "oblique", "italic"),
    }
    style = next(style for style in styles[desired.style] if any(style in face.styles for face in fitting))
    return min((face for face in fitting if style in face.styles), key=lambda face: _distance(face, desired.weight))


def nearest_width(face: HasRanges, width: float) -> float:
    """The width that the face can have that is nearest to it."""
    low, high = face.width_range
    return min(max(width, low), high)


def _distance(face: HasRanges, desired: int) -> tuple[int, float]:
    """Sorts weights as CSS tries them: the wanted one; between 400 and 500 upwards first; else away from the middle."""
    low, high = face.weight_range
    if low <= desired <= high:
        return 0, 0
    weight = low if desired < low else high
    if 400 <= desired <= 500:
        group = 1 if desired < weight <= 500 else 2 if weight < desired else 3
    elif desired < 400:
        group = 1 if weight < desired else 2
    else:
        group = 1 if weight > desired else 2
    return group, abs(weight - desired)


class _HasFace(Protocol):
    @property
    def face(self) -> Face: ...


class HasFaces(Protocol):
    """A family, planned or made."""

    @property
    def name(self) -> str: ...

    @property
    def generic(self) -> str: ...

    @property
    def faces(self) -> Sequence[_HasFace]: ...


F = TypeVar("F", bound=HasFaces)


def text_family(families: Sequence[F]) -> F:
    """The family for running text: the first that is made for it and has a regular weight, else the first."""
    return next(
        (
            family
            for family in families
            if family.generic in ("sans-serif", "serif")
            and not missing_faces([face.face for face in family.faces], [DesiredFace()])
        ),
        families[0],
    )


def named_face(families: Sequence[F], text: str) -> tuple[F, Face]:
    """The face that "Bold", "700 italic" or "Penyu Slab Bold" means; without a family's name that for running text.

    Raises `RequestError` for one that does not exist.
    """
    matching = [family for family in families if text.casefold().startswith(family.name.casefold())]
    family = max(matching, key=lambda family: len(family.name), default=text_family(families))
    rest = text[len(family.name) :] if matching else text
    desired = parse_desired_face(rest) if rest.strip() or not matching else DesiredFace()
    faces = [face.face for face in family.faces]
    if missing_faces(faces, [desired]):
        there = ", ".join(face.label for face in faces)
        raise RequestError(
            f"'{text}': {family.name} has no such face; it has {there}", parameter="BuildRequest.preload"
        )
    return family, best_match(faces, desired)


def missing_faces(faces: Sequence[R], desired: Iterable[DesiredFace]) -> list[tuple[DesiredFace, R]]:
    """The missing faces, each with the face that browsers use instead."""
    missing = []
    for wish in dict.fromkeys(desired):
        face = best_match(faces, wish)
        low, high = face.weight_range
        # One that can be slanted is slanted where italics are asked for.
        slanted = face.styles[0] == wish.style or (wish.style != "normal" and "oblique" in face.styles[1:])
        if not low <= wish.weight <= high or not slanted or nearest_width(face, wish.width) != wish.width:
            missing.append((wish, face))
    return missing


def nearest_of(face: HasRanges, desired: DesiredFace) -> DesiredFace:
    """The values of the face nearest to the desired ones."""
    low, high = face.weight_range
    return DesiredFace(round(min(max(desired.weight, low), high)), face.styles[0], nearest_width(face, desired.width))


def synthesis(desired: DesiredFace, nearest: HasRanges) -> list[str]:
    """The synthesis that browsers apply to the nearest face: "slants", "thickens" (CSS Fonts 4, "font-synthesis")."""
    faked = ["slants"] if desired.style != "normal" and set(nearest.styles) == {"normal"} else []
    # Browsers embolden where 600 or more is asked for and the face is lighter than that.
    return faked + (["thickens"] if desired.weight >= 600 and nearest.weight_range[1] < 600 else [])


def describe_missing_face(desired: DesiredFace, nearest: HasRanges) -> str:
    """E.g. `asked for 600, nearest is 700`, and what a browser makes of it."""
    text = f"asked for {desired}, nearest is {nearest_of(nearest, desired)}"
    faked = synthesis(desired, nearest)
    return text + (f", which a browser {' and '.join(faked)} by itself" if faked else "")
