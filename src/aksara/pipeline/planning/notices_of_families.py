"""What to say of the families that a build will make: what may be missing, and what was left out."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING

from aksara.notices import Notice
from aksara.phrases import count_of, either, listed
from aksara.pipeline.planning.planned import FamilyPlan
from aksara.text import find_language
from aksara.text.scripts import script_name
from aksara.web.font_matching import describe_missing_face, synthesis
from aksara.web.syntax import GENERIC_FAMILIES

if TYPE_CHECKING:
    from aksara.site.usage import Origin

#: Scripts that are named one by one.
_NAMED = 6
#: The parameter that says the languages of text.
_LANGUAGES = "CharacterRequest.languages"


def family_notices(family: FamilyPlan) -> list[Notice]:
    """Faces and letters that may be missing, families of the stack without metrics, slices that were not made."""
    return [
        *_slice_notices(family), *_missing_face_notices(family), *_stack_notices(family), *_letter_notices(family),
        *_form_notices(family),
    ]  # fmt: skip


def _slice_notices(family: FamilyPlan) -> list[Notice]:
    """A notice that says why a family is not sliced as requested."""
    if family.slices is None or not family.slices.cut.reason or family.request.slices == "auto":
        return []
    return [Notice(family.name, family.slices.cut.reason, "FamilyRequest.slices")]


def _letter_notices(family: FamilyPlan) -> list[Notice]:
    """Languages with thousands of letters: a headline that is written later may need one that no page shows now."""
    partly = sorted(family.needs.partly) if family.needs is not None else []
    if not partly:
        return []
    names = " and ".join(dict.fromkeys(find_language(tag).name for tag in partly))
    text = (
        f"it has the letters of {names} that the pages show, and the everyday ones; build again when new text needs "
        "others"
    )
    return [Notice(family.name, text)]


def _form_notices(family: FamilyPlan) -> list[Notice]:
    """Forms of characters for languages that no text is in, and for several that it may be in."""
    notices = []
    if gone := _of_faces(face.unlocalised for face in family.faces):
        these = "these languages" if len(gone) > 1 else "that language"
        text = f"no text is in {either(list(gone))}: the forms that {_have(gone)} in {these} are left out"
        notices.append(Notice(family.name, text, _LANGUAGES))
    unsaid = _of_faces(face.unsaid for face in family.faces)
    if len(unsaid) > 1:
        text = (
            f"nothing says whether its text is in {either(list(unsaid))}, so the forms that {_have(unsaid)} in each of "
            'these are kept; write it into the pages, as <html lang="zh-Hans">, and the fonts get smaller'
        )
        notices.append(Notice(family.name, text))
    return notices


def _of_faces(faces: Iterable[Mapping[str, frozenset[int]]]) -> dict[str, frozenset[int]]:
    """The characters of all faces by the names of languages."""
    found: dict[str, frozenset[int]] = {}
    for of_face in faces:
        for language, codes in of_face.items():
            found[language] = found.get(language, frozenset()) | codes
    return found


def _have(by_language: Mapping[str, frozenset[int]]) -> str:
    """How many characters have something: "3 characters have"."""
    count = len(frozenset[int]().union(*by_language.values()))
    return f"{count_of(count, 'character')} {'has' if count == 1 else 'have'}"


def _missing_face_notices(family: FamilyPlan) -> list[Notice]:
    """Missing faces: requested ones each in a notice, others together in one."""
    if family.request.uses:
        origins = {need.desired: need.origin for need in family.needs.faces} if family.needs is not None else {}
        return [
            Notice(family.name, describe_missing_face(*missing) + _asked_at(origins.get(missing[0])))
            for missing in family.missing_faces
        ]
    # Where another weight is there in that style, browsers take it as it is.
    labels = ", ".join(desired.label for desired, nearest in family.missing_faces if synthesis(desired, nearest))
    text = f"no {labels}; browsers slant or thicken another face where <em> or <strong> asks for one"
    return [Notice(family.name, text)] if labels else []


def _asked_at(origin: Origin | None) -> str:
    if origin is None:
        return ""
    rule = f", {origin.selector}" if origin.selector else ""
    return f" ({origin.page}:{origin.line}{rule})"


def _stack_notices(family: FamilyPlan) -> list[Notice]:
    """Notices about scripts and families of the user's stack for which no fallback face could be made."""
    notices = []
    if family.unmatched_scripts and family.request.stack is None:
        names = listed(list(map(script_name, family.unmatched_scripts)), _NAMED)
        text = f"no system font could be matched with its {names} text, so lines may move when the web font loads"
        notices.append(Notice(family.name, text, "BuildRequest.measured"))
    matched = {face.on.casefold() for face in family.fallbacks}
    plain = [name for name in family.stack if name not in GENERIC_FAMILIES and name.casefold() not in matched]
    if family.request.stack is not None and plain:
        text = (
            f"the metrics of {', '.join(plain)} are not known for this text, so lines may move when the web font loads"
        )
        notices.append(Notice(family.name, text))
    return notices
