"""The content of the proof for each family: what was made, and how the site uses it."""

from __future__ import annotations

import unicodedata
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING

from aksara.faces import feature_name
from aksara.pipeline.planning.plan import BuildPlan
from aksara.pipeline.planning.planned import FamilyPlan
from aksara.pipeline.publishing.published_paths import PublishedPaths
from aksara.pipeline.trials.slice_figures import view_sizes
from aksara.proof.content import AskedFace, FamilyProof, FeatureText, LackingCharacter, PageSize
from aksara.subsetting.feature_letters import letters_of_features
from aksara.text_widths import widths_in_text
from aksara.web.font_matching import DesiredFace, best_match, missing_faces
from aksara.web.model import WebFamily

if TYPE_CHECKING:
    from aksara.site import SiteUse

#: Missing characters that are listed, and pages for each.
_MOST_LACKING, _MOST_PAGES = 60, 3
#: Features that are not worth showing, or that cannot be turned off.
_NOT_SHOWN = frozenset(
    "ccmp locl rlig mark mkmk abvm blwm dist curs rclt rvrn rand mset stch ltra ltrm rtla rtlm init medi fina isol "
    "med2 fin2 fin3 nukt akhn rphf rkrf pref blwf abvf half pstf vatu cjct cfar pres abvs blws psts haln ljmo vjmo "
    "tjmo vert vrt2 vkrn chws vchw halt vhal numr dnom".split()
)
_KERNED = "AVATAR. To Wave, LTd"
#: Letters that stand for a feature.
_LETTERS = 14
#: Words of the site that show a feature, and how long they are together.
_WORDS, _LONGEST = 3, 24


def family_proofs(plan: BuildPlan, families: Sequence[WebFamily]) -> list[FamilyProof]:
    """The proof of each family; `families` are as they are published."""
    shown = PublishedPaths(plan.request)
    return [_proof(plan, family, web, shown) for family, web in zip(plan.families, families, strict=True)]


def _proof(plan: BuildPlan, family: FamilyPlan, web: WebFamily, shown: PublishedPaths) -> FamilyProof:
    needs = family.needs
    texts = _texts(family)
    return FamilyProof(
        web=web,
        asked=_asked(family, web),
        texts=texts,
        languages=plan.selection.languages,
        counts=needs.counts if needs is not None else {},
        lacking=_lacking(plan, family, shown) if plan.site is not None and needs is not None else (),
        pages=tuple(
            PageSize(shown.text(page), size.size, size.files) for page, size in view_sizes(family, web).items()
        ),
        features=_features(family, web, [text for quoted in texts.values() for _, text in quoted]),
        widths=tuple(widths_in_text(face.font, face.metrics.widths) for face in family.faces),
        budget=plan.request.budget,
        measured=plan.request.measured,
    )


def _texts(family: FamilyPlan) -> dict[int, tuple[tuple[str, str], ...]]:
    """The site's texts by the place of the face that they are set in."""
    found: dict[int, tuple[tuple[str, str], ...]] = {}
    if family.needs is None:
        return found
    faces = [plan.face for plan in family.faces]
    for need in family.needs.faces:
        match = best_match(faces, need.desired)
        face_index = next(face_index for face_index, face in enumerate(faces) if face is match)
        found[face_index] = found.get(face_index, ()) + need.samples
    return found


def _asked(family: FamilyPlan, web: WebFamily) -> tuple[AskedFace, ...]:
    """The weights and styles that the site or the request asks for, or all faces if neither says any."""
    faces = [face.face for face in web.faces]
    written: Mapping[DesiredFace, int] = (
        {need.desired: need.written for need in family.needs.faces} if family.needs is not None else {}
    )
    desired = dict.fromkeys((*written, *family.request.uses))
    if not desired and len(faces) > 1:
        desired = {DesiredFace(face.weight, face.style, face.width): None for face in faces if not face.is_variable}
    asked_faces = []
    for wish in desired:
        missing = missing_faces(faces, [wish])
        face = missing[0][1] if missing else best_match(faces, wish)
        asked_faces.append(AskedFace(desired=wish, written=written.get(wish, 0), face=face, is_real=not missing))
    # What is there as it is, upright and of regular weight, no browser would fake.
    return tuple(
        asked
        for asked in asked_faces
        if not (asked.is_real and asked.desired == DesiredFace() and len(asked_faces) == 1)
    )


def _lacking(plan: BuildPlan, family: FamilyPlan, shown: PublishedPaths) -> tuple[LackingCharacter, ...]:
    """Characters that pages write in the family and no font of it has."""
    if family.needs is None or plan.site is None:
        return ()
    shown_codes = frozenset[int]().union(*(need.shown for need in family.needs.faces))
    # A missing control character is not visible.
    codes = {code for code in shown_codes & plan.missing if unicodedata.category(chr(code))[0] not in "CZ"}
    names = {family.name.casefold(), *(name.casefold() for name in family.request.replaces)}
    counts: Counter[int] = Counter()
    pages: dict[int, dict[str, None]] = {code: {} for code in codes}
    for page, character, count in _written(plan.site, names):
        if character in pages:
            counts[character] += count
            pages[character][page] = None
    lacking = [
        LackingCharacter(code, counts[code], tuple(shown.text(page) for page in list(pages[code])[:_MOST_PAGES]))
        for code in sorted(codes, key=lambda code: (-counts[code], code))
    ]
    return tuple(lacking[:_MOST_LACKING])


def _written(site: SiteUse, families: set[str]) -> Iterable[tuple[str, int, int]]:
    """Which page writes which character in one of these families, and how often."""
    for page in site.pages:
        for use in page.faces:
            if not use.hidden and any(name.casefold() in families for name in use.face.families):
                for character, count in use.characters.items():
                    yield page.page, ord(character), count


def _features(family: FamilyPlan, web: WebFamily, texts: Sequence[str]) -> tuple[FeatureText, ...]:
    """The kept features that can be seen on and off, each with words that show it."""
    face_index, plan = next(
        (face_index, plan)
        for face_index, plan in enumerate(family.faces)
        if plan.face is best_match([face.face for face in family.faces], DesiredFace())
    )
    tags = [tag for tag in web.faces[face_index].features if tag not in _NOT_SHOWN]
    characters = web.faces[face_index].characters
    found = []
    for tag, letters in letters_of_features(plan.font, tags, characters).items():
        text = _shown(letters, texts) if letters else _settable(_KERNED, characters) if tag == "kern" else ""
        if text:
            found.append(FeatureText(tag, feature_name(tag), text))
    return tuple(found)


def _shown(letters: Sequence[str], texts: Sequence[str]) -> str:
    """Words of the site in which the feature does something, else the letters that it changes."""
    if all(len(letter) == 1 for letter in letters) and any(letter.isdigit() for letter in letters):
        return "0123456789" if {*"0123456789"} <= {*letters} else " ".join(letters[:_LETTERS])
    joined = [letter for letter in letters if len(letter) > 1]
    words = dict.fromkeys(word for text in texts for word in text.split())
    shown_words: list[str] = []
    for word in words:
        if any(letter in word for letter in joined or letters) and len(" ".join([*shown_words, word])) <= _LONGEST:
            shown_words.append(word)
    return " ".join(shown_words[:_WORDS]) or " ".join((joined or list(letters))[:_LETTERS])


def _settable(text: str, characters: frozenset[int]) -> str:
    """Those words of a text that can be set."""
    return " ".join(word for word in text.split() if all(ord(character) in characters for character in word))
