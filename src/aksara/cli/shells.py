"""How a command is typed in the user's shell: on Windows as both cmd and PowerShell take it, elsewhere as in POSIX."""

from __future__ import annotations

import os
import shlex
from collections.abc import Sequence
from subprocess import list2cmdline


def typed(arguments: Sequence[str], *, windows: bool | None = None) -> str:
    """The arguments in one line, quoted where need be.

    >>> typed(["--family", "Penyu Sans"], windows=False), typed(["--family", "Penyu Sans"], windows=True)
    ("--family 'Penyu Sans'", '--family "Penyu Sans"')
    """
    return list2cmdline(arguments) if _on_windows(windows) else shlex.join(arguments)


def in_lines(lines: Sequence[Sequence[str]], *, windows: bool | None = None) -> str:
    """A long command on several lines; on Windows, whose shells do not agree on how lines go on, in one."""
    if _on_windows(windows):
        return " ".join(typed(line, windows=True) for line in lines)
    return " \\\n    ".join(typed(line, windows=False) for line in lines)


def _on_windows(windows: bool | None) -> bool:
    return os.name == "nt" if windows is None else windows
