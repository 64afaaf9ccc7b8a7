"""Budgets: what a page's first view, or a family, may take; and the cheapest ways out where it takes more."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
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
_WORTH = 0.02


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
_Change = Callable[[FacePlan], FacePlan | None]


def _ways_out(budget: Budget, request: BuildRequest, used: _Used) -> tuple[WayOut, ...]:
    """Up to three, those first that readers notice least; one of them is enough if any is."""
    over = budget.size - budget.limit

    def way(words: str, option: str, size: int) -> WayOut:
        return WayOut(words, option, budget.size - size, budget.size - size >= over)

    ways: list[WayOut] = []
    if request.formats[0] != "woff2":
        size = _size(replace(request, formats=("woff2",)), used)
        ways.append(way("make WOFF2, which current browsers take first", "--format woff2", size))
    if request.effort != "most":
        size = _size(replace(request, effort="most"), used)
        ways.append(way("press harder; nothing looks different", "--effort most", size))
    if request.wanted.characters is None:
        characters = find_language(_EXAMPLE_LANGUAGE).characters
        size = _size(request, used, lambda plan: _with_characters(plan, characters))
        words = "keep only the letters of your languages (the figure is for English)"
        ways.append(way(words, f"--for-language {_EXAMPLE_LANGUAGE}", size))
    if any(plan.request.features.more or plan.request.features.everything for _, plan, _ in used):
        size = _size(request, used, lambda plan: _with_family(plan, features=FeatureChoice()))
        ways.append(way("keep only the features that browsers use by themselves", "without --feature", size))
    if any(plan.request.hints for _, plan, _ in used):
        size = _size(request, used, lambda plan: _with_family(plan, hints=False))
        ways.append(way("drop the hints; less crisp at small sizes on old screens", "--hinting drop", size))
    ways += _fewer_faces(used, over)
    worth = [each for each in ways if each.saves >= _WORTH * over]
    shown = worth[:_SHOWN]
    if not any(each.enough for each in shown):
        shown = [*worth[: _SHOWN - 1], *[each for each in worth[_SHOWN - 1 :] if each.enough][:1]] or shown
    return tuple(shown)


def _size(request: BuildRequest, used: _Used, change: _Change = lambda plan: plan) -> int:
    """What these faces would take, made otherwise, in the first format."""
    request = replace(request, formats=request.formats[:1])
    changed = [(family, other) for family, plan, _ in used if (other := change(plan)) is not None]
    with ThreadPoolExecutor(max(1, request.jobs)) as pool:
        made = pool.map(lambda pair: make_face(pair[1], request, pair[0].known, lambda _: None), changed)
        return sum(result.web.best_size for result in made)


def _with_characters(plan: FacePlan, characters: frozenset[int]) -> FacePlan | None:
    return replace(plan, characters=characters) if draws_any(plan.font, characters) else None


def _with_family(plan: FacePlan, **choices: Any) -> FacePlan:
    return replace(plan, request=replace(plan.request, **choices))


def _fewer_faces(used: _Used, over: int) -> list[WayOut]:
    """Leaving out as many faces as it takes, the least needed first; the regular of each family stays."""
    left: list[tuple[FamilyPlan, WebFace]] = []
    saved = 0
    for family, web in sorted(_dispensable(used), key=lambda pair: _need(pair[1])):
        if saved >= over:
            break
        left.append((family, web))
        saved += web.best_size
    if not left:
        return []
    names = ", ".join(f"{family.name} {web.face.label}" for family, web in left)
    return [WayOut(f"leave out {names}; browsers fake what is missing", "", saved, saved >= over)]


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
