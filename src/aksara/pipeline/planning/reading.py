"""Reading the fonts of a build, and finding out which faces they are."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from difflib import get_close_matches
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from aksara.errors import InputError, InputErrors, RequestError, without_frames
from aksara.faces import Descriptors, Face, descriptors_of, font_features, identify, sort_into_families
from aksara.font import Font, open_fonts
from aksara.notices import Noted, Notice
from aksara.parsed_tables import ParsedTables
from aksara.pipeline.planning.permitted_paths import check_not_output
from aksara.pipeline.request import BuildRequest, FaceOverride, FamilyRequest
from aksara.sources import PathPattern, SourceFile, Sources, find_sources

_OVERRIDES = "FamilyRequest.overrides"
# Of the same face in several containers the least processed is taken.
_CONTAINERS = ("sfnt", "woff2", "woff", "eot")

#: Faces with their fonts.
FacesOfFonts = list[tuple[Face, Font]]


def font_paths(request: FamilyRequest) -> list[Path]:
    """The paths that the fonts of a family are at, patterns resolved. Raises `RequestError` where there are none."""
    try:
        found = [path for font in request.fonts for path in _paths(font)]
    except RequestError as error:
        error.parameter = "FamilyRequest.fonts"
        raise
    return list(dict.fromkeys(found))


def sources_of(family: FamilyRequest, request: BuildRequest) -> Sources:
    """The files at the family's paths; the output of the request is not looked into.

    Raises what `find_sources` raises, and `RequestError` for fonts in the output folder.
    """
    paths = font_paths(family)
    check_not_output(paths, request.folder)
    return find_sources(paths, ignore=(request.folder, request.fonts_folder), texts=family.texts)


def _paths(path: Path | PathPattern) -> list[Path]:
    return path.paths() if isinstance(path, PathPattern) else [path]


def read_fonts(files: Iterable[SourceFile], parsed: ParsedTables | None = None) -> list[Font]:
    """All fonts, or one error that lists every unusable file. `parsed` limits what stays parsed."""
    fonts: list[Font] = []
    problems: list[InputError] = []
    for file in files:
        try:
            for font in open_fonts(file, parsed):
                font.require_supported()
                font.characters  # noqa: B018  # so that a damaged 'cmap' is reported before any work
                fonts.append(font)
        except InputError as problem:
            problems.append(without_frames(problem))
    if len(problems) == 1:
        raise problems[0]
    if problems:
        raise InputErrors(problems)
    return fonts


def identify_fonts(request: FamilyRequest, fonts: Sequence[Font]) -> Noted[FacesOfFonts]:
    """The fonts of one request as faces of families, one font for each face."""
    known = [identify(font) for font in fonts]
    faces = [_face(face, font, request) for face, font in zip(known, fonts, strict=True)]
    own_families = {font.path: face.family for face, font in zip(known, fonts, strict=True)}
    kept, copies = _one_font_per_face(list(zip(sort_into_families(faces), fonts, strict=True)), own_families)
    findings = (finding for face in faces for finding in face.findings)
    return Noted(kept, (*findings, *_unknown_features(request, fonts), *copies))


def _face(face: Face, font: Font, request: FamilyRequest) -> Face:
    for override in request.overrides:
        if override.matches(font.path):
            face = _overridden(face, override)
    if request.name is not None:
        face = replace(face, family=request.name.strip())
    return face


def _overridden(face: Face, override: FaceOverride) -> Face:
    """The face as the user says that it is."""
    changes: dict[str, Any] = {"findings": ()}
    if override.weights is not None:
        low, high = override.weights
        changes |= {"weight": min(max(face.weight, low), high), "variant": ""}
        changes |= {"weights": (low, high)} if low != high else {}
    if override.style is not None:
        changes |= {"style": override.style, "variant": ""}
    if override.width is not None:
        changes |= {"width": override.width}
    return replace(face, **changes)


def check_overrides(request: BuildRequest, paths: Sequence[str]) -> None:
    """Raise `RequestError` for an override of a font that is in no family; `paths` are those of all fonts."""
    for index, family in enumerate(request.families):
        for override in family.overrides:
            if not any(override.matches(path) for path in paths):
                names = [Path(path).name for path in paths]
                near = get_close_matches(override.file, names, 1, 0.4)
                hint = f"did you mean {near[0]}?" if near else f"there are {', '.join(names[:4])}"
                raise RequestError(
                    f"no font here is called {override.file}; {hint}", parameter=_OVERRIDES, family=index
                )


def _unknown_features(request: FamilyRequest, fonts: Sequence[Font]) -> list[Notice]:
    """A notice for each requested feature that no font has."""
    present = {feature.tag for font in fonts for feature in font_features(font)}
    notices = []
    for tag in sorted(request.features.more - present):
        near = get_close_matches(tag, present, 1)
        hint = f"; did you mean {near[0]}?" if near else ""
        notices.append(Notice(request.name or "", f"no font here has the feature {tag}{hint}"))
    return notices


def _one_font_per_face(faces: FacesOfFonts, own_families: Mapping[str, str]) -> Noted[FacesOfFonts]:
    """Drop copies of a face; raise `RequestError` where two different fonts claim to be one. `own_families` has the
    family that each font says itself, by its path."""
    # A variable font and a static one of the same face do not contradict each other: the one covers the other.
    claims: dict[tuple[Descriptors, bool], FacesOfFonts] = defaultdict(list)
    for face, font in faces:
        claims[descriptors_of(face), face.is_variable].append((face, font))
    kept: FacesOfFonts = []
    copies: list[tuple[str, str]] = []
    for group in claims.values():
        group.sort(key=lambda claim: _CONTAINERS.index(claim[1].container))
        face, font = group[0]
        for other, other_font in group[1:]:
            if other_font.container == font.container and other_font.digest != font.digest:
                one, two = own_families[font.path], own_families[other_font.path]
                if one != two and face.family not in (one, two):
                    raise RequestError(
                        f"the fonts are of several families, {one} and {two}, which one name would make one; give each "
                        "family a build of its own, with its own fonts",
                        parameter="FamilyRequest.name",
                    )
                raise RequestError(
                    f"{font.path} and {other.path} both claim to be {face.family} {face.label}; "
                    "leave one out, or say which face it is",
                    remedy=_OVERRIDES,
                )
            copies.append((other.path, font.path))
        kept.append((face, font))
    return Noted(kept, _of_copies(copies))


def _of_copies(copies: Sequence[tuple[str, str]]) -> tuple[Notice, ...]:
    """What to say of files that hold the same faces as others. An order often has each face in several formats: of
    many the same is said, so that it can be said once."""
    if len(copies) == 1:
        ((path, used),) = copies
        return (Notice(path, f"the same face as {used}, which is used instead"),)
    return tuple(Notice(path, "another file of the same face is used instead") for path, _ in copies)
