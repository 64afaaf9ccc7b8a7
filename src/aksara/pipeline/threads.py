"""Several pieces of work at a time: nearly all of it is compression, which runs outside the interpreter's lock."""

from __future__ import annotations

from collections.abc import Callable, Collection
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

Item = TypeVar("Item")
Result = TypeVar("Result")


def in_threads(jobs: int, work: Callable[[Item], Result], items: Collection[Item]) -> list[Result]:
    """What the work makes of each item, in their order, `jobs` at a time; the first error ends it."""
    with ThreadPoolExecutor(max(1, min(jobs, len(items)))) as pool:
        futures = [pool.submit(work, item) for item in items]
        try:
            return [future.result() for future in futures]
        except BaseException:
            for future in futures:
                future.cancel()
            raise
