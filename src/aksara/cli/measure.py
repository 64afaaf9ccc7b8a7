"""`aksara measure`: keep the widths of system families, so that builds make fallback faces for them."""

from __future__ import annotations

from contextlib import suppress
from difflib import get_close_matches
from pathlib import Path

import click
from rich.text import Text

from aksara.atomic import written_whole
from aksara.cli import completing
from aksara.cli.screen import Screen
from aksara.errors import InputError, OutputError, RequestError
from aksara.faces import Face, FaceMetrics, face_metrics, generic_family, identify
from aksara.font import Font
from aksara.installed_fonts import font_folders, fonts_of_family, installed_families, this_platform
from aksara.project import measured_beside
from aksara.sources import is_file, is_folder, printable
from aksara.tables import Name
from aksara.tables.name import FULL_NAME, POSTSCRIPT_NAME
from aksara.web.measured_families import MEASURED_NAME, measured_family, write_measured
from aksara.web.system_families import SystemFamily

_STYLES = {(False, False): "Regular", (False, True): "Italic", (True, False): "Bold", (True, True): "Bold Italic"}
#: Weights from which on browsers take a family's bold, and that regular and bold are nearest to.
_BOLD, _NEAREST = 600, {False: 400, True: 700}


@click.command("measure")
@click.argument("families", metavar="FAMILY...", nargs=-1, required=True, shell_complete=completing.system_families)
@click.option(
    "--from", "folders", type=click.Path(path_type=Path), multiple=True,
    help="Look in this folder.  [default: where the system keeps its fonts]",
)  # fmt: skip
@click.option(
    "--platform",
    type=click.Choice(["windows", "macos", "ios", "android", "linux"]),
    multiple=True,
    help="Systems that come with the family.  [default: this one]",
)
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(
    ctx: click.Context, families: tuple[str, ...], folders: tuple[Path, ...], platform: tuple[str, ...], as_json: bool
) -> None:
    """Keep the letter widths of a system family for fallback faces.

    FAMILY is one that this computer has, as "Georgia". Its widths, and no
    outlines, go into measured-families.json in this folder, beside the
    aksara.toml: from then on everybody's builds here can match it.
    """
    screen = Screen.of(ctx)
    for folder in folders:
        if not is_folder(folder):
            raise RequestError(f"{printable(str(folder))}: there is no such folder; check the path")
    places = list(folders) or font_folders()
    measured = {family.name.casefold(): family for family in measured_beside(Path())}
    before = dict(measured)
    for name in families:
        family = _measured(" ".join(name.split()), places, platform or (this_platform(),))
        measured[family.name.casefold()] = family
    text = write_measured(list(measured.values()))
    changed = not is_file(Path(MEASURED_NAME)) or Path(MEASURED_NAME).read_bytes() != text.encode()
    if changed:
        _write(Path(MEASURED_NAME), text.encode())
    told = [measured[" ".join(name.split()).casefold()] for name in families]
    if as_json:
        screen.json({"file": MEASURED_NAME, "families": [_as_json(each) for each in told]})
        return
    for each in told:
        styles = ", ".join(_style(face.bold, face.italic) for face in each.faces)
        last = before.get(each.name.casefold())
        same = last is not None and write_measured([last]) == write_measured([each])
        again = "" if last is None else ", as before" if same else ", again"
        screen.print(
            Text.assemble(
                (each.name, "bold cyan"), f"  {styles}; {len(each.faces[0].codes):,} characters measured{again}"
            )
        )
    screen.print(Text.assemble("Kept in ", (MEASURED_NAME, "bold"), "; put it under version control with aksara.toml"))
    screen.print(f'Builds match it where it is in a stack: stack = ["{told[0].name}", "{told[0].generic}"]')


def _style(bold: bool, italic: bool) -> str:
    return _STYLES[bold, italic]


def _as_json(family: SystemFamily) -> dict[str, object]:
    return {
        "family": family.name,
        "generic": family.generic,
        "faces": [_style(face.bold, face.italic) for face in family.faces],
        "characters": len(family.faces[0].codes),
    }


def _measured(name: str, places: list[Path], platforms: tuple[str, ...]) -> SystemFamily:
    fonts = fonts_of_family(name, places)
    faces: dict[tuple[bool, bool], tuple[float, Face, Font]] = {}
    for font in fonts:
        with suppress(InputError):
            face = identify(font)
            bold, italic = face.weight >= _BOLD, face.style != "normal"
            off = abs(face.weight - _NEAREST[bold]) + abs(face.width - 100)
            if (bold, italic) not in faces or off < faces[bold, italic][0]:
                faces[bold, italic] = off, face, font
    if not faces:
        raise _not_there(name, places)
    upright = min(faces.items(), key=lambda each: (each[0], each[1][0]))[1]
    # As the fonts write it, whatever was typed.
    name = upright[1].family if upright[1].family.casefold() == name.casefold() else name
    metrics = {_STYLES[key]: _metrics(font) for key, (_, _, font) in faces.items()}
    measured = measured_family(name, generic_family(upright[2]), platforms[0], metrics)
    return SystemFamily(measured.name, measured.generic, frozenset(platforms), measured.x_height, measured.faces)


def _metrics(font: Font) -> tuple[FaceMetrics, list[str]]:
    """The metrics, and the names by which a style sheet finds the font."""
    names = font.find(Name)
    said = [names.get(number) for number in (FULL_NAME, POSTSCRIPT_NAME)] if names is not None else []
    return face_metrics(font), list(dict.fromkeys(filter(None, said)))


def _not_there(name: str, places: list[Path]) -> RequestError:
    near = get_close_matches(name.casefold(), sorted(installed_families(places)), 1, 0.6)
    hint = f"; did you mean {near[0]}?" if near else "; run it on a computer that has the family"
    return RequestError(f"this computer has no family called {printable(name)}{hint}")


def _write(path: Path, data: bytes) -> None:
    """Write the file whole or not at all."""
    try:
        with written_whole(path) as file:
            file.write(data)
    except OSError as error:
        raise OutputError(f"{path}: cannot be written ({error.strerror}); check the folder's permissions") from error
