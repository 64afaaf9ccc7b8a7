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
    #: Whether pages ask for other families here, and not for this one.
    unasked: bool = False


class DraftSite(Struct, frozen=True):
    """What a build will read: `pages`, or `folders` with templates where there are none, and the `templates` there."""

    pages: tuple[Path, ...] = ()
    folders: tuple[Path, ...] = ()
    templates: tuple[Path, ...] = ()


def site_in(folders: Sequence[Path], pages: Sequence[Path]) -> DraftSite:
    """The pages of these folders, and these pages; templates count where there are none, as in themes."""
    from aksara.site.contents import contents_of  # reading pages takes its time to load

    contents = [contents_of(folder) for folder in folders]  # a build will report what cannot be read
    all_pages = (*pages, *(page for of_folder in contents for page in of_folder.pages))
    if all_pages:
        return DraftSite(all_pages)
    of_templates = [of_folder for of_folder in contents if of_folder.templates]
    return DraftSite(
        folders=tuple(of_folder.root for of_folder in of_templates),
        templates=tuple(template for of_folder in of_templates for template in of_folder.templates),
    )


class Pairs(Struct, frozen=True):
    """The families of a draft, and the `others` that pages ask for and that none of them seems to be for."""

    families: tuple[DraftFamily, ...]
    others: tuple[str, ...] = ()


def with_replaced(families: Sequence[DraftFamily], site: DraftSite) -> Pairs:
    """The families with those of the pages that they replace, where that can be seen.

    A name such as "Kapal Variable" is taken to mean the family Kapal. A family that pages name needs no other. Of the
    others, one goes with the only family of the pages that is neither installed nor named like a font here, or with the
    only one of its generic family, unless that goes with several. Those that go with none are `unasked`.
    """
    if not families or not 0 < len(site.pages) + len(site.templates) <= _MOST_PAGES:
        return Pairs(tuple(families))
    from aksara.site import SiteRequest, read_site

    try:
        asked = _asked(read_site(SiteRequest(site.pages or site.folders)))
    except AksaraError:  # a build will report it
        return Pairs(tuple(families))
    own = {name.casefold() for family in families for name in family.names}
    free = {name: generic for name, generic in asked.items() if name.casefold() not in own}
    named = {name.casefold() for name in asked}
    longer = {name: family for name in free for family in families if _is_longer(name, family.names)}
    free = {name: generic for name, generic in free.items() if name not in longer}
    known = {id(family) for family in families if any(name.casefold() in named for name in family.names)}
    known |= {id(family) for family in longer.values()}
    alone = len(known) == len(families) - 1
    guesses = {id(family): _for(family, free, alone=alone) for family in families if id(family) not in known}
    times = Counter(name for guess in guesses.values() for name in guess)
    replaced_drafts = []
    for family in families:
        replaced = tuple(name for name in guesses.get(id(family), ()) if times[name] == 1)
        replaced += tuple(name for name, other in longer.items() if other is family)
        unasked = bool(known) and id(family) not in known and not replaced
        replaced_drafts.append(replace(family, replaces=replaced, unasked=unasked))
    taken = {name for family in replaced_drafts for name in family.replaces}
    return Pairs(tuple(replaced_drafts), tuple(name for name in free if name not in taken))


def _is_longer(name: str, families: Sequence[str]) -> bool:
    return any(name.casefold().startswith(f"{family.casefold()} ") for family in families)


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
