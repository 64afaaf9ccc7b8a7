"""Slicing the families of a build, by its pages, fonts and the last build."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from contextlib import suppress

from msgspec.structs import replace

from aksara.errors import InputError, RequestError, located
from aksara.limits import MAX_MANIFEST_SIZE
from aksara.pipeline.planning.planned import FacePlan, FamilyPlan, FamilySlices, PageView
from aksara.pipeline.request import BuildRequest
from aksara.site import SiteUse
from aksara.slicing.cut import Cut, Material, cut_characters, settled_cut
from aksara.slicing.interactions import Interactions
from aksara.slicing.slice_choice import MOST_SLICES
from aksara.slicing.togetherness import interacting, language_pairs
from aksara.slicing.views import View, language_views
from aksara.slicing.views import page_views as views_of_pages
from aksara.slicing.weights import font_sizes
from aksara.sources import read_file
from aksara.subsetting import SubsetOptions, find_kept_tables
from aksara.text import CharacterSelection, find_language
from aksara.text.emoji import is_of_emoji
from aksara.text.neighbours import pairs_in
from aksara.text.ranges import parse_ranges
from aksara.web.built_manifest import BuiltFamily, read_built_manifest

#: The part of all views that pages have whose text is known; the rest are pages to come.
_KNOWN = 0.9
#: Names that the last build's slices may have: they become parts of file names.
_NAME = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")


def slice_families(
    families: Sequence[FamilyPlan],
    request: BuildRequest,
    site: SiteUse | None,
    selection: CharacterSelection,
) -> list[FamilyPlan]:
    """The families with the slices that each is cut into."""
    if all(family.request.slices in ("none", 1) for family in families):
        return list(families)
    views: Mapping[str, tuple[PageView, ...]] = {}
    languages, neighbours = selection.languages, frozenset[str]()
    if site is not None and site.pages:
        from aksara.pipeline.planning.page_views import site_views

        site_pages = site_views(site, families)
        views, neighbours = site_pages.of_family, site_pages.neighbours
        languages = tuple(dict.fromkeys((*site_pages.languages, *languages)))
    before = _last_slices(request)
    made = []
    for family in families:
        of_pages = views.get(family.name, ())
        try:
            slices = _slices_of(family, of_pages, languages, neighbours, before.get(family.name, {}))
        except RequestError as error:
            error.parameter = "FamilyRequest.slices"
            raise
        made.append(replace(family, slices=slices))
    return made


def _slices_of(
    family: FamilyPlan,
    pages: Sequence[PageView],
    languages: Sequence[str],
    neighbours: frozenset[str],
    before: Mapping[str, frozenset[int]],
) -> FamilySlices:
    way = family.request.slices
    characters = tuple(_kept(face) for face in family.faces)
    everything = frozenset[int]().union(*characters)
    settable = tuple(tag for tag in languages if _can_be_set(tag, everything))
    widest = max(zip(family.faces, characters, strict=True), key=lambda item: len(item[1]))[0]
    material = Material(
        characters=everything,
        views=_views(pages, settable),
        languages=settable,
        pairs={},
        # Of the face with most characters: faces of a family are built alike.
        size_of=font_sizes(widest.font, everything, widest.request.features, hints=widest.request.hints),
    )
    cut = settled_cut(material, way)
    if way == "language" and languages and not settable:
        cut = Cut(slices={}, reason="it does not have most letters of any of the languages")
    if cut is None:
        material = with_interactions(material, family, characters, neighbours)
        cut = cut_characters(material, way, before)
    return FamilySlices(
        cut=cut, material=material, pages=tuple(pages), languages=settable, neighbours=neighbours, characters=characters
    )


def _kept(face: FacePlan) -> frozenset[int]:
    """The characters that a face keeps, those that shaping needs included."""
    options = SubsetOptions(features=face.request.features, hints=face.request.hints)
    with located(file=face.font.path):
        return frozenset(find_kept_tables(face.font, face.characters, options).characters)


def _can_be_set(tag: str, characters: frozenset[int]) -> bool:
    """Whether most letters of a language are available; other languages are ignored in slicing."""
    letters = find_language(tag).letters
    return 2 * len(letters & characters) >= len(letters)


def _views(pages: Sequence[PageView], languages: Sequence[str]) -> list[View]:
    """The views of known pages, each face separately, and of future pages in the same languages."""
    if not pages:
        return language_views(languages) if languages else []
    shown = [(view.page, codes) for view in pages for codes in view.shown.values()]
    share = _KNOWN if languages else 1.0
    # A page in three faces is one view, of three times the files.
    views = views_of_pages(shown, share * len(shown) / len(pages))
    return [*views, *language_views(languages, 1 - share)] if languages else views


def with_interactions(
    material: Material, family: FamilyPlan, characters: Sequence[frozenset[int]], neighbours: frozenset[str]
) -> Material:
    """The material with what interacts of all that stands side by side: in the site's text, and in its languages.

    `characters` are those of the faces, `neighbours` are pairs of the site's text.
    """
    fonts = []
    for face, codes in zip(family.faces, characters, strict=True):
        with located(file=face.font.path):
            fonts.append(Interactions.of(face.font, codes, face.request.features))
    asked = {sequence for face in family.faces if face.sequences is not None for sequence in face.sequences.asked}
    in_sequences = (pairs_in(sequence) for sequence in asked if is_of_emoji(sequence))
    pairs = neighbours.union(language_pairs(material.languages, material.characters), *in_sequences)
    family_wide = Interactions.of_all(fonts)
    return replace(material, pairs=interacting(pairs, family_wide, material.characters), implied=family_wide.implied)


def _last_slices(request: BuildRequest) -> dict[str, dict[str, frozenset[int]]]:
    """The slices of each family in the last build into this folder, if it was sliced in the same way.

    The manifest may have been changed by anyone; what is no slice in it is ignored.
    """
    asked = {family.name: str(family.slices) for family in request.families}
    try:
        built = read_built_manifest(read_file(request.manifest_file, limit=MAX_MANIFEST_SIZE))
    except InputError:
        return {}
    return {
        family.family: _slices_in(family)
        for family in (built.families if built is not None else ())
        if family.slices is not None and family.slices.asked == asked.get(family.family, asked.get(None))
    }


def _slices_in(family: BuiltFamily) -> dict[str, frozenset[int]]:
    slices: dict[str, frozenset[int]] = {}
    for part in (part for face in family.faces for part in face.slices):
        if _NAME.fullmatch(part.name) and (part.name in slices or len(slices) < MOST_SLICES):
            with suppress(RequestError):
                slices[part.name] = slices.get(part.name, frozenset()) | parse_ranges(part.unicode_range)
    taken = frozenset[int]()
    for name, codes in slices.items():
        slices[name], taken = codes - taken, taken | codes
    return slices
