"""Which face a browser takes for what a style sheet asks (CSS Fonts 4, section 5.2, "Matching font styles")."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Protocol, TypeVar

from aksara.errors import RequestError
from aksara.faces import Face, Style, label_of
from aksara.faces.words import read_style


@dataclass(slots=True, frozen=True)
class Asked:
    """A weight, a style and a width (in percent) that a style sheet may ask for."""

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


def parse_asked(text: str) -> Asked:
    """`600`, `400 italic`, `bold`, `Semi Bold Italic`. Raises `RequestError` for anything else."""
    width = re.search(r"(?<![\d.])(\d{1,3}(?:\.\d{1,3})?)%", text)
    rest = text.replace(width[0], " ", 1) if width else text
    number = re.search(r"\b\d{1,4}\b", rest)
    words = read_style(rest.replace(number[0], " ", 1) if number else rest)
    weight = int(number[0]) if number else words.weight or 400
    if words.rest or not text.strip() or not 1 <= weight <= 1000:
        raise RequestError(f"'{text}' is no face; write a weight and a style like 600, '400 italic' or 'Bold Italic'")
    return Asked(weight, words.slant or "normal", float(width[1]) if width else words.width or 100.0)


def best_match(faces: Sequence[Face], asked: Asked) -> Face:
    """The face that a browser takes: by width first, then by style, then by weight. There must be one."""
    narrower = asked.width <= 100  # where the width is not there, this side is tried first
    width = min(
        {face.width for face in faces},
        key=lambda each: (each != asked.width, (each < asked.width) != narrower, abs(each - asked.width)),
    )
    fitting = [face for face in faces if face.width == width]
    styles: dict[Style, tuple[Style, ...]] = {
        "italic": ("italic", "oblique", "normal"),
        "oblique": ("oblique", "italic", "normal"),
        "normal": ("normal", "oblique", "italic"),
    }
    style = next(style for style in styles[asked.style] if any(face.style == style for face in fitting))
    return min((face for face in fitting if face.style == style), key=lambda face: _distance(face, asked.weight))


def _distance(face: Face, asked: int) -> tuple[int, int]:
    """Sorts weights as CSS tries them: the wanted one; between 400 and 500 upwards first; else away from the middle."""
    low, high = face.weight_range
    if low <= asked <= high:
        return 0, 0
    weight = low if asked < low else high
    if 400 <= asked <= 500:
        group = 1 if asked < weight <= 500 else 2 if weight < asked else 3
    elif asked < 400:
        group = 1 if weight < asked else 2
    else:
        group = 1 if weight > asked else 2
    return group, abs(weight - asked)


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
            if family.generic in ("sans-serif", "serif") and not holes([each.face for each in family.faces], [Asked()])
        ),
        families[0],
    )


def named_face(families: Sequence[F], text: str) -> tuple[F, Face]:
    """The face that "Bold", "700 italic" or "Penyu Slab Bold" means; without a family's name that for running text.

    Raises `RequestError` for one that is not there.
    """
    matching = [family for family in families if text.casefold().startswith(family.name.casefold())]
    family = max(matching, key=lambda family: len(family.name), default=text_family(families))
    rest = text[len(family.name) :] if matching else text
    asked = parse_asked(rest) if rest.strip() or not matching else Asked()
    faces = [each.face for each in family.faces]
    if holes(faces, [asked]):
        there = ", ".join(face.label for face in faces)
        raise RequestError(f"--preload {text}: {family.name} has no such face; it has {there}")
    return family, best_match(faces, asked)


def holes(faces: Sequence[Face], asked: Iterable[Asked]) -> list[tuple[Asked, Face]]:
    """What is asked for and not there, with the face that a browser takes instead."""
    found = []
    for each in dict.fromkeys(asked):
        face = best_match(faces, each)
        low, high = face.weight_range
        if not low <= each.weight <= high or face.style != each.style or face.width != each.width:
            found.append((each, face))
    return found


def describe_hole(asked: Asked, nearest: Face) -> str:
    """E.g. `asked for 600, nearest is 700`, and what a browser makes of it (CSS Fonts 4, "font-synthesis")."""
    there = Asked(nearest.weight, nearest.style, nearest.width)
    text = f"asked for {asked}, nearest is {there}"
    faked = ["slants"] if asked.style != "normal" and nearest.style == "normal" else []
    # Browsers embolden where 600 or more is asked for and the face is lighter than that.
    faked += ["thickens"] if asked.weight >= 600 and nearest.weight < 600 else []
    return text + (f", which a browser {' and '.join(faked)} by itself" if faked else "")
