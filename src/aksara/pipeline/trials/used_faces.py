"""The savings of making only used faces, each with its own characters; measured, not estimated."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from aksara.pipeline.planning.planned import FacePlan, FamilyPlan
from aksara.pipeline.recipes import Recipes
from aksara.pipeline.trials.variable_or_static import sizes_of
from aksara.web.model import UnusedFace, UsedFaces, WebFamily


def trials(family: FamilyPlan) -> list[FacePlan]:
    """What has to be made besides to know what was saved: unused faces, all used ones with the characters of all of
    them, and those with letters that no page shows yet without these.

    Of a family in slices only the first: what a page does not show it does not fetch.
    """
    if family.is_cut:
        return list(family.unused)
    return [*family.unused, *_with_all_characters(family), *_without_letters(family)]


def weigh_used_faces(
    family: FamilyPlan, made: WebFamily, recipes: Recipes, step: Callable[[FacePlan], None]
) -> UsedFaces | None:
    """The figures of a family; None if its use is unknown."""
    if family.needs is None:
        return None
    sizes = [web.best_size for web in made.faces]
    unused = sizes_of(family.unused, recipes, step)
    not_made = tuple(UnusedFace(plan.face, size) for plan, size in zip(family.unused, unused, strict=True))
    if family.is_cut:
        return UsedFaces(sum(sizes), not_made, sum(sizes) + sum(unused), 0, family.needs.text_files)
    widened = _with_all_characters(family)
    together = sizes_of(widened, recipes, step)
    together += [size for face, size in zip(family.faces, sizes, strict=True)
                 if all(face.face is not other.face for other in widened)]  # fmt: skip
    pairs = zip(family.faces, sizes, strict=True)
    with_letters = sum(size for face, size in pairs if face.letters)
    exact = sum(sizes_of(_without_letters(family), recipes, step))
    return UsedFaces(
        sum(sizes),
        not_made,
        sum(together) + sum(unused),
        with_letters - exact,
        family.needs.text_files,
    )


def _with_all_characters(family: FamilyPlan) -> list[FacePlan]:
    if family.needs is None:
        return []
    everything: frozenset[int] = frozenset().union(*(face.characters or () for face in family.faces))
    return [replace(face, characters=everything) for face in family.faces if face.characters != everything]


def _without_letters(family: FamilyPlan) -> list[FacePlan]:
    return [
        replace(face, characters=face.characters - face.letters)
        for face in family.faces
        if face.letters and face.characters is not None
    ]
