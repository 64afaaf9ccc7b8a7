"""The page that families are tried on: its copy, and the families that it is set in now."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import Literal, get_args

from msgspec import Struct

from aksara.errors import RequestError
from aksara.pipeline.planning.expected_letters import letters_to_expect
from aksara.site import SiteRequest, is_address, read_site
from aksara.site.access.crawling import CrawlLimits
from aksara.site.finding_files import site_root
from aksara.site.findings import desired_face
from aksara.site.page_copies import PageCopy, copy_page, copy_served_page
from aksara.site.usage import FaceUse
from aksara.sources import is_folder, printable
from aksara.web.font_matching import DesiredFace

#: Which text of a page candidates are for.
Role = Literal["both", "headings", "text"]
ROLES: tuple[Role, ...] = get_args(Role)
#: The share of a face's characters in headings from which on it is a face of headings.
_OF_HEADINGS = 0.5


class PresentFamily(Struct, frozen=True):
    """A family that the page names first: its characters with repetitions, how many of them are in headings, and the
    weights and styles that are used."""

    name: str
    characters: int
    in_headings: int
    faces: tuple[str, ...]


class TriedPage(Struct, frozen=True):
    """The page, or only a text (`copy` None), with the faces it needs."""

    copy: PageCopy | None
    #: What it is called, and its file if it has one.
    place: str
    path: Path | None
    families: tuple[PresentFamily, ...]
    #: Those that candidates replace.
    replaced: tuple[str, ...]
    role: Role
    #: The characters that candidates need, and the weights and styles.
    text: str
    uses: tuple[DesiredFace, ...]
    #: Letters of the text's languages that it does not show yet.
    letters: str


def tried_page(on: str, replaces: Sequence[str], role: Role) -> TriedPage:
    """The page at a path or address. Without `replaces`, candidates replace all families of the role's text.

    Raises `InputError` for a page that cannot be read, `RequestError` where it shows no text, or not in that family.
    """
    page: Path | None = None
    if is_address(on):
        copy = copy_served_page(on)
        site = read_site(SiteRequest((), (on,), limits=CrawlLimits(pages=1, depth=0)))
    else:
        page = Path(on)
        if is_folder(page):
            page = page / "index.html"
        copy = copy_page(page, site_root(page))
        site = read_site(SiteRequest((page,)))
    shown = [use for use in site.faces if not use.hidden and use.count and use.face.families]
    if not shown:
        raise RequestError(f"{copy.address}: shows no text without its scripts; give another page, or a text")
    families = _families(shown)
    chosen = _chosen(families, replaces, role, copy.address)
    of_role = [use for use in shown if use.face.families[0] in chosen and _is_of(use, role)]
    return TriedPage(
        copy=copy,
        place=copy.address,
        path=page,
        families=families,
        replaced=chosen,
        role=role,
        text="".join(sorted({character for use in of_role for character in use.characters})),
        uses=tuple(dict.fromkeys(desired_face(use.face) for use in of_role)),
        letters=_letters_to_come(of_role),
    )


def tried_text(text: str) -> TriedPage:
    """A text alone. Raises `RequestError` for one without characters."""
    if not text.strip():
        raise RequestError("the text has no characters; give a heading or a sentence")
    return TriedPage(None, printable(text), None, (), (), "both", text, (), "")


def _families(uses: Sequence[FaceUse]) -> tuple[PresentFamily, ...]:
    """The first families of the page's font stacks, those with most text first."""
    by_name: dict[str, list[FaceUse]] = {}
    for use in uses:
        by_name.setdefault(use.face.families[0], []).append(use)
    found = [
        PresentFamily(
            name,
            sum(use.count for use in of_name),
            sum(use.in_headings for use in of_name),
            tuple(dict.fromkeys(desired_face(use.face).label for use in of_name)),
        )
        for name, of_name in by_name.items()
    ]
    return tuple(sorted(found, key=lambda family: (-family.characters, family.name)))


def _chosen(families: Sequence[PresentFamily], replaces: Sequence[str], role: Role, place: str) -> tuple[str, ...]:
    if replaces:
        known = {family.name.casefold(): family.name for family in families}
        missing = [name for name in replaces if name.casefold() not in known]
        if missing:
            listed = ", ".join(family.name for family in families)
            raise RequestError(f"{place}: no text asks for {printable(missing[0])} first; it asks for {listed}")
        return tuple(dict.fromkeys(known[name.casefold()] for name in replaces))
    running = max(families, key=lambda family: family.characters - family.in_headings)
    headings = max(families, key=lambda family: family.in_headings)
    by_role = {"text": (running.name,), "headings": (headings.name,), "both": (running.name, headings.name)}
    return tuple(dict.fromkeys(by_role[role]))


def _is_of(use: FaceUse, role: Role) -> bool:
    of_headings = use.in_headings >= _OF_HEADINGS * use.count
    return role == "both" or of_headings == (role == "headings")


def _letters_to_come(uses: Sequence[FaceUse]) -> str:
    """The letters that a build adds for future text."""
    counts: Counter[str] = Counter()
    for use in uses:
        counts.update(use.languages)
    shown = frozenset[int]().union(*(use.codes for use in uses))
    return "".join(map(chr, sorted(letters_to_expect(counts, shown).letters - shown)))
