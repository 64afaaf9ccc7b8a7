"""The links that a page needs: to the style sheet, and preload links to fonts."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from urllib.parse import quote

from aksara.faces import Face
from aksara.pipeline.planning.kept_files import KeptFile
from aksara.pipeline.planning.plan import BuildPlan
from aksara.sources import resolved
from aksara.web.model import WebFamily
from aksara.web.preload import Preload, preloads
from aksara.web.urls import attribute_value, sheet_url


def links_of(plan: BuildPlan, kept: KeptFile, families: Sequence[WebFamily], preload: Sequence[Preload]) -> list[str]:
    """The lines of links for a page, template or fragment."""
    request, base = plan.request, kept.path.parent
    if not request.preload and (most_written := _most_written_on(plan, kept.path)) is not None:
        face, shown = most_written
        preload = preloads(families, (), request.css_file, face)
        # Slices that nearly all pages fetch need not be fetched by this one.
        preload = [link for link in preload if not link.part.characters.isdisjoint(shown)] or preload[:1]
    is_jsx = kept.marked.syntax == "jsx"
    lines = [link.link(base, is_jsx=is_jsx) for link in preload]
    # A style sheet of the user's is linked already, and a page may load this one in a way of its own.
    if plan.kept.sheet is None and request.css_file.name not in kept.marked.around:
        lines.append(_sheet_link(plan, base, is_jsx=is_jsx))
    return lines


def _sheet_link(plan: BuildPlan, base: Path, *, is_jsx: bool) -> str:
    request = plan.request
    url = sheet_url(request.url, request.css_file, request.fonts_folder)
    if url is None:
        url = quote(os.fsencode(Path(os.path.relpath(request.css_file.absolute(), base.absolute())).as_posix()))
    end = " />" if is_jsx else ">"
    return f'<link rel="stylesheet" href={attribute_value(url)}{end}'


def _most_written_on(plan: BuildPlan, path: Path) -> tuple[Face, frozenset[int]] | None:
    """The face of the build that most of a page's text is set in, and the characters that the page shows in it; None
    where that is not known."""
    if plan.site is None:
        return None
    from aksara.pipeline.planning.page_views import most_written_face

    address = resolved(path).as_uri()
    page = next((page for page in plan.site.pages if page.address == address and not page.template), None)
    return most_written_face(page, plan.families) if page is not None else None
