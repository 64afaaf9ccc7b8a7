"""The command line: options in, the core called, results printed. Nothing is computed here.

Commands are imported when they are run, so that `aksara --help` is instant.
"""

from __future__ import annotations

import importlib
import sys
from typing import Any

import click

from aksara import __version__
from aksara.errors import AksaraError

# Name → what `aksara --help` says of it; the module of the same name holds `command`.
_COMMANDS = {
    "inspect": "What have I been given, and may I use it?",
    "scan": "Which characters, languages, weights and styles does the site use?",
    "init": "Write aksara.toml from what is here.",
    "build": "Make the web fonts, the CSS and the proof.",
    "languages": "Which languages are known, and which can this font set?",
    "demo": "The whole job on the demo site that comes with Aksara.",
}


class _Group(click.Group):
    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(_COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in _COMMANDS:
            return None
        command: click.Command = importlib.import_module(f"aksara.cli.{cmd_name}").command
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(_COMMANDS.items()))


@click.group(cls=_Group, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100})
@click.version_option(__version__, "--version", message="aksara %(version)s")
@click.option("-q", "--quiet", is_flag=True, help="Print only errors and what was asked for.")
@click.option("-v", "--verbose", is_flag=True, help="Say more: dropped tables, reasons.")
@click.option(
    "--colour",
    "--color",
    type=click.Choice(["auto", "always", "never"]),
    default="auto",
    show_default=True,
    help="Colour the output; NO_COLOR is obeyed.",
)
@click.pass_context
def aksara(ctx: click.Context, quiet: bool, verbose: bool, colour: str) -> None:
    """Desktop fonts in; small web fonts, their CSS and a page of proofs out.

    Start with: aksara build FOLDER-WITH-FONTS
    """
    ctx.obj = {"quiet": quiet, "verbose": verbose, "colour": colour}


def main(arguments: list[str] | None = None) -> None:
    """Run the program and exit. No foreseen error shows a traceback."""
    try:
        status: Any = aksara.main(arguments, prog_name="aksara", standalone_mode=False)
    except AksaraError as error:
        from aksara.cli.wording import error_text  # only needed here

        click.echo(f"aksara: {error_text(error)}", err=True)
        sys.exit(error.exit_status)
    except click.ClickException as error:
        error.show()
        sys.exit(2)
    except (click.Abort, KeyboardInterrupt):
        click.echo("aksara: stopped; nothing was written", err=True)
        sys.exit(130)
    except (MemoryError, RecursionError) as error:
        click.echo(
            f"aksara: an input is too large or too deeply nested ({type(error).__name__}); give other fonts", err=True
        )
        sys.exit(AksaraError.exit_status)
    except BrokenPipeError:
        # The reader of a pipe has left (`aksara inspect | head`).
        sys.stderr.close()
        sys.exit(0)
    sys.exit(status if isinstance(status, int) else 0)
