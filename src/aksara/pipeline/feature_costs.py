"""For which files it is found out what omitted features would cost.

That takes as long as cutting a font of many features down. It is the same for all faces of a family but for a little,
and only said as "about": so it is found out once for all those that have the same features, and of the slice of running
text alone.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from aksara.errors import FontError
from aksara.font import Font
from aksara.pipeline.making.font_files import FontFiles
from aksara.pipeline.planning.planned import FamilyPlan
from aksara.pipeline.recipes import Recipes
from aksara.subsetting import Costs
from aksara.tables import Gpos, Gsub


def cost_leaders(family: FamilyPlan, recipes: Recipes) -> list[int]:
    """For each face the number of the face that it is found out of: the first one with the same features, of which the
    same is kept."""
    first: dict[object, int] = {}
    leaders = []
    for index, face in enumerate(family.faces):
        recipe = recipes.of_part(face, family.parts(index)[0])
        same = _features(face.font), recipe.characters, recipe.features
        leaders.append(first.setdefault(same, index))
    return leaders


def costs_of(index: int, *, leading: bool) -> Costs:
    """What to measure of feature costs for a slice of a face, by its index."""
    return "all" if index == 0 and leading else "hints"


def with_costs_of_leaders(faces: Sequence[Sequence[FontFiles]], leaders: Sequence[int]) -> list[list[FontFiles]]:
    """The files of the slices of each face of a family, each with what was found out of another."""
    return [
        [replace(slices[0], omitted=faces[leader][0].omitted), *slices[1:]]
        for slices, leader in zip(faces, leaders, strict=True)
    ]


def _features(font: Font) -> frozenset[str]:
    try:
        return frozenset(
            tag for kind in (Gsub, Gpos) if kind.TAG in font for tag in kind.listed_tags(font.raw(kind.TAG))
        )
    except FontError:
        # A damaged table, which is left out.
        return frozenset()
