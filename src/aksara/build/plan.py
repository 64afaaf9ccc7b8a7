"""The plan of a build: which faces of which families will be made, with which characters. Nothing is written."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from difflib import get_close_matches
from hashlib import sha256
from pathlib import Path

from aksara.build.licences import licence_files
from aksara.build.request import BuildRequest, FamilyRequest
from aksara.errors import InputError, RequestError
from aksara.faces import (
    Embedding,
    Face,
    FaceMetrics,
    embedding,
    face_metrics,
    features,
    generic_family,
    identify,
    installed_names,
    place_of,
    refusal,
    sort_into_families,
)
from aksara.faces.families import Place
from aksara.font import Font
from aksara.sources import SourceFile, open_delivery
from aksara.subsetting import draws_any
from aksara.tables import Name
from aksara.tables.name import COPYRIGHT
from aksara.text import Frequencies, frequencies_for
from aksara.web.fallback import FallbackFace, fallback_faces
from aksara.web.matching import Asked, best_match, describe_hole, holes, named_face
from aksara.web.model import LicenceFile
from aksara.web.stack import close_stack, complete_stack
from aksara.web.syntax import GENERIC_FAMILIES

Warnings = list[dict[str, str]]
# Of the same face in several containers the least processed is taken.
_CONTAINERS = ("sfnt", "woff2", "woff")
# What the elements strong and em ask for of any family that has more than one face.
_STANDARD = (Asked(700), Asked(400, "italic"), Asked(700, "italic"))


@dataclass(slots=True, frozen=True)
class FacePlan:
    """A face to make: its font, the permission in it, the characters to keep (None: all), and how they are asked for.

    `local` are the names by which an installed copy is tried first.
    """

    face: Face
    font: Font
    permission: Embedding
    characters: frozenset[int] | None
    request: FamilyRequest
    metrics: FaceMetrics
    local: tuple[str, ...]


@dataclass(slots=True, frozen=True)
class FamilyPlan:
    """A family to make; `notice` is the copyright lines of its fonts, `known` all characters that any of them has."""

    name: str
    faces: tuple[FacePlan, ...]
    stack: tuple[str, ...]
    generic: str
    notice: str
    request: FamilyRequest
    known: frozenset[int]
    fallbacks: tuple[FallbackFace, ...]
    holes: tuple[tuple[Asked, Face], ...]


@dataclass(slots=True, frozen=True)
class Plan:
    """What a build will do.

    `missing` are asked-for characters that no font has; `licences` the texts that travel with the fonts.
    """

    request: BuildRequest
    families: tuple[FamilyPlan, ...]
    missing: frozenset[int]
    licences: tuple[LicenceFile, ...]
    warnings: tuple[dict[str, str], ...]

    @property
    def faces(self) -> list[FacePlan]:
        return [face for family in self.families for face in family.faces]


def make_plan(request: BuildRequest) -> Plan:
    """Read the fonts and decide what becomes of them.

    Raises `InputError` (or a subclass) for fonts that cannot be used or that
    have none of the characters, `RequestError` where the request does not fit them.
    """
    warnings: Warnings = []
    texts: list[SourceFile] = []
    paths: list[str] = []
    groups: list[tuple[FamilyRequest, list[tuple[Face, Font]]]] = []
    for each in request.families:
        delivery = open_delivery(each.fonts, ignore=request.folder)
        texts += delivery.licences
        fonts = _read(delivery.fonts)
        paths += [font.path for font in fonts]
        groups.append((each, _sorted_faces(each, fonts, warnings)))
    _check_overrules(request, paths)
    licences, problems = licence_files(dict.fromkeys(texts), request.licence_files)
    warnings += [{"path": "", "message": problem} for problem in problems]
    plans = [_with_characters(each, faces, request, warnings) for each, faces in groups]
    if not any(plans):
        raise InputError("none of the fonts has any of the characters asked for; ask for others, or give other fonts")
    _check_permissions([plan for group in plans for plan in group], request)
    made: list[FamilyPlan] = []
    for (each, faces), group in zip(groups, plans, strict=True):
        made += _families(each, faces, group, request)
    _check_names(made)
    for text in request.preload:
        named_face(made, text)  # told now and not after all faces are made
    warnings += [warning for family in made for warning in (*_told_of_holes(family), *_told_of_stack(family))]
    missing = request.wanted.characters or frozenset()
    missing = missing.difference(*(face.font.characters.keys() for family in made for face in family.faces))
    return Plan(request, tuple(made), missing, tuple(licences), tuple(warnings))


def _sorted_faces(each: FamilyRequest, fonts: Sequence[Font], warnings: Warnings) -> list[tuple[Face, Font]]:
    """The fonts of one request as faces of families, one font for each place."""
    faces = [(_face(font, each, warnings), font) for font in fonts]
    warnings += _unknown_features(each, fonts)
    sorted_faces = sort_into_families([face for face, _ in faces])
    return _one_font_a_place(list(zip(sorted_faces, (font for _, font in faces), strict=True)), warnings)


def _read(files: Sequence[SourceFile]) -> list[Font]:
    """All fonts, or one error that tells every file that cannot be used."""
    fonts: list[Font] = []
    problems: list[InputError] = []
    for file in files:
        try:
            for font in Font.read_all(file.read(), file.name):
                font.require_supported()
                font.characters  # noqa: B018  # so that a damaged 'cmap' is told before any work
                fonts.append(font)
        except InputError as problem:
            problems.append(problem)
    if len(problems) == 1:
        raise problems[0]
    if problems:
        raise InputError("\n".join(str(problem) for problem in problems))
    return fonts


def _face(font: Font, each: FamilyRequest, warnings: Warnings) -> Face:
    face = identify(font)
    overrule = next((overrule for overrule in each.overrules if overrule.matches(font.path)), None)
    if overrule is not None:
        face = replace(face, weight=overrule.weight, style=overrule.style, findings=(), variant="")
    if each.name is not None:
        face = replace(face, family=each.name.strip())
    warnings += [{"path": font.path, "message": finding} for finding in face.findings]
    return face


def _check_permissions(plans: Sequence[FacePlan], request: BuildRequest) -> None:
    """Refuse fonts that forbid web use themselves, unless the user has stated that a web licence is held."""
    if request.licence.stated:
        return
    refused: dict[tuple[str, str], list[FacePlan]] = defaultdict(list)
    for plan in plans:
        if plan.permission.forbids_web_fonts:
            refused[plan.face.family, plan.permission.words].append(plan)
    if refused:
        texts = [
            refusal(family, members[0].permission, [plan.font.path for plan in members])
            for (family, _), members in refused.items()
        ]
        raise InputError("\n".join(texts))


def _check_overrules(request: BuildRequest, paths: Sequence[str]) -> None:
    """Raise `RequestError` for an overruled font that is in no family."""
    for overrule in (overrule for each in request.families for overrule in each.overrules):
        if not any(overrule.matches(path) for path in paths):
            names = [Path(path).name for path in paths]
            near = get_close_matches(overrule.file, names, 1, 0.4)
            hint = f"; did you mean {near[0]}?" if near else f"; there are {', '.join(names[:4])}"
            raise RequestError(f"--face {overrule.file}: no font of that name is here{hint}")


def _unknown_features(each: FamilyRequest, fonts: Sequence[Font]) -> Warnings:
    """A warning for each feature that is asked for and that no font has."""
    present = {feature.tag for font in fonts for feature in features(font)}
    found = []
    for tag in sorted(each.features.more - present):
        near = get_close_matches(tag, present, 1)
        hint = f"; did you mean {near[0]}?" if near else ""
        found.append({"path": f"--feature {tag}", "message": f"no font here has this feature{hint}"})
    return found


def _one_font_a_place(faces: list[tuple[Face, Font]], warnings: Warnings) -> list[tuple[Face, Font]]:
    """Drop copies of a face; raise `RequestError` where two different fonts claim one place."""
    places: dict[Place, list[tuple[Face, Font]]] = defaultdict(list)
    for face, font in faces:
        places[place_of(face)].append((face, font))
    kept: list[tuple[Face, Font]] = []
    for claims in places.values():
        claims.sort(key=lambda claim: _CONTAINERS.index(claim[1].container))
        face, font = claims[0]
        for other, other_font in claims[1:]:
            if other_font.container == font.container and _fingerprint(other_font) != _fingerprint(font):
                raise RequestError(
                    f"{font.path} and {other.path} both claim to be {face.family} {face.label}; "
                    "leave one out, or say what it is: --face FILE WEIGHT STYLE"
                )
            warnings.append({"path": other.path, "message": f"the same face as {font.path}, which is used instead"})
        kept.append((face, font))
    return kept


def _fingerprint(font: Font) -> bytes:
    tables = [tag.encode("latin-1") + font.raw(tag) for tag in sorted(font) if tag != "head"]
    return sha256(b"".join(tables)).digest()


def _with_characters(
    each: FamilyRequest, faces: list[tuple[Face, Font]], request: BuildRequest, warnings: Warnings
) -> list[FacePlan]:
    """Those faces that have any of the characters."""
    characters = request.wanted.characters
    names = installed_names(faces) if each.local else [()] * len(faces)
    plans = []
    for (face, font), local in zip(faces, names, strict=True):
        if not draws_any(font, characters):
            warnings.append({"path": font.path, "message": "has none of the characters asked for; left out"})
            continue
        if each.local and not local:
            text = "its names could mean another face, so no installed copy of it is tried (local)"
            warnings.append({"path": font.path, "message": text})
        plans.append(FacePlan(face, font, embedding(font), characters, each, face_metrics(font), local))
    return plans


def _families(
    each: FamilyRequest, faces: Sequence[tuple[Face, Font]], plans: Sequence[FacePlan], request: BuildRequest
) -> list[FamilyPlan]:
    sorted_plans: dict[str, list[FacePlan]] = defaultdict(list)
    for plan in sorted(plans, key=lambda plan: plan.face.sort_key):
        sorted_plans[plan.face.family].append(plan)
    known: dict[str, set[int]] = defaultdict(set)
    for face, font in faces:
        known[face.family].update(font.characters)
    return [_family(name, members, each, frozenset(known[name]), request) for name, members in sorted_plans.items()]


def _family(
    name: str, members: list[FacePlan], each: FamilyRequest, known: frozenset[int], request: BuildRequest
) -> FamilyPlan:
    faces = [member.face for member in members]
    regular = next(member for member in members if member.face is best_match(faces, Asked()))
    generic = generic_family(regular.font)
    frequencies = _frequencies(members, request)
    if each.stack is not None:
        stack = complete_stack(each.stack, generic)
    else:
        stack = close_stack(generic, regular.metrics, frequencies)
    fallbacks = fallback_faces(name, [(member.face, member.metrics) for member in members], stack, frequencies)
    names = [member.font.find(Name) for member in members]
    notices = dict.fromkeys(filter(None, (table.get(COPYRIGHT) for table in names if table is not None)))
    asked = each.uses or (_STANDARD if len(members) > 1 else ())
    notice = "\n   ".join(notices)
    return FamilyPlan(name, tuple(members), stack, generic, notice, each, known, fallbacks, tuple(holes(faces, asked)))


def _told_of_holes(family: FamilyPlan) -> Warnings:
    """What was asked for is told one by one; what only might be, in a line."""
    if family.request.uses:
        return [{"path": family.name, "message": describe_hole(*hole)} for hole in family.holes]
    labels = ", ".join(asked.label for asked, _ in family.holes)
    text = f"has no {labels}; browsers slant or thicken another face where <em> or <strong> asks for one"
    return [{"path": family.name, "message": text}] if labels else []


def _told_of_stack(family: FamilyPlan) -> Warnings:
    """Families that the user wants behind it and that have no stand-in with matched metrics."""
    matched = {face.on.casefold() for face in family.fallbacks}
    plain = [name for name in family.stack if name not in GENERIC_FAMILIES and name.casefold() not in matched]
    if family.request.stack is None or not plain:
        return []
    text = f"no measures of {', '.join(plain)} are known for this text; lines may move where that stands in"
    return [{"path": family.name, "message": text}]


def _frequencies(members: Iterable[FacePlan], request: BuildRequest) -> Frequencies:
    """How often each kept character is written, as far as it is known, else in the languages that can be."""
    served = {code for member in members for code in member.metrics.widths}
    kept = served if request.wanted.characters is None else served & request.wanted.characters
    # A handful of letters makes no language: then as in those of the whole font.
    known = request.wanted.frequencies or frequencies_for(kept) or frequencies_for(served)
    return {code: share for code, share in known.items() if code in kept}


def _check_names(families: Sequence[FamilyPlan]) -> None:
    """Raise `RequestError` for a family that two requests make."""
    seen: Mapping[str, FamilyPlan] = {}
    for family in families:
        if family.name in seen:
            raise RequestError(
                f"two of the families asked for are called {family.name}; put their fonts into one, or rename one"
            )
        seen = {**seen, family.name: family}
