"""Comparing the faces that a site uses with those that it defines."""

from __future__ import annotations

from collections import Counter
from collections.abc import Container, Iterable, Mapping, Sequence
from difflib import get_close_matches

from msgspec import Struct

from aksara.faces import Style
from aksara.site.css.defined_faces import DefinedFace
from aksara.site.css.styles import FaceKey
from aksara.site.usage import FaceUse, PageUse, SiteUse
from aksara.web.font_matching import DesiredFace, best_match, missing_faces
from aksara.web.syntax import CSS_WIDE, GENERIC_FAMILIES

#: A page that has scripts and shows fewer characters than this is made by them.
NEARLY_EMPTY = 80
# Families that operating systems bring, besides those whose widths are known; a page that names them means them.
_INSTALLED = frozenset(
    name.casefold()
    for name in (
        "Arial", "Arial Black", "Arial Narrow", "Andale Mono", "Apple Color Emoji", "Avenir", "Avenir Next",
        "Baskerville", "BlinkMacSystemFont", "-apple-system", "Book Antiqua", "Bookman", "Calibri", "Cambria",
        "Candara", "Cantarell",
        "Century Gothic", "Charter", "Comic Sans MS", "Consolas", "Constantia", "Copperplate", "Corbel", "Courier",
        "Courier New", "DejaVu Sans", "DejaVu Sans Mono", "DejaVu Serif", "Droid Sans", "Droid Sans Mono",
        "Franklin Gothic Medium", "Futura", "Garamond", "Geneva", "Georgia", "Gill Sans", "Helvetica", "Helvetica Neue",
        "Hiragino Kaku Gothic Pro", "Hiragino Mincho ProN", "Hiragino Sans GB", "Hoefler Text", "Impact",
        "Liberation Mono", "Liberation Sans", "Liberation Serif", "Lucida", "Lucida Console", "Lucida Grande",
        "Lucida Sans Unicode", "Malgun Gothic", "Meiryo", "Menlo", "Microsoft YaHei", "Monaco", "MS Gothic",
        "MS PGothic", "Noto Color Emoji", "Noto Sans", "Optima", "Oxygen", "Oxygen-Sans", "Palatino",
        "Palatino Linotype", "PingFang SC", "PingFang TC", "Roboto", "Rockwell", "San Francisco", "Segoe UI",
        "Segoe UI Emoji", "Segoe UI Symbol", "SF Mono", "SFMono-Regular", "SimHei", "SimSun", "Symbol", "Tahoma",
        "Times", "Times New Roman", "Trebuchet MS", "Ubuntu", "Ubuntu Mono", "Verdana", "Yu Gothic",
    )
)  # fmt: skip


class ReplacedFace(Struct, frozen=True):
    """A weight, style or width that the site uses but the family lacks; browsers use `nearest` instead."""

    family: str
    desired: DesiredFace
    nearest: DefinedFace
    use: FaceUse


class UndefinedFamily(Struct, frozen=True):
    """A family that text is set in and that no style sheet defines; `nearest` is a defined one that it may mean."""

    family: str
    nearest: str
    use: FaceUse


def is_common(family: str) -> bool:
    """Whether a family is a generic one, or one that operating systems have."""
    key = family.casefold()
    return key in _INSTALLED or key in GENERIC_FAMILIES or key in CSS_WIDE


def desired_face(face: FaceKey) -> DesiredFace:
    """The face that a text needs of its family."""
    styles: dict[str, Style] = {"italic": "italic", "oblique": "oblique"}
    return DesiredFace(round(face.weight), styles.get(face.style.partition(" ")[0], "normal"), face.width)


def desired_faces(use: FaceUse) -> list[DesiredFace]:
    """The faces that a text needs of its family, by properties and `font-variation-settings`, which override them."""
    desired = desired_face(use.face)
    faces = [desired]
    for settings in map(dict, use.variations):
        style = desired.style
        if settings.get("slnt", 0) < 0:
            style = "oblique"
        elif settings.get("ital", 0) > 0:
            style = "italic"
        weight = min(max(round(settings.get("wght", desired.weight)), 1), 1000)
        faces.append(DesiredFace(weight, style, settings.get("wdth", desired.width)))
    return list(dict.fromkeys(faces))


def leading_family(face: FaceKey, defined: Container[str]) -> str:
    """The first family of a list, if its name in small letters is among the defined ones; "" if one that computers
    have, or a generic one, comes before it: then text is shown in that."""
    for family in face.families:
        if family.casefold() in defined:
            return family
        if is_common(family):
            break
    return ""


def by_family(defined: Iterable[DefinedFace]) -> dict[str, list[DefinedFace]]:
    """Defined faces by the name of their family, without regard to case."""
    families: dict[str, list[DefinedFace]] = {}
    for face in defined:
        families.setdefault(face.family.casefold(), []).append(face)
    return families


def replaced_faces(site: SiteUse) -> list[ReplacedFace]:
    """What browsers will have to fake or replace in the first family that is defined, most used first."""
    families = by_family(site.defined)
    replaced = []
    for use in site.faces:
        name = leading_family(use.face, families)
        if name and not use.hidden:
            missing = missing_faces(families[name.casefold()], [desired_face(use.face)])
            replaced += [ReplacedFace(name, desired, nearest, use) for desired, nearest in missing]
    return replaced


def is_placeholder(family: str) -> bool:
    """Whether it is no name of a family: style sheets and templates write "_" where there has to be something."""
    return not any(map(str.isalnum, family))


def undefined_families(site: SiteUse) -> list[UndefinedFamily]:
    """Families that come before any that is defined or that computers have, most used first."""
    families = by_family(site.defined)
    names = {face.family.casefold(): face.family for face in site.defined}
    undefined: dict[str, UndefinedFamily] = {}
    for use in site.faces:
        for name in use.face.families:
            key = name.casefold()
            if key in families or is_common(name) or use.hidden:
                break
            if is_placeholder(name):
                continue
            near = get_close_matches(key, families, 1, 0.75)
            undefined.setdefault(key, UndefinedFamily(name, names[near[0]] if near else "", use))
    return list(undefined.values())


def unused_faces(site: SiteUse) -> list[DefinedFace]:
    """Defined faces that no text is set in, hidden text included; of a face in slices all or none."""
    families = by_family(site.defined)
    used: set[DefinedFace] = set()
    for use in site.faces:
        for name in use.face.families:
            faces = families.get(name.casefold())
            if not faces:
                continue
            nearest = best_match(faces, desired_face(use.face))
            same = [face for face in faces if (face.weight, face.style, face.width) ==
                    (nearest.weight, nearest.style, nearest.width)]  # fmt: skip
            if any(face.serves(code) for face in same for code in use.codes):
                used.update(same)
    return [face for face in site.defined if face not in used and not face.local]


def nearly_empty(pages: Iterable[PageUse]) -> list[PageUse]:
    """Pages that show almost nothing without scripts; templates are ignored."""
    return [page for page in pages if page.scripts and page.size < NEARLY_EMPTY and not page.template]


def unread_sheets(pages: Sequence[PageUse]) -> Mapping[tuple[str, str], int]:
    """Style sheets that could not be read: address and reason, with the number of pages."""
    return Counter(entry for page in pages for entry in page.missing)
