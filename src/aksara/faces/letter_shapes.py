"""What letters look like: whether they have serifs, or join like handwriting. Measured on their outlines."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise
from statistics import median
from typing import Literal

from aksara.errors import InputError
from aksara.font import Font
from aksara.glyph_outlines import Step, outline_steps
from aksara.tables import Hmtx

Shape = Literal["serif", "sans-serif", "cursive"]

#: Letters with a stem that stands on the baseline, and lower-case letters that join their neighbours in handwriting.
_STANDING, _JOINING = "HnhmIKMNPFTrliAX", "acdehiklmnu"
#: Letters that have to be there.
_ENOUGH = 5
#: Heights at which a foot and its stem are measured, in parts of a letter's height.
_FOOT, _STEM = 0.025, (0.3, 0.36, 0.42)
#: How much wider a foot is than its stem: as much as a serif.
_SERIF = 1.3
#: The part of letters that reach their own right edge in handwriting that joins, and where that is looked for, in parts
#: of the height of "n".
_JOINED, _BETWEEN = 0.5, (0.1, 0.6)
_PARTS = 6


def letter_shape(font: Font) -> Shape | None:
    """The shape of a font's Latin letters; None where there are too few, or none that can be measured."""
    try:
        ratios = list(_foot_ratios(font))
        # Italics of typefaces with serifs reach their edges, too.
        if len(ratios) >= _ENOUGH and median(ratios) >= _SERIF:
            return "serif"
        if _joins(font):
            return "cursive"
    except InputError:  # damaged outlines are somebody else's matter
        return None
    return "sans-serif" if len(ratios) >= _ENOUGH else None


def _foot_ratios(font: Font) -> Iterator[float]:
    """How much wider each letter is at its feet than in its stems."""
    letters = [letter for letter in _STANDING if ord(letter) in font.characters]
    for steps in outline_steps(font, [font.characters[ord(letter)] for letter in letters]):
        edges = _edges(steps)
        if not edges:
            continue
        top, bottom = max(max(y, v) for _, y, _, v in edges), min(min(y, v) for _, y, _, v in edges)
        height = top - bottom
        if height <= 0:
            continue
        feet = _widths(edges, bottom + _FOOT * height)
        stems = [width for part in _STEM for width in _widths(edges, bottom + part * height)]
        if feet and stems and min(stems) > 0:
            yield median(feet) / median(stems)


def _joins(font: Font) -> bool:
    """Whether strokes of lower-case letters end at the edges of their room, as those of handwriting do that join.

    Measured between the feet, where serifs are, and the top, which leans over the edge in italics.
    """
    letters = [ord(letter) for letter in _JOINING if ord(letter) in font.characters]
    if len(letters) < _ENOUGH or ord("n") not in font.characters:
        return False
    (steps,) = outline_steps(font, [font.characters[ord("n")]])
    height = max((max(y, v) for _, y, _, v in _edges(steps)), default=0.0)
    advances = font.table(Hmtx).advances
    reaching = 0
    for code, steps in zip(letters, outline_steps(font, [font.characters[code] for code in letters]), strict=True):
        low, high = (part * height for part in _BETWEEN)
        inner = [x for x, y, u, v in _edges(steps) for x, y in ((x, y), (u, v)) if low <= y <= high]
        reaching += bool(inner) and max(inner) >= float(advances[font.characters[code]])
    return reaching >= _JOINED * len(letters)


_Edge = tuple[float, float, float, float]


def _edges(steps: Sequence[Step]) -> list[_Edge]:
    """The outline as straight pieces."""
    edges: list[_Edge] = []
    start = here = (0.0, 0.0)
    for letter, points in steps:
        if letter == "M":
            start = here = points[0]
            continue
        last = here
        curve = (here, start) if letter == "Z" else (here, *points)
        for part in range(1, (_PARTS if len(curve) > 2 else 1) + 1):
            point = _point(curve, part / (_PARTS if len(curve) > 2 else 1))
            edges.append((*last, *point))
            last = point
        here = curve[-1]
    return edges


def _point(curve: Sequence[tuple[float, float]], t: float) -> tuple[float, float]:
    """A point of a Bezier curve (de Casteljau)."""
    points = list(curve)
    while len(points) > 1:
        points = [(x + (u - x) * t, y + (v - y) * t) for (x, y), (u, v) in pairwise(points)]
    return points[0]


def _widths(edges: Sequence[_Edge], height: float) -> list[float]:
    """The widths of what is drawn at a height, from left to right (non-zero winding)."""
    crossings = sorted(
        (x + (u - x) * (height - y) / (v - y), 1 if v > y else -1)
        for x, y, u, v in edges
        if (y <= height < v) or (v <= height < y)
    )
    widths: list[float] = []
    winding, start = 0, 0.0
    for x, direction in crossings:
        if winding == 0:
            start = x
        winding += direction
        if winding == 0 and x > start:
            widths.append(x - start)
    return widths
