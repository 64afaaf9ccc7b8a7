"""Sorting faces into families: one name for one family, and one font for one face of it."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence

from msgspec.structs import replace

from aksara.faces.face import Face

#: Family, weight, style and width: what a face is known by in CSS.
Descriptors = tuple[str, int, str, float]


def descriptors_of(face: Face) -> Descriptors:
    """The descriptors that identify the face in CSS; two faces of a family must not share them."""
    return face.family, face.weight, face.style, face.width


def sort_into_families(faces: Sequence[Face]) -> list[Face]:
    """The same faces, in the same order, with families that go together under one name.

    Families that differ only in blanks, hyphens or capitals take the most frequent spelling. Where several faces
    share all descriptors and differ by something that CSS has no word for (an optical size, an outline), that becomes
    part of the family: "Penyu Sans 8", "Penyu Sans 12".
    """
    spelt = _one_spelling(faces)
    claims: dict[Descriptors, set[str]] = defaultdict(set)
    for face in spelt:
        claims[descriptors_of(face)].add(face.variant)
    divided = {descriptors[0] for descriptors, variants in claims.items() if len(variants) > 1}
    return [
        replace(face, family=f"{face.family} {face.variant}") if face.family in divided and face.variant else face
        for face in spelt
    ]


def group_by_family(faces: Sequence[Face]) -> dict[str, list[Face]]:
    """The faces by their families' names, each in one spelling. Variants, which `sort_into_families` may make families
    of their own, are still with the others."""
    grouped: dict[str, list[Face]] = {}
    for face in _one_spelling(faces):
        grouped.setdefault(face.family, []).append(face)
    return grouped


def _one_spelling(faces: Sequence[Face]) -> list[Face]:
    spellings: dict[str, Counter[str]] = defaultdict(Counter)
    for face in faces:
        spellings[_folded(face.family)][face.family] += 1
    chosen = {key: min(names, key=lambda name: (-names[name], name)) for key, names in spellings.items()}
    return [replace(face, family=chosen[_folded(face.family)]) for face in faces]


def _folded(name: str) -> str:
    return "".join(c for c in name.casefold() if c.isalnum()) or name


def conflicting_faces(faces: Sequence[Face]) -> list[list[Face]]:
    """Groups of faces with the same descriptors, between which the user has to choose.

    A variable font and a static one of the same face do not conflict: the one covers the other.
    """
    claims: dict[tuple[Descriptors, bool], list[Face]] = defaultdict(list)
    for face in faces:
        claims[descriptors_of(face), face.is_variable].append(face)
    return [group for group in claims.values() if len(group) > 1]
