"""What shells offer when somebody presses Tab: languages, scripts, features, families, by what has been typed.

Each is imported when it is asked for; pressing Tab must not take long.
"""

from __future__ import annotations

from collections.abc import Iterable

import click
from click.shell_completion import CompletionItem


def languages(_ctx: click.Context, _param: click.Parameter, typed: str) -> list[CompletionItem]:
    """Tags of languages, with their names; behind the last comma of a list."""
    from aksara.text import all_languages

    return _listed(typed, ((language.tag, language.name) for language in all_languages()))


def scripts(_ctx: click.Context, _param: click.Parameter, typed: str) -> list[CompletionItem]:
    """Codes of scripts, with their names."""
    from aksara.data.scripts import SCRIPTS
    from aksara.text import script_name

    return _listed(typed, ((code, script_name(code)) for code in SCRIPTS))


def formats(_ctx: click.Context, _param: click.Parameter, typed: str) -> list[CompletionItem]:
    """Font formats; behind the last comma of a list."""
    from aksara.web.formats import WEB_FORMATS

    return _listed(typed, ((name, "") for name in WEB_FORMATS))


def features(_ctx: click.Context, _param: click.Parameter, typed: str) -> list[CompletionItem]:
    """Tags of OpenType features, with their names."""
    from aksara.faces.opentype_features import feature_names

    return _listed(typed, feature_names().items())


def system_families(_ctx: click.Context, _param: click.Parameter, typed: str) -> list[CompletionItem]:
    """Families that computers come with, and generic ones; behind the last comma of a list."""
    from aksara.web.syntax import GENERIC_FAMILIES
    from aksara.web.system_families import all_system_families

    named = [(family.name, family.generic) for family in all_system_families()]
    return _listed(typed, [*named, *((name, "generic") for name in sorted(GENERIC_FAMILIES))])


def site_families(ctx: click.Context, _param: click.Parameter, typed: str) -> list[CompletionItem]:
    """The families that pages use: those of --for-site or of the project."""
    from pathlib import Path

    from aksara.cli.sites import site_request
    from aksara.errors import AksaraError
    from aksara.site import is_address, read_site

    try:
        sites = [site for site in ctx.params.get("for_site", ()) or () if not is_address(site)]
        request, _ = site_request(sites, "build", jobs=1)
        site = read_site(request)
    except (AksaraError, OSError):
        return []
    families = dict.fromkeys(family for use in site.faces for family in use.face.families)
    own = [str(path) for path in map(Path, sites)]
    return _listed(typed, ((family, ", ".join(own)) for family in families))


def _listed(typed: str, known: Iterable[tuple[str, str]]) -> list[CompletionItem]:
    before, comma, last = typed.rpartition(",")
    start = f"{before}{comma}{' ' * (len(last) - len(last.lstrip()))}"
    wanted = last.strip().casefold()
    return [
        CompletionItem(f"{start}{value}", help=words)
        for value, words in sorted(known)
        if value.casefold().startswith(wanted)
    ]
