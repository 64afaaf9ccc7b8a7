"""Which family of the build replaces which family in the site's present style sheets."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from aksara.errors import RequestError
from aksara.phrases import nearest_name
from aksara.site import SiteUse

_PARAMETER = "FamilyRequest.replaces"
#: Families that a message lists.
_LISTED = 6


def replaced_families(
    plain: Iterable[tuple[Sequence[str], Sequence[str]]], pairs: Mapping[str, str], site: SiteUse
) -> dict[str, str]:
    """The family of the build that replaces each family of the site.

    `plain` are families of the site with those of the build that one of its requests makes: one, if anything is
    replaced. `pairs` say it family by family. Raises `RequestError` for a name that neither side has.
    """
    requests = list(plain)
    own = [name for _, names in requests for name in names]
    replaced: dict[str, str] = {}
    for olds, names in requests:
        if olds and len(names) > 1:
            raise RequestError(
                f"{olds[0]} is to be replaced, but these fonts are {len(names)} families; say by which: "
                f"'{olds[0]}={names[0]}'",
                parameter=_PARAMETER,
            )
        replaced |= dict.fromkeys(olds, names[0])
    for old, new in pairs.items():
        name = next((family for family in own if family.casefold() == new.casefold()), None)
        if name is None:
            raise RequestError(f"none of these fonts is of the family {new}{_hint(new, own)}", parameter=_PARAMETER)
        replaced[old] = name
    asked = {family for use in site.faces for family in use.face.families}
    known = {family.casefold() for family in asked}
    for old in replaced if site.pages else ():
        if old.casefold() not in known:
            raise RequestError(f"no page asks for the family {old}{_hint(old, sorted(asked))}", parameter=_PARAMETER)
    return replaced


def _hint(name: str, known: Sequence[str]) -> str:
    near = nearest_name(name, known)
    if near:
        return f"; did you mean {near}?"
    return f"; there are {', '.join(known[:_LISTED])}" if known else ""
