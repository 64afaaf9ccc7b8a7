"""The faces and families that a build will make."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from msgspec import Struct, field

from aksara.faces import Embedding, Face, FaceMetrics, FontVariation
from aksara.font import Font
from aksara.instancing import Limits
from aksara.pipeline.request import FamilyRequest, Variable
from aksara.subsetting import draws_any
from aksara.text.sequences import Sequences
from aksara.web.fallback import FallbackFace
from aksara.web.font_matching import DesiredFace
from aksara.web.model import WHOLE, Pictures

# What cuts into slices is imported where that may be of use.
if TYPE_CHECKING:
    from aksara.pipeline.planning.site_needs import FamilyNeeds
    from aksara.slicing.cut import Cut, Material


class FacePlan(Struct, frozen=True, kw_only=True):
    """A face to make: its font, the permission in it, the characters to keep (None: all), and how they are asked for.

    `font` is the `source` without ligatures of sequences that are not asked for (`sequences`; None: all are), and
    without localised forms for languages that no text is in (`unlocalised`: the characters that had such forms, by the
    languages' names; `unsaid`: those that keep them for languages of which nothing says that text is in them). `emoji`
    are those asked for of which the font has the characters: whether it draws each as one picture.
    `axes` is what remains of a variable font's axes where they are limited, `variation` what the face can still do
    (None for a static one). `samples` are the face, or parts of its range, with the metrics there; `local` are the
    names by which an installed copy is tried first. `written` is how many characters the site's pages set in it,
    `letters` are those of its characters that running text may come to need, and that no page shows.
    """

    face: Face
    font: Font
    source: Font
    permission: Embedding
    characters: frozenset[int] | None
    request: FamilyRequest
    metrics: FaceMetrics
    axes: Limits
    variation: FontVariation | None
    samples: tuple[tuple[Face, FaceMetrics], ...]
    local: tuple[str, ...]
    written: int = 0
    letters: frozenset[int] = frozenset()
    sequences: Sequences | None = None
    emoji: Mapping[str, bool] = field(default_factory=dict)
    unlocalised: Mapping[str, frozenset[int]] = field(default_factory=dict)
    unsaid: Mapping[str, frozenset[int]] = field(default_factory=dict)


class FacePart(Struct, frozen=True):
    """A slice of a face: its name and its characters (None: all that the face keeps)."""

    name: str
    characters: frozenset[int] | None


class OtherWay(Struct, frozen=True, kw_only=True):
    """What else could become of a family's variable fonts: the setting, the faces that the site would have to name for
    it, and the faces that would be made. `instead_of` are the planned faces that these stand for."""

    variable: Variable
    uses: tuple[DesiredFace, ...]
    faces: tuple[FacePlan, ...]
    instead_of: tuple[FacePlan, ...]


class PageView(Struct, frozen=True, kw_only=True):
    """A page, the `language` that most of it is in (a tag, "" if that is not said), and the characters that it shows in
    each face of a family, by the face's place in it."""

    page: str
    language: str
    shown: Mapping[int, frozenset[int]]


class FamilySlices(Struct, frozen=True, kw_only=True):
    """How a family is cut: the `cut`, and what it was made of. `pages` are the views that are known, `languages` those
    of its text (tags), `neighbours` every two characters that stand beside each other in it, `characters` what each
    face keeps, in their order."""

    cut: Cut
    material: Material
    pages: tuple[PageView, ...]
    languages: tuple[str, ...]
    neighbours: frozenset[str]
    characters: tuple[frozenset[int], ...]


class FamilyPlan(Struct, frozen=True, kw_only=True):
    """A family to make; `notice` is the copyright lines of its fonts, `known` all characters that any of them has.

    `fallbacks` are the metric-matched faces on families of the stack, `missing_faces` what was asked for and is not
    there, with the face that a browser takes instead. `other_way` is what its variable fonts could be made into.
    `needs` is what the site asks of it (None where nothing is known of that), `unused` the faces that are not made
    since the site does not ask for them. `slices` says how its characters are cut into several files; None: they are
    not, nor was it asked for.
    """

    name: str
    faces: tuple[FacePlan, ...]
    stack: tuple[str, ...]
    generic: str
    notice: str
    request: FamilyRequest
    known: frozenset[int]
    fallbacks: tuple[FallbackFace, ...]
    missing_faces: tuple[tuple[DesiredFace, Face], ...]
    other_way: OtherWay | None
    needs: FamilyNeeds | None
    unused: tuple[FacePlan, ...]
    slices: FamilySlices | None = None
    #: Whether it draws icons or emoji, and no text.
    pictures: Pictures = ""
    #: Scripts of its text that no family of the stack could be matched with (ISO 15924).
    unmatched_scripts: tuple[str, ...] = ()
    #: How wide each of its icons is, in ems (None: they differ, or it has none).
    icon_width: float | None = None

    @property
    def display(self) -> str:
        """`font-display`: "block" for icons, since no fallback font can show them."""
        return self.request.display or ("block" if self.pictures == "icons" else "swap")

    @property
    def selectors(self) -> tuple[tuple[str, DesiredFace], ...]:
        """The site's selectors that use its faces, those with most text first."""
        needs = self.needs.faces if self.needs is not None else ()
        return tuple((need.origin.selector, need.desired) for need in needs if need.origin.selector)

    @property
    def missing_characters(self) -> frozenset[int]:
        """The characters that the site shows in it and that none of its fonts has."""
        shown = frozenset[int]().union(*(need.shown for need in self.needs.faces)) if self.needs is not None else ()
        return frozenset(code for code in shown if code not in self.known and code > 0x20)

    @property
    def is_cut(self) -> bool:
        """Whether its characters are in several files."""
        return self.slices is not None and bool(self.slices.cut.slices)

    def parts(self, face_index: int) -> tuple[FacePart, ...]:
        """The slices of the face at that place.

        One that would draw nothing (spaces only), which browsers refuse, goes with the first that does.
        """
        face = self.faces[face_index]
        if self.slices is None or not self.slices.cut.slices:
            return (FacePart(WHOLE, face.characters),)
        own = self.slices.characters[face_index]
        parts = {name: codes & own for name, codes in self.slices.cut.slices.items() if codes & own}
        drawn = {name: codes for name, codes in parts.items() if draws_any(face.font, codes)}
        rest = own.difference(*drawn.values())
        first = next(iter(drawn))
        return tuple(FacePart(name, codes | rest if name == first else codes) for name, codes in drawn.items())
