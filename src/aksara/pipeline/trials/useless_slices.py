"""Families that are better left uncut, found out by making them in one file per face, or by a trial of that."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from aksara.pipeline.making.font_files import FontFiles
from aksara.pipeline.planning.plan import BuildPlan
from aksara.pipeline.planning.planned import FacePlan, FamilyPlan
from aksara.pipeline.recipes import Recipes
from aksara.pipeline.trials.slice_figures import SliceFigures, UncutSizes, figures_of, without_slices
from aksara.threads import in_threads


def without_useless_slices(
    plan: BuildPlan, recipes: Recipes, made: list[list[FontFiles]], step: Callable[[FacePlan], None]
) -> tuple[BuildPlan, list[list[FontFiles]], dict[str, UncutSizes]]:
    """The plan and its files, families in one file per face where slices save nothing; and the bytes of each
    face of those that were compared."""
    families, files, sizes = [], [], {}
    results = iter(made)
    for family in plan.families:
        parts = [next(results) for _ in family.faces]
        figures = figures_of(family)
        if figures is not None and figures.is_compared():
            whole, sizes[family.name] = _compare(figures, parts, recipes, step)
            if whole:
                family, parts = without_slices(family), [[face] for face in whole]  # noqa: PLW2901
        families.append(family)
        files += parts
    return replace(plan, families=tuple(families)), files, sizes


def _compare(
    figures: SliceFigures, parts: Sequence[Sequence[FontFiles]], recipes: Recipes, step: Callable[[FacePlan], None]
) -> tuple[list[FontFiles], UncutSizes]:
    """The files of a family uncut, [] where its slices save something; and what is known of their sizes."""
    family, of_parts = figures.family, [[len(files.files[0].data) for files in face] for face in parts]
    if figures.is_tried:
        reckoned = [_reckoned(family, face_index, sizes, recipes) for face_index, sizes in enumerate(of_parts)]
        if figures.clearly_save(of_parts, reckoned):
            for face in family.faces:
                for _ in recipes.of(face).formats:
                    step(face)
            return [], UncutSizes(reckoned, exact=False)
    whole = _make_whole(family, recipes, step)
    exact = UncutSizes([len(files.files[0].data) for files in whole], exact=True)
    return ([] if figures.save(of_parts, exact.sizes) else whole), exact


def _reckoned(family: FamilyPlan, face_index: int, sizes: Sequence[int], recipes: Recipes) -> int:
    """About how large a face is in one file: a trial tells, and the largest of its slices, of these sizes, by how much
    trials are wrong."""
    face, store = family.faces[face_index], recipes.store
    size, part = max(zip(sizes, family.parts(face_index), strict=True), key=lambda slice_: slice_[0])
    tried = store.reckoned_size(face.font, recipes.of_part(face, part))
    return store.reckoned_size(face.font, recipes.of(face)) * size // max(tried, 1)


def _make_whole(family: FamilyPlan, recipes: Recipes, step: Callable[[FacePlan], None]) -> list[FontFiles]:
    def make(face: FacePlan) -> FontFiles:
        return recipes.store.files(face.font, recipes.of(face), lambda _: step(face))

    return in_threads(recipes.request.jobs, make, family.faces)
