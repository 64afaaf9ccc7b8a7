"""The plan of a build: what its request means once fonts, texts and pages are read. Nothing is written."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from aksara.errors import InputError, InputErrors, RequestError
from aksara.faces import refusal
from aksara.notices import Notice
from aksara.pipeline.characters import find_pages_of, resolve_characters
from aksara.pipeline.families import family_notices, plan_faces, plan_families
from aksara.pipeline.licences import licence_files
from aksara.pipeline.planned import FacePlan, FamilyPlan
from aksara.pipeline.reading import FacesOfFonts, check_overrides, font_paths, identify_fonts, read_fonts
from aksara.pipeline.request import BuildRequest, FamilyRequest
from aksara.pipeline.variable_fonts import SettledFace, settle
from aksara.sources import SourceFile, common_folder, find_sources
from aksara.text import CharacterSelection
from aksara.web.font_matching import named_face
from aksara.web.model import LicenceFile


@dataclass(slots=True, frozen=True, kw_only=True)
class BuildPlan:
    """What a build will do.

    `selection` is what the request's characters come to; `missing` are those that no font has. `page_folder` is the
    folder from which pages refer to the style sheet, if it is known; `licences` the texts that travel with the fonts.
    """

    request: BuildRequest
    families: tuple[FamilyPlan, ...]
    selection: CharacterSelection
    missing: frozenset[int]
    page_folder: Path | None
    licences: tuple[LicenceFile, ...]
    notices: tuple[Notice, ...]

    @property
    def faces(self) -> list[FacePlan]:
        """Those of all families."""
        return [face for family in self.families for face in family.faces]

    @property
    def file_count(self) -> int:
        """How many font files will be made, with those of the other ways, whose size alone is wanted."""
        written = sum(len(self.request.formats_for(variable=face.face.is_variable)) for face in self.faces)
        return written + sum(len(family.other_way.faces) for family in self.families if family.other_way is not None)


def make_plan(request: BuildRequest) -> BuildPlan:
    """Read fonts, texts and pages, and decide what becomes of them.

    Raises `InputError` (or a subclass) for fonts that cannot be used or that
    have none of the characters, `RequestError` where the request does not fit them.
    """
    notices: list[Notice] = []
    with request.locating():
        check_output_paths(request)
        with request.locating_inputs("CharacterRequest.pages"):
            pages = find_pages_of(request.characters.pages)
            selection = resolve_characters(request.characters, pages)
            page_folder = common_folder(pages or find_pages_of(request.linking_pages))
        groups, texts = _read_families(request, notices)
        licences, problems = licence_files(dict.fromkeys(texts), request.licence_files)
        notices += problems
        families = _plan_all(request, groups, selection, notices)
        for text in request.preload:
            named_face(families, text)  # an error now and not after all faces are made
    notices += [notice for family in families for notice in family_notices(family)]
    missing = selection.characters or frozenset()
    missing = missing.difference(*(face.font.characters.keys() for family in families for face in family.faces))
    return BuildPlan(
        request=request,
        families=tuple(families),
        selection=selection,
        missing=missing,
        page_folder=page_folder,
        licences=tuple(licences),
        notices=tuple(notices),
    )


#: A family's request, all faces of its fonts, and those that are to be made.
_Groups = list[tuple[FamilyRequest, FacesOfFonts, list[SettledFace]]]


def _read_families(request: BuildRequest, notices: list[Notice]) -> tuple[_Groups, list[SourceFile]]:
    """The faces of each family request, and the licence texts found beside the fonts."""
    texts: list[SourceFile] = []
    paths: list[str] = []
    groups: _Groups = []
    for index, family in enumerate(request.families):
        with request.locating(index):
            given = font_paths(family)
            _check_not_output(given, request.folder)
            sources = find_sources(given, ignore=request.folder)
            fonts = read_fonts(sources.fonts)
            faces = identify_fonts(family, fonts, notices)
            settled = settle(family, faces, notices)
        texts += sources.licences
        paths += [font.path for font in fonts]
        groups.append((family, faces, settled))
    check_overrides(request, paths)
    return groups, texts


def _plan_all(
    request: BuildRequest, groups: _Groups, selection: CharacterSelection, notices: list[Notice]
) -> list[FamilyPlan]:
    plans = [plan_faces(family, settled, selection, notices) for family, _, settled in groups]
    if not any(plans):
        raise InputError("none of the fonts has any of the characters asked for; ask for others, or give other fonts")
    _check_permissions([plan for group in plans for plan in group], request)
    families: list[FamilyPlan] = []
    for (family, faces, _), group in zip(groups, plans, strict=True):
        families += plan_families(family, faces, group, selection)
    _check_names(families)
    return families


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


def check_output_paths(request: BuildRequest) -> None:
    """Raise `RequestError` where what is to be written cannot stand where it should."""
    if request.folder.exists() and not request.folder.is_dir():
        raise RequestError(
            f"{request.folder} is a file, not a folder; give another name", parameter="BuildRequest.folder"
        )
    for path, parameter in ((request.css_file, "BuildRequest.css"), (request.archive, "BuildRequest.archive")):
        if path is not None and path.is_dir():
            raise RequestError(f"{path} is a folder, not a file; add a file name", parameter=parameter)
    if request.archive is not None and request.archive.absolute() == request.css_file.absolute():
        raise RequestError(
            f"{request.archive} is the style sheet's name, too; give another", parameter="BuildRequest.archive"
        )


def _check_not_output(paths: Sequence[Path], folder: Path) -> None:
    for path in paths:
        if path.is_dir() and path.resolve() == folder.resolve():
            raise RequestError(
                f"{path}: the fonts are in this folder, so the output must go elsewhere; "
                f"give another, as {path / 'web-fonts'}",
                parameter="BuildRequest.folder",
            )


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
