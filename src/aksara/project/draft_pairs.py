"""Which families of a site's pages the fonts of a draft seem to be for."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import AksaraError
from aksara.web.syntax import GENERIC_FAMILIES

if TYPE_CHECKING:
    from aksara.site import SiteUse

#: Pages from which on reading them would take longer than a draft should.
_MOST_PAGES = 200


class DraftFamily(Struct, frozen=True):
    """Fonts that go together: their family names, the patterns that find them, the labels of their faces."""

    names: tuple[str, ...]
    patterns: tuple[str, ...]
    faces: tuple[str, ...]
    #: The generic family of the fonts.
    generic: str = ""
    #: Families of the pages that these fonts seem to be for.
    replaces: tuple[str, ...] = ()


def pages_in(folder: Path) -> list[Path]:
    """The pages of a folder."""
    from aksara.site.contents import contents_of  # reading pages takes its time to load

    return list(contents_of(folder).pages)  # a build will report what cannot be read


def with_replaced(families: Sequence[DraftFamily], pages: Sequence[Path]) -> list[DraftFamily]:
    """The families with those of the pages that they replace, where that can be seen.

    A family that pages name needs none. Of the others, one goes with the only family of the pages that is neither
    installed nor named like a font here, or with the only one of its generic family.
    """
    if not families or not 0 < len(pages) <= _MOST_PAGES:
        return list(families)
    from aksara.site import SiteRequest, read_site

    try:
        asked = _asked(read_site(SiteRequest(tuple(pages))))
    except AksaraError:  # a build will report it
        return list(families)
    own = {name.casefold() for family in families for name in family.names}
    free = {name: generic for name, generic in asked.items() if name.casefold() not in own}
    named = {name.casefold() for name in asked}
    waiting = [family for family in families if not any(name.casefold() in named for name in family.names)]
    return [
        replace(family, replaces=_for(family, free, alone=len(waiting) == 1)) if family in waiting else family
        for family in families
    ]


def _for(family: DraftFamily, free: dict[str, str], *, alone: bool) -> tuple[str, ...]:
    fitting = [name for name, generic in free.items() if generic == family.generic]
    if alone and len(free) == 1:
        return tuple(free)
    return tuple(fitting) if len(fitting) == 1 else ()


def _asked(site: SiteUse) -> dict[str, str]:
    """The first family of each list that computers do not have, most used first, with the list's generic family."""
    from aksara.site.findings import is_common

    counts: Counter[str] = Counter()
    generics: dict[str, str] = {}
    for use in site.faces:
        first = use.face.families[0]
        if use.hidden or is_common(first):
            continue
        counts[first] += use.count
        generic = next((name for name in use.face.families if name.casefold() in GENERIC_FAMILIES), "")
        generics.setdefault(first, generic)
    return {name: generics[name] for name, _ in counts.most_common()}
