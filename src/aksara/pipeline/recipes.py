"""The recipe for each face's files, worked out from the plan, and the store that files come from."""

from __future__ import annotations

from typing import Self

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.faces import web_metadata
from aksara.pipeline.making.font_files import FontRecipe
from aksara.pipeline.making.font_store import FontStore
from aksara.pipeline.planning.licences import LicenceTexts
from aksara.pipeline.planning.plan import BuildPlan
from aksara.pipeline.planning.planned import FacePart, FacePlan
from aksara.pipeline.request import BuildRequest
from aksara.tables.cmap.variation_sequences import IDEOGRAPHIC_SELECTORS

#: Axes that font-weight, font-stretch and font-style of a rule limit (CSS Fonts 4, section 4.4).
_LIMITED_BY_CSS = frozenset({"wght", "wdth", "slnt"})


class Recipes(Struct, frozen=True):
    """The recipe of each face of a build; `licences` are texts that travel with the fonts, `store` has the files."""

    request: BuildRequest
    licences: LicenceTexts
    store: FontStore = field(default_factory=FontStore)

    @classmethod
    def of_plan(cls, plan: BuildPlan) -> Self:
        """Those of a build, with the store that its request allows."""
        store = FontStore.of_user() if plan.request.cache else FontStore()
        return cls(plan.request, plan.licences, store)

    def of_part(self, plan: FacePlan, part: FacePart) -> FontRecipe:
        """The recipe of a slice of a face."""
        recipe, characters = self.of(plan), part.characters
        if characters is not None and plan.characters is not None:
            # Selectors are characters of no slice: whichever has their ideograph has the forms that they ask for.
            characters |= plan.characters.intersection(IDEOGRAPHIC_SELECTORS)
        return replace(recipe, characters=characters)

    def of(self, plan: FacePlan) -> FontRecipe:
        """The recipe of a face."""
        request = self.request
        return FontRecipe(
            characters=plan.characters,
            features=plan.request.features,
            hints=plan.request.hints,
            axes=plan.axes,
            # The CSS of a face keeps these axes within their limits, even if the font can do more.
            axes_may_stay=plan.request.axes.keys() <= _LIMITED_BY_CSS
            and not any(limit.is_pin for limit in plan.axes.values()),
            axes_asked=bool(plan.request.axes),
            formats=request.formats_for(variable=plan.face.is_variable),
            effort=request.effort,
            licence_text=not self.licences.cover(plan.font.path),
            metadata=web_metadata(plan.font, request.licence),
            require_metadata=bool(request.licence.holder),
            family=plan.face.family if plan.request.name is not None else "",
        )
