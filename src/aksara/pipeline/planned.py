"""What a plan holds: the faces and families that a build will make."""

from __future__ import annotations

from dataclasses import dataclass

from aksara.faces import Embedding, Face, FaceMetrics
from aksara.font import Font
from aksara.pipeline.request import FamilyRequest
from aksara.web.fallback import FallbackFace
from aksara.web.font_matching import DesiredFace


@dataclass(slots=True, frozen=True, kw_only=True)
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


@dataclass(slots=True, frozen=True, kw_only=True)
class FamilyPlan:
    """A family to make; `notice` is the copyright lines of its fonts, `known` all characters that any of them has.

    `fallbacks` are the metric-matched faces on families of the stack, `missing_faces` what was asked for and is not
    there, with the face that a browser takes instead.
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
