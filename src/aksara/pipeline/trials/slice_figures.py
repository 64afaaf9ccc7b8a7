"""What page views fetch of families that are cut into slices, of the files that were made.

What cuts is imported where something is cut: builds that know of no pages ask here, too.
"""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median_low

from msgspec import Struct
from msgspec.structs import replace

from aksara.pipeline.planning.planned import FacePart, FamilyPlan, FamilySlices
from aksara.web.model import CutFamily, ViewSize, WebFamily

#: Characters of a family that is made uncut in any case.
_FEW = 1_500
#: The chance from which on a page counts as fetching a slice.
_LIKELY = 0.5
#: The estimated saving of a page view from which on the whole is not made for comparison: by what is
#: known before anything is made, and by a trial of the whole.
_CERTAIN, _CLEAR = 0.4, 0.1


class SliceFigures(Struct, frozen=True):
    """A family for which slices were requested or tried, whatever the result."""

    family: FamilyPlan
    slices: FamilySlices

    @property
    def is_cut(self) -> bool:
        """Whether there are slices."""
        return bool(self.slices.cut.slices)

    def shares(self) -> dict[str, float]:
        """The part of page views that fetch each slice, by its name; {} where nothing is known of views."""
        cut = self.slices.cut.slices
        if not self.slices.pages:
            chances = list(self._chances(list(cut.values())).values())
            shares = (sum(of_view[index] for of_view in chances) / len(chances) for index in range(len(cut)))
            return {name: round(share, 4) for name, share in zip(cut, shares, strict=True)} if chances else {}
        shown = [frozenset[int]().union(*view.shown.values()) for view in self.slices.pages]
        return {
            name: round(sum(not codes.isdisjoint(view) for view in shown) / len(shown), 4)
            for name, codes in cut.items()
        }

    def is_compared(self) -> bool:
        """Whether the family is made uncut, too, since slices may save less than reckoned, or that costs little."""
        material = self.slices.material
        if not self.is_cut or len(material.characters) <= _FEW:
            return self.is_cut
        whole, cut = material.cost([material.characters]), material.cost(list(self.slices.cut.slices.values()))
        return whole is not None and cut is not None and cut.total > (1 - _CERTAIN) * whole.total

    @property
    def is_tried(self) -> bool:
        """Whether a trial of the whole comes first, since making it takes as long as making all slices."""
        return len(self.slices.material.characters) > _FEW

    def clearly_save(self, parts: Sequence[Sequence[int]], whole: Sequence[int]) -> bool:
        """Whether slices save so much that it does not matter if the size of the whole is only reckoned."""
        return self.save(parts, [round(size * (1 - _CLEAR)) for size in whole])

    def save(self, parts: Sequence[Sequence[int]], whole: Sequence[int]) -> bool:
        """Whether an average page view fetches less with the slices than with one file per face, requests counted; or
        they were asked for. The sizes are the bytes of each face's slices, and of each face in one file."""
        if self.family.request.slices != "auto":
            return True
        from aksara.slicing.cutting import REQUEST_BYTES

        total = sum(view.size + REQUEST_BYTES * view.files for view in self.all_views(parts))
        return total < sum(view.size + REQUEST_BYTES * view.files for view in self.uncut_views(whole))

    def all_views(self, sizes: Sequence[Sequence[int]]) -> list[ViewSize]:
        """What each page fetches, or a page in each language if no pages are known."""
        if not self.slices.pages:
            return list(self.likely_views(sizes).values())
        return self.page_views(sizes)

    def uncut_views(self, sizes: Sequence[int]) -> list[ViewSize]:
        """The same with one file per face, of these bytes."""
        if not self.slices.pages:
            return [ViewSize(sum(sizes), len(sizes))] * len(self.slices.languages)
        views = [view.shown for view in self.slices.pages]
        return [ViewSize(sum(sizes[face_index] for face_index in shown), len(shown)) for shown in views]

    def page_views(self, sizes: Sequence[Sequence[int]]) -> list[ViewSize]:
        """What each page fetches."""
        family = self.family
        parts = [
            [part.characters or frozenset[int]() for part in family.parts(face_index)] if family.is_cut else None
            for face_index in range(len(family.faces))
        ]
        sizes_of_views = []
        for view in self.slices.pages:
            size = files = 0
            for face_index, codes in view.shown.items():
                own = parts[face_index]
                fetched = [
                    bytes_of
                    for index, bytes_of in enumerate(sizes[face_index])
                    if own is None or not own[index].isdisjoint(codes)
                ]
                size, files = size + sum(fetched), files + len(fetched)
            sizes_of_views.append(ViewSize(size, files))
        return sizes_of_views

    def likely_views(self, sizes: Sequence[Sequence[int]]) -> dict[str, ViewSize]:
        """What a page in each language is likely to fetch: each slice counts by the chance that it is needed."""
        size: dict[str, float] = dict.fromkeys(self.slices.languages, 0.0)
        files = dict(size)
        for face_index, bytes_of in enumerate(sizes):
            for tag, chances in self._chances(self._codes_of(face_index)).items():
                size[tag] += sum(chance * part for chance, part in zip(chances, bytes_of, strict=True))
                files[tag] += sum(chances)
        return {tag: ViewSize(round(size[tag]), round(files[tag])) for tag in size}

    def fetched_parts(self, face_index: int, of: str) -> tuple[FacePart, ...]:
        """The slices of a face that a page fetches, or, if `of` is a language, one in it is likely to."""
        parts, codes = self.family.parts(face_index), self._codes_of(face_index)
        if self.slices.pages:
            views = (view.shown.get(face_index, frozenset()) for view in self.slices.pages if view.page == of)
            shown = next(views, frozenset[int]())
            # What is in one piece is fetched wherever the face is asked for.
            return tuple(
                part for part, own in zip(parts, codes, strict=True) if shown and (len(parts) == 1 or own & shown)
            )
        chances = self._chances(codes).get(of, [0.0] * len(parts))
        return tuple(part for part, chance in zip(parts, chances, strict=True) if chance > _LIKELY)

    def about(self, face_index: int, size: int) -> int:
        """About the bytes of a face in one file, from those of all its slices."""
        sizes, own = self.slices.material.size_of, self.slices.characters[face_index]
        parts = sum(sizes.of_file + sizes.of(part.characters or own) for part in self.family.parts(face_index))
        return round(size * (sizes.of_file + sizes.of(own)) / parts)

    def _codes_of(self, face_index: int) -> list[frozenset[int]]:
        """The characters of each part of a face."""
        own = self.slices.characters[face_index]
        return [part.characters if part.characters is not None else own for part in self.family.parts(face_index)]

    def _chances(self, parts: Sequence[frozenset[int]]) -> dict[str, list[float]]:
        """For each language the chance of each part to be needed by a page in it."""
        import numpy as np

        from aksara.slicing.views import chance_logarithms, language_views

        views = language_views(self.slices.languages) if self.slices.languages else []
        part_of = {code: index for index, codes in enumerate(parts) for code in codes}
        rows = -np.expm1(chance_logarithms(views, part_of, len(parts)))
        return {view.name: row for view, row in zip(views, rows.tolist(), strict=True)}


def figures_of(family: FamilyPlan) -> SliceFigures | None:
    """The figures of a family; None if slices do not matter for it."""
    return SliceFigures(family, family.slices) if family.slices is not None else None


def is_compared(family: FamilyPlan) -> bool:
    """Whether a family is also made unsliced (`SliceFigures.is_compared`), or at least tried."""
    figures = figures_of(family)
    return figures is not None and figures.is_compared()


def is_made_uncut(family: FamilyPlan) -> bool:
    """Whether a family is also made unsliced, whatever the result."""
    figures = figures_of(family)
    return figures is not None and figures.is_compared() and not figures.is_tried


def without_slices(family: FamilyPlan) -> FamilyPlan:
    """The family in one file per face, since slices save nothing."""
    from aksara.slicing.cut import Cut

    assert family.slices is not None
    return replace(family, slices=replace(family.slices, cut=Cut(slices={}, reason="slices would save nothing")))


class UncutSizes(Struct, frozen=True):
    """The bytes of each face of a family in one file; `exact` if these were made."""

    sizes: Sequence[int]
    exact: bool


def cut_family(figures: SliceFigures, web: WebFamily, whole: UncutSizes | None) -> CutFamily:
    """The result of slicing; `whole` describes the unsliced family."""
    slices = figures.slices
    cut = CutFamily(asked=str(figures.family.request.slices), reason=slices.cut.reason)
    if not figures.is_cut:
        return cut
    of_parts = sizes_of_parts(web)
    one = whole.sizes if whole else [figures.about(face_index, sum(sizes)) for face_index, sizes in enumerate(of_parts)]
    sizes, uncut = figures.all_views(of_parts), figures.uncut_views(one)
    cut = replace(
        cut, names=tuple(slices.cut.slices), exact=whole is not None and whole.exact, parted=slices.cut.parted
    )
    if not sizes:
        return cut
    return replace(
        cut,
        one_file=_typical(uncut),
        typical=_typical(sizes),
        most=max(sizes, key=lambda view: (view.size, view.files)),
        mean_files=round(sum(view.files for view in sizes) / len(sizes), 2),
    )


def sizes_of_parts(web: WebFamily) -> list[list[int]]:
    """The bytes of each face's slices."""
    return [[part.best_size for part in face.slices] for face in web.faces]


def view_sizes(family: FamilyPlan, web: WebFamily) -> dict[str, ViewSize]:
    """What each page fetches of a family, by its name."""
    figures = figures_of(family)
    sizes = figures.page_views(sizes_of_parts(web)) if figures is not None else []
    return {view.page: size for view, size in zip(figures.slices.pages if figures else (), sizes, strict=True)}


def language_sizes(family: FamilyPlan, web: WebFamily) -> dict[str, ViewSize]:
    """What a page in each of the text's languages is likely to fetch of a family, if it has all its faces."""
    figures = figures_of(family)
    return figures.likely_views(sizes_of_parts(web)) if figures is not None else {}


def fetched_parts(family: FamilyPlan, face_index: int, of: str) -> tuple[FacePart, ...]:
    """The parts of a face that a page fetches, or, if `of` is a language, one in it is likely to."""
    figures = figures_of(family)
    return figures.fetched_parts(face_index, of) if figures is not None else family.parts(face_index)


def _typical(sizes: Sequence[ViewSize]) -> ViewSize:
    """The one in the middle."""
    size = median_low(view.size for view in sizes)
    return next(view for view in sizes if view.size == size)
