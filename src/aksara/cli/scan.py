"""`aksara scan`: which characters, languages, weights and styles does the site use?"""

from __future__ import annotations

import os
from collections.abc import Collection, Iterator, Sequence
from itertools import groupby
from pathlib import Path
from typing import Any

import click
from msgspec.structs import asdict, replace
from rich.text import Text

from aksara.cli.screen import Screen, on_circle
from aksara.cli.shells import typed
from aksara.cli.sites import read_with_progress, site_request
from aksara.phrases import count_of
from aksara.site import SiteUse
from aksara.site.findings import (
    desired_face,
    nearly_empty,
    replaced_faces,
    undefined_families,
    unread_sheets,
    unused_faces,
)
from aksara.site.usage import BROWSER_DEFAULT, FaceUse, Origin, PageUse
from aksara.site.web_addresses import web_address
from aksara.text import format_ranges
from aksara.text.emoji import is_of_emoji, without_selectors
from aksara.web.font_matching import describe_missing_face, nearest_of, synthesis

_SHOWN_CHARACTERS = 60
#: Paths that a command to copy repeats; of more it names their folder.
_FEW_PATHS = 3
_SHOWN_SEQUENCES = 12
_SHOWN_FINDINGS = 12


@click.command("scan")
@click.argument("paths", metavar="[PATH|URL]...", nargs=-1)
@click.option("--exclude", multiple=True, metavar="PATTERN", help="Do not read these files and folders; repeatable.")
@click.option("--print", "printed", is_flag=True, help="Count what shows only in print, too.")
@click.option(
    "--jobs", type=click.IntRange(1, 64), metavar="N", help="Pages to read at a time.  [default: one per processor]"
)
@click.option("--browser", is_flag=True, help="Read what scripts make of the pages, in an installed browser.")
@click.option("--no-cache", is_flag=True, help="Read every page again.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context,
    paths: tuple[str, ...],
    exclude: tuple[str, ...],
    printed: bool,
    jobs: int | None,
    browser: bool,
    no_cache: bool,
    as_json: bool,
) -> None:
    """Show which characters, languages, weights and styles a site uses.

    PATH is a page, a folder of pages, or a template or data file; URL is a running site, whose
    links are followed. Pages are read as a browser reads them, without running scripts.
    Without PATH, the pages that aksara.toml names are read.
    """
    screen = Screen.of(ctx)
    request, _ = site_request(paths, "scan", jobs=jobs or os.cpu_count() or 1, exclude=exclude)
    request = replace(request, browser=browser or request.browser, printed=printed)
    site = read_with_progress(request, screen, cached=not no_cache)
    if as_json:
        screen.json(site_json(site))
        return
    given = [*map(web_address, request.addresses)] or [*paths]
    _report(screen, site, given if 0 < len(given) <= _FEW_PATHS else [_folder(site)])


def site_json(site: SiteUse) -> dict[str, Any]:
    """The document of --json (docs/formats.md)."""
    unused = set(unused_faces(site))
    return {
        "faces": [use.as_json() for use in site.faces],
        "pages": [_page_json(page) for page in site.pages],
        "texts": [
            {
                "path": text.path,
                "characters": format_ranges(map(ord, text.characters)),
                "count": sum(text.characters.values()),
                "problem": text.problem,
            }
            for text in site.texts
        ],
        "defined": [
            {
                "family": face.family, "weight": list(face.weight), "style": face.style, "width": list(face.width),
                "sheet": face.sheet, "line": face.line, "used": face not in unused,
            }
            for face in site.defined
        ],
        "replaced": [
            {
                "family": replaced.family,
                "asked_for": asdict(replaced.desired),
                "nearest": asdict(nearest_of(replaced.nearest, replaced.desired)),
                "browser": synthesis(replaced.desired, replaced.nearest),
                "count": replaced.use.count,
                "first": asdict(replaced.use.origin),
            }
            for replaced in replaced_faces(site)
        ],
        "script_fonts": [asdict(font) for font in site.script_fonts],
        "contents": list(site.contents),
        "undefined_families": [
            {
                "family": undefined.family, "nearest": undefined.nearest or None, "count": undefined.use.count,
                "first": asdict(undefined.use.origin),
            }
            for undefined in undefined_families(site)
        ],
    }  # fmt: skip


def _page_json(page: PageUse) -> dict[str, Any]:
    return {
        "page": page.page,
        "template": page.template,
        "faces": [use.as_json() for use in page.faces],
        "characters_shown": page.size,
        "scripts": page.scripts,
        "unread_style_sheets": [{"address": address, "reason": reason} for address, reason in page.missing],
        "problems": list(page.problems),
    }


def _report(screen: Screen, site: SiteUse, where: Sequence[str]) -> None:
    _report_pages(screen, site)
    local = {face.family.casefold() for face in site.defined if face.local}
    _report_faces(screen, [use for use in site.faces if not use.hidden], local)
    _report_sequences(screen, site)
    hidden = [use for use in site.faces if use.hidden]
    if hidden:
        _report_hidden(screen, hidden)
    _report_texts(screen, site)
    for title, lines in (
        ("Missing: browsers fake or replace these", list(_replaced(site))),
        ("Families that no style sheet defines" + _unread(site), list(_undefined(site))),
        ("Defined, but nothing uses them", list(_unused(site))),
        ("Set by scripts, so what text they show is not known", list(_by_scripts(site))),
    ):
        if lines:
            screen.print(Text(title, style="bold"))
            shown = lines if screen.verbose else lines[:_SHOWN_FINDINGS]
            screen.print(*(f"  {line}" for line in shown))
            if len(shown) < len(lines):
                screen.print(f"  … and {len(lines) - len(shown)} more (-v lists them)")
            screen.print("")
    if not screen.quiet:
        if not screen.verbose and any(not use.hidden for use in site.faces):
            screen.print("The characters themselves: aksara -v scan, or --json")
        sites = " ".join(f"--for-site {typed([place])}" for place in where)
        screen.print(f"Fonts for just these: aksara build FONTS {sites}")


def _unread(site: SiteUse) -> str:
    """Some may be defined in style sheets that were not read."""
    return ", of those that were read" if unread_sheets(site.pages) else ""


def _folder(site: SiteUse) -> str:
    parents = {str(Path(page.page).parent) for page in site.pages}
    return os.path.commonpath(parents) or "." if parents else "FOLDER"


def _report_pages(screen: Screen, site: SiteUse) -> None:
    """What was read, and what was not."""
    count = sum(page.size for page in site.pages)
    templates = sum(page.template for page in site.pages)
    kinds = ((len(site.pages) - templates, "page"), (templates, "template"))
    pages = " and ".join(count_of(number, noun) for number, noun in kinds if number) or "0 pages"
    screen.print(Text.assemble((pages, "bold"), f", {count:,} characters"), "")
    if screen.verbose:
        screen.print(*site.contents, "")
    for (address, reason), number in sorted(unread_sheets(site.pages).items()):
        where = "" if len(site.pages) == 1 else f" (on {number:,} page{'s' * (number != 1)})"
        screen.say(_note(f"style sheet {address} {reason}{where}"))
    for page in site.pages:
        for problem in page.problems:
            screen.say(_note(f"{page.page}: {problem}"))
    for text in site.texts:
        if text.problem:
            screen.say(_note(f"{text.path}: {text.problem}"))
    empty = nearly_empty(site.pages)
    if empty:
        names = ", ".join(page.page for page in empty[:4]) + (" …" if len(empty) > 4 else "")
        screen.say(_note(f"next to no text without scripts: {names}; what scripts add there is not counted"))


def _report_sequences(screen: Screen, site: SiteUse) -> None:
    """Emoji of several characters, which take a font that has them whole."""
    shown = {
        sequence
        for use in site.faces
        if not use.hidden
        for sequence in use.sequences
        if is_of_emoji(without_selectors(sequence))
    }
    if shown:
        listed = sorted(shown)
        more = f" and {len(listed) - _SHOWN_SEQUENCES:,} more" if len(listed) > _SHOWN_SEQUENCES else ""
        count = "An emoji" if len(listed) == 1 else f"{len(listed):,} emoji"
        screen.print(f"{count} of several characters: {' '.join(listed[:_SHOWN_SEQUENCES])}{more}", "")


def _note(text: str) -> Text:
    return Text.assemble(("Note ", "bold yellow"), text)


def _report_faces(screen: Screen, uses: Sequence[FaceUse], local: Collection[str]) -> None:
    """A row per face, below its list of families; fallback faces on `local()` fonts are left out."""
    if not uses:
        screen.print("No text is shown.", "")
        return
    asks = any(use.features for use in uses)
    columns = ["Face", ">Weight", ">Characters", ">?Written", ">?Pages", "?Languages", *(["?Features"] if asks else [])]
    table = screen.table(*columns)
    # Families may be broken on a narrow terminal, names of faces not.
    table.columns[0].min_width = 2 + max(len(desired_face(use.face).label) for use in uses)
    totals: dict[tuple[str, ...], int] = {}
    for use in uses:
        totals[use.face.families] = totals.get(use.face.families, 0) + use.count
    order = {families: index for index, families in enumerate(sorted(totals, key=lambda families: -totals[families]))}
    ordered = sorted(uses, key=lambda use: order[use.face.families])
    for families, group in groupby(ordered, key=lambda use: use.face.families):
        table.add_row(Text(_stack(families, local, 1 if screen.is_narrow else 3), style="bold cyan"))
        for use in group:
            languages = [tag for tag, _ in sorted(use.languages.items(), key=lambda item: -item[1]) if tag]
            numbers = (f"{use.face.weight:g}", f"{len(use.characters):,}", f"{use.count:,}", f"{use.pages:,}")
            words = [_listed(languages, 4) or "not said", *([_listed(use.features, 6)] if asks else [])]
            table.add_row(f"  {desired_face(use.face).label}", *numbers, *words)
    screen.print(table, "")
    if screen.verbose:
        for use in ordered:
            name = f"{use.face.families[0]} {desired_face(use.face).label}"
            screen.print(Text.assemble((f"{name}: ", "bold"), _characters(use)), "")


def _stack(families: tuple[str, ...], local: Collection[str], most: int) -> str:
    if families == BROWSER_DEFAULT:
        return f"{families[0]} (the browser's own: no family is set)"
    named = [name for name in families if name.casefold() not in local]
    return ", ".join(named[:most]) + (", …" if len(named) > most else "")


def _listed(words: Sequence[str], most: int) -> str:
    return ", ".join(words[:most]) + (" …" if len(words) > most else "")


def _characters(use: FaceUse) -> str:
    return " ".join(
        on_circle(character) for character in sorted(use.characters) if character.isprintable() and character != " "
    )


def _report_hidden(screen: Screen, uses: Sequence[FaceUse]) -> None:
    """Characters in parts of pages that are hidden."""
    shown = sorted({character for use in uses for character in use.characters if character.isprintable()} - {" "})
    text = " ".join(map(on_circle, shown[:_SHOWN_CHARACTERS])) + (" …" if len(shown) > _SHOWN_CHARACTERS else "")
    screen.print(
        Text.assemble(
            ("Hidden parts ", "bold"), f"(display: none, templates) also have these, in {len(uses)} faces: {text}"
        ),
        "",
    )


def _report_texts(screen: Screen, site: SiteUse) -> None:
    if site.texts:
        count = len({character for text in site.texts for character in text.characters})
        screen.print(
            f"{len(site.texts):,} other files have {count:,} different characters; they count for running text", ""
        )


def _by_scripts(site: SiteUse) -> Iterator[str]:
    for font in site.script_fonts:
        yield f"{font.family} ({font.path}:{font.line})"


def _where(origin: Origin) -> str:
    line = f":{origin.line}" if origin.line else ""
    rule = f", {origin.selector}" if origin.selector else ""
    sheet = f" ({origin.sheet}:{origin.sheet_line})" if origin.sheet and origin.sheet != origin.page else ""
    return f"{origin.page}{line}{rule}{sheet}"


def _replaced(site: SiteUse) -> Iterator[str]:
    for replaced in replaced_faces(site):
        described = describe_missing_face(replaced.desired, replaced.nearest)
        yield f"{replaced.family}: {described}: {_where(replaced.use.origin)}"


def _undefined(site: SiteUse) -> Iterator[str]:
    for undefined in undefined_families(site):
        hint = f"; did you mean {undefined.nearest}?" if undefined.nearest else ""
        yield f"{undefined.family}{hint} first at {_where(undefined.use.origin)}"


def _unused(site: SiteUse) -> Iterator[str]:
    for family, faces in groupby(unused_faces(site), key=lambda face: face.family):
        yield f"{family}: {', '.join(dict.fromkeys(face.label for face in faces))}"
