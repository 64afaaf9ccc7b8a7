"""Planning families: faces with their characters, stacks, fallback faces, and what is missing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import replace

from aksara.faces import embedding, generic_family, identify, names_for_local
from aksara.notices import Notice
from aksara.pipeline.metric_samples import sampled_metrics
from aksara.pipeline.planned import FacePlan, FamilyPlan, OtherWay
from aksara.pipeline.reading import FacesOfFonts
from aksara.pipeline.request import FamilyRequest
from aksara.pipeline.variable_fonts import SettledFace, other_way, variation_left
from aksara.subsetting import draws_any
from aksara.tables import Name
from aksara.tables.name import COPYRIGHT
from aksara.text import CharacterSelection, Frequencies, frequencies_for
from aksara.web.fallback import fallback_faces
from aksara.web.font_matching import DesiredFace, best_match, describe_missing_face, missing_faces
from aksara.web.stack import close_stack, complete_stack
from aksara.web.syntax import GENERIC_FAMILIES

# What the elements strong and em ask for of any family that has more than one face.
_STANDARD = (DesiredFace(700), DesiredFace(400, "italic"), DesiredFace(700, "italic"))


def plan_faces(
    request: FamilyRequest, faces: Sequence[SettledFace], selection: CharacterSelection, notices: list[Notice]
) -> list[FacePlan]:
    """Those faces that have any of the characters."""
    static = [each for each in faces if not each.font.is_variable]
    # What is installed under a variable font's names may be any of its instances.
    names = dict(zip(map(id, static), names_for_local([(each.face, each.font) for each in static]), strict=True))
    plans = []
    for each in faces:
        font = each.font
        if not draws_any(font, selection.characters):
            notices.append(Notice(font.path, "has none of the characters asked for; left out"))
            continue
        local = names.get(id(each), ()) if request.local else ()
        if request.local and not local:
            text = "its names could mean another face, so no installed copy of it is tried (local)"
            notices.append(Notice(font.path, text))
        plans.append(_plan_face(each, request, selection, local))
        # Parsed tables take many times their bytes, and all fonts of the build stay in memory.
        font.forget()
    return plans


def _plan_face(
    settled: SettledFace, request: FamilyRequest, selection: CharacterSelection, local: tuple[str, ...]
) -> FacePlan:
    metrics, samples = sampled_metrics(settled)
    return FacePlan(
        face=settled.face,
        font=settled.font,
        permission=embedding(settled.font),
        characters=selection.characters,
        request=request,
        metrics=metrics,
        axes=settled.axes,
        variation=variation_left(settled),
        samples=samples,
        local=local,
    )


def plan_families(
    request: FamilyRequest, faces: FacesOfFonts, plans: Iterable[FacePlan], selection: CharacterSelection
) -> list[FamilyPlan]:
    """The planned faces family by family; `faces` are all that there are, planned or not."""
    members: dict[str, list[FacePlan]] = defaultdict(list)
    for plan in sorted(plans, key=lambda plan: plan.face.sort_key):
        members[plan.face.family].append(plan)
    known: dict[str, set[int]] = defaultdict(set)
    for face, font in faces:
        known[face.family].update(font.characters)
    return [_family(name, each, request, frozenset(known[name]), selection) for name, each in members.items()]


def _family(
    name: str, members: list[FacePlan], request: FamilyRequest, known: frozenset[int], selection: CharacterSelection
) -> FamilyPlan:
    faces = [member.face for member in members]
    regular = next(member for member in members if member.face is best_match(faces, DesiredFace()))
    generic = generic_family(regular.font)
    frequencies = _frequencies(members, selection)
    if request.stack is not None:
        stack = complete_stack(request.stack, generic)
    else:
        stack = close_stack(generic, regular.metrics, frequencies)
    names = [member.font.find(Name) for member in members]
    notices = dict.fromkeys(filter(None, (table.get(COPYRIGHT) for table in names if table is not None)))
    desired = request.uses or (_STANDARD if len(members) > 1 else ())
    for member in members:
        member.font.forget()
    return FamilyPlan(
        name=name,
        faces=tuple(members),
        stack=stack,
        generic=generic,
        notice="\n   ".join(notices),
        request=request,
        known=known,
        fallbacks=fallback_faces(name, [each for member in members for each in member.samples], stack, frequencies),
        missing_faces=tuple(missing_faces(faces, desired)),
        other_way=_other_way(members, request, selection),
    )


def _other_way(members: Sequence[FacePlan], request: FamilyRequest, selection: CharacterSelection) -> OtherWay | None:
    """What else could become of the family's variable fonts."""
    of_variable = [member for member in members if member.font.is_variable]
    if not of_variable:
        return None
    name = members[0].face.family
    fonts = {id(member.font): member.font for member in of_variable}.values()
    faces_of_fonts = [(replace(identify(font), family=name), font) for font in fonts]
    faces_of_fonts += [(member.face, member.font) for member in members if not member.font.is_variable]
    found = other_way(request, faces_of_fonts)
    if found is None:
        return None
    variable, uses, settled = found
    faces = tuple(plan_faces(request, settled, selection, []))
    if [(face.face, face.axes) for face in faces] == [(face.face, face.axes) for face in of_variable]:
        return None
    return OtherWay(variable=variable, uses=uses, faces=faces, instead_of=tuple(of_variable))


def family_notices(family: FamilyPlan) -> list[Notice]:
    """Faces that the site asks for and that are missing, and families of the stack without metrics."""
    return [*_missing_face_notices(family), *_stack_notices(family)]


def _missing_face_notices(family: FamilyPlan) -> list[Notice]:
    """What was asked for is reported one by one; what only might have been, in a line."""
    if family.request.uses:
        return [Notice(family.name, describe_missing_face(*missing)) for missing in family.missing_faces]
    labels = ", ".join(desired.label for desired, _ in family.missing_faces)
    text = f"has no {labels}; browsers slant or thicken another face where <em> or <strong> asks for one"
    return [Notice(family.name, text)] if labels else []


def _stack_notices(family: FamilyPlan) -> list[Notice]:
    """Families that the user wants in the stack and whose metrics are not known."""
    matched = {face.on.casefold() for face in family.fallbacks}
    plain = [name for name in family.stack if name not in GENERIC_FAMILIES and name.casefold() not in matched]
    if family.request.stack is None or not plain:
        return []
    text = f"the metrics of {', '.join(plain)} are not known for this text, so lines may move when the web font loads"
    return [Notice(family.name, text)]


def _frequencies(members: Sequence[FacePlan], selection: CharacterSelection) -> Frequencies:
    """How often each kept character is written, as far as it is known, else in the languages that can be."""
    served = {code for member in members for code in member.metrics.widths}
    kept = served if selection.characters is None else served & selection.characters
    # A handful of letters makes no language: then as in those of the whole font.
    known = selection.frequencies or frequencies_for(kept) or frequencies_for(served)
    return {code: share for code, share in known.items() if code in kept}
