"""The plan of a build: which faces of which families will be made, with which characters. Nothing is written."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from difflib import get_close_matches
from hashlib import sha256
from pathlib import Path

from aksara.build.request import BuildRequest
from aksara.errors import InputError, RequestError
from aksara.faces import (
    Embedding,
    Face,
    embedding,
    features,
    generic_family,
    identify,
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
from aksara.web.stack import complete_stack, default_stack

Warnings = list[dict[str, str]]
# Of the same face in several containers the least processed is taken.
_CONTAINERS = ("sfnt", "woff2", "woff")


@dataclass(slots=True, frozen=True)
class FacePlan:
    """A face to make: its font, the permission in it, and the characters to keep (None: all)."""

    face: Face
    font: Font
    permission: Embedding
    characters: frozenset[int] | None


@dataclass(slots=True, frozen=True)
class FamilyPlan:
    """A family to make; `notice` is the copyright lines of its fonts."""

    name: str
    faces: tuple[FacePlan, ...]
    stack: tuple[str, ...]
    generic: str
    notice: str


@dataclass(slots=True, frozen=True)
class Plan:
    """What a build will do.

    `missing` are asked-for characters that no font has; `licences` the names of licence texts found beside the fonts.
    """

    request: BuildRequest
    families: tuple[FamilyPlan, ...]
    missing: frozenset[int]
    licences: tuple[str, ...]
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
    delivery = open_delivery(request.fonts, ignore=request.folder)
    fonts = _read(delivery.fonts)
    faces = [(_face(font, request, warnings), font) for font in fonts]
    _check_overrules(request, fonts)
    warnings += _unknown_features(request, fonts)
    sorted_faces = sort_into_families([face for face, _ in faces])
    faces = list(zip(sorted_faces, (font for _, font in faces), strict=True))
    faces = _one_font_a_place(faces, warnings)
    plans = _with_characters(faces, request, warnings)
    _check_permissions(plans, request)
    families: dict[str, list[FacePlan]] = defaultdict(list)
    for plan in sorted(plans, key=lambda plan: plan.face.sort_key):
        families[plan.face.family].append(plan)
    missing = request.characters or frozenset()
    missing = missing.difference(*(plan.font.characters.keys() for plan in plans))
    made = tuple(_family(name, members, request) for name, members in families.items())
    licences = tuple(file.name for file in delivery.licences)
    return Plan(request, made, missing, licences, tuple(warnings))


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


def _face(font: Font, request: BuildRequest, warnings: Warnings) -> Face:
    face = identify(font)
    overrule = next((overrule for overrule in request.overrules if overrule.matches(font.path)), None)
    if overrule is not None:
        face = replace(face, weight=overrule.weight, style=overrule.style, findings=(), variant="")
    if request.family is not None:
        face = replace(face, family=request.family.strip())
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


def _check_overrules(request: BuildRequest, fonts: Sequence[Font]) -> None:
    for overrule in request.overrules:
        if not any(overrule.matches(font.path) for font in fonts):
            names = [Path(font.path).name for font in fonts]
            near = get_close_matches(overrule.file, names, 1, 0.4)
            hint = f"; did you mean {near[0]}?" if near else f"; there are {', '.join(names[:4])}"
            raise RequestError(f"--face {overrule.file}: no font of that name is here{hint}")


def _unknown_features(request: BuildRequest, fonts: Sequence[Font]) -> Warnings:
    """A warning for each feature that is asked for and that no font has."""
    present = {feature.tag for font in fonts for feature in features(font)}
    found = []
    for tag in sorted(request.features.more - present):
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


def _with_characters(faces: list[tuple[Face, Font]], request: BuildRequest, warnings: Warnings) -> list[FacePlan]:
    plans = []
    for face, font in faces:
        if not draws_any(font, request.characters):
            warnings.append({"path": font.path, "message": "has none of the characters asked for; left out"})
            continue
        plans.append(FacePlan(face, font, embedding(font), request.characters))
    if not plans:
        raise InputError("none of the fonts has any of the characters asked for; ask for others, or give other fonts")
    return plans


def _family(name: str, members: list[FacePlan], request: BuildRequest) -> FamilyPlan:
    generic = generic_family(members[0].font)
    stack = complete_stack(request.stack, generic) if request.stack is not None else default_stack(generic)
    names = [member.font.find(Name) for member in members]
    notices = dict.fromkeys(filter(None, (table.get(COPYRIGHT) for table in names if table is not None)))
    return FamilyPlan(name, tuple(members), stack, generic, "\n   ".join(notices))
