"""Try damaged input of every kind for some minutes: `make fuzz MINUTES=n`.

Each case is bounded in time and memory. What raises anything but the program's own errors, or goes beyond the bounds,
is kept in tests/finds, where it is tried first from then on, and by the tests. A seed names every case, so a run can be
done again (SEED=n).
"""

from __future__ import annotations

import argparse
import hashlib
import multiprocessing
import os
import resource
import signal
import sys
import time
import traceback
from collections import Counter
from collections.abc import Iterator
from multiprocessing.connection import Connection, wait
from multiprocessing.process import BaseProcess
from pathlib import Path
from types import FrameType
from typing import Any, NamedTuple

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "tests"))

from aksara.errors import AksaraError  # noqa: E402
from cases import KINDS  # noqa: E402

FINDS = ROOT / "tests/finds"
#: Seconds of a processor, seconds by the clock, and bytes that a case may take; its input has some kilobytes.
SECONDS, WAIT, MEMORY = 10, 60, 800_000_000
#: Seconds for cases of one kind, before it is the turn of another: each kind gets the same time.
_TURN = 5


class Result(NamedTuple):
    """What became of a batch of cases: how many went well, how many were refused with a word, and what was found."""

    kind: str
    fine: int
    told: int
    finds: list[str]


class _TooSlowError(Exception):
    pass


def main() -> int:
    """Run until the time is over; 1 if anything was found."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("minutes", type=float)
    parser.add_argument("--seed", type=int, default=int(time.time()))
    parser.add_argument("--kind", action="append", choices=list(KINDS))
    given = parser.parse_args()
    kinds = given.kind or list(KINDS)
    end = time.monotonic() + 60 * given.minutes
    fine, told, finds = Counter[str](), Counter[str](), 0
    print(
        f"Seed {given.seed}; {len(kinds)} kinds of input, {SECONDS} s and {MEMORY // 10**6} MB for each case",
        flush=True,
    )
    for result in _in_processes(_batches(kinds, given.seed, end)):
        fine[result.kind] += result.fine
        told[result.kind] += result.told
        finds += len(result.finds)
        for find in result.finds:
            print(find, flush=True)
    for kind in kinds:
        print(
            f"{kind:12} {fine[kind] + told[kind]:8,} cases: {fine[kind]:8,} fine, {told[kind]:8,} refused with a word"
        )
    print(f"{fine.total() + told.total() + finds:,} cases, {finds} finds")
    return int(bool(finds))


def _batches(kinds: list[str], seed: int, end: float) -> Iterator[tuple[str, int]]:
    for number in range(10**9):
        if time.monotonic() > end:
            return
        yield kinds[number % len(kinds)], seed + number


def _in_processes(batches: Iterator[tuple[str, int]]) -> Iterator[Result]:
    """The results of all batches, each in a process of its own, as many at a time as there are processors.

    A case can end its process; that is a find, too.
    """
    running: dict[Connection, tuple[BaseProcess, tuple[str, int]]] = {}
    context = multiprocessing.get_context("fork")
    while True:
        while len(running) < (os.cpu_count() or 1) and (batch := next(batches, None)) is not None:
            reading, writing = context.Pipe(duplex=False)
            process = context.Process(target=_run, args=(batch, writing))
            process.start()
            writing.close()
            running[reading] = process, batch
        if not running:
            return
        for ready in wait(list(running)):
            assert isinstance(ready, Connection)
            process, (kind, seed) = running.pop(ready)
            try:
                yield ready.recv()
            except EOFError:
                yield Result(kind, 0, 0, [f"{kind}, seed {seed}: a case ended the process"])
            process.join()
            ready.close()


def _run(batch: tuple[str, int], writing: Connection) -> None:
    _bound()
    writing.send(_try_batch(batch))


def _bound() -> None:
    used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    resource.setrlimit(resource.RLIMIT_DATA, (used + MEMORY, used + MEMORY))
    signal.signal(signal.SIGALRM, _stop)
    signal.signal(signal.SIGPROF, _stop)


def _stop(number: int, frame: FrameType | None) -> None:
    raise _TooSlowError(f"takes more than {SECONDS} s of a processor, or waits for more than {WAIT} s")


def _try_batch(batch: tuple[str, int]) -> Result:
    name, seed = batch
    kind, fine, told, finds = KINDS[name], 0, 0, []
    end = time.monotonic() + _TURN
    for data in kind.make(seed):
        if time.monotonic() > end:
            break
        signal.setitimer(signal.ITIMER_PROF, SECONDS)
        signal.alarm(WAIT)
        try:
            kind.use(data)
            fine += 1
        except AksaraError:
            told += 1
        except BaseException as error:  # anything else is what is looked for
            finds.append(_keep(name, data, error))
        finally:
            signal.setitimer(signal.ITIMER_PROF, 0)
            signal.alarm(0)
    return Result(name, fine, told, finds)


def _keep(kind: str, data: bytes, error: BaseException) -> str:
    FINDS.mkdir(exist_ok=True)
    path = FINDS / f"{kind.replace(' ', '_')}-{hashlib.sha256(data).hexdigest()[:12]}"
    path.write_bytes(data)
    at: Any = traceback.extract_tb(error.__traceback__)[-1]
    return f"{path.relative_to(ROOT)}: {type(error).__name__}: {error} ({Path(at.filename).name}, line {at.lineno})"


if __name__ == "__main__":
    sys.exit(main())
