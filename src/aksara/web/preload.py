"""Preloading: the files that a page should request early, and the links for them (HTML, `rel=preload`)."""

from __future__ import annotations

import os
import posixpath
import re
from collections.abc import Sequence
from pathlib import Path
from urllib.parse import quote

from msgspec import Struct

from aksara.faces import Face
from aksara.web.font_matching import DesiredFace, best_match, named_face, text_family
from aksara.web.model import WebFace, WebFamily, WebFile, WebSlice
from aksara.web.urls import attribute_value, is_path

#: The part of page views that a slice must be fetched by to be worth fetching early on every page.
_MOST_VIEWS = 0.75


class Preload(Struct, frozen=True):
    """A file to fetch early: of a slice that most first views need, in the first format."""

    family: WebFamily
    web: WebFace
    part: WebSlice
    file: WebFile
    css_file: Path

    def link(self, base: Path, *, is_jsx: bool = False) -> str:
        """The element for the head of a page in the folder `base`.

        Fonts are always fetched with CORS, so `crossorigin` must stand there.
        """
        href = attribute_value(page_url(self.file.url, self.css_file, base))
        end = 'crossOrigin="" />' if is_jsx else "crossorigin>"
        return f'<link rel="preload" href={href} as="font" type="{self.file.media_type}" {end}'


def preloads(
    families: Sequence[WebFamily], asked: Sequence[str], css_file: Path, most_written: Face | None = None
) -> tuple[Preload, ...]:
    """For each face that is named ("Bold", "Penyu Slab 700"); if none is, for that in which most text is set, or for
    the regular text face where that is not known.

    Raises `RequestError` for a face that does not exist.
    """
    chosen = [named_face(families, text) for text in dict.fromkeys(asked)]
    if not chosen and most_written is not None:
        chosen = [(family, most_written) for family in families if family.name == most_written.family]
    if not chosen:
        family = text_family(families)
        chosen = [(family, best_match([web.face for web in family.faces], DesiredFace()))]
    return tuple(
        Preload(family, web, part, file, css_file)
        for family, face in chosen
        for web in family.faces
        if web.face is face
        for part in _first_view(web)
        for file in part.files[:1]
        if not file.is_inline
    )


def _first_view(web: WebFace) -> list[WebSlice]:
    """The slices that nearly all page views fetch; the first one where that is not known, or no slice is so common."""
    return [part for part in web.slices if (part.share or 0) > _MOST_VIEWS] or [web.slices[0]]


def page_url(url: str, css_file: Path, base: Path) -> str:
    """A URL of the style sheet as a page in the folder `base` would write it; one from the root stays as it is."""
    if url.startswith("/") or not is_path(url):
        return url
    path, mark, rest = re.match(r"([^?#]*)([?#]?)(.*)", url, re.DOTALL).groups()  # type: ignore[union-attr]
    sheet = quote(os.fsencode(Path(os.path.relpath(css_file.absolute(), base.absolute())).as_posix()))
    return posixpath.normpath(posixpath.join(posixpath.dirname(sheet), path)) + mark + rest
