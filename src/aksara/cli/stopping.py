"""Being stopped: by an interrupt, by a terminal that is closed, by a supervisor that ends the process.

All of them end the program in the same way: it cleans up, says what is true of the files, and exits with 128 and the
signal's number, as shells expect.
"""

from __future__ import annotations

import signal
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType

_SIGNALS = tuple(getattr(signal, name) for name in ("SIGINT", "SIGTERM", "SIGHUP", "SIGBREAK") if hasattr(signal, name))


class Stopped(KeyboardInterrupt):
    """A signal has asked the program to end."""

    def __init__(self, signal_number: int) -> None:
        super().__init__()
        self.number = signal_number


class _Stops:
    """`held` is whether signals wait; `waiting` the one that does; `unanswered` the last one that came.

    `Stopped` may be raised where Python swallows it, in a callback of an import for instance; then the program goes on,
    but must not end as if nobody had asked.
    """

    def __init__(self) -> None:
        self.held = False
        self.waiting: int | None = None
        self.unanswered: int | None = None

    def handle(self, signal_number: int, _: FrameType | None) -> None:
        self.unanswered = signal_number
        # Whoever asks twice means it.
        if self.held and self.waiting is None:
            self.waiting = signal_number
        else:
            raise Stopped(signal_number)


_stops = _Stops()
_written: list[str] = []


def note_written(what: str) -> None:
    """Remember what has been written whole."""
    _written.append(what)


def written_so_far() -> str:
    """What was written by now, in words."""
    return (
        f"{', '.join(_written)} {'was' if len(_written) == 1 else 'were'} written whole"
        if _written
        else ("nothing was written")
    )


def answered() -> None:
    """A signal was handled; the program may end normally."""
    _stops.unanswered = None


def unanswered_stop() -> int | None:
    """The signal that asked the program to end and was lost; None for none."""
    return _stops.unanswered


@contextmanager
def stoppable() -> Iterator[None]:
    """Signals that ask the program to end raise `Stopped` inside."""
    before = {}
    _written.clear()
    _stops.unanswered = None
    try:
        for signal_number in _SIGNALS:
            # What was ignored from the start, as by nohup, stays so.
            if signal.getsignal(signal_number) is not signal.SIG_IGN:
                before[signal_number] = signal.signal(signal_number, _stops.handle)
    except ValueError:  # not in the main thread, which alone gets signals
        pass
    try:
        yield
    finally:
        for signal_number, handler in before.items():
            signal.signal(signal_number, handler)


@contextmanager
def undisturbed() -> Iterator[None]:
    """Delay signals until the block ends: it is short and must not be interrupted.

    Raises `Stopped` at once where one came before.
    """
    if _stops.unanswered is not None:
        raise Stopped(_stops.unanswered)
    _stops.held, _stops.waiting = True, None
    try:
        yield
    finally:
        _stops.held = False
    if _stops.waiting is not None:
        raise Stopped(_stops.waiting)
