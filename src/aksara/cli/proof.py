"""`aksara proof`: make the proof again, and show it over a small server on this computer."""

from __future__ import annotations

import errno
from pathlib import Path, PurePath

import click
from msgspec import Struct
from rich.text import Text

from aksara.cli.screen import Screen
from aksara.cli.stopping import Stopped, answered
from aksara.cli.work import build_and_write
from aksara.errors import RequestError
from aksara.pipeline.request import PROOF_NAME
from aksara.pipeline.writing.targets import built_in
from aksara.project import PROJECT_NAME, read_project
from aksara.proof.serving import ProofServer
from aksara.sources import MANIFEST_NAME, is_file, is_folder, is_own_output, printable

_DEFAULT_FOLDER = Path("web-fonts")


@click.command("proof")
@click.argument("folder", default=Path(), type=click.Path(path_type=Path))
@click.option("--port", type=click.IntRange(0, 65535), default=0, help="Port on this computer.  [default: a free one]")
@click.option("--open/--no-open", "opens", default=True, help="Open it in the browser.  [default: open]")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(ctx: click.Context, folder: Path, port: int, opens: bool, as_json: bool) -> int:
    """Preview every face, before and after it loads.

    FOLDER has an aksara.toml, whose fonts and proof are made first, or is one
    that `aksara build` wrote. The proof is served from this computer alone,
    until Ctrl-C; nothing is sent anywhere.
    """
    screen = Screen.of(ctx)
    shown = _proofs(folder, screen)
    servers = [_server(entry, port if index == 0 else 0) for index, entry in enumerate(shown)]
    addresses = [server.address for server in servers]
    if as_json:
        screen.json(
            {
                "proofs": [
                    {"folder": str(entry.proof.parent), "address": at}
                    for entry, at in zip(shown, addresses, strict=True)
                ]
            }
        )
    elif not screen.quiet:
        for entry, address in zip(shown, addresses, strict=True):
            screen.print(
                Text.assemble(
                    "The proof of ", (printable(f"{entry.proof.parent}/"), "bold"), " is at ", (address, "cyan")
                )
            )
        screen.print("Ctrl-C ends")
    screen.out.file.flush()
    if opens:
        click.launch(addresses[0])
    _serve(servers)
    return 0


class _Shown(Struct, frozen=True):
    """A proof to show, and the folder of its fonts."""

    proof: Path
    fonts: Path


def _fonts_in(folder: Path) -> Path:
    """The folder of the fonts of an output folder, by what its manifest lists."""
    built = built_in(folder / MANIFEST_NAME)
    return folder / PurePath(built.fonts[0].path).parent if built is not None and built.fonts else folder


def _proofs(folder: Path, screen: Screen) -> list[_Shown]:
    """The proofs to show; those of a project are made."""
    if not is_folder(folder):
        raise RequestError(f"{printable(str(folder))}: no such folder; give a project's, or one with fonts made")
    if is_file(folder / PROJECT_NAME):
        done = build_and_write(read_project(folder / PROJECT_NAME), screen)
        screen.notify(notice for result in done for notice in result.build.notices)
        requests = [result.plan.request for result in done]
        shown = [
            _Shown(request.proof_file, request.fonts_folder) for request in requests if request.proof_file is not None
        ]
        if not shown:
            raise RequestError(f'{PROJECT_NAME} makes no proof: remove proof = "none" from it, and try again')
        return shown
    for candidate in (folder, folder / _DEFAULT_FOLDER):
        if is_file(candidate / PROOF_NAME) and is_own_output(candidate):
            return [_Shown(candidate / PROOF_NAME, _fonts_in(candidate))]
    raise RequestError(
        f"{printable(str(folder))}: neither {PROJECT_NAME} nor a {PROOF_NAME} of ours is here; run `aksara build` first"
    )


def _server(shown: _Shown, port: int) -> ProofServer:
    try:
        return ProofServer(shown.proof, shown.fonts, port)
    except OSError as error:
        if error.errno in (errno.EADDRINUSE, errno.EACCES):
            raise RequestError(f"port {port} is taken; give another with --port, or none for a free one") from error
        raise RequestError(f"no server can be started here ({error.strerror})") from error


def _serve(servers: list[ProofServer]) -> None:
    """Serve until the program is asked to end."""
    from threading import Thread

    for server in servers[1:]:
        Thread(target=server.serve_forever, daemon=True).start()
    try:
        servers[0].serve_forever()
    except Stopped:
        answered()
    finally:
        for server in servers:
            server.server_close()
