"""The icons that a build keeps: found by name in its fonts, which lose the others."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from difflib import get_close_matches

from aksara.errors import RequestError
from aksara.pipeline.characters import CharacterRequest
from aksara.pipeline.reading import FacesOfFonts
from aksara.subsetting.icons import Icon, font_icons, with_icons_only


@dataclass(slots=True, frozen=True)
class ChosenIcons:
    """The faces with no other icons than those that are asked for, which have `names` in each family."""

    faces: FacesOfFonts
    icons: dict[str, dict[str, Icon]]


def choose_icons(faces: FacesOfFonts, names: Sequence[str]) -> ChosenIcons:
    """The faces of which those with icons keep these alone; by family which of them they have."""
    found: dict[str, dict[str, Icon]] = {}
    made: FacesOfFonts = []
    for face, font in faces:
        icons = font_icons(font)
        own = {name: icons[name] for name in names if name in icons}
        made.append((face, with_icons_only(font, own.keys()) if icons else font))
        found.setdefault(face.family, {}).update(own)
    return ChosenIcons(made, found)


def with_icons(request: CharacterRequest, chosen: Sequence[ChosenIcons], known: Iterator[str]) -> CharacterRequest:
    """The request with the characters that it takes to show its icons; `known` are the names of all icons.

    Raises `RequestError` for a name that no font has.
    """
    by_name = {name: icon for each in chosen for own in each.icons.values() for name, icon in own.items()}
    lost = [name for name in request.icons if name not in by_name]
    if lost:
        names = sorted(set(known))
        near = get_close_matches(lost[0], names, 1, 0.6)
        hint = (
            f"did you mean {near[0]}?" if near else f"there are {len(names):,}" if names else "no font here has icons"
        )
        raise RequestError(f"no font here has an icon called {lost[0]}; {hint}", parameter="CharacterRequest.icons")
    codes = frozenset[int]().union(*(icon.characters(name) for name, icon in by_name.items()))
    return replace(request, texts=(*request.texts, "".join(map(chr, sorted(codes)))))
