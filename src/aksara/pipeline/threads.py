"""Several pieces of work at a time: nearly all of it is compression, which runs outside the interpreter's lock."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from threading import Condition, Event, Lock
from typing import TypeVar

#: Bytes that may be compressed at a time, if it is more than one file: compressing takes some fifteen times as many.
_COMPRESSED_AT_ONCE = 1_000_000

Item = TypeVar("Item")
Result = TypeVar("Result")


class Room:
    """Bounds how much is worked on at a time. What is larger than the whole room has it for itself."""

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


#: Where files are compressed, by the bytes of their tables.
COMPRESSION = Room(_COMPRESSED_AT_ONCE)
#: Held while a font is cut down: that runs within the interpreter's lock in any case, and a parsed font takes memory.
CUTTING = Lock()


def in_threads(jobs: int, work: Callable[[Item], Result], items: Collection[Item]) -> list[Result]:
    """What the work makes of each item, in their order, `jobs` at a time; the first error ends it.

    The work makes something of every item, never None.
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

    with ThreadPoolExecutor(max(1, min(jobs, len(items)))) as pool:
        futures = [pool.submit(unless_failed, item) for item in items]
        try:
            results = [future.result() for future in futures]
        except BaseException:
            for future in futures:
                future.cancel()
            raise
    # An error would have been raised in place of a result that was not made.
    return [result for result in results if result is not None]
