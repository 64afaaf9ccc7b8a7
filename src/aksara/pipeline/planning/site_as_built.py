"""The pages of a request as they will be once its style sheet is written."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from aksara.pipeline.planning.kept_files import KeptFiles
from aksara.pipeline.planning.permitted_paths import quotes_pages
from aksara.pipeline.request import BuildRequest
from aksara.web.css import property_names
from aksara.web.syntax import string

if TYPE_CHECKING:
    from aksara.site import SiteUse


def read_site_as_built(request: BuildRequest, names: Sequence[str], kept: KeptFiles) -> SiteUse:
    """What the pages show. In place of the style sheet that this build writes they get one that names the families of
    the build."""
    from aksara.site import SiteRequest, cache_of, read_site

    stacks = [f"{variable}: {string(name)};" for variable, name in zip(property_names(names), names, strict=True)]
    characters = request.characters
    return read_site(
        SiteRequest(
            pages=characters.pages,
            addresses=characters.addresses,
            data=characters.data,
            sheets={request.css_file: _sheet_to_be(kept, ":root { " + " ".join(stacks) + " }")},
            linking=tuple(link.path for link in kept.links),
            jobs=request.jobs,
            quoted_within=request.within if quotes_pages(request) else None,
            exclude=characters.exclude,
            root=characters.root,
            browser=characters.browser,
        ),
        cache_of(*(Path(str(path)) for path in (*characters.pages, *characters.data))) if request.cache else None,
    )


def _sheet_to_be(kept: KeptFiles, rules: str) -> str:
    """The style sheet as pages will load it, limited to what names families."""
    if kept.sheet is None:
        return rules
    marked = kept.sheet.marked
    data = marked.with_content(rules) if marked.marked else marked.with_marks_at(marked.place_for_rules, rules)
    from aksara.site.access.decoding import decode_style_sheet

    return decode_style_sheet(data)
