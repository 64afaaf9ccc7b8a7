"""`aksara measure`: keep the widths of system families, so that builds make fallback faces for them."""

from __future__ import annotations

from pathlib import Path

import click
from rich.text import Text

from aksara.cli import completing
from aksara.cli.screen import Screen
from aksara.errors import RequestError
from aksara.measuring import measure_family
from aksara.project import keep_measured, measured_beside
from aksara.sources import is_folder, printable
from aksara.web.measured_families import MEASURED_NAME, style_of, write_measured
from aksara.web.system_families import PLATFORMS, Platform, SystemFamily


@click.command("measure")
@click.argument("families", metavar="FAMILY...", nargs=-1, required=True, shell_complete=completing.system_families)
@click.option(
    "--from", "folders", type=click.Path(path_type=Path), multiple=True,
    help="Look in this folder.  [default: where the system keeps its fonts]",
)  # fmt: skip
@click.option(
    "--platform",
    type=click.Choice(PLATFORMS),
    multiple=True,
    help="Systems that come with the family.  [default: this one]",
)
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context,
    families: tuple[str, ...],
    folders: tuple[Path, ...],
    platform: tuple[Platform, ...],
    as_json: bool,
) -> None:
    """Measure a system family for fallback fonts.

    FAMILY is one that this computer has, such as "Georgia". Its letter
    widths, and no outlines, go into measured-families.json beside
    aksara.toml: from then on all builds of this project can match it.
    """
    screen = Screen.of(ctx)
    for folder in folders:
        if not is_folder(folder):
            raise RequestError(f"{printable(str(folder))}: no such folder; check the path")
    before = {family.name.casefold(): family for family in measured_beside(Path())}
    measured = {
        family.name.casefold(): family for family in (measure_family(name, folders, platform) for name in families)
    }
    keep_measured(Path(), list((before | measured).values()))
    told = list(measured.values())
    if as_json:
        screen.json({"file": MEASURED_NAME, "families": [_as_json(family) for family in told]})
        return
    for measured_family in told:
        styles = ", ".join(style_of(face) for face in measured_family.faces)
        last = before.get(measured_family.name.casefold())
        same = last is not None and write_measured([last]) == write_measured([measured_family])
        again = "" if last is None else ", as before" if same else ", again"
        screen.print(
            Text.assemble(
                (measured_family.name, "bold cyan"),
                f"  {styles}; {len(measured_family.faces[0].codes):,} characters measured{again}",
            )
        )
    screen.print(Text.assemble("Kept in ", (MEASURED_NAME, "bold"), "; put it under version control with aksara.toml"))
    screen.print(f'Builds match it where it is in a stack: stack = ["{told[0].name}", "{told[0].generic}"]')


def _as_json(family: SystemFamily) -> dict[str, object]:
    return {
        "family": family.name,
        "generic": family.generic,
        "faces": [style_of(face) for face in family.faces],
        "characters": len(family.faces[0].codes),
    }
