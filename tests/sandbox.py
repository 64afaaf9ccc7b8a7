"""Running the program on input that means harm: each run in a process of its own, bounded in time and memory.

Starting Python takes longer than most runs, so one process waits with everything loaded and forks for each.
"""

from __future__ import annotations

import importlib
import json
import os
import resource
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from types import TracebackType
from typing import Any, Self

from msgspec import Struct

_COMMANDS = ("build", "check", "inspect", "scan", "init", "languages")


class Outcome(Struct, frozen=True):
    """How a run ended: exit status (negative: the signal that killed it), output, messages; the seconds that it took
    of a processor and by the clock, and its most memory in bytes, above what the waiting process has."""

    status: int
    out: str
    messages: str
    seconds: float
    waited: float
    memory: int

    @property
    def is_clean(self) -> bool:
        """Whether it ended by itself, as it should, with or without an error that it tells."""
        return self.status in (0, 1, 2, 3) and "Traceback" not in self.messages


class Sandbox:
    """A process that runs the program when it is asked to."""

    def __init__(self) -> None:
        command = [sys.executable, __file__]
        self._process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)

    def run(self, *arguments: str | Path, cwd: Path, seconds: int = 20, wait: int = 60) -> Outcome:
        """Run the program; it is killed after so many seconds of a processor, or of waiting."""
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        task = {"arguments": [str(each) for each in arguments], "cwd": str(cwd), "seconds": seconds, "wait": wait}
        print(json.dumps(task), file=self._process.stdin, flush=True)
        return Outcome(**json.loads(self._process.stdout.readline()))

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        self._process.communicate("")


def _serve() -> None:
    for name in _COMMANDS:
        importlib.import_module(f"aksara.cli.{name}")
    for line in sys.stdin:
        print(json.dumps(_run(**json.loads(line))), flush=True)


def _run(arguments: list[str], cwd: str, seconds: int, wait: int) -> dict[str, Any]:
    before = int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")
    with tempfile.TemporaryFile() as out, tempfile.TemporaryFile() as messages:
        started = time.monotonic()
        child = os.fork()
        if not child:
            os.dup2(out.fileno(), 1)
            os.dup2(messages.fileno(), 2)
            os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
            os.chdir(cwd)
            resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
            resource.setrlimit(resource.RLIMIT_AS, (6_000_000_000, 6_000_000_000))
            signal.alarm(wait)
            _be_the_program(arguments)
        _, status, usage = os.wait4(child, 0)
        waited = time.monotonic() - started
        texts = []
        for file in (out, messages):
            file.seek(0)
            texts.append(file.read().decode("utf-8", "replace"))
    return {
        "status": os.waitstatus_to_exitcode(status),
        "out": texts[0],
        "messages": texts[1],
        "seconds": usage.ru_utime + usage.ru_stime,
        "waited": waited,
        "memory": usage.ru_maxrss * 1024 - before,
    }


def _be_the_program(arguments: list[str]) -> None:
    from aksara.cli import main

    status = 70
    try:
        main(arguments)
    except SystemExit as end:
        status = int(end.code or 0)
    except BaseException:
        import traceback

        traceback.print_exc()
    finally:
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(status)


if __name__ == "__main__":
    _serve()
