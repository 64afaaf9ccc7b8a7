"""Several pieces of work at a time: nearly all of it is compression, which runs outside the interpreter's lock."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from concurrent.futures import Future, ThreadPoolExecutor, as_completed
from contextlib import contextmanager
from contextvars import copy_context
from threading import Condition, Event, Lock
from typing import Any, TypeVar

#: Bytes that may be compressed at a time, if it is more than one file: compressing takes some fifteen times as many.
_COMPRESSED_AT_ONCE = 1_000_000

Item = TypeVar("Item")
Result = TypeVar("Result")


class Room:
    """Limits the amount of work in progress. An item larger than the limit is worked on alone."""

    def __init__(self, size: int) -> None:
        self._size, self._taken = size, 0
        self._freed = Condition()

    @contextmanager
    def taken(self, size: int) -> Iterator[None]:
        """Wait until there is room for this, and keep it."""
        with self._freed:
            self._freed.wait_for(lambda: not self._taken or self._taken + size <= self._size)
            self._taken += size
        try:
            yield
        finally:
            with self._freed:
                self._taken -= size
                self._freed.notify_all()


class WorkBounds:
    """What bounds the work of one build.

    `compression` is where files are compressed, by the bytes of their tables. `cutting` is held while a font is cut
    down: that runs within the interpreter's lock in any case, and a parsed font takes memory.
    """

    def __init__(self) -> None:
        self.compression = Room(_COMPRESSED_AT_ONCE)
        self.cutting = Lock()


#: Work that had begun when the program was stopped, and work that may be left at any time: nobody waits for it.
_abandoned: list[Future[Any]] = []


def in_threads(jobs: int, work: Callable[[Item], Result], items: Collection[Item]) -> list[Result]:
    """The result of the work for each item, in order, `jobs` at a time; the first error ends it.

    The work makes something of every item, never None. An interrupt is raised at once, though what has begun goes on
    (see `is_abandoned_work_left`): the longest search of a compressor takes half a minute, and cannot be stopped.
    """
    failed = Event()

    def unless_failed(item: Item) -> Result | None:
        # Said by the worker itself: until the error is seen here, the next pieces could have begun.
        if failed.is_set():
            return None
        try:
            return work(item)
        except BaseException:
            failed.set()
            raise

    pool = ThreadPoolExecutor(max(1, min(jobs, len(items))))
    futures: list[Future[Result | None]] = []
    try:
        # Each in a copy of this context, so that what it looks at is observed where that is wanted here.
        futures += [pool.submit(copy_context().run, unless_failed, item) for item in items]
        results = [future.result() for future in futures]
    except BaseException as error:
        failed.set()
        pool.shutdown(wait=isinstance(error, Exception), cancel_futures=True)
        _abandoned.extend(future for future in futures if not future.done())
        raise
    pool.shutdown()
    # An error would have been raised in place of a result that was not made.
    return [result for result in results if result is not None]


def as_done(jobs: int, work: Callable[[Item], Result], items: Collection[Item]) -> Iterator[Result]:
    """The result of the work for each item, as soon as it is ready, `jobs` at a time.

    If the program is stopped meanwhile, nobody waits for the rest (see `is_abandoned_work_left`).
    """
    pool = ThreadPoolExecutor(jobs)
    futures = [pool.submit(copy_context().run, work, item) for item in items]
    _abandoned.extend(futures)
    try:
        for future in as_completed(futures):
            yield future.result()
    finally:
        pool.shutdown(wait=False, cancel_futures=True)


def is_abandoned_work_left() -> bool:
    """Whether abandoned work is still running; the interpreter would wait for it before it exits."""
    return not all(future.done() for future in _abandoned)
