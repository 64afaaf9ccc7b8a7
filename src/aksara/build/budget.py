"""Budgets: what a page's first view, or a family, may take; and the cheapest ways out where it takes more."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from typing import Any

from aksara.build.making import make_face
from aksara.build.plan import FacePlan, FamilyPlan, Plan
from aksara.build.request import BuildRequest
from aksara.subsetting import FeatureChoice, draws_any
from aksara.text import find_language
from aksara.web.matching import Asked, best_match
from aksara.web.model import WebFace, WebFamily

FIRST_VIEW = "a page's first view"
_SHOWN = 3
#: What most sites are written in; stands for the user's own languages in an estimate.
_EXAMPLE_LANGUAGE = "en"
#: The part of what is too much that a way out must save to be worth a line.
_WORTH = 0.01


@dataclass(slots=True, frozen=True)
class WayOut:
    """Something that makes it smaller: in words, the option that does it ('' if none does), and the bytes it saves."""

    words: str
    option: str
    saves: int
    enough: bool


@dataclass(slots=True, frozen=True)
class Budget:
    """`limit` and `size` in bytes, of what a current browser fetches; `ways` out, cheapest first, if missed."""

    what: str
    limit: int
    size: int
    ways: tuple[WayOut, ...] = ()

    @property
    def missed(self) -> bool:
        return self.size > self.limit

    def as_json(self) -> dict[str, Any]:
        """For the manifest."""
        ways = [
            {"words": way.words, "option": way.option, "saves": way.saves, "enough": way.enough} for way in self.ways
        ]
        return {"what": self.what, "limit": self.limit, "bytes": self.size, "missed": self.missed, "ways_out": ways}


def check_budgets(plan: Plan, families: Sequence[WebFamily]) -> tuple[Budget, ...]:
    """The budgets that were set, page first. Ways out are tried, not guessed: figures are of files that were made."""
    pairs = list(zip(plan.families, families, strict=True))
    found = []
    if plan.request.budget is not None:
        found.append(_check(FIRST_VIEW, plan.request.budget, plan.request, pairs))
    for family, web in pairs:
        if family.request.budget is not None:
            found.append(_check(family.name, family.request.budget, plan.request, [(family, web)]))
    return tuple(found)


_Pairs = Sequence[tuple[FamilyPlan, WebFamily]]


def _check(what: str, limit: int, request: BuildRequest, pairs: _Pairs) -> Budget:
    used = [(family, plan, web) for family, made in pairs for plan, web in _used(family, made)]
    size = sum(web.best_size for _, _, web in used)
    budget = Budget(what, limit, size)
    return replace(budget, ways=_ways_out(budget, request, used)) if budget.missed else budget


def _used(family: FamilyPlan, made: WebFamily) -> list[tuple[FacePlan, WebFace]]:
    """The faces that count: those that the site uses if it says which, else all."""
    faces = [web.face for web in made.faces]
    used = [best_match(faces, asked) for asked in family.request.uses] or faces
    return [(plan, web) for plan, web in zip(family.faces, made.faces, strict=True) if web.face in used]


_Used = Sequence[tuple[FamilyPlan, FacePlan, WebFace]]


@dataclass(slots=True, frozen=True)
class _Idea:
    """Something to do otherwise: fields of the request and of the family's, other characters, faces to leave out."""

    words: str
    option: str = ""
    request: dict[str, Any] = field(default_factory=dict)
    family: dict[str, Any] = field(default_factory=dict)
    characters: frozenset[int] | None = None
    without: tuple[WebFace, ...] = ()


def _ways_out(budget: Budget, request: BuildRequest, used: _Used) -> tuple[WayOut, ...]:
    """Up to three, those first that readers notice least; if none is enough alone, the last is all of them together."""
    over = budget.size - budget.limit

    def way(idea: _Idea, size: int) -> WayOut:
        return WayOut(idea.words, idea.option, budget.size - size, budget.size - size >= over)

    tried = [(idea, way(idea, _size(request, used, [idea]))) for idea in _ideas(request, used, over)]
    worth = [(idea, each) for idea, each in tried if each.saves >= _WORTH * over]
    shown = [each for _, each in worth[:_SHOWN]]
    if any(each.enough for each in shown):
        return tuple(shown)
    if enough := [each for _, each in worth[_SHOWN:] if each.enough]:
        return (*shown[: _SHOWN - 1], enough[0])
    if len(worth) > 1:
        words = "all of this together: " + "; ".join(idea.option or idea.words for idea, _ in worth)
        together = way(_Idea(words), _size(request, used, [idea for idea, _ in worth]))
        return (*shown[: _SHOWN - 1], together)
    return tuple(shown)


def _ideas(request: BuildRequest, used: _Used, over: int) -> Iterable[_Idea]:
    """What could be done, the least noticed first."""
    if request.formats[0] != "woff2":
        changes = {"formats": ("woff2",)}
        yield _Idea("make WOFF2, which current browsers take first", "--format woff2", changes)
    if request.effort != "most":
        yield _Idea("press harder; nothing looks different", "--effort most", {"effort": "most"})
    if request.wanted.characters is None:
        words = "keep only the letters of your languages (the figure is for English)"
        characters = find_language(_EXAMPLE_LANGUAGE).characters
        yield _Idea(words, f"--for-language {_EXAMPLE_LANGUAGE}", characters=characters)
    if len(request.wanted.languages) > 1 and request.wanted.characters is not None:
        yield _without_a_language(request, used)
    if any(plan.request.features.more or plan.request.features.everything for _, plan, _ in used):
        words = "keep only the features that browsers use by themselves"
        yield _Idea(words, "without --feature", family={"features": FeatureChoice()})
    if any(plan.request.hints for _, plan, _ in used):
        words = "drop the hints; less crisp at small sizes on old screens"
        yield _Idea(words, "--hinting drop", family={"hints": False})
    if left := _left_out(used, over):
        names = ", ".join(f"{family.name} {web.face.label}" for family, web in left)
        words = f"leave out {names}; browsers fake what is missing"
        yield _Idea(words, without=tuple(web for _, web in left))


def _without_a_language(request: BuildRequest, used: _Used) -> _Idea:
    """Doing without the language that costs the fonts the most characters."""
    had = {code for _, _, web in used for code in web.characters}
    smallest = min(request.wanted.languages, key=lambda tag: len(had & request.wanted.without(tag)))
    name = find_language(smallest).name
    others = ",".join(tag for tag in request.wanted.languages if tag != smallest)
    # Where pages or texts are kept besides, the option alone would drop these, too.
    option = f"languages without {smallest}" if request.wanted.besides else f"--for-language {others}"
    words = f"do without {name}; its pages show what lacks in another font"
    return _Idea(words, option, characters=request.wanted.without(smallest))


def _size(request: BuildRequest, used: _Used, ideas: Sequence[_Idea]) -> int:
    """What these faces would take, made otherwise, in the first format."""
    without = {web.face for idea in ideas for web in idea.without}
    changes = {name: value for idea in ideas for name, value in idea.request.items()}
    request = replace(request, **({"formats": request.formats[:1]} | changes))
    if not changes and all(idea.without for idea in ideas):
        return sum(web.best_size for _, _, web in used if web.face not in without)
    families = {name: value for idea in ideas for name, value in idea.family.items()}
    characters = next((idea.characters for idea in ideas if idea.characters is not None), None)
    plans = [
        (family, replace(plan, request=replace(plan.request, **families), characters=characters or plan.characters))
        for family, plan, web in used
        if web.face not in without
    ]
    drawn = [(family, plan) for family, plan in plans if draws_any(plan.font, plan.characters)]
    with ThreadPoolExecutor(max(1, request.jobs)) as pool:
        made = pool.map(lambda pair: make_face(pair[1], request, pair[0].known, lambda _: None), drawn)
        return sum(result.web.best_size for result in made)


def _left_out(used: _Used, over: int) -> list[tuple[FamilyPlan, WebFace]]:
    """As many faces as it takes, the least needed first; the regular of each family stays."""
    left: list[tuple[FamilyPlan, WebFace]] = []
    saved = 0
    for family, web in sorted(_dispensable(used), key=lambda pair: _need(pair[1])):
        if saved >= over:
            break
        left.append((family, web))
        saved += web.best_size
    return left


def _dispensable(used: _Used) -> Iterable[tuple[FamilyPlan, WebFace]]:
    for family, _, web in used:
        if web.face != best_match([plan.face for plan in family.faces], Asked()):
            yield family, web


def _need(web: WebFace) -> tuple[int, int]:
    """Bold italics are rarest, then in-between weights, then italics; a plain bold is wanted most."""
    face = web.face
    slanted = face.style != "normal"
    order = 0 if slanted and face.weight != 400 else 1 if face.weight not in (400, 700) else 2 if slanted else 3
    return order, -web.best_size
