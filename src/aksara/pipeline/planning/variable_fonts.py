"""What happens to variable fonts: which faces of a family they cover, and which limits their axes get.

They stay variable, limited to what the site uses (`keep`); become static faces, one for each that the site uses or that
has a name of its own (`pin`); or are skipped where there are static fonts (`skip`).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.errors import RequestError
from aksara.faces import Face, FontVariation, Style, font_variation
from aksara.font import Font
from aksara.instancing import AxisLimit, Limits, check_limits
from aksara.notices import Noted, Notice
from aksara.pipeline.planning.reading import FacesOfFonts
from aksara.pipeline.request import FamilyRequest, Variable
from aksara.tables import Avar
from aksara.web.font_matching import DesiredFace, best_match, missing_faces, nearest_width

_AXES = "FamilyRequest.axes"
_WEIGHT, _WIDTH, _SLANT, _ITALIC = "wght", "wdth", "slnt", "ital"
#: What sites use that do not say what they use: text, and what is strong or emphasised in it.
_USUAL = (DesiredFace(400), DesiredFace(700), DesiredFace(400, "italic"), DesiredFace(700, "italic"))


class SettledFace(Struct, frozen=True):
    """A face to make, its font, and what remains of the font's axes (those that are not named stay whole)."""

    face: Face
    font: Font
    axes: Limits = field(default_factory=dict)

    @property
    def is_of_variable_font(self) -> bool:
        """Whether its source font is variable."""
        return self.font.is_variable


def settle(request: FamilyRequest, faces: FacesOfFonts) -> Noted[list[SettledFace]]:
    """The faces to make of the fonts of one request.

    Raises `RequestError` for limits of axes that fit no font.
    """
    _check_axes(request.axes, [font for _, font in faces])
    left, skipped = _without_covered(request.variable, faces)
    notices = list(skipped)
    uses = _uses_by_face([face for face, _ in left], request.uses)
    settled: list[SettledFace] = []
    for face, font in left:
        if not face.is_variable:
            settled.append(SettledFace(face, font))
        elif request.variable == "pin":
            settled += _pinned(face, font, request.axes, uses[face.path] if request.uses else None)
        else:
            kept = _kept(face, font, request.axes, uses[face.path])
            settled += kept.value
            notices += kept.notices
    return Noted(settled, tuple(notices))


def other_way(
    request: FamilyRequest, faces: FacesOfFonts
) -> tuple[Variable, tuple[DesiredFace, ...], list[SettledFace]] | None:
    """What else could become of the variable ones of a family's faces: the setting, the faces that the site would have
    to name for it, and what would be made. None where there is nothing else."""
    variable: Variable = "pin" if request.variable == "keep" else "keep"
    usual = tuple(use for use in _USUAL if _is_usual(use, [face for face, _ in faces]))
    uses = request.uses or (usual if variable == "pin" else ())
    if variable == "pin" and not uses:
        return None
    settled = settle(replace(request, variable=variable, uses=uses), faces).value
    made = [face for face in settled if face.is_of_variable_font]
    return (variable, () if request.uses else uses, made) if made else None


def _is_usual(use: DesiredFace, faces: Sequence[Face]) -> bool:
    """Whether such a use gets a variable font of the family; an upright one that can be slanted is no italic."""
    match = best_match(faces, use)
    return match.is_variable and match.style == use.style and not missing_faces(faces, [use])


def _check_axes(axes: Limits, fonts: Sequence[Font]) -> None:
    """Raise `RequestError` for a limit that no font of the family can have."""
    there = {axis.tag: font for font in fonts if (found := font_variation(font)) is not None for axis in found.axes}
    for tag in axes:
        if not there:
            raise RequestError(f"{tag}: the fonts are static; only variable fonts have axes", parameter=_AXES)
        if tag not in there:
            raise RequestError(f"there is no axis {tag} in these fonts; they have {', '.join(there)}", parameter=_AXES)
    for font in fonts:
        variation = font_variation(font)
        own = {axis.tag for axis in variation.axes} if variation is not None else set()
        try:
            check_limits(font, {tag: limit for tag, limit in axes.items() if tag in own})
        except RequestError as error:
            error.parameter = _AXES
            raise


def _without_covered(variable: Variable, faces: FacesOfFonts) -> Noted[FacesOfFonts]:
    """The fonts without those that other fonts of the family replace."""
    notices: list[Notice] = []
    static = [face for face, _ in faces if not face.is_variable]
    if variable == "skip":
        families = {face.family for face in static}
        gone = [face for face, _ in faces if face.is_variable and face.family in families]
        notices += [Notice(face.path, "variable, and skipped: the static fonts are used instead") for face in gone]
    else:
        gone = []
        for face, _ in faces:
            covered = [other for other in static if face.covers(other) and other not in gone]
            if covered:
                labels = ", ".join(other.label for other in sorted(covered, key=lambda other: other.sort_key))
                text = f"variable, and covers {labels}; these static fonts are skipped"
                notices.append(Notice(face.path, text, "FamilyRequest.variable"))
            gone += covered
    return Noted([(face, font) for face, font in faces if face not in gone], tuple(notices))


def _uses_by_face(faces: Sequence[Face], uses: Iterable[DesiredFace]) -> Mapping[str, list[DesiredFace]]:
    """The faces that the site uses, by the path of the font that browsers would choose for them."""
    uses_by_path: dict[str, list[DesiredFace]] = defaultdict(list)
    families: dict[str, list[Face]] = defaultdict(list)
    for face in faces:
        families[face.family].append(face)
    for use in uses:
        for members in families.values():
            uses_by_path[best_match(members, use).path].append(use)
    return uses_by_path


def _kept(face: Face, font: Font, axes: Limits, uses: Sequence[DesiredFace]) -> Noted[list[SettledFace]]:
    """The font, still variable: its axes limited as asked for, else to what is used. An axis between upright and italic
    makes two faces, since CSS knows nothing in between."""
    whole = dict(face.axes)
    limits = {tag: limit for tag, limit in axes.items() if tag in whole}
    if not limits and uses and axes_depend_on_one_another(font):
        text = "its axes depend on one another ('avar' version 2), so it is not limited to what the site uses"
        return Noted([SettledFace(face, font)], (Notice(font.path, text),))
    limits = _limits_by_use(face, uses) | limits
    if _ITALIC not in whole or (_ITALIC in limits and limits[_ITALIC].is_pin):
        return Noted([_settled(face, font, limits)])
    low, high = whole[_ITALIC]
    return Noted([_settled(face, font, limits | {_ITALIC: AxisLimit(end, end)}) for end in (low, high)])


def axes_depend_on_one_another(font: Font) -> bool:
    """Whether none of its axes can be limited ('avar' version 2)."""
    avar = font.find(Avar)
    return avar is not None and avar.is_version_2


def _limits_by_use(face: Face, uses: Sequence[DesiredFace]) -> dict[str, AxisLimit]:
    """What remains of weight, width and slant for faces that are used; everything where nothing is."""
    whole, limits = dict(face.axes), dict[str, AxisLimit]()
    if not uses:
        return {}
    if _WEIGHT in whole:
        low, high = face.weight_range
        weights = [min(max(use.weight, low), high) for use in uses]
        limits[_WEIGHT] = AxisLimit(float(min(weights)), float(max(weights)))
    if _WIDTH in whole:
        widths = [nearest_width(face, use.width) for use in uses]
        limits[_WIDTH] = AxisLimit(min(widths), max(widths))
    if _SLANT in whole:
        leaning = {use.style != "normal" for use in uses}
        if len(leaning) == 1:
            place = _slant(whole[_SLANT], leaning=leaning.pop())
            limits[_SLANT] = AxisLimit(place, place)
    return limits


def _slant(axis: tuple[float, float], *, leaning: bool) -> float:
    """The position of an italic or upright face on the slant axis, on which negative values lean right."""
    low, high = axis
    return low if leaning else min(max(0.0, low), high)


def _settled(face: Face, font: Font, limits: Limits) -> SettledFace:
    """The face as it is with these limits."""
    ranges = {tag: (limits[tag].low, limits[tag].high) if tag in limits else span for tag, span in face.axes}
    left = tuple((tag, span) for tag, span in ranges.items() if span[0] < span[1])
    whole = dict(face.axes)
    limits = {tag: limit for tag, limit in limits.items() if (limit.low, limit.high) != whole[tag]}

    def inside(tag: str, value: float) -> float:
        low, high = ranges.get(tag, (value, value))
        return min(max(value, low), high)

    style: Style = face.style
    if ranges.get(_ITALIC, (0.0, 0.0))[0] > 0:
        style = "italic"
    elif ranges.get(_SLANT, (0.0, 0.0))[1] < 0 and style == "normal":
        style = "oblique"
    changed = replace(
        face,
        weight=round(inside(_WEIGHT, face.weight)),
        width=inside(_WIDTH, face.width),
        style=style,
        axes=left,
    )
    return SettledFace(changed, font, limits)


def _pinned(face: Face, font: Font, axes: Limits, uses: Sequence[DesiredFace] | None) -> list[SettledFace]:
    """Static faces: one per used face, or per named instance if the uses are unknown (None)."""
    variation = font_variation(font)
    assert variation is not None
    defaults = {axis.tag: axis.default for axis in variation.axes}
    if uses is None:
        locations = [dict(instance.location) for instance in variation.instances] or [dict(defaults)]
    else:
        locations = [defaults | _place_of(face, use) for use in uses]
    settled_faces: dict[tuple[object, ...], SettledFace] = {}
    for location in locations:
        limited = {tag: _within(axes.get(tag), value) for tag, value in location.items()}
        if uses is None and any(
            tag in axes and not axes[tag].is_pin and limited[tag] != location[tag] for tag in location
        ):
            continue  # an instance beyond the limits
        settled = _settled(face, font, {tag: AxisLimit(value, value) for tag, value in limited.items()})
        settled_faces.setdefault((settled.face.weight, settled.face.width, settled.face.style), settled)
    return list(settled_faces.values())


def _within(limit: AxisLimit | None, value: float) -> float:
    return value if limit is None else min(max(value, limit.low), limit.high)


def _place_of(face: Face, use: DesiredFace) -> dict[str, float]:
    """The location of a used face on the axes."""
    whole, leaning = dict(face.axes), use.style != "normal"
    location: dict[str, float] = {}
    if _WEIGHT in whole:
        low, high = face.weight_range
        location[_WEIGHT] = float(min(max(use.weight, low), high))
    if _WIDTH in whole:
        location[_WIDTH] = nearest_width(face, use.width)
    if _SLANT in whole:
        location[_SLANT] = _slant(whole[_SLANT], leaning=leaning)
    if _ITALIC in whole:
        location[_ITALIC] = whole[_ITALIC][leaning]
    return location


def variation_left(settled: SettledFace) -> FontVariation | None:
    """The remaining axes of the face; None for a static one."""
    variation = font_variation(settled.font)
    if variation is None or not settled.face.is_variable:
        return None
    ranges = dict(settled.face.axes)
    axes = tuple(
        replace(
            axis,
            minimum=ranges[axis.tag][0],
            default=min(max(axis.default, ranges[axis.tag][0]), ranges[axis.tag][1]),
            maximum=ranges[axis.tag][1],
        )
        for axis in variation.axes
        if axis.tag in ranges
    )
    instances = tuple(
        replace(instance, location={tag: value for tag, value in instance.location.items() if tag in ranges})
        for instance in variation.instances
        if all(_is_left(settled, tag, value) for tag, value in instance.location.items())
    )
    return FontVariation(axes, instances, variation.varies)


def _is_left(settled: SettledFace, tag: str, value: float) -> bool:
    limit = settled.axes.get(tag)
    return limit is None or limit.low <= value <= limit.high
