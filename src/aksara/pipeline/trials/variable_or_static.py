"""A family's variable fonts and the alternative, both actually made, so that sizes are true."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from aksara.pipeline.planning.planned import FacePlan, FamilyPlan
from aksara.pipeline.recipes import Recipes
from aksara.threads import in_threads
from aksara.web.model import Change, Way, WayTaken, WebFamily

#: Places that are named one by one; more are counted.
_NAMED = 4


def way_taken(
    family: FamilyPlan, made: WebFamily, recipes: Recipes, step: Callable[[FacePlan], None] = lambda _: None
) -> WayTaken | None:
    """Both ways in words and bytes, in the first format; None for a family that has no such choice. `step` hears of
    each face of the other way as it is made."""
    other = family.other_way
    if other is None:
        return None
    pairs = zip(family.faces, made.faces, strict=True)
    taken = [web.best_size for plan, web in pairs if any(plan is replaced for replaced in other.instead_of)]
    changes = [Change("FamilyRequest.variable", (other.variable,))]
    changes += [Change("FamilyRequest.uses", (str(use),)) for use in other.uses]
    return WayTaken(
        _way(other.instead_of, taken), _way(other.faces, sizes_of(other.faces, recipes, step)), tuple(changes)
    )


def sizes_of(faces: Sequence[FacePlan], recipes: Recipes, step: Callable[[FacePlan], None]) -> list[int]:
    """Bytes of each face, made in the first format."""

    def size(face: FacePlan) -> int:
        recipe = recipes.of(face)
        made = recipes.store.files(
            face.font, replace(recipe, formats=recipe.formats[:1]), lambda _: step(face), costs="none", published=False
        )
        return len(made.files[0].data)

    return in_threads(recipes.request.jobs, size, faces)


def _way(faces: Sequence[FacePlan], sizes: Sequence[int]) -> Way:
    variable = [face for face in faces if face.face.is_variable]
    if len(variable) == len(faces):
        words = "as variable"
    elif variable:
        words = "variable and static"
    else:
        labels = [_place(face) for face in faces]
        listed = labels if len(labels) <= _NAMED else [*labels[: _NAMED - 1], f"{len(labels) - _NAMED + 1} more"]
        words = "pinned at " + (f"{', '.join(listed[:-1])} and {listed[-1]}" if len(listed) > 1 else listed[0])
    return Way(words, len(sizes), sum(sizes))


def _place(plan: FacePlan) -> str:
    face = plan.face
    style = f" {face.style}" if face.style != "normal" else ""
    width = f" {face.width:g}%" if face.width != 100 else ""
    return f"{face.weight}{style}{width}"
