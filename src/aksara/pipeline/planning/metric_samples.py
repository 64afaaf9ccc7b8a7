"""Metrics of variable faces, sampled over their range: what fallback faces are matched with."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

from msgspec.structs import replace

from aksara.faces import Face, FaceMetrics, face_metrics, widths_of
from aksara.faces.style import WIDTH_NAMES
from aksara.instancing import AxisLimit, advances_at_locations
from aksara.pipeline.planning.variable_fonts import SettledFace, axes_depend_on_one_another

_WEIGHT, _WIDTH, _SLANT = "wght", "wdth", "slnt"
#: From here on browsers take a system family's bold.
_BOLD = 600
_NAMED_WIDTHS = sorted(WIDTH_NAMES)


def sampled_metrics(settled: SettledFace) -> tuple[FaceMetrics, tuple[tuple[Face, FaceMetrics], ...]]:
    """The metrics of a face; and for each part of its range the face cut down to it, with the metrics of the weight and
    width in it that sites use."""
    metrics = face_metrics(settled.font)
    if not settled.font.is_variable or axes_depend_on_one_another(settled.font):
        return metrics, ((settled.face, metrics),)
    parts = list(_parts(settled.face))
    pinned = {tag: limit for tag, limit in settled.axes.items() if limit.is_pin}
    locations = [pinned | _middle(settled.face)] + [pinned | _middle(part) for part in parts]
    samples = [
        replace(metrics, widths=widths_of(settled.font, advances))
        for advances in advances_at_locations(settled.font, locations)
    ]
    return samples[0], tuple(zip(parts, samples[1:], strict=True))


def _middle(face: Face) -> dict[str, AxisLimit]:
    """The location that represents the face: its own weight and width, and the font's default on other axes."""
    axes = dict(face.axes)
    own = {_WEIGHT: float(face.weight), _WIDTH: face.width}
    return {tag: AxisLimit(value, value) for tag, value in own.items() if tag in axes}


def _parts(face: Face) -> Iterable[Face]:
    """The face in parts of its range in which text is about equally wide."""
    weights = _cut(face.weight_range, [*range(150, 1000, 100), _BOLD], whole_numbers=True)
    widths = _cut(face.width_range, [(a + b) / 2 for a, b in pairwise(_NAMED_WIDTHS)])
    if len(widths) > 1:  # both directions at once would take too many rules
        weights = _cut(face.weight_range, [_BOLD], whole_numbers=True)
    for style in dict.fromkeys((face.style, *(("italic",) if len(face.styles) > 1 else ()))):
        for lightest, boldest in weights:
            for narrowest, widest in widths:
                axes = dict(face.axes)
                spans = {_WEIGHT: (float(lightest), float(boldest)), _WIDTH: (narrowest, widest)}
                axes |= {tag: span for tag, span in spans.items() if tag in axes}
                axes.pop(_SLANT, None)
                yield replace(
                    face,
                    weight=_representative(lightest, boldest) if _WEIGHT in axes else face.weight,
                    width=next((width for width in _NAMED_WIDTHS if narrowest <= width <= widest), narrowest),
                    style=style,
                    axes=tuple(axes.items()),
                )


def _representative(low: float, high: float) -> int:
    """The weight of a part that sites use: a hundred if there is one in it."""
    hundred = round(-(-low // 100) * 100)
    return hundred if hundred <= high else round((low + high) / 2)


def _cut(
    span: tuple[float, float], starts_of_parts: Iterable[float], *, whole_numbers: bool = False
) -> list[tuple[float, float]]:
    """The span cut at these places, each the start of a part; weights end one before the next begins."""
    low, high = span
    starts = [low, *sorted(place for place in set(starts_of_parts) if low < place <= high)]
    ends = [start - 1 if whole_numbers else start for start in starts[1:]] + [high]
    return list(zip(starts, ends, strict=True))
