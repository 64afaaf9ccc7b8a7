"""`cut_characters`: cut a family's characters into slices in the requested way."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import cached_property, partial

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import RequestError
from aksara.slicing.cutting import Cost, cheapest, cost_of, with_additions
from aksara.slicing.interactions import Interaction
from aksara.slicing.kinds import CORE, SYMBOLS, kind_of
from aksara.slicing.naming import slice_names
from aksara.slicing.schemes import by_language, by_script
from aksara.slicing.slice_choice import Slices
from aksara.slicing.togetherness import Components, parted
from aksara.slicing.views import View, language_views
from aksara.slicing.weights import Sizes
from aksara.text import covered_languages, find_language

#: The part of an average page view, and the bytes of it, that slices must save for a family to be cut by itself.
_WORTH, _WORTH_BYTES = 0.1, 2_000
#: The chance from which on a character counts as shown.
_LIKELY = 0.5
#: How much more a page view may cost with slices as they were than with new ones, before all are cut again.
_STAYS = 1.1


class Material(Struct, frozen=True, kw_only=True, dict=True):
    """The input of slicing a family: its `characters`, page `views`, the `languages` of its text (tags), the `pairs` of
    characters that interact and stand beside each other, those that go together since shapers put one for another
    (`implied`), and about how many bytes files take."""

    characters: frozenset[int]
    views: Sequence[View]
    languages: tuple[str, ...]
    pairs: Mapping[str, Interaction]
    implied: Sequence[frozenset[int]] = ()
    size_of: Sizes

    @cached_property
    def kind(self) -> Callable[[int], str]:
        """The kind of a character, as signs of these languages are told from symbols."""
        signs = frozenset().union(*(find_language(tag).signs for tag in self.languages))
        return partial(kind_of, signs=signs)

    def groups(self, *, kerning: bool) -> list[frozenset[int]]:
        """The characters that must stay together; with `kerning`, also those that are only kerned."""
        components = Components(self.characters)
        # Signs may stand beside anything, and on any page to come.
        components.join(code for code in self.characters if self.kind(code) == CORE)
        for group in self.implied:
            components.join(group & self.characters)
        components.join_pairs(pair for pair, way in self.pairs.items() if kerning or way == "shaping")
        return components.groups()

    def cost(self, slices: Sequence[frozenset[int]]) -> Cost | None:
        """What page views cost with these slices; None where nothing is known of views."""
        return cost_of(slices, self.views, self.size_of) if self.views else None


class Cut(Struct, frozen=True, kw_only=True, dict=True):
    """The slices, each with its name; none: all stays in one file. `parted` are pairs of characters, in the order in
    which they stand, whose kerning is lost between two slices; `reason` says why there are not more slices."""

    slices: Mapping[str, frozenset[int]]
    parted: tuple[str, ...] = ()
    reason: str = ""


def settled_cut(material: Material, way: Slices) -> Cut | None:
    """The cut where interactions do not matter: no slices are wanted, or they would save nothing."""
    if way in ("none", 1):
        return Cut(slices={})
    if way != "auto":
        return None
    pages = {view.name for view in material.views if view.exact}
    if len(pages) == 1:
        return Cut(slices={}, reason="the site has one page, which needs all that it shows")
    if not pages and len(material.languages) < 2:
        return Cut(slices={}, reason="there are no pages, and fewer than two languages")
    whole = material.cost([material.characters])
    assert whole is not None
    # No cut fetches less than what is shown, in one file.
    sizes, kept = material.size_of, material.characters
    shown = sum(
        view.weight * sizes.of([code for code, chance in view.chances.items() if chance > _LIKELY and code in kept])
        for view in material.views
    )
    left = whole.size - material.size_of.of_file * whole.files - shown
    return None if _is_worth(left, whole) else Cut(slices={}, reason=_saving(left, whole, "at most "))


def _is_worth(saved: float, whole: Cost) -> bool:
    return saved >= max(_WORTH * whole.total, _WORTH_BYTES)


def _saving(saved: float, whole: Cost, bound: str = "") -> str:
    share = 100 * saved / whole.total
    text = f"slices would save {bound}{share:.0f}% of an average page view"
    return text if share >= 1 else "slices would save nothing"


def cut_characters(material: Material, way: Slices, before: Mapping[str, frozenset[int]] | None = None) -> Cut:
    """The characters cut that way, where it is not settled. `before` are slices as the last build had them: as long as
    that costs little, a character stays in its slice.

    Raises `RequestError` for languages where none is known.
    """
    if way == "language" and not material.languages:
        raise RequestError("no languages are known; name them, or give pages that say their language")
    if way in ("language", "script"):
        groups = material.groups(kerning=False)
        made = (
            by_script(groups, material.kind)
            if way == "script"
            else by_language(groups, material.languages, material.kind)
        )
        return _named(material, made, {}, _inseparable(material, groups))
    groups = material.groups(kerning=True)
    if isinstance(way, int):
        return _counted(material, groups, way, before or {})
    fresh = cheapest(groups, _kinds(material), material.views, material.size_of)
    whole = material.cost([material.characters])
    cost = material.cost(fresh)
    assert whole is not None
    assert cost is not None
    saved = whole.total - cost.total
    if not _is_worth(saved, whole):
        fresh, cost = [material.characters], whole
    before = {name: codes for name, codes in (before or {}).items() if codes & material.characters}
    if len(before) > 1:
        stayed = with_additions(before, groups, material.views, material.size_of)
        kept = material.cost(list(stayed.values()))
        assert kept is not None
        if kept.total <= _STAYS * cost.total:
            return _named(material, list(stayed.values()), stayed)
    if len(fresh) == 1:
        return Cut(slices={}, reason=_saving(saved, whole) + _because_of_pairs(material))
    return _named(material, fresh, {})


def _because_of_pairs(material: Material) -> str:
    """Where scripts would be apart if signs did not kern with both."""
    names = _kinds_together(material, material.groups(kerning=True))
    return f": {names} kern with the same signs, so they stay together" if names else ""


def _inseparable(material: Material, groups: Sequence[frozenset[int]]) -> str:
    """The scripts that cannot be separated, though that was requested."""
    names = _kinds_together(material, groups)
    return f"{names} stay together: what forms they have depends on signs that both use" if names else ""


def _kinds_together(material: Material, groups: Sequence[frozenset[int]]) -> str:
    """The scripts that one group has characters of, in words; "" where none has several."""
    kinds = [sorted({material.kind(code) for code in group} - {CORE, SYMBOLS}) for group in groups]
    listed: list[str] = max(kinds, key=len)
    return f"{', '.join(listed[:-1])} and {listed[-1]}" if len(listed) > 1 else ""


def _counted(
    material: Material, groups: Sequence[frozenset[int]], count: int, before: Mapping[str, frozenset[int]]
) -> Cut:
    """As many slices as are wanted, if the characters can be parted so often."""
    if not material.views:
        # Of nothing else known, the languages that can be set have a page each.
        tags = [language.tag for language in covered_languages(material.characters)]
        material = replace(material, views=language_views(tags) if tags else [])
    made = cheapest(groups, _kinds(material), material.views, material.size_of, count)
    reason = ""
    if len(made) < count:
        reason = f"{len(made)} are as many as there can be: what is left belongs together"
    if before and len(before) == len(made):
        stayed = with_additions(before, groups, material.views, material.size_of)
        kept, cost = material.cost(list(stayed.values())), material.cost(made)
        if kept is not None and cost is not None and len(stayed) == len(made) and kept.total <= _STAYS * cost.total:
            return _named(material, list(stayed.values()), stayed, reason)
    return _named(material, made, {}, reason)


def _kinds(material: Material) -> Callable[[frozenset[int]], str]:
    """The kind of a group: that of its first character."""
    return lambda group: material.kind(min(group))


def _named(
    material: Material, slices: Sequence[frozenset[int]], known: Mapping[str, frozenset[int]], reason: str = ""
) -> Cut:
    slices = [codes for codes in slices if codes]
    if len(slices) < 2:
        return Cut(slices={}, reason=reason or "all characters belong together")
    chances: dict[int, float] = {}
    for view in material.views:
        for code, chance in view.chances.items():
            chances[code] = chances.get(code, 0.0) + view.weight * chance
    # The most needed first; the order of rules does not matter, since no two slices have a character in common.
    ordered = sorted(slices, key=lambda codes: (-round(max(chances.get(code, 0.0) for code in codes), 6), min(codes)))
    names = slice_names(ordered, material.kind, material.languages, known)
    made = dict(zip(names, ordered, strict=True))
    return Cut(slices=made, parted=tuple(parted(material.pairs, ordered)), reason=reason)
