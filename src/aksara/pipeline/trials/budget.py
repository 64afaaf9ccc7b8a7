"""Budgets for a page's first view or a family, and what would save enough if one is missed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Literal

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.pipeline.making.font_files import FontRecipe
from aksara.pipeline.planning.plan import BuildPlan
from aksara.pipeline.planning.planned import FacePart, FacePlan, FamilyPlan
from aksara.pipeline.recipes import Recipes
from aksara.pipeline.trials.slice_figures import fetched_parts, language_sizes, view_sizes
from aksara.subsetting import FeatureChoice, draws_any
from aksara.text import CharacterSelection, find_language
from aksara.threads import in_threads
from aksara.web.font_matching import DesiredFace, best_match
from aksara.web.model import Change, WebFace, WebFamily

FIRST_VIEW = "a page's first view"
_SHOWN = 3
#: What most sites are written in; stands for the user's own languages in an estimate.
_EXAMPLE_LANGUAGE = "en"
#: The part of what is too much that a saving must reach to be worth a line.
_WORTH = 0.01
#: The part of the size from which on hints are the first thing to do without.
_LARGE_HINTS = 0.15


class Saving(Struct, frozen=True):
    """A way to make it smaller: in words, the changes to the request that do it (none if the build cannot), the bytes
    that it saves, and whether that is enough."""

    words: str
    changes: tuple[Change, ...]
    saves: int
    enough: bool

    def as_json(self) -> dict[str, Any]:
        """For the manifest."""
        changes = [change.as_json() for change in self.changes]
        return {"words": self.words, "changes": changes, "saves": self.saves, "enough": self.enough}


class PlannedView(Struct, frozen=True):
    """What a page's first view fetches of fonts, in bytes, where families are cut into slices: `of` is a page, or a
    language that stands for the pages in it; `kind` says why it is told of."""

    kind: Literal["largest", "typical", "language"]
    of: str
    size: int

    def as_json(self) -> dict[str, Any]:
        """For the manifest."""
        return {"kind": self.kind, "of": self.of, "bytes": self.size}


class Budget(Struct, frozen=True):
    """`limit` and `size` in bytes, of what a current browser fetches; if missed, `savings`, least noticed first.

    Of families in slices `size` is that of the largest of the `views`.
    """

    what: str
    limit: int
    size: int
    savings: tuple[Saving, ...] = ()
    views: tuple[PlannedView, ...] = ()

    @property
    def missed(self) -> bool:
        """Whether it takes more than it may."""
        return self.size > self.limit

    def as_json(self) -> dict[str, Any]:
        """For the manifest."""
        return {
            "what": self.what,
            "limit": self.limit,
            "bytes": self.size,
            "missed": self.missed,
            "views": [view.as_json() for view in self.views],
            "savings": [saving.as_json() for saving in self.savings],
        }


def check_budgets(plan: BuildPlan, families: Sequence[WebFamily], recipes: Recipes) -> tuple[Budget, ...]:
    """The budgets that were set, page first. Savings are tried, not guessed: figures are of files that were made."""
    pairs = list(zip(plan.families, families, strict=True))
    found = []
    if plan.request.budget is not None:
        found.append(_check(FIRST_VIEW, plan.request.budget, plan, pairs, recipes))
    for family, web in pairs:
        if family.request.budget is not None:
            found.append(_check(family.name, family.request.budget, plan, [(family, web)], recipes))
    return tuple(found)


_Pairs = Sequence[tuple[FamilyPlan, WebFamily]]


def _check(what: str, limit: int, plan: BuildPlan, pairs: _Pairs, recipes: Recipes) -> Budget:
    views = _first_views(pairs) if any(family.is_cut for family, _ in pairs) else ()
    largest = max(views, key=lambda view: view.size) if views else None
    used = [face for family, made in pairs for face in _used(family, made, largest)]
    size = largest.size if largest is not None else sum(face.size for face in used)
    budget = Budget(what, limit, size, views=views)
    return replace(budget, savings=_savings(budget, plan, used, recipes)) if budget.missed else budget


def _first_views(pairs: _Pairs) -> tuple[PlannedView, ...]:
    """The largest page, the typical one, and the largest in each language; where no pages are known, a page in each."""
    pages: Counter[str] = Counter()
    languages: Counter[str] = Counter()
    pages_in: dict[str, set[str]] = {}
    for family, web in pairs:
        for page, view in view_sizes(family, web).items():
            pages[page] += view.size
        for tag, view in language_sizes(family, web).items():
            languages[tag] += view.size
        for page_view in family.slices.pages if family.slices is not None else ():
            pages_in.setdefault(page_view.language, set()).add(page_view.page)
    if not pages:
        return tuple(PlannedView("language", tag, size) for tag, size in languages.items())
    ordered = sorted(pages, key=lambda page: (pages[page], page))
    views = [PlannedView("largest", ordered[-1], pages[ordered[-1]])]
    typical = ordered[(len(ordered) - 1) // 2]
    views.append(PlannedView("typical", typical, pages[typical]))
    for language, own in sorted(pages_in.items()):
        if language and len(pages_in) > 1:
            views.append(PlannedView("language", language, max(pages[page] for page in own)))
    return tuple(views)


class _Used(Struct, frozen=True):
    """A used face, with its used slices."""

    family: FamilyPlan
    plan: FacePlan
    web: WebFace
    parts: tuple[FacePart, ...]

    @property
    def size(self) -> int:
        """Bytes of the used slices."""
        names = {part.name for part in self.parts}
        return sum(part.best_size for part in self.web.slices if part.name in names)


def _used(family: FamilyPlan, made: WebFamily, largest: PlannedView | None) -> list[_Used]:
    """The faces that count: those that the site uses if it says which, else all; of families in slices what the largest
    page fetches."""
    faces = [web.face for web in made.faces]
    used = [best_match(faces, desired) for desired in family.request.uses] or faces
    used_faces = []
    for face_index, (plan, web) in enumerate(zip(family.faces, made.faces, strict=True)):
        parts = family.parts(face_index) if largest is None else fetched_parts(family, face_index, largest.of)
        if web.face in used and parts:
            used_faces.append(_Used(family, plan, web, parts))
    return used_faces


class _Idea(Struct, frozen=True, kw_only=True):
    """Something to do otherwise: fields of every face's recipe, or faces to leave out."""

    words: str
    changes: tuple[Change, ...] = ()
    recipe: Mapping[str, Any] = field(default_factory=dict)
    without: tuple[WebFace, ...] = ()


def _savings(budget: Budget, plan: BuildPlan, used: Sequence[_Used], recipes: Recipes) -> tuple[Saving, ...]:
    """Up to three, those first that readers notice least; if none is enough alone, the last is all of them together."""
    over, before = budget.size - budget.limit, sum(face.size for face in used)

    def saving(idea: _Idea, size: int) -> Saving:
        return Saving(idea.words, idea.changes, before - size, before - size >= over)

    tried = [(idea, saving(idea, _size(used, [idea], recipes))) for idea in _ideas(plan, used, over)]
    worth = [(idea, saving) for idea, saving in tried if saving.saves >= _WORTH * over]
    listed = [saving for _, saving in worth[:_SHOWN]]
    if any(idea.enough for idea in listed):
        return tuple(listed)
    if enough := [saving for _, saving in worth[_SHOWN:] if saving.enough]:
        return (*listed[: _SHOWN - 1], enough[0])
    if len(worth) > 1:
        ideas = [idea for idea, _ in worth]
        words = "all of these together: " + "; ".join(idea.words.partition(";")[0] for idea in ideas)
        changes = tuple(change for idea in ideas for change in idea.changes)
        together = saving(_Idea(words=words, changes=changes), _size(used, ideas, recipes))
        return (*listed[: _SHOWN - 1], together)
    return tuple(listed)


def _ideas(plan: BuildPlan, used: Sequence[_Used], over: int) -> Iterable[_Idea]:
    """What could be done, the least noticed first; hints before all where they are much of the size."""
    request, selection = plan.request, plan.selection
    hints = [_without_hints()] if any(face.plan.request.hints for face in used) else []
    of_hints = sum(face.web.hint_size for face in used if face.plan.request.hints)
    if of_hints >= _LARGE_HINTS * sum(face.web.best_size for face in used):
        yield from hints
        hints = []
    if request.formats and request.formats[0] != "woff2":
        change = Change("BuildRequest.formats", ("woff2",))
        words = "make WOFF2, which current browsers take first"
        yield _Idea(words=words, changes=(change,), recipe={"formats": ("woff2",)})
    if request.effort != "most":
        change = Change("BuildRequest.effort", ("most",))
        yield _Idea(words="compress harder; nothing looks different", changes=(change,), recipe={"effort": "most"})
    if selection.characters is None:
        words = "keep only the letters of your languages (the figure is for English)"
        change = Change("CharacterRequest.languages", (_EXAMPLE_LANGUAGE,))
        characters = find_language(_EXAMPLE_LANGUAGE).characters
        yield _Idea(words=words, changes=(change,), recipe={"characters": characters})
    elif len(selection.languages) > 1:
        yield _without_a_language(selection, used)
    if any(face.plan.request.features.more or face.plan.request.features.everything for face in used):
        words = "keep only the features that browsers use by themselves"
        yield _Idea(words=words, changes=(Change("FamilyRequest.features"),), recipe={"features": FeatureChoice()})
    yield from hints
    if left := _dispensed(used, over):
        names = ", ".join(f"{family.name} {web.face.label}" for family, web in left)
        words = f"drop {names}; browsers fake them"
        yield _Idea(words=words, without=tuple(web for _, web in left))


def _without_hints() -> _Idea:
    words = "drop the hints; less crisp at small sizes on old screens"
    return _Idea(words=words, changes=(Change("FamilyRequest.hints", ("drop",)),), recipe={"hints": False})


def _without_a_language(selection: CharacterSelection, used: Sequence[_Used]) -> _Idea:
    """Doing without the language that costs the fonts the most characters."""
    had = {code for face in used for code in face.web.characters}
    smallest = min(selection.languages, key=lambda tag: len(had & selection.without(tag)))
    others = tuple(tag for tag in selection.languages if tag != smallest)
    return _Idea(
        words=f"drop {find_language(smallest).name}; its text is then shown in another font",
        changes=(Change("CharacterRequest.languages", others),),
        recipe={"characters": selection.without(smallest)},
    )


def _size(used: Sequence[_Used], ideas: Sequence[_Idea], recipes: Recipes) -> int:
    """What these faces would take, made otherwise, in the first format."""
    without = {web.face for idea in ideas for web in idea.without}
    kept = [face for face in used if face.web.face not in without]
    changes: dict[str, Any] = {"formats": recipes.request.formats_for(variable=True)[:1]}
    for idea in reversed(ideas):
        changes |= idea.recipe
    if all(idea.without for idea in ideas):
        return sum(face.size for face in kept)
    changed = [
        (face.plan.font, _changed(recipes.of_part(face.plan, part), changes)) for face in kept for part in face.parts
    ]
    drawn = [(font, recipe) for font, recipe in changed if draws_any(font, recipe.characters)]
    store = recipes.store
    made = in_threads(recipes.request.jobs, lambda pair: store.files(*pair, costs="none", published=False), drawn)
    return sum(len(result.files[0].data) for result in made)


def _changed(recipe: FontRecipe, changes: Mapping[str, Any]) -> FontRecipe:
    """The recipe otherwise; of characters a face keeps no others than it has."""
    if recipe.characters is not None and "characters" in changes:
        changes = {**changes, "characters": recipe.characters & changes["characters"]}
    return replace(recipe, **changes)


def _dispensed(used: Sequence[_Used], over: int) -> list[tuple[FamilyPlan, WebFace]]:
    """As many faces as it takes, the least needed first; the regular of each family stays."""
    left: list[tuple[FamilyPlan, WebFace]] = []
    saved = 0
    for family, web in sorted(_dispensable(used), key=lambda pair: _need(pair[1])):
        if saved >= over:
            break
        left.append((family, web))
        saved += web.best_size
    return left


def _dispensable(used: Sequence[_Used]) -> Iterable[tuple[FamilyPlan, WebFace]]:
    for face in used:
        if face.web.face != best_match([plan.face for plan in face.family.faces], DesiredFace()):
            yield face.family, face.web


def _need(web: WebFace) -> tuple[int, int]:
    """Bold italics are rarest, then in-between weights, then italics; a plain bold is wanted most."""
    face = web.face
    slanted = face.style != "normal"
    order = 0 if slanted and face.weight != 400 else 1 if face.weight not in (400, 700) else 2 if slanted else 3
    return order, -web.best_size
