"""The command line: options in, the core called, results printed. Nothing is computed here.

Commands are imported when they are run, so that `aksara --help` is instant.
"""

from __future__ import annotations

import importlib
import io
import os
import signal
import sys
from difflib import get_close_matches
from typing import Any

import click

from aksara import __version__
from aksara.cli.memory import frugal
from aksara.cli.stopping import Stopped, stoppable, unanswered_stop, written_so_far
from aksara.cli.streams import safe_streams, visible
from aksara.errors import AksaraError
from aksara.processes import forbid_imports_from_here

# Name → what `aksara --help` says of it; the module of the same name holds `command`.
_COMMANDS = {
    "inspect": "Show what these fonts are and what their licences allow.",
    "scan": "Show which characters, languages, weights and styles a site uses.",
    "try": "Show a page of yours in each of several font families.",
    "init": "Write aksara.toml from the fonts and pages that are here.",
    "build": "Make the web fonts, the CSS and the proof.",
    "proof": "Preview every face, before and after it loads.",
    "check": "Find out whether the fonts load, and what is missing.",
    "measure": "Measure a system family for fallback fonts.",
    "languages": "List the languages, or those that a font can set.",
    "demo": "Build the demo site that comes with Aksara.",
}
#: Commands whose names no module can have.
_MODULES = {"try": "trying"}

#: What shells set when somebody presses Tab.
_COMPLETION = "_AKSARA_COMPLETE"


def _note(ctx: click.Context, param: click.Parameter, value: Any) -> None:
    if value is not None:
        ctx.ensure_object(dict)[param.name] = value


def _general_options() -> list[click.Option]:
    """The options of the program, as each command takes them, too."""
    switch: dict[str, Any] = {"is_flag": True, "default": None, "expose_value": False, "callback": _note}
    return [
        click.Option(("-q", "--quiet"), help="Print only errors and what was asked for.", **switch),
        click.Option(("-v", "--verbose"), help="Show more: faces, omitted features, dropped tables.", **switch),
        click.Option(
            ("--colour", "--color"),
            type=click.Choice(["auto", "always", "never"]),
            expose_value=False,
            callback=_note,
            help="Colour the output; NO_COLOR is obeyed.",
        ),
    ]


class _Group(click.Group):
    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(_COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in _COMMANDS:
            return None
        command: click.Command = importlib.import_module(f"aksara.cli.{_MODULES.get(cmd_name, cmd_name)}").command
        known = {param.name for param in command.params}
        command.params += [param for param in _general_options() if param.name not in known]
        return command

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        """A run that would print the same as the last one imports nothing that commands need."""
        if args and not ctx.resilient_parsing:
            from aksara.cli.unchanged import unchanged_command  # `--version` and `--help` need nothing of it

            if (unchanged := unchanged_command(ctx, args)) is not None:
                return args[0], unchanged, args[1:]
        if args and args[0] not in _COMMANDS and not ctx.resilient_parsing:
            near = get_close_matches(args[0], _COMMANDS, 1, 0.5)
            hint = f" Did you mean {near[0]}?" if near else ""
            ctx.fail(f"No such command '{args[0]}'.{hint}")
        return super().resolve_command(ctx, args)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(_COMMANDS.items()))


@click.group(
    cls=_Group,
    invoke_without_command=True,
    context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100},
)
@click.version_option(__version__, "--version", message="aksara %(version)s")
@click.option("-q", "--quiet", is_flag=True, help="Print only errors and what was asked for.")
@click.option("-v", "--verbose", is_flag=True, help="Show more: faces, omitted features, dropped tables.")
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
    """Make small web fonts, their CSS and a page of proofs from desktop fonts.

    Start with: aksara build FOLDER-WITH-FONTS

    Without a command, aksara says what to do next in this folder.
    """
    ctx.obj = {"quiet": quiet, "verbose": verbose, "colour": colour}
    if ctx.invoked_subcommand is None:
        from aksara.cli.next_steps import say_next_steps  # only needed here
        from aksara.cli.screen import Screen

        say_next_steps(Screen.of(ctx))


def main(arguments: list[str] | None = None) -> None:
    """Run the program and exit. No foreseen error shows a traceback."""
    if _COMPLETION in os.environ:
        # Completion has a form of its own, for shells.
        aksara(prog_name="aksara")
    frugal()
    forbid_imports_from_here()
    with safe_streams() as out, stoppable():
        status = _status(arguments)
        out.flush()
        if out.problem is not None:
            _tell(f"standard output cannot be written ({out.problem.strerror}); its text is lost")
            status = status or AksaraError.exit_status
    threads = sys.modules.get("aksara.threads")
    if threads is not None and threads.is_abandoned_work_left():
        # The interpreter would wait for abandoned compression. All output has been written.
        os._exit(status)
    sys.exit(status)


def _status(arguments: list[str] | None) -> int:
    """Run the program; its exit status."""
    try:
        status: Any = aksara.main(arguments, prog_name="aksara", standalone_mode=False)
    except AksaraError as error:
        from aksara.cli.wording import error_text  # only needed here

        _tell(error_text(error))
        return error.exit_status
    except click.ClickException as error:
        _tell_wrong_use(error)
        return 2
    except (click.Abort, KeyboardInterrupt) as error:
        stop = error if isinstance(error, Stopped) else error.__cause__
        _tell(f"stopped; {written_so_far()}")
        return 128 + (stop.number if isinstance(stop, Stopped) else signal.SIGINT)
    except (MemoryError, RecursionError) as error:
        _tell(f"an input is too large or too deeply nested ({type(error).__name__}); give other fonts")
        return AksaraError.exit_status
    if (signal_number := unanswered_stop()) is not None:
        _tell(f"stopped; {written_so_far()}")
        return 128 + signal_number
    return status if isinstance(status, int) else 0


def _tell(text: str) -> None:
    print(visible(f"aksara: {text}"), file=sys.stderr)


def _tell_wrong_use(error: click.ClickException) -> None:
    """The message of Click, which may quote what was typed."""
    shown = io.StringIO()
    error.show(file=shown)
    print(visible(shown.getvalue()), end="", file=sys.stderr)
