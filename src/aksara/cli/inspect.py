"""`aksara inspect`: what have I been given, and may I use it?"""

from __future__ import annotations

import json
import unicodedata
from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click
from msgspec import Struct
from msgspec.structs import replace
from rich.table import Table
from rich.text import Text

from aksara.cli.languages import print_coverage
from aksara.cli.screen import Screen, on_circle
from aksara.errors import InputError
from aksara.faces import FontVariation
from aksara.inspection import FontReport, inspect_all, licence_beginning
from aksara.notices import Notice
from aksara.phrases import listed
from aksara.pipeline.planning.licences import restriction_notices
from aksara.sizes import format_size
from aksara.sources import PROJECT_NAME, Sources, find_sources, is_file
from aksara.text import covered_languages
from aksara.text.blocks import block_size, by_block
from aksara.web.css import range_value, style_value
from aksara.web.manifest import face_identity

if TYPE_CHECKING:
    from aksara.project.ledger import LedgerEntry

_CONTAINERS = {"sfnt": "desktop font", "woff": "WOFF", "woff2": "WOFF2", "eot": "EOT"}
#: The number of files from which on progress is shown at once.
_MANY = 20


class _Details(Struct, frozen=True):
    """What to show in addition to the faces."""

    languages: bool
    characters: bool
    features: bool
    tables: bool
    licence: bool


#: Texts beside the fonts that are named.
_LISTED = 6


@click.command("inspect")
@click.argument("paths", metavar="PATH...", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--languages", is_flag=True, help="Which languages each font covers.")
@click.option("--characters", is_flag=True, help="All characters, block by block.")
@click.option("--features", is_flag=True, help="OpenType features, in words.")
@click.option("--tables", is_flag=True, help="The font's tables and their sizes.")
@click.option("--licence", is_flag=True, help="Permission, licence texts in the fonts and beside them.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(ctx: click.Context, /, paths: tuple[Path, ...], as_json: bool, **shown: bool) -> int:
    """Show what these fonts are and what their licences allow.

    PATH is a font, a folder of fonts or a ZIP. A single font is shown in detail.
    Of a project file (aksara.toml) the fonts that it names are shown; with
    --licence, under which licences they are used, until when, and where.
    """
    screen = Screen.of(ctx)
    projects = [path for path in paths if path.name == PROJECT_NAME and is_file(path)]
    if projects and shown["licence"]:
        _show_ledger(screen, projects, as_json=as_json)
        return 0
    fonts = [pattern for path in projects for pattern in _fonts_of(path)]
    sources = find_sources([*fonts, *(path for path in paths if path not in projects)])
    if len(sources.fonts) >= _MANY and not as_json:
        screen.say(f"Reading {len(sources.fonts)} fonts")
    reports, problems = inspect_all(sources.fonts)
    if not reports and len(problems) == 1 and not as_json:
        raise problems[0]
    if as_json:
        screen.json(_as_json(reports, problems, sources))
    else:
        _show(screen, reports, sources, _Details(**shown), alone=len(sources.fonts) == len(reports) == 1)
    screen.notify(sources.notices)
    screen.notify(notice for report in reports for notice in report.notices)
    said = [(report.face.family, field, words) for report in reports for field, words in report.restrictions]
    restrictions = restriction_notices(said, (*sources.licences, *sources.texts))
    screen.notify(Notice(notice.where, notice.text) for notice in restrictions)
    for problem in problems:
        screen.tell(Text.assemble(("Cannot use ", "bold red"), str(problem)))
    return InputError.exit_status if problems else 0


def _show(screen: Screen, reports: list[FontReport], sources: Sources, details: _Details, *, alone: bool) -> None:
    if alone:
        _detail(screen, reports[0])
        # The detail has what the font says of its licence already.
        _sections(screen, reports[0], replace(details, licence=False))
    else:
        _overview(screen, reports)
        others = replace(details, licence=False)
        for report in reports:
            if others.languages or others.characters or others.features or others.tables:
                screen.print(_title(report))
                _sections(screen, report, others)
        if details.licence:
            _licences(screen, reports)
    for title, files in (("Licence texts", sources.licences), ("Other texts", sources.texts)):
        if files:
            names = listed([file.name for file in files], _LISTED)
            screen.print(Text.assemble((f"{title} beside the fonts: ", "bold"), names))
    if details.licence:
        for file in (*sources.licences, *sources.texts):
            screen.print("", Text(file.name, style="bold"), licence_beginning(file))


def _title(report: FontReport) -> Text:
    face = report.face
    return Text.assemble((f"{face.family} {face.label}", "bold cyan"), f"  {face.path}")


def _overview(screen: Screen, reports: list[FontReport]) -> None:
    """A table of faces for each family."""
    families: dict[str, list[FontReport]] = {}
    for report in reports:
        families.setdefault(report.face.family, []).append(report)
    for name, members in families.items():
        total = format_size(sum(report.size for report in members))
        count = f"{len(members)} face" + "s" * (len(members) != 1)
        screen.print(Text.assemble((name, "bold cyan"), f"  {count}, {total}"))
        table = screen.table("Face", ">Weight", "Style", ">?Characters", ">Size", "Embedding", "?Outlines", "?File")
        for report in members:
            face = report.face
            cells = [
                face.label,
                _range_of(face.weight_range),
                face.style + (f" {face.width:g}%" if face.width != 100 else ""),
                f"{len(report.characters):,}",
                format_size(report.size),
                report.embedding.short,
                report.outlines,
                Path(face.path).name,
            ]
            table.add_row(*map(Text, cells))
        screen.print(table)
        _say_what_is_covered(screen, members)
        screen.print("")


def _say_what_is_covered(screen: Screen, members: list[FontReport]) -> None:
    """Which static faces of a family its variable fonts have, too: whoever takes these does not need those."""
    labels = {report.face.path: report.face.label for report in members}
    for report in members:
        if report.covers:
            covered = ", ".join(dict.fromkeys(labels[path] for path in report.covers))
            screen.print(Text(f"{Path(report.face.path).name} is variable and covers {covered}"))


def _range_of(limits: tuple[float, float]) -> str:
    """`400`, or `100–900` for what varies."""
    low, high = limits
    return f"{low:g}" if low == high else f"{low:g}–{high:g}"


def _detail(screen: Screen, report: FontReport) -> None:
    """All about one font."""
    face = report.face
    screen.print(_title(report))
    covered = covered_languages(report.characters)
    special = [f"{feature.tag} {feature.name}".strip() for feature in report.features]
    descriptors = (
        f"font-weight {range_value(face.weight_range)}, font-style {style_value(face)}, "
        f"font-stretch {range_value(face.width_range, '%')}"
    )
    facts = {
        "Face": f"{face.label}: {descriptors}",
        **(_variation(report.variation) if report.variation is not None else {}),
        "Generic family": report.generic,
        "Outlines": f"{report.outlines}, {report.glyphs:,} glyphs, {report.units_per_em:,} units per em",
        **({"Colour": report.colour} if report.colour else {}),
        "Hints": _hints(report),
        "File": f"{_CONTAINERS[report.container]}, {format_size(report.size)}",
        "Languages": f"{len(covered)} in full" + (" (--languages lists them)" if covered else ""),
        "Features": ", ".join(special) or "none",
        "Embedding": report.embedding.words,
        **report.names,
        **{f"{label} (WOFF)": text for label, text in report.metadata.items()},
        **({"Building": report.unsupported} if report.unsupported else {}),
    }
    _print_facts(screen, facts)
    if screen.verbose:
        table = screen.table("Evidence for", "Source", "Value")
        for piece in face.evidence:
            table.add_row(piece.aspect, Text(piece.source), Text(piece.says))
        screen.print("", table)
    blocks = screen.table(f"{len(report.characters):,} characters by Unicode block", ">Here", ">In all")
    for name, codes in by_block(report.characters).items():
        blocks.add_row(name, f"{len(codes):,}", f"{block_size(name):,}" if block_size(name) else "")
    screen.print("", blocks, "")


def _variation(variation: FontVariation) -> dict[str, str]:
    """Axes, named instances (by where they are off the default), and what varies."""
    defaults = {axis.tag: axis.default for axis in variation.axes}
    instances = []
    for instance in variation.instances:
        away = [f"{tag} {value:g}" for tag, value in instance.location.items() if value != defaults[tag]]
        instances.append(f"{instance.name} ({', '.join(away) or 'default'})")
    return {
        "Axes": "\n".join(
            f"{axis.tag}{f' {axis.name}' if axis.name else ''}: {axis.minimum:g} to {axis.maximum:g}, "
            f"default {axis.default:g}{', hidden' if axis.hidden else ''}"
            for axis in variation.axes
        ),
        "Instances": ", ".join(instances) or "none with a name",
        "Varies": ", ".join(variation.varies) or "nothing",
    }


def _hints(report: FontReport) -> str:
    """The size of the font's hints: bytes before compression, and their share of all tables."""
    if not report.hint_size:
        return "none"
    share = 100 * report.hint_size / (sum(report.tables.values()) or 1)
    return f"about {format_size(report.hint_size)} of its tables ({share:.0f}%), for small sizes on Windows"


def _print_facts(screen: Screen, facts: dict[str, str]) -> None:
    grid = Table.grid(padding=(0, 2))
    for label, value in facts.items():
        grid.add_row(Text(label, style="dim"), Text(value))
    screen.print(grid)


def _sections(screen: Screen, report: FontReport, details: _Details) -> None:
    """The parts of the report asked for with options."""
    if details.languages:
        print_coverage(screen, [item for item in report.languages() if item.verdict != "no"])
    if details.characters:
        for name, codes in by_block(report.characters).items():
            shown = (chr(code) for code in codes if unicodedata.category(chr(code))[0] not in "CZ")
            screen.print(Text(f"{name}, {len(codes):,}", style="bold"), Text(" ".join(map(on_circle, shown))), "")
    if details.features:
        table = screen.table("Feature", "Name", "What it does")
        for feature in report.features:
            does = ["substitutes"] * feature.substitutes + ["positions"] * feature.positions
            table.add_row(Text(feature.tag), feature.name, ", ".join(does))
        screen.print(table if report.features else "No features", "")
    if details.tables:
        table = screen.table("Table", ">Bytes", ">Share")
        total = sum(report.tables.values()) or 1
        for tag, size in sorted(report.tables.items(), key=lambda item: (-item[1], item[0])):
            table.add_row(Text(tag), f"{size:,}", f"{100 * size / total:.1f}%")
        screen.print(table, "")


def _licence_facts(report: FontReport) -> dict[str, str]:
    """The font's own licence information."""
    said = {label: text for label, text in report.names.items() if label in _OF_THE_LAW}
    said |= {f"{label} (WOFF)": text for label, text in report.metadata.items()}
    return {"Embedding": report.embedding.words, **said}


def _licences(screen: Screen, reports: Sequence[FontReport]) -> None:
    """The fonts' licence information; what several share is printed once."""
    groups: dict[tuple[tuple[str, str], ...], list[FontReport]] = {}
    for report in reports:
        groups.setdefault(tuple(_licence_facts(report).items()), []).append(report)
    for facts, group in groups.items():
        screen.print(_faces_text(group, alone=len(groups) == 1))
        _print_facts(screen, dict(facts))
        screen.print("")


def _faces_text(group: Sequence[FontReport], *, alone: bool) -> Text:
    """Which faces it is about: "All 10 faces", or families with their faces."""
    if alone and len(group) > 1:
        return Text(f"All {len(group)} faces", style="bold cyan")
    families: dict[str, list[str]] = {}
    for report in group:
        families.setdefault(report.face.family, []).append(report.face.label)
    return Text("; ".join(f"{name} {', '.join(labels)}" for name, labels in families.items()), style="bold cyan")


def _fonts_of(project: Path) -> list[Path]:
    """The fonts that a project names."""
    from aksara.pipeline.planning.reading import font_paths  # most look at fonts themselves
    from aksara.project import read_project

    families = [family for request in read_project(project)[:1] for family in request.families]
    return [path for family in families for path in font_paths(family)]


def _show_ledger(screen: Screen, projects: Sequence[Path], *, as_json: bool) -> None:
    """Which fonts are used under which licence."""
    from aksara.project import read_project
    from aksara.project.ledger import licence_ledger  # most look at fonts themselves

    entries = licence_ledger([request for path in projects for request in read_project(path)])
    if as_json:
        screen.json({"licences": [entry.as_json() for entry in entries]})
        return
    groups: dict[str, list[LedgerEntry]] = {}
    for entry in entries:
        key = json.dumps({**entry.as_json(), "label": "", "path": "", "family": ""}, sort_keys=True)
        groups.setdefault(key, []).append(entry)
    for group in groups.values():
        first = group[0]
        families: dict[str, list[str]] = {}
        for entry in group:
            families.setdefault(entry.face.family, []).append(entry.face.label)
        title = "; ".join(f"{name} {', '.join(labels)}" for name, labels in families.items())
        stated = first.stated
        facts = {
            "From": " ".join(filter(None, (first.maker, first.maker_address))) or "not said",
            "Licence": " ".join(filter(None, (first.licence, first.licence_address))) or "not stated in the fonts",
            "Texts": ", ".join(first.texts) or "none beside the fonts",
            "Embedding": first.embedding,
            "Held by": (stated.holder or "not said") + (", for the web" if stated.stated else ""),
            "Domains": ", ".join(stated.domains) or "not said",
            "Until": first.ends(date.today()).removeprefix("until ") or "no end date is given",
            "Used in": ", ".join(first.used_in),
        }
        screen.print(Text(title, style="bold cyan"))
        _print_facts(screen, facts)
        screen.print("")


_OF_THE_LAW = ("Copyright", "Trademark", "Licence", "Licence address", "Vendor mark")


def _as_json(reports: list[FontReport], problems: list[InputError], sources: Sources) -> dict[str, Any]:
    families: dict[str, list[dict[str, Any]]] = {}
    for report in reports:
        families.setdefault(report.face.family, []).append({**face_identity(report.face), **report.as_json()})
    warnings = [notice.as_json() for report in reports for notice in report.notices]
    return {
        "families": [{"family": name, "faces": faces} for name, faces in families.items()],
        "licences": [file.name for file in sources.licences],
        "texts": [file.name for file in sources.texts],
        "warnings": warnings,
        "errors": [{"message": str(problem)} for problem in problems],
    }
