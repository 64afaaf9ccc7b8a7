"""The languages of a build's text, besides those that its pages say themselves."""

from __future__ import annotations

from contextlib import suppress
from typing import TYPE_CHECKING

from aksara.errors import RequestError
from aksara.pipeline.request import BuildRequest
from aksara.text import find_language

if TYPE_CHECKING:
    from aksara.site import SiteUse


def languages_unsaid(request: BuildRequest, site: SiteUse) -> tuple[str, ...]:
    """The languages of text that does not say its own: those that the user names, and those of catalogues."""
    of_templates: dict[str, None] = {}
    for tag in dict.fromkeys(page.language for page in site.pages if page.template and page.language):
        with suppress(RequestError):  # what is no language
            of_templates.setdefault(find_language(tag).tag)
    return (*request.characters.languages, *site.languages, *of_templates)


def languages_besides(request: BuildRequest, site: SiteUse | None) -> frozenset[str] | None:
    """The languages of text that the pages need not show (tags, "" where some says none): those that are asked for, and
    those of catalogues. None: any."""
    asked = request.characters
    if asked.ranges or asked.scripts:
        return None
    tags = frozenset(asked.languages if site is None else languages_unsaid(request, site))
    if asked.texts or asked.text_files:
        tags |= {""}
    return tags if tags or site is not None else None


def languages_of_all(request: BuildRequest, site: SiteUse | None) -> frozenset[str] | None:
    """These, and the languages of all text of the pages."""
    besides = languages_besides(request, site)
    if site is None or besides is None:
        return besides
    return besides | ({tag for use in site.faces for tag in use.languages} or {""})
