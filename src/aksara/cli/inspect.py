"""`aksara inspect`: what have I been given, and may I use it?"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click
from rich.table import Table
from rich.text import Text

from aksara.cli.screen import Screen
from aksara.errors import InputError
from aksara.inspection import FontReport, inspect_font
from aksara.sizes import format_size
from aksara.sources import find_fonts
from aksara.text.blocks import block_size, by_block
from aksara.web.model import face_identity

_CONTAINERS = {"sfnt": "desktop font", "woff": "WOFF", "woff2": "WOFF2"}


@click.command("inspect")
@click.argument("paths", metavar="PATH...", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(ctx: click.Context, paths: tuple[Path, ...], as_json: bool) -> int:
    """What have I been given, and may I use it?

    PATH is a font or a folder of fonts. A single font is shown in detail.
    """
    screen = Screen.of(ctx)
    reports: list[FontReport] = []
    problems: list[InputError] = []
    for file in find_fonts(paths):
        try:
            reports.append(inspect_font(file))
        except InputError as problem:
            problems.append(problem)
    if not reports and len(problems) == 1:
        raise problems[0]
    reports.sort(key=lambda report: report.face.sort_key)
    if as_json:
        screen.json(_as_json(reports, problems))
    elif len(reports) == 1 and not problems:
        _detail(screen, reports[0])
    else:
        _overview(screen, reports)
    screen.warn(warning for report in reports for warning in report.warnings)
    for refused in problems:
        screen.messages.print(Text.assemble(("Cannot use ", "bold red"), str(refused)), soft_wrap=True)
    return InputError.exit_status if problems else 0


def _overview(screen: Screen, reports: list[FontReport]) -> None:
    """A table of faces for each family."""
    families: dict[str, list[FontReport]] = {}
    for report in reports:
        families.setdefault(report.face.family, []).append(report)
    for name, members in families.items():
        total = format_size(sum(report.size for report in members))
        count = f"{len(members)} face" + "s" * (len(members) != 1)
        screen.print(Text.assemble((name, "bold cyan"), f"  {count}, {total}"))
        table = screen.table("Face", ">Weight", "Style", "Outlines", ">Characters", ">Size", "Embedding", "File")
        for report in members:
            table.add_row(
                report.face.label,
                str(report.face.weight),
                report.face.style + (f" {report.face.width:g}%" if report.face.width != 100 else ""),
                report.outlines,
                f"{len(report.characters):,}",
                format_size(report.size),
                report.embedding.short,
                Path(report.face.path).name,
            )
        screen.print(table, "")


def _detail(screen: Screen, report: FontReport) -> None:
    """All about one font."""
    face = report.face
    screen.print(Text.assemble((f"{face.family} {face.label}", "bold cyan"), f"  {face.path}"))
    facts = {
        "Family": face.family,
        "Face": f"{face.label}: font-weight {face.weight}, font-style {face.style}, font-stretch {face.width:g}%",
        "Generic family": report.generic,
        "Outlines": f"{report.outlines}, {report.glyphs:,} glyphs, {report.units_per_em:,} units per em",
        "Hinting": "hinted" if report.hinted else "not hinted",
        "File": f"{_CONTAINERS[report.container]}, {format_size(report.size)}",
        "Embedding": report.embedding.words,
        **report.names,
    }
    if report.unsupported:
        facts["Building"] = report.unsupported
    grid = Table.grid(padding=(0, 2))
    for label, value in facts.items():
        grid.add_row(Text(label, style="dim"), Text(value))
    screen.print(grid)
    blocks = screen.table(f"{len(report.characters):,} characters by Unicode block", ">Here", ">In all")
    for name, codes in by_block(report.characters).items():
        blocks.add_row(name, f"{len(codes):,}", f"{block_size(name):,}" if block_size(name) else "")
    screen.print("", blocks)
    tables = screen.table("Table", ">Bytes", ">Share")
    total = sum(report.tables.values()) or 1
    for tag, size in sorted(report.tables.items(), key=lambda item: (-item[1], item[0])):
        tables.add_row(tag, f"{size:,}", f"{100 * size / total:.1f}%")
    screen.print("", tables)


def _as_json(reports: list[FontReport], problems: list[InputError]) -> dict[str, Any]:
    families: dict[str, list[dict[str, Any]]] = {}
    for report in reports:
        families.setdefault(report.face.family, []).append({**face_identity(report.face), **report.as_json()})
    warnings = [warning for report in reports for warning in report.warnings]
    return {
        "families": [{"family": name, "faces": faces} for name, faces in families.items()],
        "warnings": warnings,
        "errors": [{"message": str(problem)} for problem in problems],
    }
