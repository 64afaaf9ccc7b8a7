"""Which files a page should ask for before its style sheet is read, and the links that do it (HTML, `rel=preload`)."""

from __future__ import annotations

import os
import posixpath
import re
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape
from pathlib import Path
from urllib.parse import quote

from aksara.errors import RequestError
from aksara.web.css import text_family
from aksara.web.matching import Asked, best_match, parse_asked
from aksara.web.model import WebFace, WebFamily, WebFile, WebSlice
from aksara.web.urls import is_path


@dataclass(slots=True, frozen=True)
class Preload:
    """A file to fetch early: of a face's first slice and first format."""

    family: WebFamily
    web: WebFace
    part: WebSlice
    file: WebFile
    css_file: Path

    def link(self, base: Path) -> str:
        """The element for the head of a page in the folder `base`.

        Fonts are always fetched with CORS, so `crossorigin` must stand there.
        """
        href = page_url(self.file.url, self.css_file, base)
        quoted, mark = (href, "'") if '"' in href else (escape(href), '"')
        kind = self.file.media_type
        return f'<link rel="preload" href={mark}{quoted}{mark} as="font" type="{kind}" crossorigin>'


def preloads(families: Sequence[WebFamily], asked: Sequence[str], css_file: Path) -> tuple[Preload, ...]:
    """For each face that is named ("Bold", "Penyu Slab 700"), or for the regular text face if none is.

    Raises `RequestError` for a face that is not there.
    """
    chosen = [_named(families, text) for text in dict.fromkeys(asked)]
    if not chosen:
        family = text_family(families)
        chosen = [(family, _web(family, Asked()))]
    return tuple(
        Preload(family, web, web.slices[0], file, css_file)
        for family, web in chosen
        for file in web.slices[0].files[:1]
    )


def _named(families: Sequence[WebFamily], text: str) -> tuple[WebFamily, WebFace]:
    matching = [family for family in families if text.casefold().startswith(family.name.casefold())]
    family = max(matching, key=lambda family: len(family.name), default=text_family(families))
    rest = text[len(family.name) :] if matching else text
    asked = parse_asked(rest) if rest.strip() else Asked()
    web = _web(family, asked)
    low, high = web.face.weight_range
    if web.face.style != asked.style or not low <= asked.weight <= high or web.face.width != asked.width:
        there = ", ".join(web.face.label for web in family.faces)
        raise RequestError(f"--preload {text}: {family.name} has no such face; it has {there}")
    return family, web


def _web(family: WebFamily, asked: Asked) -> WebFace:
    face = best_match([web.face for web in family.faces], asked)
    return next(web for web in family.faces if web.face is face)


def page_url(url: str, css_file: Path, base: Path) -> str:
    """A URL of the style sheet as a page in the folder `base` would write it; one from the root stays as it is."""
    if url.startswith("/") or not is_path(url):
        return url
    path, mark, rest = re.match(r"([^?#]*)([?#]?)(.*)", url, re.DOTALL).groups()  # type: ignore[union-attr]
    sheet = quote(Path(os.path.relpath(css_file.absolute(), base.absolute())).as_posix())
    return posixpath.normpath(posixpath.join(posixpath.dirname(sheet), path)) + mark + rest
