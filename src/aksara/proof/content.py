"""The content of a proof besides the faces: how the site uses a family."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct, field

from aksara.faces import Face
from aksara.web.font_matching import DesiredFace
from aksara.web.model import WebFamily
from aksara.web.system_families import SystemFamily


class AskedFace(Struct, frozen=True, kw_only=True):
    """A weight and style that is asked for: how many characters of the site are `written` in it (0: not known), the
    face that browsers take for it, and whether that `is_real`."""

    desired: DesiredFace
    written: int
    face: Face
    is_real: bool


class LackingCharacter(Struct, frozen=True):
    """A character that pages use but none of the family's fonts has, with its count and first pages."""

    code: int
    count: int
    pages: tuple[str, ...]


class PageSize(Struct, frozen=True):
    """The files and bytes (in the first format) of a family that the first view of a page fetches."""

    page: str
    size: int
    files: int


class FeatureText(Struct, frozen=True):
    """A feature that was kept, with a text that shows it."""

    tag: str
    name: str
    text: str


class FamilyProof(Struct, frozen=True, kw_only=True):
    """A family and its known use.

    `texts` are the site's own by the place of the face, each with the tag of its language; `languages` are those that
    were asked for. `counts` says how often each character is written, `widths` how wide it is in each face (ems).
    `budget` is what a page's first view may take, in bytes; `measured` are system families besides those that are
    known.
    """

    web: WebFamily
    asked: tuple[AskedFace, ...] = ()
    texts: Mapping[int, tuple[tuple[str, str], ...]] = field(default_factory=dict)
    languages: tuple[str, ...] = ()
    counts: Mapping[int, int] = field(default_factory=dict)
    lacking: tuple[LackingCharacter, ...] = ()
    pages: tuple[PageSize, ...] = ()
    features: tuple[FeatureText, ...] = ()
    widths: tuple[Mapping[int, float], ...] = ()
    budget: int | None = None
    measured: tuple[SystemFamily, ...] = ()
