"""What else a family could be cut into: all ways side by side, reckoned from the files that were made."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import RequestError
from aksara.pipeline.planning.planned import FamilyPlan
from aksara.pipeline.planning.slices import with_interactions
from aksara.slicing.cut import Cut, Material, cut_characters, settled_cut
from aksara.slicing.slice_choice import WAYS, Way
from aksara.slicing.weights import Sizes
from aksara.web.model import WebFamily


class WayToCut(Struct, frozen=True, kw_only=True):
    """About what page views would fetch, cut that way: bytes of the `typical` and of the largest page, files a page has
    on average; and how many pairs of characters would lose their kerning."""

    way: Way
    slices: int
    typical: int
    most: int
    files: float
    parted: int


def ways_to_cut(family: FamilyPlan, made: WebFamily) -> list[WayToCut]:
    """All ways; [] where nothing is known of page views, so that they cannot be compared."""
    slices = family.slices
    if slices is None or not slices.material.views:
        return []
    material = slices.material
    if not material.pairs:
        material = with_interactions(material, family, slices.characters, slices.neighbours)
    cuts: list[tuple[Way, Cut]] = []
    for way in WAYS:
        try:
            cuts.append((way, settled_cut(material, way) or cut_characters(material, way)))
        except RequestError:
            continue  # by language, where none is known
    material = replace(material, size_of=_true_sizes(made, material.size_of))
    return [_figures(way, cut, material) for way, cut in cuts]


def _true_sizes(made: WebFamily, reckoned: Sizes) -> Sizes:
    """The sizes, scaled so that they add up to those of the files that were made."""
    parts = [part for web in made.faces for part in web.slices]
    files = sum(reckoned.of_file + reckoned.of(part.characters) for part in parts)
    scale = sum(part.best_size for part in parts) / files
    return replace(
        reckoned,
        of_character={code: scale * size for code, size in reckoned.of_character.items()},
        of_file=scale * reckoned.of_file,
        of_part={part: scale * size for part, size in reckoned.of_part.items()},
    )


def _figures(way: Way, cut: Cut, material: Material) -> WayToCut:
    slices = list(cut.slices.values()) or [material.characters]
    cost = material.cost(slices)
    assert cost is not None
    views = {view.name: view.weight for view in material.views}
    mean = cost.files / (sum(view.weight for view in material.views) / _faces_a_view(material)) if views else 0.0
    return WayToCut(
        way=way,
        slices=len(slices),
        typical=round(cost.typical),
        most=round(cost.most),
        files=round(mean, 2),
        parted=len(cut.parted),
    )


def _faces_a_view(material: Material) -> float:
    """How many faces a page is set in, on average."""
    exact = [view for view in material.views if view.exact]
    return len(exact) / len({view.name for view in exact}) if exact else 1.0
