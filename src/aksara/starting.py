"""The program's entry point, which imports nothing before an interrupt is provided for.

Importing the command line takes a quarter of a second. An interrupt during that time must end the program quietly, as
it does later (see `cli.stopping`).
"""

from __future__ import annotations

import os
import signal
from types import FrameType


def _end(signal_number: int, _: FrameType | None) -> None:
    # Nothing has been done yet, and nothing has to be cleaned up.
    os._exit(128 + signal_number)


def main() -> None:
    """Run the program and exit."""
    if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
        signal.signal(signal.SIGINT, _end)
    from aksara.cli import main as run

    run()
