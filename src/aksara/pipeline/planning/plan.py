"""The plan of a build: what its request means once fonts, texts and pages are read. Nothing is written."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Literal

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.errors import InputError, InputErrors, RequestError
from aksara.faces import refusal
from aksara.faces.restrictions import restrictions_in
from aksara.notices import Noted, Notice
from aksara.parsed_tables import ParsedTables
from aksara.pipeline.characters import asked_besides, find_pages_of, resolve_characters, sequences_besides
from aksara.pipeline.planning.colour_formats import with_one_format
from aksara.pipeline.planning.families import (
    PlannedFaces,
    Wanted,
    plan_faces,
    plan_families,
    plan_unused,
)
from aksara.pipeline.planning.icons import kept_icons, names_in_sheets, shows_pictures, with_icons
from aksara.pipeline.planning.kept_files import KeptFiles, links_from_templates, read_kept_files
from aksara.pipeline.planning.licences import LicenceTexts, licence_texts, restriction_notices
from aksara.pipeline.planning.notices_of_families import family_notices
from aksara.pipeline.planning.permitted_paths import (
    check_output_paths,
    check_quoted_files,
)
from aksara.pipeline.planning.planned import FacePlan, FamilyPlan
from aksara.pipeline.planning.reading import FacesOfFonts, check_overrides, identify_fonts, read_fonts, sources_of
from aksara.pipeline.planning.reserved_names import reserved_notices
from aksara.pipeline.planning.site_as_built import read_site_as_built
from aksara.pipeline.planning.text_languages import languages_besides, languages_of_all, languages_unsaid
from aksara.pipeline.planning.variable_fonts import settle
from aksara.pipeline.request import BuildRequest, FamilyRequest
from aksara.sources import SourceFile, Sources, common_folder, reading_once
from aksara.subsetting import has_visible
from aksara.subsetting.icons import Icon
from aksara.text import CharacterSelection
from aksara.text.emoji import PRESENTATION_SELECTORS, ZWJ
from aksara.web.built_manifest import BuiltRule
from aksara.web.font_matching import named_face
from aksara.web.formats import OLD_FORMATS, SERVES

# What a site needs is imported where there is one: most builds have none.
if TYPE_CHECKING:
    from aksara.pipeline.planning.site_needs import FamilyNeeds
    from aksara.pipeline.planning.taken_rules import TakenRules
    from aksara.site import SiteUse


class BuildPlan(Struct, frozen=True, kw_only=True):
    """The plan of a build.

    `selection` is what the request's characters come to; `missing` are those that no font has. `page_folder` is the
    folder from which pages refer to the style sheet, if it is known; `licences` the texts that travel with the fonts,
    `icons` are the named ones of each family. `site` is what the pages show,
    where there are any.
    """

    request: BuildRequest
    families: tuple[FamilyPlan, ...]
    selection: CharacterSelection
    missing: frozenset[int]
    page_folder: Path | None
    licences: LicenceTexts
    notices: tuple[Notice, ...]
    icons: Mapping[str, Mapping[str, Icon]]
    site: SiteUse | None = None
    #: Files of the user's in which rules or links are kept.
    kept: KeptFiles = field(default_factory=KeptFiles)
    #: What rules of the user's said that are taken over.
    rules: tuple[BuiltRule, ...] = ()

    @property
    def faces(self) -> list[FacePlan]:
        """Those of all families."""
        return [face for family in self.families for face in family.faces]


@reading_once()
def make_plan(request: BuildRequest) -> BuildPlan:
    """Read fonts, texts and pages, and decide what becomes of them.

    Raises `InputError` (or a subclass) for fonts that cannot be used or that
    have none of the characters, `RequestError` where the request does not fit them.
    """
    notices: list[Notice] = []
    with request.locating():
        check_output_paths(request)
        check_quoted_files(request)
        kept = read_kept_files(request)
        request, kept, taken = _with_taken_rules(request, kept)
        groups, of_fonts = _read_families(request)
        notices += [*(taken.notices if taken is not None else ()), *of_fonts]
        request = _with_icons(request, groups)
        with request.locating_inputs("CharacterRequest.pages"):
            pages = find_pages_of(request.characters.pages, request.characters.exclude)
            page_folder = common_folder(pages or find_pages_of(request.linking_pages, request.characters.exclude))
            names = [name for group in groups for name in group.names]
            site = read_site_as_built(request, names, kept) if request.characters.has_site else None
            selection = resolve_characters(request.characters, site)
        licences = licence_texts(_each_once(groups, "licences"), request.published_licences, request.within)
        notices += [*licences.notices, *_restrictions(groups, request), *_site_notices(site, request)]
        families, of_faces = _plan_all(request, groups, site, selection)
        notices += of_faces
        if any(family.request.slices not in ("none", 1) for family in families):
            families = _sliced(families, request, site, selection)
        for text in request.preload:
            named_face(families, text)  # an error now and not after all faces are made
    notices += [notice for family in families for notice in family_notices(family)]
    notices += [*links_from_templates(request, kept), *reserved_notices(families, licences, request.licence)]
    notices += [
        Notice("", SERVES[font_format]) for font_format in OLD_FORMATS if font_format in (request.formats or ())
    ]
    return BuildPlan(
        request=request,
        families=tuple(families),
        selection=selection,
        missing=_missing(families, request, selection),
        page_folder=page_folder,
        licences=licences,
        notices=tuple(notices),
        icons=kept_icons(families, _names_of_icons(groups)),
        site=site,
        kept=kept,
        rules=taken.rules if taken is not None else (),
    )


def _with_icons(request: BuildRequest, groups: Sequence[_Group]) -> BuildRequest:
    """The request with the characters of the icons that it names."""
    if not request.characters.icons:
        return request
    faces = [face for group in groups for face in group.faces]
    return replace(request, characters=with_icons(request.characters, faces, _names_of_icons(groups)))


def _each_once(groups: Sequence[_Group], *kinds: Literal["licences", "texts", "sheets"]) -> dict[SourceFile, None]:
    """The files beside the fonts that are of one of these kinds, kind by kind."""
    return dict.fromkeys(file for kind in kinds for group in groups for file in getattr(group.sources, kind))


def _names_of_icons(groups: Sequence[_Group]) -> dict[str, int]:
    """Names that style sheets beside the fonts give to characters."""
    return names_in_sheets(_each_once(groups, "sheets"), [face for group in groups for face in group.faces])


def _sliced(
    families: list[FamilyPlan],
    request: BuildRequest,
    site: SiteUse | None,
    selection: CharacterSelection,
) -> list[FamilyPlan]:
    """The families with their slices, if any: most builds have neither pages nor several languages."""
    asked = any(family.request.slices != "auto" for family in families)
    if not asked and site is None and len(selection.languages) < 2:
        return families
    from aksara.pipeline.planning.slices import slice_families

    return slice_families(families, request, site, selection)


def _asked_of(families: Sequence[FamilyPlan], request: BuildRequest, selection: CharacterSelection) -> frozenset[int]:
    """The characters that these families should have, without those that the site shows in other families."""
    needs = [family.needs for family in families if family.needs is not None]
    if not needs:
        return selection.characters or frozenset()
    return asked_besides(request.characters).union(*(face.shown for need in needs for face in need.faces))


class _Group(Struct, frozen=True):
    """The faces of one family, or of several that one request is for, and the files that they come from; `index` is
    the request's."""

    index: int
    request: FamilyRequest
    faces: FacesOfFonts
    sources: Sources

    @property
    def names(self) -> list[str]:
        """The families, in the order of their names."""
        return sorted({face.family for face, _ in self.faces}, key=lambda name: (name.casefold(), name))


def _with_taken_rules(request: BuildRequest, kept: KeptFiles) -> tuple[BuildRequest, KeptFiles, TakenRules | None]:
    """The request with the families that rules of the user's style sheet name, and what these rules said."""
    if request.rules is None or kept.sheet is None:
        return request, kept, None
    from aksara.pipeline.planning.taken_rules import take_rules

    taken = take_rules(request, kept.sheet)
    return replace(request, families=(*request.families, *taken.families)), replace(kept, sheet=taken.sheet), taken


def _site_notices(site: SiteUse | None, request: BuildRequest) -> list[Notice]:
    """Notices about the pages."""
    if site is None:
        return []
    from aksara.pipeline.planning.site_needs import site_notices

    return site_notices(site, request.characters.languages)


def _restrictions(groups: Sequence[_Group], request: BuildRequest) -> list[Notice]:
    """Words in fonts, and in texts beside them, by which they may not be for the web, unless a licence is stated."""
    if request.licence.stated:
        return []
    said = [
        (face.family, *restriction)
        for group in groups
        for face, font in group.faces
        for restriction in restrictions_in(font)
    ]
    return restriction_notices(said, _each_once(groups, "licences", "texts"))


def _missing(families: Sequence[FamilyPlan], request: BuildRequest, selection: CharacterSelection) -> frozenset[int]:
    """The requested characters that no font has, without variation selectors and joiners."""
    missing = _asked_of(families, request, selection).difference(*(family.known for family in families))
    return frozenset(code for code in missing if chr(code) not in PRESENTATION_SELECTORS + ZWJ)


def _read_families(request: BuildRequest) -> Noted[list[_Group]]:
    """The faces of each family request, with the files that they come from."""
    notices: list[Notice] = []
    paths: list[str] = []
    groups: list[_Group] = []
    parsed = ParsedTables()
    for index, family in enumerate(request.families):
        with request.locating(index):
            sources = sources_of(family, request)
            fonts = read_fonts(sources.fonts, parsed)
            formats = [with_one_format(font, family.colour_format) for font in fonts]
            faces = identify_fonts(family, [font for font, _ in formats])
        notices += [notice for _, of_font in formats for notice in of_font]
        notices += [*faces.notices, *sources.notices]
        paths += [font.path for font in fonts]
        groups.append(_Group(index, family, faces.value, sources))
    check_overrides(request, paths)
    return Noted(groups, tuple(notices))


def _plan_all(
    request: BuildRequest,
    groups: Sequence[_Group],
    site: SiteUse | None,
    selection: CharacterSelection,
) -> Noted[list[FamilyPlan]]:
    if site is not None:
        groups = list(_by_family(groups, _replaced(request, groups, site)))
    (wanted, left_out), of_site = _wanted(request, groups, site, selection)
    notices = list(of_site)
    planned: list[PlannedFaces] = []
    for group in (group for group in groups if group.names[0] not in left_out):
        of_group = wanted.get(group.names[0]) or _same_for_all(request, site, selection)
        family = _with_needs(group.request, of_group.needs)
        with request.locating(group.index):
            settled, of_fonts = settle(family, group.faces)
        plans, of_faces = plan_faces(family, settled, of_group)
        notices += [*of_fonts, *of_faces]
        unused = plan_unused(family, settled, of_group) if plans else []
        planned.append(PlannedFaces(family, of_group, group.faces, plans, unused))
    if not any(faces.made for faces in planned):
        has_some = any(has_visible(font, selection.characters) for group in groups for _, font in group.faces)
        problem = (
            "the fonts have some of these characters, but their glyphs are empty"
            if has_some
            else "none of the fonts has any of the characters asked for"
        )
        raise InputError(f"{problem}; ask for others, or give other fonts")
    _check_permissions([plan for faces in planned for plan in faces.made], request)
    families = [family for faces in planned for family in plan_families(faces, selection, request.measured)]
    _check_names(families)
    return Noted(families, tuple(notices))


def _replaced(request: BuildRequest, groups: Sequence[_Group], site: SiteUse) -> dict[str, str]:
    if not request.replacements and not any(group.request.replaces for group in groups):
        return {}
    from aksara.pipeline.planning.replacements import replaced_families

    return replaced_families([(group.request.replaces, group.names) for group in groups], request.replacements, site)


def _by_family(groups: Sequence[_Group], replaced: Mapping[str, str]) -> Iterator[_Group]:
    """A group for each family, with the families of the site that it replaces."""
    for group in groups:
        for name in group.names:
            faces = [(face, font) for face, font in group.faces if face.family == name]
            replaces = tuple(old for old, new in replaced.items() if new == name)
            yield replace(group, faces=faces, request=replace(group.request, replaces=replaces))


def _wanted(
    request: BuildRequest,
    groups: Sequence[_Group],
    site: SiteUse | None,
    selection: CharacterSelection,
) -> Noted[tuple[dict[str, Wanted], frozenset[str]]]:
    """What each family needs by its name, where the site says so; and the families to leave out."""
    if site is None or not site.pages:
        return Noted(({}, frozenset()))
    from aksara.pipeline.planning.of_collections import left_out_notices, unused_members
    from aksara.pipeline.planning.site_needs import Expectation, find_needs, is_made_by_scripts, unnamed_family

    known: dict[str, frozenset[int]] = {}
    replaces: dict[str, str] = {}
    for group in groups:
        for face, font in group.faces:
            known[face.family] = known.get(face.family, frozenset()) | font.characters.keys()
        replaces |= dict.fromkeys(group.request.replaces, group.names[0])
    cut = frozenset(name for group in groups if group.request.slices not in ("none", "auto", 1) for name in group.names)
    expectation = None
    if not request.characters.exact:

        @cache
        def is_of_pictures(name: str) -> bool:
            # Asked only about families that pages use: of a collection that is one of many.
            faces = (face for group in groups for face in group.faces)
            return any(face.family == name and shows_pictures(font) for face, font in faces)

        expectation = Expectation(is_of_pictures, languages_unsaid(request, site), cut)
    needs = find_needs(site, known, replaces, expectation)
    all_faces = request.all_faces or (is_made_by_scripts(site) and not request.characters.exact)
    besides, sequences = asked_besides(request.characters), sequences_besides(request.characters)
    unused = unused_members([face for group in groups for face, _ in group.faces], needs) if not all_faces else {}
    left_out = frozenset(name for names in unused.values() for name in names)
    unnamed = (name for name in known if name not in needs and name not in left_out)
    wanted = {
        name: Wanted(
            selection.characters, sequences, family_needs, besides, all_faces, languages_besides(request, site)
        )
        for name, family_needs in needs.items()
    }
    return Noted(
        (wanted, left_out), (*left_out_notices(unused), *(unnamed_family(name, site, known) for name in unnamed))
    )


def _same_for_all(request: BuildRequest, site: SiteUse | None, selection: CharacterSelection) -> Wanted:
    """What a family needs that the site does not mention: all characters of the site in each face."""
    languages = languages_of_all(request, site)
    if site is None or selection.characters is None or request.characters.exact:
        return Wanted(selection.characters, selection.sequences, languages=languages)
    from aksara.pipeline.planning.site_needs import letters_to_come

    characters = selection.characters | letters_to_come(site, languages_unsaid(request, site))
    return Wanted(characters, selection.sequences, languages=languages)


def _with_needs(request: FamilyRequest, needs: FamilyNeeds | None) -> FamilyRequest:
    """The request, completed with the weights, styles and features that the site uses."""
    if needs is None:
        return request
    features = request.features
    more = features.more | (needs.features - features.without)
    return replace(request, uses=request.uses or needs.uses, features=replace(features, more=more))


def _check_permissions(plans: Sequence[FacePlan], request: BuildRequest) -> None:
    """Refuse fonts that forbid web use themselves, unless the user has stated that a web licence is held."""
    if request.licence.stated:
        return
    refused: dict[tuple[str, str], list[FacePlan]] = defaultdict(list)
    for plan in plans:
        if plan.permission.forbids_web_fonts:
            refused[plan.face.family, plan.permission.words].append(plan)
    errors = [
        refusal(family, members[0].permission, [plan.font.path for plan in members])
        for (family, _), members in refused.items()
    ]
    if len(errors) == 1:
        raise errors[0]
    if errors:
        raise InputErrors(errors)


def _check_names(families: Sequence[FamilyPlan]) -> None:
    """Raise `RequestError` for a family that two requests make."""
    seen: set[str] = set()
    for family in families:
        if family.name in seen:
            raise RequestError(
                f"two of the families asked for are called {family.name}; put their fonts into one, or rename one",
                parameter="FamilyRequest.name",
            )
        seen.add(family.name)
