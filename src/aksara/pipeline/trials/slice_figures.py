"""What page views fetch of families that are cut into slices, of the files that were made.

What cuts is imported where something is cut: builds that know of no pages ask here, too.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from statistics import median_low

from msgspec.structs import replace

from aksara.pipeline.making.font_files import FontFiles
from aksara.pipeline.planning.planned import FacePart, FamilyPlan, FamilySlices
from aksara.web.model import CutFamily, ViewSize, WebFamily

#: Characters of a family that is made uncut in any case.
_FEW = 1_500
#: The chance from which on a page counts as fetching a slice.
_LIKELY = 0.5
#: The part of a page view that slices must be reckoned to save for nobody to make the whole to compare.
_CERTAIN = 0.4


def shares_of(family: FamilyPlan) -> dict[str, float]:
    """The part of page views that fetch each slice, by its name; {} where nothing is known of views."""
    slices = family.slices
    if slices is None or not slices.cut.slices:
        return {}
    if not slices.pages:
        chances = _chances(slices, list(slices.cut.slices.values()))
        return {
            name: round(sum(chances_of[place] for chances_of in chances.values()) / len(chances), 4)
            for place, name in enumerate(slices.cut.slices)
            if chances
        }
    shown = [frozenset[int]().union(*view.shown.values()) for view in slices.pages]
    return {
        name: round(sum(not codes.isdisjoint(view) for view in shown) / len(shown), 4)
        for name, codes in slices.cut.slices.items()
        if shown
    }


def is_compared(family: FamilyPlan) -> bool:
    """Whether the family is made uncut, too, since slices may save less than reckoned, or that costs little."""
    slices = family.slices
    if slices is None or not slices.cut.slices:
        return False
    if len(slices.material.characters) <= _FEW:
        return True
    material = slices.material
    whole, cut = material.cost([material.characters]), material.cost(list(slices.cut.slices.values()))
    return whole is not None and cut is not None and cut.total > (1 - _CERTAIN) * whole.total


def saves(family: FamilyPlan, parts: Sequence[Sequence[FontFiles]], whole: Sequence[FontFiles]) -> bool:
    """Whether an average page view fetches less with the slices than with one file a face, requests counted; or they
    were asked for."""
    slices = family.slices
    assert slices is not None
    if family.request.slices != "auto":
        return True
    from aksara.slicing.cutting import REQUEST_BYTES

    one = [len(files.files[0].data) for files in whole]
    of_parts = [[len(files.files[0].data) for files in each] for each in parts]
    cut = _all_views(family, of_parts)
    total = sum(view.size + REQUEST_BYTES * view.files for view in cut)
    return total < sum(view.size + REQUEST_BYTES * view.files for view in _uncut_views(family, one))


def without_slices(family: FamilyPlan) -> FamilyPlan:
    """The family in one file a face, since slices save nothing."""
    from aksara.slicing.cut import Cut

    assert family.slices is not None
    return replace(family, slices=replace(family.slices, cut=Cut(slices={}, reason="slices would save nothing")))


def cut_family(family: FamilyPlan, web: WebFamily, whole: Sequence[int] | None) -> CutFamily | None:
    """The figures of a family; `whole` are the bytes of its faces uncut, if they were made. None for a family of which
    nothing was asked that has to do with slices."""
    slices = family.slices
    if slices is None:
        return None
    found = CutFamily(asked=str(family.request.slices), reason=slices.cut.reason)
    if not slices.cut.slices:
        return found
    of_parts = [[part.best_size for part in face.slices] for face in web.faces]
    one = whole or [_reckoned(family, place, sum(sizes)) for place, sizes in enumerate(of_parts)]
    sizes, uncut = _all_views(family, of_parts), _uncut_views(family, one)
    found = replace(
        found,
        names=tuple(slices.cut.slices),
        exact=whole is not None,
        parted=slices.cut.parted,
    )
    if not sizes:
        return found
    return replace(
        found,
        one_file=_typical(uncut),
        typical=_typical(sizes),
        most=max(sizes, key=lambda view: (view.size, view.files)),
        mean_files=round(sum(view.files for view in sizes) / len(sizes), 2),
    )


def view_sizes(family: FamilyPlan, web: WebFamily) -> dict[str, ViewSize]:
    """What each page fetches of a family, by its name."""
    if family.slices is None:
        return {}
    of_parts = [[part.best_size for part in face.slices] for face in web.faces]
    sizes = _sizes(family, of_parts, [view.shown for view in family.slices.pages])
    return {view.page: size for view, size in zip(family.slices.pages, sizes, strict=True)}


def language_sizes(family: FamilyPlan, web: WebFamily) -> dict[str, ViewSize]:
    """What a page in each of the text's languages is likely to fetch of a family, if it has all its faces."""
    return _likely(family, [[part.best_size for part in face.slices] for face in web.faces])


def fetched_parts(family: FamilyPlan, place: int, of: str) -> tuple[FacePart, ...]:
    """The slices of a face that a page fetches, or, if `of` is a language, one in it is likely to."""
    parts = family.parts(place)
    slices = family.slices
    if slices is None:
        return parts
    own = slices.characters[place]
    codes = [part.characters if part.characters is not None else own for part in parts]
    if slices.pages:
        shown = next((view.shown.get(place, frozenset()) for view in slices.pages if view.page == of), frozenset[int]())
        # What is in one piece is fetched wherever the face is asked for.
        return tuple(part for part, its in zip(parts, codes, strict=True) if shown and (len(parts) == 1 or its & shown))
    chances = _chances(slices, codes).get(of, [])
    return tuple(part for part, chance in zip(parts, chances, strict=True) if chance > _LIKELY)


_Shown = Mapping[int, frozenset[int]]


def _all_views(family: FamilyPlan, of_parts: Sequence[Sequence[int]]) -> list[ViewSize]:
    """What the pages fetch, or else a page in each language; `of_parts` are the bytes of each face's slices."""
    slices = family.slices
    if slices is None or not slices.pages:
        return list(_likely(family, of_parts).values())
    return _sizes(family, of_parts, [view.shown for view in slices.pages])


def _uncut_views(family: FamilyPlan, one: Sequence[int]) -> list[ViewSize]:
    """The same with one file a face, of so many bytes."""
    slices = family.slices
    if slices is None or not slices.pages:
        return [ViewSize(sum(one), len(one))] * len(slices.languages if slices is not None else ())
    return [ViewSize(sum(one[place] for place in view.shown), len(view.shown)) for view in slices.pages]


def _likely(family: FamilyPlan, of_parts: Sequence[Sequence[int]]) -> dict[str, ViewSize]:
    """What a page in each language is likely to fetch: each slice counts by the chance that it is needed."""
    if family.slices is None:
        return {}
    sizes: dict[str, float] = dict.fromkeys(family.slices.languages, 0.0)
    files = dict(sizes)
    for place, bytes_of in enumerate(of_parts):
        own = family.slices.characters[place]
        parts = [part.characters if part.characters is not None else own for part in family.parts(place)]
        for tag, chances in _chances(family.slices, parts).items():
            sizes[tag] += sum(chance * size for chance, size in zip(chances, bytes_of, strict=True))
            files[tag] += sum(chances)
    return {tag: ViewSize(round(sizes[tag]), round(files[tag])) for tag in sizes}


def _chances(slices: FamilySlices, parts: Sequence[frozenset[int]]) -> dict[str, list[float]]:
    """For each language the chance of each part to be needed by a page in it."""
    import numpy as np

    from aksara.slicing.views import chance_logarithms, language_views

    views = language_views(slices.languages) if slices.languages else []
    part_of = {code: place for place, codes in enumerate(parts) for code in codes}
    found = -np.expm1(chance_logarithms(views, part_of, len(parts)))
    return {view.name: row for view, row in zip(views, found.tolist(), strict=True)}


def _sizes(family: FamilyPlan, of_parts: Sequence[Sequence[int]], views: Sequence[_Shown]) -> list[ViewSize]:
    """What each view fetches; `of_parts` are the bytes of each face's slices."""
    parts = [
        [part.characters or frozenset[int]() for part in family.parts(place)] if family.is_cut else None
        for place in range(len(family.faces))
    ]
    found = []
    for shown in views:
        size = files = 0
        for place, codes in shown.items():
            own = parts[place]
            fetched = [
                bytes_of
                for number, bytes_of in enumerate(of_parts[place])
                if own is None or not own[number].isdisjoint(codes)
            ]
            size, files = size + sum(fetched), files + len(fetched)
        found.append(ViewSize(size, files))
    return found


def _reckoned(family: FamilyPlan, place: int, size: int) -> int:
    """About the bytes of a face in one file, from those of all its slices."""
    assert family.slices is not None
    sizes, own = family.slices.material.size_of, family.slices.characters[place]
    parts = sum(sizes.of_file + sizes.of(part.characters or own) for part in family.parts(place))
    return round(size * (sizes.of_file + sizes.of(own)) / parts)


def _typical(sizes: Sequence[ViewSize]) -> ViewSize:
    """The one in the middle."""
    size = median_low(view.size for view in sizes)
    return next(view for view in sizes if view.size == size)
