"""The characters that each page sets in each face of a family, and so what a view of it fetches."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from msgspec import Struct

from aksara.errors import RequestError
from aksara.faces import Face
from aksara.pipeline.planning.expected_letters import OF_A_LANGUAGE
from aksara.pipeline.planning.planned import FamilyPlan, PageView
from aksara.pipeline.planning.site_needs import find_needs
from aksara.site import SiteUse
from aksara.site.usage import FaceUse, PageUse
from aksara.text import find_language
from aksara.web.font_matching import DesiredFace, best_match


class SiteViews(Struct, frozen=True):
    """The views of each family by its name, the languages of the site's text (tags), and every two characters that
    stand beside each other in it."""

    of_family: Mapping[str, tuple[PageView, ...]]
    languages: tuple[str, ...]
    neighbours: frozenset[str]


def site_views(site: SiteUse, families: Sequence[FamilyPlan]) -> SiteViews:
    """The views of all pages of a site, and the neighbouring characters in its pages and data."""
    known = {family.name: family.known for family in families}
    replaces: dict[str, str] = {}
    for family in families:
        for other in family.request.replaces:
            replaces.setdefault(other, family.name)
    found: dict[str, list[PageView]] = {name: [] for name in known}
    languages: Counter[str] = Counter()
    for page in site.pages:
        uses = tuple(use for use in page.faces if not use.hidden)
        counts = _languages_of(uses)
        languages.update(counts)
        language = max(sorted(counts), key=lambda tag: counts[tag]) if counts else ""
        needs = find_needs(SiteUse((page,), uses), known, replaces)
        for family in families:
            if family.name in needs:
                shown = _by_face(family, [(need.desired, need.shown) for need in needs[family.name].faces])
            else:
                # Nothing names the family yet: it may come to be that of all running text.
                shown = _by_face(family, [(DesiredFace(), _all_text(page))]) if family.needs is None else {}
            if shown:
                found[family.name].append(PageView(page=page.page, language=language, shown=shown))
    neighbours = frozenset[str]().union(
        *(use.neighbours for use in site.faces), *(text.neighbours for text in site.texts)
    )
    return SiteViews(
        {name: tuple(views) for name, views in found.items()},
        tuple(tag for tag, count in languages.most_common() if count >= OF_A_LANGUAGE),
        neighbours,
    )


def most_written_face(page: PageUse, families: Sequence[FamilyPlan]) -> tuple[Face, frozenset[int]] | None:
    """The face in which most of a page's text is set, and the characters that the page shows in it; None if it uses
    none of the families."""
    known = {family.name: family.known for family in families}
    replaces = {other: family.name for family in reversed(families) for other in family.request.replaces}
    uses = tuple(use for use in page.faces if not use.hidden)
    needs = find_needs(SiteUse((page,), uses), known, replaces)
    written: Counter[tuple[int, int]] = Counter()
    shown: dict[tuple[int, int], frozenset[int]] = {}
    for index, family in enumerate(families):
        faces = [plan.face for plan in family.faces]
        for need in needs[family.name].faces if family.name in needs else ():
            match = best_match(faces, need.desired)
            place = index, next(face_index for face_index, face in enumerate(faces) if face is match)
            written[place] += need.written
            shown[place] = shown.get(place, frozenset()) | need.shown
    if not written:
        return None
    most = max(sorted(written), key=lambda place: written[place])
    return families[most[0]].faces[most[1]].face, shown[most]


def _by_face(family: FamilyPlan, asked: Sequence[tuple[DesiredFace, frozenset[int]]]) -> dict[int, frozenset[int]]:
    faces = [plan.face for plan in family.faces]
    shown: dict[int, frozenset[int]] = {}
    for desired, codes in asked:
        match = best_match(faces, desired)
        face_index = next(face_index for face_index, face in enumerate(faces) if face is match)
        shown[face_index] = shown.get(face_index, frozenset()) | codes
    return shown


def _all_text(page: PageUse) -> frozenset[int]:
    return frozenset().union(*(use.codes for use in page.faces if not use.hidden))


def _languages_of(uses: Sequence[FaceUse]) -> Counter[str]:
    """Characters in each known language."""
    counts: Counter[str] = Counter()
    for use in uses:
        for tag, count in use.languages.items():
            try:
                counts[find_language(tag).tag] += count
            except RequestError:
                continue
    return counts
