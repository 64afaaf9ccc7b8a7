"""Several pieces of work at a time: nearly all of it is compression, which runs outside the interpreter's lock."""

from __future__ import annotations

from collections.abc import Callable, Collection
from concurrent.futures import ThreadPoolExecutor
from threading import Event
from typing import TypeVar

Item = TypeVar("Item")
Result = TypeVar("Result")


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
